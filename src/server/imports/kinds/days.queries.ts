import type { Transaction } from '../../db/connection.ts';
import type { DayCount } from './facts.ts';
import type { FileKind } from '../columns/kinds.ts';
import { inBatches, ofDays, type Loader, type Months } from './loader.ts';
import type { RowCheck } from '../files/read.ts';
import { makeStaged, stageRows } from './staging.ts';

/** Facts by day of campaigns and products: days of a file replace the same days known before. */

export type DayKind = Extract<
  FileKind,
  'placements-daily' | 'campaign-hours' | 'products-daily' | 'ranks-daily'
>;

const factOf: Record<DayKind, string> = {
  'placements-daily': 'placement_day',
  'campaign-hours': 'campaign_hour',
  'products-daily': 'product_day',
  'ranks-daily': 'rank_day',
};

const staged = {
  date: 'date',
  hour: 'smallint',
  campaign: 'text',
  campaign_id: 'text',
  placement: 'text',
  impressions: 'integer',
  clicks: 'integer',
  spend: 'bigint',
  orders: 'integer',
  units: 'integer',
  sales: 'bigint',
  minutes_in_budget: 'smallint',
  sku: 'text',
  sessions: 'integer',
  total_orders: 'integer',
  total_units: 'integer',
  total_sales: 'bigint',
  keyword: 'text',
  organic_rank: 'integer',
  sponsored_rank: 'integer',
  search_volume: 'integer',
};

/** Finds or makes the campaigns that staged rows name, by id, else by name; their ids stand in `staged_campaign_id`. */
export async function mergeCampaignNames(tx: Transaction, accountId: number, staged: string): Promise<void> {
  await tx`
    insert into campaign (account_id, ext_id, name)
    select ${accountId}, campaign_id, min(campaign) from ${tx(staged)} s
    where campaign_id is not null
      and not exists (select 1 from campaign c where c.account_id = ${accountId} and c.ext_id = s.campaign_id)
    group by campaign_id`;
  await tx`
    insert into campaign (account_id, name)
    select distinct ${accountId}::bigint, campaign from ${tx(staged)} s
    where campaign_id is null and campaign is not null
      and not exists (select 1 from campaign c where c.account_id = ${accountId} and c.name = s.campaign)`;
  await tx`
    create temporary table staged_campaign_id on commit drop as
    select '#' || ext_id as key, campaign_id as id from campaign
    where account_id = ${accountId} and ext_id is not null
    union all
    select '=' || name, min(campaign_id) from campaign where account_id = ${accountId} group by name`;
  await tx`analyze staged_campaign_id`;
}

/** How a staged row `s` names its campaign in `staged_campaign_id`: one key, so that the two are met by hashing. */
export const campaignKey = (tx: Transaction) => tx`coalesce('#' || s.campaign_id, '=' || s.campaign)`;

export async function openDays(
  tx: Transaction,
  accountId: number,
  kind: DayKind,
  check: RowCheck | null,
  months: Months,
): Promise<Loader> {
  await makeStaged(tx, 'staged_day', staged);
  return inBatches(
    check,
    (rows) => stageRows(tx, 'staged_day', staged, rows),
    async () => ofDays(await mergeDays(tx, accountId, kind, months)),
  );
}

async function mergeDays(
  tx: Transaction,
  accountId: number,
  kind: DayKind,
  months: Months,
): Promise<DayCount[]> {
  const fact = factOf[kind];
  await tx`analyze staged_day`;
  const days = await tx<DayCount[]>`
    select date as day, count(*)::int as rows, coalesce(sum(coalesce(orders, total_orders)), 0)::int as orders
    from staged_day group by date order by date`;
  const list = days.map(({ day }) => day);
  await months(fact, list);
  await tx`delete from ${tx(fact)} where account_id = ${accountId} and day = any(${list}::date[])`;
  if (kind === 'placements-daily' || kind === 'campaign-hours') {
    await mergeCampaignNames(tx, accountId, 'staged_day');
    const keys = kind === 'placements-daily' ? tx`c.id, s.placement` : tx`s.hour, c.id`;
    const more = kind === 'placements-daily' ? tx`` : tx`, max(s.minutes_in_budget)`;
    await tx`
      insert into ${tx(fact)}
      select ${accountId}, s.date, ${keys}, sum(coalesce(s.impressions, 0)), sum(coalesce(s.clicks, 0)),
        sum(coalesce(s.spend, 0)), sum(coalesce(s.orders, 0)), sum(coalesce(s.units, s.orders, 0)),
        sum(coalesce(s.sales, 0)) ${more}
      from staged_day s join staged_campaign_id c on c.key = ${campaignKey(tx)}
      group by s.date, ${keys}`;
  } else if (kind === 'products-daily') {
    await tx`
      insert into product_day
      select ${accountId}, date, sku, sum(coalesce(sessions, 0)), sum(coalesce(total_orders, 0)),
        sum(coalesce(total_units, total_orders, 0)), sum(coalesce(total_sales, 0))
      from staged_day group by date, sku`;
  } else {
    await tx`
      insert into rank_day
      select ${accountId}, date, sku, keyword, min(organic_rank), min(sponsored_rank), max(search_volume)
      from staged_day group by date, sku, keyword`;
  }
  return days;
}
