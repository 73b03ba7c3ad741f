import type { Window } from '../../core/metrics/days.ts';
import { clicksToList } from '../../core/round/terms.ts';
import type { Evidence, QuietTerms, TargetRow, TermRow, TermsInput } from '../../core/round/types.ts';
import type { Database, Transaction } from '../db/connection.ts';
import { betweenValues, packedRows, type Fragment } from '../db/packed.ts';
import { factRows } from '../facts/summaries.queries.ts';

/** The sums that judging rests on, by the hundred thousand. */

/** Weight of a day's evidence: clicks x maturity x decay, orders x decay. */
export interface DayWeight {
  day: string;
  n: number;
  y: number;
  /** Whether the day lies in the window: figures are summed over it, evidence over all weighted days. */
  inside: boolean;
}

const weighted = (sql: Database | Transaction, name: 'w' | 'f', weights: DayWeight[]) =>
  sql`${sql(name)} as not materialized (select * from jsonb_to_recordset(${sql.json(weights as never)})
    as w (day date, n float8, y float8, inside boolean))`;

/** Sums of one object over the window and over the days of evidence; `d` are its facts, `w` the weights. */
const evidenceSums = (sql: Database | Transaction, inside: Fragment) => sql`
  coalesce(sum(d.impressions) filter (where ${inside}), 0) as impressions,
  coalesce(sum(d.clicks) filter (where ${inside}), 0) as clicks,
  coalesce(sum(d.spend) filter (where ${inside}), 0)::bigint as spend,
  coalesce(sum(d.orders) filter (where ${inside}), 0) as orders,
  coalesce(sum(d.units) filter (where ${inside}), 0) as units,
  coalesce(sum(d.sales) filter (where ${inside}), 0)::bigint as sales,
  sum(d.clicks * w.n) as n, sum(d.orders * w.y) as y, sum(d.clicks) as seen_clicks, sum(d.orders) as seen_orders,
  sum(d.spend)::bigint as seen_spend, sum(d.sales)::bigint as seen_sales,
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

/** Every target with its sums over the window; the fresh sums reach to the last day known. */
export async function targetRows(
  sql: Database,
  accountId: number,
  window: Window,
  evidence: Window,
  weights: DayWeight[],
  fresh: { from: string; weights: DayWeight[] },
): Promise<TargetRow[]> {
  const facts = await factRows(sql, accountId, 'target_day');
  const inside = sql`(inside and ${facts.within(window)})`;
  const common = sql`
    with ${weighted(sql, 'w', weights)}, ${weighted(sql, 'f', fresh.weights)},
    s as (
      select d.target_id, ${evidenceSums(sql, inside)},
        sum(d.clicks) filter (where ${inside} and (t.bid_changed_on is null or d.day > t.bid_changed_on)) as since_clicks,
        sum(d.spend) filter (where ${inside} and (t.bid_changed_on is null or d.day > t.bid_changed_on))::bigint
          as since_spend
      from ${facts.rows} d join w using (day)
      join target t on t.account_id = d.account_id and t.target_id = d.target_id
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
  const before = sql`${window.from}::date - 1`;
  const rows = sql`
    select concat_ws(${betweenValues}, t.target_id, t.ad_group_id, t.kind, coalesce(t.match_type, ''), t.expression,
      coalesce(t.bid::text, ''), t.status = 'enabled' and g.status = 'enabled' and c.status = 'enabled'
        and (c.end_date is null or c.end_date >= ${window.to}::date), coalesce(t.bid_changed_on::text, ''),
      greatest(0, ${window.to}::date - greatest(${before}, coalesce(t.bid_changed_on, ${before}))),
      coalesce(s.since_clicks, 0), coalesce(s.since_spend, 0), coalesce(r.n, 0), coalesce(r.y, 0),
      coalesce(r.clicks, 0), coalesce(r.spend, 0), ${evidenceValues(sql)}) as row
    from target t
    join ad_group g on g.account_id = t.account_id and g.ad_group_id = t.ad_group_id
    join campaign c on c.account_id = g.account_id and c.campaign_id = g.campaign_id
    left join s on s.target_id = t.target_id left join r on r.target_id = t.target_id
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
      sinceDays: Number(row[8]),
      sinceClicks: Number(row[9]),
      sinceSpend: Number(row[10]),
      freshN: Number(row[11]),
      freshY: Number(row[12]),
      freshClicks: Number(row[13]),
      freshSpend: Number(row[14]),
      ...readEvidence(row, 15),
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
): Promise<TermsInput> {
  const facts = await factRows(sql, accountId, 'term_day');
  const laneCount = (figure: 'clicks' | 'orders', kind: 'keyword' | 'item') => sql`
    coalesce(sum(d.${sql(figure)}) filter (where d.day >= coalesce(l.${sql(kind)}, ${evidence.from}::date)), 0)
      as ${sql(`${kind}_${figure}`)}`;
  const inside = sql`(inside and ${facts.within(window)})`;
  // First the few sums that tell which are quiet; all of them only for the rest.
  const common = sql`
    with ${weighted(sql, 'w', weights)},
    g as materialized (
      select t.ad_group_id, d.term_id, sum(d.clicks * w.n) as n, sum(d.orders * w.y) as y,
        sum(d.clicks)::float8 as c, sum(d.orders)::float8 as o, sum(d.sales)::float8 as sales,
        bool_and(t.kind = 'item' or t.match_type is not distinct from 'exact')
          or coalesce(sum(d.clicks) filter (where ${inside}), 0) = 0
          or (sum(d.orders) = 0 and sum(d.clicks) < ${clicksToList}) as quiet
      from ${facts.rows} d join w using (day)
      join target t on t.account_id = d.account_id and t.target_id = d.target_id and t.status <> 'archived'
      where d.account_id = ${accountId} and d.day between ${evidence.from} and ${evidence.to}
        and ${facts.within(evidence)}
      group by t.ad_group_id, d.term_id),
    l as (select * from jsonb_to_recordset(${sql.json((lanes ?? []) as never)})
      as l (ad_group_id bigint, keyword date, item date)),
    s as (
      select d.target_id, d.term_id, ${evidenceSums(sql, inside)}${
        lanes === null
          ? sql``
          : sql`, ${laneCount('clicks', 'keyword')}, ${laneCount('orders', 'keyword')},
        ${laneCount('clicks', 'item')}, ${laneCount('orders', 'item')}`
      }
      from g ${lanes === null ? sql`` : sql`left join l on l.ad_group_id = g.ad_group_id`} join ${facts.rows} d on d.account_id = ${accountId} and d.term_id = g.term_id
      join target t on t.account_id = d.account_id and t.target_id = d.target_id and t.status <> 'archived'
        and t.ad_group_id = g.ad_group_id
      join w using (day)
      where not g.quiet and d.day between ${evidence.from} and ${evidence.to} and ${facts.within(evidence)}
      group by d.target_id, d.term_id)`;
  const rows = sql`
    select concat_ws(${betweenValues}, 'quiet', ad_group_id, count(*), count(*) filter (where n > 0),
      coalesce(sum(y) filter (where n > 0), 0), coalesce(sum(n) filter (where n > 0), 0),
      coalesce(sum(o) filter (where n > 0), 0), coalesce(sum(c) filter (where n > 0), 0),
      coalesce(sum(o * o) filter (where n > 0), 0), coalesce(sum(o * c) filter (where n > 0), 0),
      coalesce(sum(c * c) filter (where n > 0), 0), sum(o), sum(sales)) as row
    from g where quiet group by ad_group_id
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
    } else quietTerms.set(row[1]!, readQuiet(row));
  });
  return { terms, quietTerms };
}

function readQuiet(row: string[]): QuietTerms {
  const [terms, count, y, n, o, c, oo, oc, cc, orders, sales] = row.slice(2).map(Number) as [
    ...[number, number, number, number, number, number, number, number, number, number, number],
  ];
  return { terms, moments: { count, y, n, o, c, oo, oc, cc }, orders, sales };
}
