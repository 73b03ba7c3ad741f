import { budgetKey } from '../../core/budgets/lines.ts';
import { hoursKey } from '../../core/hours/lines.ts';
import type { WeekSums } from '../../core/effect/forecast.ts';
import type { Day } from '../../core/metrics/days.ts';
import { placementKey } from '../../core/placements/lines.ts';
import type { Effect } from '../../core/effect/types.ts';
import type { Database, Transaction } from '../db/connection.ts';
import { setwise } from '../db/setwise.ts';
import { phraseTerms, wordsIn } from '../facts/phrases.queries.ts';

/** Sent lines with an effect that may be scored: what they touched, and until when nothing else changed it. */
export interface SentLine {
  line_id: number;
  action: string;
  entity: string;
  object_id: string | null;
  campaign_id: string;
  field: string;
  match_type: string | null;
  old_value: string | null;
  new_value: string | null;
  sent_on: Day;
  /** The finding that it is of; null where somebody made it by hand. */
  finding_key: string | null;
  /** Its effect is of the whole campaign: placements, budgets, schedules, and the bids that move with them. */
  is_whole: boolean;
  /** The day on which the same target's bid, or anything of the same campaign, was changed again; null while it was not. */
  changed_again: Day | null;
  effect: Effect;
  /** Weeks of the score that is known; null without one. */
  weeks: number | null;
}

export async function sentLines(sql: Database, accountId: number, from: Day): Promise<SentLine[]> {
  return sql`
    with sent as (
      select l.line_id, l.action, l.entity, l.object_id, l.campaign_id, l.field, l.match_type, l.old_value, l.new_value,
        s.sent_on, l.effect, l.finding_key, ${ofCampaign(sql)} as is_whole
      from line l join sheet s on s.account_id = l.account_id and s.sheet_id = l.sheet_id
      where l.account_id = ${accountId} and s.state = 'sent' and s.sent_on >= ${from} and l.state = 'applied'
        and l.action in ('create', 'update')),
    moved as (
      select distinct campaign_id, sent_on from sent
      where entity in ('target', 'ad_group', 'placement_modifier', 'campaign') and action = 'update')
    select l.line_id, l.action, l.entity, l.object_id, l.campaign_id, l.field, l.match_type, l.old_value, l.new_value,
      l.sent_on::text as sent_on, l.effect, l.finding_key, l.is_whole, f.weeks,
      case when l.is_whole
        then (select min(m.sent_on)::text from moved m where m.campaign_id = l.campaign_id and m.sent_on > l.sent_on)
        else (select min(b.day)::text from target_bid b where b.account_id = ${accountId}
          and b.target_id = case when l.entity = 'target' then l.object_id::bigint end and b.day > l.sent_on)
        end as changed_again
    from sent l
    left join forecast f on f.account_id = ${accountId} and f.line_id = l.line_id
    where l.effect is not null and jsonb_typeof(l.effect) = 'object'
      and (l.entity in ('target', 'negative') or l.is_whole)
      and (coalesce((l.effect ->> 'clicks')::float8, 0) <> 0 or coalesce((l.effect ->> 'spend')::float8, 0) <> 0)`;
}

/** Whether a line (as `l`) carries what a whole campaign does: by what it sets, or by the finding that it is of. */
const ofCampaign = (sql: Database | Transaction) => sql`
  (l.entity = 'placement_modifier' or (l.entity = 'campaign' and l.field in ('daily_budget', 'schedule'))
    or coalesce(l.finding_key, '') like ${`${placementKey('')}%`} or coalesce(l.finding_key, '') like ${`${budgetKey('')}%`}
    or coalesce(l.finding_key, '') like ${`${hoursKey('')}%`})`;

/** Clicks, spend, orders and sales that the other lines of a sheet were said to bring a campaign, with their spreads in squares. */
export async function saidBeside(
  sql: Database,
  accountId: number,
  lineIds: readonly number[],
): Promise<Map<number, { said: WeekSums; salesVariance: number }>> {
  const rows = await sql<(WeekSums & { line_id: number; variance: number })[]>`
    select l.line_id, sum((o.effect ->> 'clicks')::float8) as clicks, sum((o.effect ->> 'spend')::float8) as spend,
      sum((o.effect ->> 'orders')::float8) as orders, sum((o.effect ->> 'sales')::float8) as sales,
      sum(coalesce((o.effect -> 'spreads' ->> 'sales')::float8, 0) ^ 2) as variance
    from line l join line o on o.account_id = l.account_id and o.sheet_id = l.sheet_id
      and o.campaign_id = l.campaign_id and o.line_id <> l.line_id and o.state = 'applied'
    where l.account_id = ${accountId} and l.line_id = any(${[...lineIds]}::bigint[])
      and jsonb_typeof(o.effect) = 'object' and o.entity in ('target', 'ad_group', 'negative', 'placement_modifier', 'campaign')
    group by l.line_id`;
  return new Map(rows.map(({ line_id, variance, ...said }) => [line_id, { said, salesVariance: variance }]));
}

/** Days over which a line's sums are wanted. */
export interface LineSpan {
  line_id: number;
  from: Day;
  to: Day;
}

/**
 * Sums of what each line touches over some days of its own: a target; of a harvest its term wherever it was caught; of
 * a negative all that it keeps away in its ad group or campaign, a phrase every term that holds its words in a row.
 */
export async function sumsOfLines(
  sql: Database,
  accountId: number,
  spans: LineSpan[],
): Promise<(WeekSums & { line_id: number })[]> {
  if (spans.length === 0) return [];
  return setwise(
    sql,
    (tx) => tx<(WeekSums & { line_id: number })[]>`
    ${touchedTerms(tx, accountId, spans)}
    select s.line_id, sum(d.clicks)::float8 as clicks, sum(d.spend)::float8 as spend, sum(d.orders)::float8 as orders,
      sum(d.sales)::float8 as sales
    from span s join target_day d on d.account_id = ${accountId} and d.target_id = s.object_id::bigint
      and d.day between s.from_day and s.to_day
    where s.entity = 'target' and s.action <> 'create' and not s.is_whole group by s.line_id
    union all
    select s.line_id, sum(d.clicks)::float8, sum(d.spend)::float8, sum(d.orders)::float8, sum(d.sales)::float8
    from span s join placement_day d on d.account_id = ${accountId} and d.campaign_id = s.campaign_id::bigint
      and d.day between s.from_day and s.to_day
    where s.is_whole group by s.line_id
    union all
    select s.line_id, sum(d.clicks)::float8, sum(d.spend)::float8, sum(d.orders)::float8, sum(d.sales)::float8
    from span s join target t on t.account_id = ${accountId} and t.ad_group_id = s.object_id::bigint and t.bid is null
    join target_day d on d.account_id = ${accountId} and d.target_id = t.target_id
      and d.day between s.from_day and s.to_day
    where s.entity = 'ad_group' and not s.is_whole group by s.line_id
    union all
    select s.line_id, sum(d.clicks)::float8, sum(d.spend)::float8, sum(d.orders)::float8, sum(d.sales)::float8
    from span s
    join own_term o on o.line_id = s.line_id
    join term_day d on d.account_id = ${accountId} and d.term_id = o.term_id and d.day between s.from_day and s.to_day
    where s.entity = 'target' and s.action = 'create' group by s.line_id
    union all
    select s.line_id, sum(d.clicks)::float8, sum(d.spend)::float8, sum(d.orders)::float8, sum(d.sales)::float8
    from span s
    join own_term o on o.line_id = s.line_id
    join term_day d on d.account_id = ${accountId} and d.term_id = o.term_id and d.day between s.from_day and s.to_day
    join target t on t.account_id = ${accountId} and t.target_id = d.target_id
    join ad_group g on g.account_id = ${accountId} and g.ad_group_id = t.ad_group_id
    where s.entity = 'negative' and s.match_type <> 'negative_phrase' and g.campaign_id = s.campaign_id::bigint
      and (s.ad_group_id is null or t.ad_group_id = s.ad_group_id::bigint)
    group by s.line_id
    union all
    select s.line_id, sum(d.clicks)::float8, sum(d.spend)::float8, sum(d.orders)::float8, sum(d.sales)::float8
    from span s join phrase_term pt on pt.words = s.words
    join ad_group g on g.account_id = ${accountId} and g.campaign_id = s.campaign_id::bigint
      and (s.ad_group_id is null or g.ad_group_id = s.ad_group_id::bigint)
    join target t on t.account_id = ${accountId} and t.ad_group_id = g.ad_group_id
    join term_day d on d.account_id = ${accountId} and d.target_id = t.target_id and d.term_id = pt.term_id
      and d.day between s.from_day and s.to_day
    where s.entity = 'negative' and s.match_type = 'negative_phrase' group by s.line_id`,
  );
}

/** Spans with the lines they are of, and the terms that these touch: of phrases, and by their own text. */
const touchedTerms = (tx: Transaction, accountId: number, spans: readonly LineSpan[]) => tx`
    with span as materialized (
      select s.line_id, s."from" as from_day, s."to" as to_day, l.entity, l.action, l.object_id, l.match_type,
        l.expression, l.campaign_id, l.ad_group_id, ${ofCampaign(tx)} as is_whole,
        case when l.match_type = 'negative_phrase' then ${wordsIn(tx, 'l.expression')} else '' end as words
      from jsonb_to_recordset(${tx.json(spans as never)}) as s (line_id bigint, "from" date, "to" date)
      join line l on l.account_id = ${accountId} and l.line_id = s.line_id),
    phrase_term as materialized (${phraseTerms(tx, accountId, 'span')}),
    own_term as materialized (
      select s.line_id, m.term_id from span s
      cross join lateral (values (lower(s.expression)), (upper(s.expression))) as form (text)
      join term m on m.account_id = ${accountId} and m.text = form.text
      where s.match_type <> 'negative_phrase' group by s.line_id, m.term_id)`;

/** Sums of all that lines touch, each day of a target or term counted once however many lines touch it. */
export async function sumsTogether(sql: Database, accountId: number, spans: LineSpan[]): Promise<WeekSums> {
  const nothing = { clicks: 0, spend: 0, orders: 0, sales: 0 };
  if (spans.length === 0) return nothing;
  const [row] = await setwise(
    sql,
    (tx) => tx<WeekSums[]>`
    ${touchedTerms(tx, accountId, spans)},
    whole as materialized (
      select distinct object_id::bigint as target_id, from_day, to_day from span
      where entity = 'target' and action <> 'create' and object_id is not null),
    part as (
      select d.target_id, d.term_id, d.day, d.clicks, d.spend, d.orders, d.sales
      from span s join own_term o on o.line_id = s.line_id
      join term_day d on d.account_id = ${accountId} and d.term_id = o.term_id and d.day between s.from_day and s.to_day
      where s.entity = 'target' and s.action = 'create'
      union
      select d.target_id, d.term_id, d.day, d.clicks, d.spend, d.orders, d.sales
      from span s join own_term o on o.line_id = s.line_id
      join term_day d on d.account_id = ${accountId} and d.term_id = o.term_id and d.day between s.from_day and s.to_day
      join target t on t.account_id = ${accountId} and t.target_id = d.target_id
      join ad_group g on g.account_id = ${accountId} and g.ad_group_id = t.ad_group_id
      where s.entity = 'negative' and s.match_type <> 'negative_phrase' and g.campaign_id = s.campaign_id::bigint
        and (s.ad_group_id is null or t.ad_group_id = s.ad_group_id::bigint)
      union
      select d.target_id, d.term_id, d.day, d.clicks, d.spend, d.orders, d.sales
      from span s join phrase_term pt on pt.words = s.words
      join ad_group g on g.account_id = ${accountId} and g.campaign_id = s.campaign_id::bigint
        and (s.ad_group_id is null or g.ad_group_id = s.ad_group_id::bigint)
      join target t on t.account_id = ${accountId} and t.ad_group_id = g.ad_group_id
      join term_day d on d.account_id = ${accountId} and d.target_id = t.target_id and d.term_id = pt.term_id
        and d.day between s.from_day and s.to_day
      where s.entity = 'negative' and s.match_type = 'negative_phrase'),
    rows as (
      select d.clicks, d.spend, d.orders, d.sales from whole w join target_day d
        on d.account_id = ${accountId} and d.target_id = w.target_id and d.day between w.from_day and w.to_day
      union all
      select clicks, spend, orders, sales from part p
      where not exists (select 1 from whole w where w.target_id = p.target_id))
    select coalesce(sum(clicks), 0)::float8 as clicks, coalesce(sum(spend), 0)::float8 as spend,
      coalesce(sum(orders), 0)::float8 as orders, coalesce(sum(sales), 0)::float8 as sales from rows`,
  );
  return row ?? nothing;
}

/** The day on which the bid of a line's target was changed again; lines whose was not are left out. */
export async function changedAgain(
  sql: Database,
  accountId: number,
  lineIds: readonly number[],
): Promise<Map<number, Day>> {
  const rows = await sql<{ line_id: number; day: Day }[]>`
    select l.line_id, min(b.day)::text as day from line l
    join sheet s on s.account_id = l.account_id and s.sheet_id = l.sheet_id
    join target_bid b on b.account_id = l.account_id and b.target_id = l.object_id::bigint and b.day > s.sent_on
    where l.account_id = ${accountId} and l.line_id = any(${lineIds as number[]}::bigint[]) and l.entity = 'target'
      and l.object_id is not null
    group by l.line_id`;
  return new Map(rows.map(({ line_id, day }) => [line_id, day]));
}

export interface ForecastRow {
  line_id: number;
  kind: string;
  from_day: Day;
  to_day: Day;
  weeks: number;
  said: WeekSums;
  seen: WeekSums;
  spread: WeekSums;
  inside: boolean;
  scored_on: Day;
}

export async function keepForecasts(sql: Database, accountId: number, rows: ForecastRow[]): Promise<void> {
  if (rows.length === 0) return;
  await sql`
    insert into forecast
    select ${accountId}, line_id, kind, from_day, to_day, weeks, said, seen, spread, inside, scored_on
    from jsonb_to_recordset(${sql.json(rows as never)}) as f (line_id bigint, kind text, from_day date, to_day date,
      weeks float8, said jsonb, seen jsonb, spread jsonb, inside boolean, scored_on date)
    on conflict (account_id, line_id) do update set from_day = excluded.from_day, to_day = excluded.to_day,
      weeks = excluded.weeks, said = excluded.said, seen = excluded.seen, spread = excluded.spread,
      inside = excluded.inside, scored_on = excluded.scored_on`;
}

/** Scored forecasts in the order in which their lines were sent: the last so many of each kind, of one day those that said most. */
export async function forecastRows(
  sql: Database,
  accountId: number,
  most: number,
): Promise<(ForecastRow & { sheet_id: number; expression: string | null })[]> {
  return sql`
    select f.line_id, f.kind, f.from_day::text as from_day, f.to_day::text as to_day, f.weeks, f.said, f.seen,
      f.spread, f.inside, f.scored_on::text as scored_on, l.sheet_id,
      case when f.kind in ('placements', 'budget', 'hours') then c.name else l.expression end as expression
    from (
      select *, row_number() over (
        partition by kind order by from_day desc, abs((said ->> 'sales')::float8) desc, line_id) as place
      from forecast where account_id = ${accountId}) f
    join line l on l.account_id = f.account_id and l.line_id = f.line_id
    left join campaign c on c.account_id = l.account_id and c.campaign_id::text = l.campaign_id
    where f.place <= ${most} order by f.from_day, f.line_id`;
}
