import { mixesOf, type Mixes, type SoldProduct } from '../../core/account/mix.ts';
import { addDays, type Day } from '../../core/metrics/days.ts';
import { evidenceDays } from '../../core/metrics/weights.ts';
import type { Database } from '../db/connection.ts';

/** What ad groups that advertise several products really sell, by the evidence of their last days; by ad group. */
export async function mixesNow(sql: Database, accountId: number, today: Day): Promise<Mixes> {
  const from = addDays(today, -evidenceDays);
  const rows = await sql<(SoldProduct & { adGroupId: string })[]>`
    with several as (
      select ad_group_id from product_ad where account_id = ${accountId} and status = 'enabled'
      group by ad_group_id having count(*) > 1)
    select a.ad_group_id::text as "adGroupId", a.sku, min(p.price) as price, coalesce(sum(d.sales), 0)::bigint as sales
    from product_ad a join several using (ad_group_id)
    left join product p on p.account_id = a.account_id and p.sku = a.sku
    left join sold_day d on d.account_id = a.account_id and d.ad_group_id = a.ad_group_id and d.sku = a.sku
      and d.day >= ${from}
    where a.account_id = ${accountId} and a.status = 'enabled'
    group by a.ad_group_id, a.sku order by a.ad_group_id, a.sku`;
  return mixesOf(rows);
}
