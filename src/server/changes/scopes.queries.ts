import type { Window } from '../../core/metrics/days.ts';
import type { Database } from '../db/connection.ts';

/** An ad group with what it advertises first, and its spend and sales of some days. */
export interface AdGroupSums {
  ad_group_id: string;
  campaign_id: string;
  sku: string | null;
  spend: number;
  sales: number;
}

export async function adGroupSums(
  sql: Database,
  accountId: number,
  { from, to }: Window,
): Promise<AdGroupSums[]> {
  return sql<AdGroupSums[]>`
    select g.ad_group_id::text, g.campaign_id::text, p.sku, coalesce(d.spend, 0)::bigint as spend,
      coalesce(d.sales, 0)::bigint as sales
    from ad_group g
    left join (
      select ad_group_id, min(sku) as sku from product_ad
      where account_id = ${accountId} and status = 'enabled' group by ad_group_id) p using (ad_group_id)
    left join (
      select t.ad_group_id, sum(d.spend) as spend, sum(d.sales) as sales
      from (
        select target_id, sum(spend) as spend, sum(sales) as sales from target_day
        where account_id = ${accountId} and day between ${from} and ${to} group by target_id) d
      join target t on t.account_id = ${accountId} and t.target_id = d.target_id
      group by t.ad_group_id) d using (ad_group_id)
    where g.account_id = ${accountId}`;
}
