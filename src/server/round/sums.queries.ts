import { mostElasticity, type Response } from '../../core/effect/response.ts';
import { addTally, noSiblings } from '../../core/evidence/siblings.ts';
import type { Day, Window } from '../../core/metrics/days.ts';
import type { DayWeight } from '../../core/metrics/weights.ts';
import { clicksToList } from '../../core/round/terms.ts';
import type { Evidence, QuietTerms, TargetRow, TermRow, TermsInput } from '../../core/round/types.ts';
import type { Database, Transaction } from '../db/connection.ts';
import { betweenValues, packedRows, type Fragment } from '../db/packed.ts';
import { factRows } from '../facts/summaries.queries.ts';

/** The sums that judging rests on, by the hundred thousand. */

const weighted = (sql: Database | Transaction, name: 'w' | 'f', weights: DayWeight[]) =>
  sql`${sql(name)} as not materialized (select * from jsonb_to_recordset(${sql.json(weights as never)})
    as w (day date, n float8, y float8, inside boolean))`;

/** Days on which all products of an ad group were out of stock: no evidence about its terms and targets. */
export interface OutOfStock {
  ad_group_id: string;
  day: Day;
}

/** The days that count as evidence: once `join` stands beside a fact `d` of a target `t`, `sold` tells of each. */
const soldDays = (
  sql: Database | Transaction,
  out: OutOfStock[],
): { common: Fragment; join: Fragment; sold: Fragment } =>
  out.length === 0
    ? { common: sql``, join: sql``, sold: sql`true` }
    : {
        common: sql`out_of_stock as materialized (select * from jsonb_to_recordset(${sql.json(out as never)})
          as o (ad_group_id bigint, day date)),`,
        join: sql`left join out_of_stock o on o.ad_group_id = t.ad_group_id and o.day = d.day`,
        sold: sql`o.day is null`,
      };

/** Sums of one object over the window and over the days of evidence; `d` are its facts, `w` the weights. */
const evidenceSums = (sql: Database | Transaction, inside: Fragment, sold: Fragment) => sql`
  coalesce(sum(d.impressions) filter (where ${inside}), 0) as impressions,
  coalesce(sum(d.clicks) filter (where ${inside}), 0) as clicks,
  coalesce(sum(d.spend) filter (where ${inside}), 0)::bigint as spend,
  coalesce(sum(d.orders) filter (where ${inside}), 0) as orders,
  coalesce(sum(d.units) filter (where ${inside}), 0) as units,
  coalesce(sum(d.sales) filter (where ${inside}), 0)::bigint as sales,
  sum(d.clicks * w.n) filter (where ${sold}) as n, sum(d.orders * w.y) filter (where ${sold}) as y,
  sum(d.clicks) filter (where ${sold}) as seen_clicks, sum(d.orders) filter (where ${sold}) as seen_orders,
  (sum(d.spend) filter (where ${sold}))::bigint as seen_spend, (sum(d.sales) filter (where ${sold}))::bigint as seen_sales,
  coalesce(max(case when d.clicks > 0 then d.spend / d.clicks else 0 end) filter (where ${inside}), 0) as highest`;

const evidenceValues = (sql: Database | Transaction) => sql`
  coalesce(s.impressions, 0), coalesce(s.clicks, 0), coalesce(s.spend, 0), coalesce(s.orders, 0),
  coalesce(s.units, 0), coalesce(s.sales, 0), coalesce(s.n, 0), coalesce(s.y, 0), coalesce(s.seen_clicks, 0),
  coalesce(s.seen_orders, 0), coalesce(s.seen_spend, 0), coalesce(s.seen_sales, 0), coalesce(s.highest, 0)`;

/** Evidence out of the values named above, from `at` on. */
const readEvidence = (row: string[], at: number): Evidence => ({
  impressions: Number(row[at]),
  clicks: Number(row[at + 1]),
  spend: Number(row[at + 2]),
  orders: Number(row[at + 3]),
  units: Number(row[at + 4]),
  sales: Number(row[at + 5]),
  n: Number(row[at + 6]),
  y: Number(row[at + 7]),
  seenClicks: Number(row[at + 8]),
  seenOrders: Number(row[at + 9]),
  seenSpend: Number(row[at + 10]),
  seenSales: Number(row[at + 11]),
  highestCpc: Number(row[at + 12]),
});

/** First days from which the lanes of an ad group count, the one for keywords and the one for items. */
export interface LaneSpan {
  ad_group_id: string;
  keyword: string;
  item: string;
}

/** How much each of the last days tells about the present bid. */
export interface PresentDay {
  day: Day;
  w: number;
}

/**
 * Bids in force by target: (after, until] and the bid, for targets changed after a day; `now` is the present bid. What
 * was bid before the first bid known is taken to be that one.
 */
const bidsInForce = (sql: Database | Transaction, accountId: number, from: Day) => sql`
  moved as materialized (
    select target_id, bid from target
    where account_id = ${accountId} and bid > 0 and bid_changed_on >= ${from}::date and status <> 'archived'),
  force as materialized (
    select b.target_id, m.bid as now, b.bid,
      case when row_number() over by_day = 1 then '-infinity'::date else b.day end as after,
      coalesce(lead(b.day) over by_day, 'infinity'::date) as until
    from target_bid b join moved m using (target_id) where b.account_id = ${accountId}
    window by_day as (partition by b.target_id order by b.day))`;

/** `elasticityOver` of the core from the bid then to the bid now, in SQL. */
const elasticityTo = (sql: Database, { clicks, fade }: Response) => {
  const along = sql`(${fade} * ln(force.now / nullif(force.bid, 0)::float8))`;
  return sql`least(${mostElasticity},
    ${clicks} * case when abs(${along}) < 1e-9 then 1 else (1 - exp(-${along})) / ${along} end)`;
};

/** Every target with its sums over the window; fresh and present sums reach to the last day known. */
export async function targetRows(
  sql: Database,
  accountId: number,
  window: Window,
  evidence: Window,
  weights: DayWeight[],
  fresh: { from: string; weights: DayWeight[] },
  present: PresentDay[],
  response: Response,
  out: OutOfStock[],
): Promise<TargetRow[]> {
  const facts = await factRows(sql, accountId, 'target_day');
  const inside = sql`(inside and ${facts.within(window)})`;
  const { common: outDays, join: outJoin, sold } = soldDays(sql, out);
  const first = present[0]?.day ?? window.to;
  const allDays = present.reduce((sum, { w }) => sum + w, 0);
  const common = sql`
    with ${weighted(sql, 'w', weights)}, ${weighted(sql, 'f', fresh.weights)}, ${outDays}
    pw as materialized (select * from jsonb_to_recordset(${sql.json(present as never)}) as pw (day date, w float8)),
    ${bidsInForce(sql, accountId, first)},
    days_at as (
      select force.target_id, sum(pw.w * power(force.bid::float8 / force.now, ${elasticityTo(sql, response)})) as days
      from force join pw on pw.day > force.after and pw.day <= force.until group by force.target_id),
    p as (
      select d.target_id, sum(d.clicks * pw.w) as clicks, sum(d.spend * pw.w) as spend,
        sum(d.clicks * pw.w * coalesce(power(force.bid::float8 / force.now, ${response.cpc}), 1)) as priced
      from target_day d join pw using (day)
      left join force on force.target_id = d.target_id and d.day > force.after and d.day <= force.until
      where d.account_id = ${accountId} and d.day >= ${first} and d.clicks > 0
      group by d.target_id),
    s as (
      select d.target_id, ${evidenceSums(sql, inside, sold)}
      from ${facts.rows} d join w on w.day = d.day
      join target t on t.account_id = d.account_id and t.target_id = d.target_id
      ${outJoin}
      where d.account_id = ${accountId} and d.day between ${evidence.from} and ${evidence.to}
        and ${facts.within(evidence)}
      group by d.target_id),
    r as (
      select d.target_id, sum(d.clicks * f.n) as n, sum(d.orders) as y, sum(d.clicks) as clicks,
        sum(d.spend)::bigint as spend
      from target_day d join f using (day)
      join target t on t.account_id = d.account_id and t.target_id = d.target_id
      where d.account_id = ${accountId} and d.day >= ${fresh.from} and t.bid_changed_on >= ${fresh.from}
        and d.day > t.bid_changed_on
      group by d.target_id)`;
  const rows = sql`
    select concat_ws(${betweenValues}, t.target_id, t.ad_group_id, t.kind, coalesce(t.match_type, ''), t.expression,
      coalesce(t.bid::text, ''), t.status = 'enabled' and g.status = 'enabled' and c.status = 'enabled'
        and (c.end_date is null or c.end_date >= ${window.to}::date), coalesce(t.bid_changed_on::text, ''),
      coalesce(days_at.days, ${allDays}), coalesce(p.clicks, 0), coalesce(p.spend, 0), coalesce(p.priced, 0),
      coalesce(r.n, 0), coalesce(r.y, 0),
      coalesce(r.clicks, 0), coalesce(r.spend, 0), ${evidenceValues(sql)}) as row
    from target t
    join ad_group g on g.account_id = t.account_id and g.ad_group_id = t.ad_group_id
    join campaign c on c.account_id = g.account_id and c.campaign_id = g.campaign_id
    left join s on s.target_id = t.target_id left join r on r.target_id = t.target_id
    left join p on p.target_id = t.target_id left join days_at on days_at.target_id = t.target_id
    where t.account_id = ${accountId} and t.status <> 'archived'`;
  const targets: TargetRow[] = [];
  await packedRows(sql, common, rows, (row) => {
    targets.push({
      targetId: row[0]!,
      adGroupId: row[1]!,
      kind: row[2] as TargetRow['kind'],
      matchType: row[3] === '' ? null : row[3]!,
      expression: row[4]!,
      bid: row[5] === '' ? null : Number(row[5]),
      enabled: row[6] === 't',
      changedOn: row[7] === '' ? null : row[7]!,
      present: {
        days: Number(row[8]),
        clicks: Number(row[9]),
        spend: Number(row[10]),
        priced: Number(row[11]),
      },
      freshN: Number(row[12]),
      freshY: Number(row[13]),
      freshClicks: Number(row[14]),
      freshSpend: Number(row[15]),
      ...readEvidence(row, 16),
    });
  });
  return targets;
}

/**
 * Terms by target with their sums, those that may become a finding; all others summed by ad group as siblings. What
 * is quiet here is what `isQuiet` of the core calls so, and what only performance targets caught.
 */
export async function termRows(
  sql: Database,
  accountId: number,
  window: Window,
  evidence: Window,
  weights: DayWeight[],
  lanes: LaneSpan[] | null,
  out: OutOfStock[],
): Promise<TermsInput> {
  const facts = await factRows(sql, accountId, 'term_day');
  const { common: outDays, join: outJoin, sold } = soldDays(sql, out);
  const laneCount = (figure: 'clicks' | 'orders', kind: 'keyword' | 'item') => sql`
    coalesce(sum(d.${sql(figure)}) filter (where d.day >= coalesce(l.${sql(kind)}, ${evidence.from}::date)), 0)
      as ${sql(`${kind}_${figure}`)}`;
  const inside = sql`(inside and ${facts.within(window)})`;
  // First the few sums that tell which are quiet; all of them only for the rest.
  const common = sql`
    with ${weighted(sql, 'w', weights)}, ${outDays}
    sums as (
      select t.ad_group_id, d.term_id, sum(d.clicks * w.n) filter (where ${sold}) as n,
        sum(d.orders * w.y) filter (where ${sold}) as y, sum(d.clicks) filter (where ${sold}) as c,
        sum(d.orders) filter (where ${sold}) as o, (sum(d.sales) filter (where ${sold}))::bigint as sales,
        bool_and(t.kind = 'item' or t.match_type is not distinct from 'exact') as performs,
        sum(d.clicks) filter (where ${inside}) as clicks
      from ${facts.rows} d join w on w.day = d.day
      join target t on t.account_id = d.account_id and t.target_id = d.target_id and t.status <> 'archived'
      ${outJoin}
      where d.account_id = ${accountId} and d.day between ${evidence.from} and ${evidence.to}
        and ${facts.within(evidence)}
      group by t.ad_group_id, d.term_id),
    g as materialized (
      select ad_group_id, term_id, n, y, c, o, sales,
        performs or coalesce(clicks, 0) = 0 or (coalesce(o, 0) = 0 and coalesce(c, 0) < ${clicksToList}) as quiet
      from sums),
    l as (select * from jsonb_to_recordset(${sql.json((lanes ?? []) as never)})
      as l (ad_group_id bigint, keyword date, item date)),
    s as (
      select d.target_id, d.term_id, ${evidenceSums(sql, inside, sold)}${
        lanes === null
          ? sql``
          : sql`, ${laneCount('clicks', 'keyword')}, ${laneCount('orders', 'keyword')},
        ${laneCount('clicks', 'item')}, ${laneCount('orders', 'item')}`
      }
      from g ${lanes === null ? sql`` : sql`left join l on l.ad_group_id = g.ad_group_id`} join ${facts.rows} d on d.account_id = ${accountId} and d.term_id = g.term_id
      join target t on t.account_id = d.account_id and t.target_id = d.target_id and t.status <> 'archived'
        and t.ad_group_id = g.ad_group_id
      join w on w.day = d.day
      ${outJoin}
      where not g.quiet and d.day between ${evidence.from} and ${evidence.to} and ${facts.within(evidence)}
      group by d.target_id, d.term_id)`;
  const rows = sql`
    select concat_ws(${betweenValues}, 'quiet', ad_group_id, count(*), coalesce(c, 0), coalesce(o, 0),
      coalesce(sum(n), 0), coalesce(sum(y), 0), coalesce(sum(sales), 0)) as row
    from g where quiet group by ad_group_id, coalesce(c, 0), coalesce(o, 0)
    union all
    select concat_ws(${betweenValues}, 'term', s.target_id, m.text, ${evidenceValues(sql)}${
      lanes === null ? sql`` : sql`, keyword_clicks, keyword_orders, item_clicks, item_orders`
    }) as row
    from s join term m on m.account_id = ${accountId} and m.term_id = s.term_id`;
  const terms: TermRow[] = [];
  const quietTerms = new Map<string, QuietTerms>();
  await packedRows(sql, common, rows, (row) => {
    if (row[0] === 'term') {
      const [keywordClicks, keywordOrders, itemClicks, itemOrders] = row.slice(16).map(Number);
      const laneCounts =
        lanes === null
          ? null
          : {
              keywordClicks: keywordClicks!,
              keywordOrders: keywordOrders!,
              itemClicks: itemClicks!,
              itemOrders: itemOrders!,
            };
      terms.push({ targetId: row[1]!, term: row[2]!, ...readEvidence(row, 3), laneCounts });
    } else addQuiet(quietTerms, row);
  });
  return { terms, quietTerms };
}

/** Adds so many terms of an ad group with the same clicks and orders. */
function addQuiet(quietTerms: Map<string, QuietTerms>, row: string[]): void {
  const [rows, clicks, orders, n, y, sales] = row.slice(2).map(Number) as [
    ...[number, number, number, number, number, number],
  ];
  let quiet = quietTerms.get(row[1]!);
  if (!quiet) quietTerms.set(row[1]!, (quiet = { terms: 0, siblings: noSiblings(), orders: 0, sales: 0 }));
  quiet.terms += rows;
  quiet.orders += rows * orders;
  quiet.sales += sales;
  if (clicks === 0) return;
  quiet.siblings.n += n;
  quiet.siblings.y += y;
  addTally(quiet.siblings, clicks, orders, rows);
}
