import type { Micros } from '../../core/metrics/money.ts';
import type { Database, Transaction } from '../db/connection.ts';

export interface Tolerance {
  tolerance_id: string;
  finding_key: string;
  amount: Micros;
  reason: string;
  until: string | null;
  since: string;
}

export async function toleranceRows(sql: Database, accountId: number): Promise<Tolerance[]> {
  return sql<Tolerance[]>`
    select tolerance_id::text, finding_key, amount, reason, until, since from tolerance
    where account_id = ${accountId} order by since desc, finding_key`;
}

export async function putTolerance(
  tx: Transaction,
  accountId: number,
  row: Omit<Tolerance, 'tolerance_id'>,
): Promise<void> {
  await tx`
    insert into tolerance ${tx({ account_id: accountId, ...row } as never)}
    on conflict (account_id, finding_key) do update set amount = excluded.amount, reason = excluded.reason,
      until = excluded.until`;
}

export async function dropTolerances(
  tx: Transaction,
  accountId: number,
  keys: readonly string[],
): Promise<void> {
  await tx`delete from tolerance where account_id = ${accountId} and finding_key = any(${[...keys]})`;
}

/** A target, or a term in an ad group, with its figures over some days. */
export interface Borne {
  finding_key: string;
  name: string;
  match_type: string | null;
  campaign_id: string;
  ad_group_id: string;
  campaign: string;
  ad_group: string;
  sku: string | null;
  spend: Micros;
  sales: Micros;
}

/** Targets by their numbers, and terms by ad group and text, with what they did from a day to another. */
export async function borneBy(
  sql: Database,
  accountId: number,
  targetIds: readonly string[],
  terms: readonly { adGroupId: string; term: string }[],
  from: string,
  to: string,
): Promise<Borne[]> {
  const adOf = sql`(select min(a.sku) from product_ad a where a.account_id = g.account_id and a.ad_group_id = g.ad_group_id)`;
  return sql<Borne[]>`
    select 'target:' || t.target_id || ':bid' as finding_key, t.expression as name, t.match_type,
      g.campaign_id::text, g.ad_group_id::text, c.name as campaign, g.name as ad_group, ${adOf} as sku,
      coalesce(sum(d.spend), 0)::bigint as spend, coalesce(sum(d.sales), 0)::bigint as sales
    from target t join ad_group g using (account_id, ad_group_id) join campaign c using (account_id, campaign_id)
    left join target_day d on d.account_id = t.account_id and d.target_id = t.target_id
      and d.day between ${from} and ${to}
    where t.account_id = ${accountId} and t.target_id = any(${[...targetIds]}::bigint[])
    group by t.target_id, t.expression, t.match_type, g.account_id, g.campaign_id, g.ad_group_id, c.name, g.name
    union all
    select 'term:' || g.ad_group_id || ':' || w.term, w.term, null, g.campaign_id::text, g.ad_group_id::text, c.name,
      g.name, ${adOf}, coalesce(sum(d.spend), 0)::bigint, coalesce(sum(d.sales), 0)::bigint
    from unnest(${terms.map(({ adGroupId }) => adGroupId)}::bigint[], ${terms.map(({ term }) => term)}::text[])
      as w (ad_group_id, term)
    join ad_group g on g.account_id = ${accountId} and g.ad_group_id = w.ad_group_id
    join campaign c using (account_id, campaign_id)
    left join term m on m.account_id = ${accountId} and m.text = w.term
    left join target t on t.account_id = ${accountId} and t.ad_group_id = g.ad_group_id
    left join term_day d on d.account_id = ${accountId} and d.term_id = m.term_id and d.target_id = t.target_id
      and d.day between ${from} and ${to}
    group by g.account_id, g.ad_group_id, g.campaign_id, c.name, g.name, w.term`;
}

/** Organic ranks of keywords for products at both ends of some days; null where it was not found or not told. */
export async function ranksOf(
  sql: Database,
  accountId: number,
  pairs: readonly { sku: string; keyword: string }[],
  from: string,
  to: string,
): Promise<Map<string, { first: number | null; last: number | null }>> {
  const rows = await sql<{ name: string; first: number | null; last: number | null }[]>`
    select r.sku || chr(9) || lower(r.keyword) as name,
      (array_agg(r.organic_rank order by r.day))[1] as first, (array_agg(r.organic_rank order by r.day desc))[1] as last
    from rank_day r
    join unnest(${pairs.map(({ sku }) => sku)}::text[], ${pairs.map(({ keyword }) => keyword.toLowerCase())}::text[])
      as w (sku, keyword) on r.sku = w.sku and lower(r.keyword) = w.keyword
    where r.account_id = ${accountId} and r.day between ${from} and ${to}
    group by 1`;
  return new Map(rows.map(({ name, first, last }) => [name, { first, last }]));
}
