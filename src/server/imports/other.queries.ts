import type { Transaction } from '../db/connection.ts';
import type { FileKind } from './kinds.ts';
import type { Values } from './read.ts';

type Days = { day: string; rows: number; orders: number }[];

/** Replaces the days of `placements-daily` or `products-daily` by the given rows. */
export async function replaceDays(
  tx: Transaction,
  accountId: number,
  kind: FileKind,
  rows: Values[],
): Promise<Days> {
  await tx`
    create temporary table staged_other (
      date date, campaign text, campaign_id text, placement text, impressions integer, clicks integer, spend bigint,
      orders integer, units integer, sales bigint, sku text, sessions integer, total_orders integer,
      total_units integer, total_sales bigint) on commit drop`;
  for (let i = 0; i < rows.length; i += 5000) {
    await tx`
      insert into staged_other select * from jsonb_populate_recordset(null::staged_other,
        ${tx.json(rows.slice(i, i + 5000) as never)})`;
  }
  const fact = kind === 'placements-daily' ? 'placement_day' : 'product_day';
  await tx`
    select ensure_month(${fact}, month) from (
      select distinct date_trunc('month', date)::date as month from staged_other) m`;
  const days = await tx<Days>`
    select date as day, count(*)::int as rows, coalesce(sum(coalesce(orders, total_orders)), 0)::int as orders
    from staged_other group by date order by date`;
  const list = days.map(({ day }) => day);
  await tx`delete from ${tx(fact)} where account_id = ${accountId} and day = any(${list}::date[])`;
  if (kind === 'placements-daily') {
    await tx`
      insert into campaign (account_id, ext_id, name)
      select ${accountId}, campaign_id, min(campaign) from staged_other s
      where campaign_id is not null
        and not exists (select 1 from campaign c where c.account_id = ${accountId} and c.ext_id = s.campaign_id)
      group by campaign_id`;
    await tx`
      insert into placement_day
      select ${accountId}, s.date, c.campaign_id, s.placement, sum(s.impressions), sum(s.clicks), sum(s.spend),
        sum(s.orders), sum(s.units), sum(s.sales)
      from staged_other s join campaign c on c.account_id = ${accountId}
        and case when s.campaign_id is null then c.name = s.campaign else c.ext_id = s.campaign_id end
      group by s.date, c.campaign_id, s.placement`;
  } else {
    await tx`
      insert into product_day
      select ${accountId}, date, sku, sum(sessions), sum(total_orders), sum(total_units), sum(total_sales)
      from staged_other group by date, sku`;
  }
  return days;
}
