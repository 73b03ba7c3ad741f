import type { UnusualClicks } from '../../answers/changes.ts';
import { scheduleFactor } from '../../core/account/schedule.ts';
import { strategyFactor, unusualFactor, unusualStep } from '../../core/placements/effective.ts';
import type { Database, Transaction } from '../db/connection.ts';

/** What one click may cost at most once a sheet is sent, where bids, modifiers, schedules and strategies multiply. */

/**
 * Campaigns in which lines of a sheet that wait would let a click cost over twice its bid as it is now, and a quarter
 * more than it may already (`core/placements/effective`). Bids are those of enabled targets, and
 * default bids for those without one. What takes a sheet back stood before: it is not asked.
 */
export async function unusualClicks(
  sql: Database | Transaction,
  accountId: number,
  sheetId: number,
): Promise<UnusualClicks[]> {
  const doubled = strategyFactor('up_and_down');
  const schedules = await scheduleSteps(sql, accountId, sheetId);
  // Judged with the modifiers that there are, a bid moves by its steps: only where it more than doubles it is asked.
  const stepOf = () => sql`
    case when o.is_judged and o.campaign_id not in (select campaign_id from whole) then ${unusualFactor}::float8
      else ${unusualStep}::float8 end`;
  return sql<UnusualClicks[]>`
    with own as materialized (
      select campaign_id::bigint as campaign_id, ad_group_id::bigint as ad_group_id, object_id, entity, field, new_value,
        (proposed_by = 'Mowing' or proposed_by like 'Routine %') as is_judged, reverts is not null as is_back
      from line where account_id = ${accountId} and sheet_id = ${sheetId} and state in ('open', 'sending') and action = 'update'
        and (entity = 'placement_modifier' or field in ('bid', 'default_bid', 'strategy', 'schedule'))),
    scheduled as (
      select * from unnest(${schedules.map(({ id }) => id)}::bigint[], ${schedules.map(({ was }) => was)}::float8[],
        ${schedules.map(({ becomes }) => becomes)}::float8[]) s (campaign_id, was, becomes)),
    whole as (
      select distinct campaign_id from own where (entity = 'placement_modifier' or field in ('strategy', 'schedule')) and not is_back),
    touched as (select distinct campaign_id from own),
    place as (
      select m.campaign_id, m.placement from placement_modifier m join touched using (campaign_id) where m.account_id = ${accountId}
      union select campaign_id, field from own where entity = 'placement_modifier'
      -- Where nothing is set, a click is worth the bid.
      union select campaign_id, '' from touched),
    factor as (
      select p.campaign_id, p.placement,
        coalesce(h.was, 1) * (1 + coalesce(m.modifier, 0) / 100) * case when c.strategy = 'up_and_down' then ${doubled}::float8 else 1 end as was,
        coalesce(h.becomes, 1) * (1 + coalesce(o.new_value::float8, m.modifier, 0) / 100)
          * case when coalesce(s.new_value, c.strategy) = 'up_and_down' then ${doubled}::float8 else 1 end as becomes
      from place p join campaign c on c.account_id = ${accountId} and c.campaign_id = p.campaign_id
      left join placement_modifier m
        on m.account_id = ${accountId} and m.campaign_id = p.campaign_id and m.placement = p.placement
      left join own o on o.entity = 'placement_modifier' and o.campaign_id = p.campaign_id and o.field = p.placement
      left join own s on s.field = 'strategy' and s.campaign_id = p.campaign_id
      left join scheduled h on h.campaign_id = p.campaign_id),
    bids as (
      select o.campaign_id, t.bid::float8 as was, o.new_value::float8 as becomes, ${stepOf()} as step
      from own o join target t on t.account_id = ${accountId} and t.target_id = o.object_id::bigint
      where o.field = 'bid' and t.bid > 0 and not o.is_back
      union all
      select o.campaign_id, g.default_bid::float8, o.new_value::float8, ${stepOf()}
      from own o join ad_group g on g.account_id = ${accountId} and g.ad_group_id = o.object_id::bigint
      where o.field = 'default_bid' and g.default_bid > 0 and not o.is_back
      union all
      select w.campaign_id, coalesce(t.bid, g.default_bid)::float8, coalesce(t.bid, g.default_bid)::float8,
        ${unusualStep}::float8
      from whole w
      join ad_group g on g.account_id = ${accountId} and g.campaign_id = w.campaign_id and g.status = 'enabled'
      join target t on t.account_id = g.account_id and t.ad_group_id = g.ad_group_id and t.status = 'enabled'
      where coalesce(t.bid, g.default_bid) > 0
        and not exists (select from own o where o.field = 'bid' and o.object_id = t.target_id::text)),
    found as (
      select f.campaign_id, f.placement, b.was as bid, round(b.was * f.was) as before, round(b.becomes * f.becomes) as after,
        b.becomes * f.becomes / b.was as ratio
      from bids b join factor f using (campaign_id)
      where b.becomes * f.becomes > ${unusualFactor}::float8 * b.was
        and b.becomes * f.becomes > b.step * b.was * f.was)
    select distinct on (f.campaign_id) f.campaign_id::text as "campaignId", c.name, f.placement, f.bid::float8 as bid,
      f.before::float8 as before, f.after::float8 as after
    from found f join campaign c on c.account_id = ${accountId} and c.campaign_id = f.campaign_id
    order by f.campaign_id, f.ratio desc, f.after desc`;
}

/** By how much schedules may raise a bid in campaigns that a sheet touches: as they stand, and as it leaves them. */
async function scheduleSteps(
  sql: Database | Transaction,
  accountId: number,
  sheetId: number,
): Promise<{ id: string; was: number; becomes: number }[]> {
  const rows = await sql<{ id: string; was: string | null; becomes: string | null }[]>`
    select c.campaign_id::text as id, c.schedule as was, coalesce(l.new_value, c.schedule) as becomes
    from campaign c left join line l on l.account_id = c.account_id and l.sheet_id = ${sheetId} and l.campaign_id::bigint = c.campaign_id
      and l.field = 'schedule' and l.action = 'update' and l.state in ('open', 'sending')
    where c.account_id = ${accountId} and (coalesce(c.schedule, '') <> '' or l.new_value is not null)
      and c.campaign_id in (select campaign_id::bigint from line where account_id = ${accountId} and sheet_id = ${sheetId})`;
  return rows.map(({ id, was, becomes }) => ({
    id,
    was: scheduleFactor(was),
    becomes: scheduleFactor(becomes),
  }));
}
