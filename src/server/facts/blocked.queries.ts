import type { Day } from '../../core/metrics/days.ts';
import type { DayWeight } from '../../core/metrics/weights.ts';
import type { Database } from '../db/connection.ts';
import { setwise } from '../db/setwise.ts';
import { phraseTerms, wordsIn } from './phrases.queries.ts';
import type { OutOfStock, PresentDay } from './evidence-days.ts';

/** What a target caught of terms that a negative keeps from it by now: it will not come again. */
export interface BlockedSums {
  targetId: string;
  /** Of the evidence: weighted clicks and orders, and what was seen unweighted; money in micros. */
  n: number;
  y: number;
  clicks: number;
  orders: number;
  spend: number;
  sales: number;
  /** Of the last weeks, weighted as the present is. */
  presentClicks: number;
  presentSpend: number;
}

/**
 * Sums by target of the terms that are blocked for it by now. A research target whose best terms were sent down their
 * lane keeps their orders among its figures; they say nothing of what is left to it. Phrases count when they were sent
 * within the days of evidence: older ones have no traffic left in it.
 */
export async function blockedSums(
  sql: Database,
  accountId: number,
  weights: readonly DayWeight[],
  present: readonly PresentDay[],
  out: readonly OutOfStock[],
  to: Day,
): Promise<BlockedSums[]> {
  const from = weights[0]?.day;
  if (from === undefined) return [];
  const days = new Map(weights.map(({ day, n, y }) => [day, { day, n, y, seen: 1, w: 0 }]));
  for (const { day, w } of present) days.set(day, { ...(days.get(day) ?? { day, n: 0, y: 0, seen: 0 }), w });
  const list = [...days.values()];
  const last = list.reduce((latest, { day }) => (day > latest ? day : latest), to);
  return setwise(
    sql,
    (tx) => tx<BlockedSums[]>`
    with w as materialized (select * from jsonb_to_recordset(${tx.json(list as never)})
      as w (day date, n float8, y float8, seen float8, w float8)),
    out_of_stock as materialized (select * from jsonb_to_recordset(${tx.json(out as never)})
      as o (ad_group_id bigint, day date)),
    phrase as materialized (
      select n.campaign_id, n.ad_group_id, ${wordsIn(tx, 'n.expression')} as words
      from line l join sheet s on s.account_id = l.account_id and s.sheet_id = l.sheet_id and s.sent_on >= ${from}
      join negative n on n.account_id = l.account_id and n.negative_id = l.object_id::bigint and n.status = 'enabled'
      where l.account_id = ${accountId} and l.state = 'applied' and l.entity = 'negative' and l.action = 'create'
        and l.match_type = 'negative_phrase'),
    phrase_term as materialized (${phraseTerms(tx, accountId, 'phrase')}),
    whole as materialized (
      select g.ad_group_id, m.term_id
      from negative n
      join ad_group g on g.account_id = n.account_id and g.campaign_id = n.campaign_id
        and (n.ad_group_id is null or g.ad_group_id = n.ad_group_id)
      join term m on m.account_id = n.account_id
        and m.text = case when n.match_type = 'negative_item' then n.expression else lower(n.expression) end
      where n.account_id = ${accountId} and n.status = 'enabled'
        and n.match_type in ('negative_exact', 'negative_item')
      union
      select g.ad_group_id, pt.term_id
      from phrase p join phrase_term pt using (words)
      join ad_group g on g.account_id = ${accountId} and g.campaign_id = p.campaign_id
        and (p.ad_group_id is null or g.ad_group_id = p.ad_group_id))
    select d.target_id::text as "targetId", sum(d.clicks * w.n) as n, sum(d.orders * w.y) as y,
      sum(d.clicks * w.seen) as clicks, sum(d.orders * w.seen) as orders, sum(d.spend * w.seen) as spend,
      sum(d.sales * w.seen) as sales, sum(d.clicks * w.w) as "presentClicks", sum(d.spend * w.w) as "presentSpend"
    from whole b
    join target t on t.account_id = ${accountId} and t.ad_group_id = b.ad_group_id
    join term_day d on d.account_id = t.account_id and d.target_id = t.target_id and d.term_id = b.term_id
      and d.day between ${from} and ${last}
    join w using (day)
    where not exists (select 1 from out_of_stock o where o.ad_group_id = t.ad_group_id and o.day = d.day)
    group by d.target_id`,
  );
}
