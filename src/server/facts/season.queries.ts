import type { SeasonDay } from '../../answers/account.ts';
import type { Database } from '../db/connection.ts';
import type { BidStep } from '../../core/effect/bid-history.ts';
import type { Window } from '../../core/metrics/days.ts';

/** Click-weighted mean of (1 + modifier) of each campaign in the window; 1 without placements. */
export async function modifiersOf(
  sql: Database,
  accountId: number,
  window: Window,
): Promise<{ campaign_id: number; modifier: number }[]> {
  return sql`
    select d.campaign_id, sum(d.clicks * (1 + coalesce(m.modifier, 0) / 100)) / sum(d.clicks) as modifier
    from placement_day d left join placement_modifier m on m.account_id = d.account_id
      and m.campaign_id = d.campaign_id and m.placement = d.placement
    where d.account_id = ${accountId} and d.day between ${window.from} and ${window.to}
    group by d.campaign_id having sum(d.clicks) > 0`;
}

/** The sums of a day, of whatever facts it has. */
const daySums = (sql: Database) => sql`
  sum(impressions) as impressions, sum(clicks) as clicks, sum(spend)::bigint as spend, sum(orders) as orders,
  sum(units) as units, sum(sales)::bigint as sales`;

/** Daily sums of the account, for the season strip. */
export async function seasonDays(sql: Database, accountId: number, from: string): Promise<SeasonDay[]> {
  // Days of which only search terms were told count by those: all that is known of them.
  return sql<SeasonDay[]>`
    select day, ${daySums(sql)} from target_day where account_id = ${accountId} and day >= ${from} group by day
    union all
    select day, ${daySums(sql)} from term_day
    where account_id = ${accountId} and day = any(array(
      select day from report_day where account_id = ${accountId} and kind = 'terms-daily' and day >= ${from}
      except select day from report_day where account_id = ${accountId} and kind = 'targets-daily'))
    group by day
    order by day`;
}

/** Daily sums of one term in some ad groups. */
export async function termSeason(
  sql: Database,
  accountId: number,
  adGroupIds: string[],
  term: string,
  from: string,
): Promise<SeasonDay[]> {
  return sql<SeasonDay[]>`
    select d.day, ${daySums(sql)}
    from term_day d join target t on t.account_id = d.account_id and t.target_id = d.target_id
    where d.account_id = ${accountId} and d.day >= ${from} and t.ad_group_id = any(${adGroupIds}::bigint[])
      and d.term_id = (select term_id from term where account_id = ${accountId} and text = ${term})
    group by d.day order by d.day`;
}

/** Daily sums of the targets of an ad group that have no bid of their own. */
export async function groupSeason(
  sql: Database,
  accountId: number,
  adGroupId: string,
  from: string,
): Promise<SeasonDay[]> {
  return sql<SeasonDay[]>`
    select d.day, ${daySums(sql)}
    from target_day d join target t on t.account_id = d.account_id and t.target_id = d.target_id
    where d.account_id = ${accountId} and d.day >= ${from} and t.ad_group_id = ${adGroupId}::bigint and t.bid is null
    group by d.day order by d.day`;
}

export async function targetSeason(
  sql: Database,
  accountId: number,
  targetId: string,
  from: string,
): Promise<SeasonDay[]> {
  return sql<SeasonDay[]>`
    select day, impressions, clicks, spend, orders, units, sales from target_day
    where account_id = ${accountId} and day >= ${from} and target_id = ${targetId}::bigint order by day`;
}

export async function bidSteps(sql: Database, accountId: number, targetId: string): Promise<BidStep[]> {
  return sql<BidStep[]>`
    select b.day, b.bid, o.day is not null as outside from target_bid b
    left join outside_change o on o.account_id = b.account_id and o.entity = 'target' and o.object_id = b.target_id
      and o.field = 'bid' and o.day = b.day
    where b.account_id = ${accountId} and b.target_id = ${targetId}::bigint order by b.day`;
}

/** Daily sums of the targets beside one whose bids have stood since a day. */
export async function siblingSeason(
  sql: Database,
  accountId: number,
  targetId: string,
  from: string,
): Promise<SeasonDay[]> {
  return sql<SeasonDay[]>`
    select d.day, ${daySums(sql)}
    from target_day d join target t using (account_id, target_id)
    where d.account_id = ${accountId} and d.day >= ${from} and d.target_id <> ${targetId}::bigint
      and t.ad_group_id = (select ad_group_id from target where account_id = ${accountId} and target_id = ${targetId}::bigint)
      and coalesce(t.bid_changed_on, '-infinity') < ${from}::date
    group by d.day order by d.day`;
}

/** Everything that bids on exactly this text anywhere in the account, with its sums. */
export async function elsewhere(
  sql: Database,
  accountId: number,
  term: string,
): Promise<
  {
    target_id: string;
    ad_group_id: string;
    ad_group: string;
    match_type: string | null;
    kind: string;
    bid: number | null;
    status: string;
  }[]
> {
  return sql`
    select t.target_id::text, t.ad_group_id::text, g.name as ad_group, t.match_type, t.kind, t.bid, t.status
    from target t join ad_group g using (account_id, ad_group_id)
    where t.account_id = ${accountId} and lower(t.expression) = lower(${term}) and t.status <> 'archived'
    order by t.status, t.target_id limit 20`;
}
