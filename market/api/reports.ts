import { stringify } from 'csv-stringify/sync';
import { placements } from '../world/account.ts';
import type { World } from '../world/world.ts';

export const reportKinds = [
  'targets-daily',
  'terms-daily',
  'placements-daily',
  'products-daily',
  'campaign-hours',
  'creatives-daily',
  'collections-daily',
  'sold-daily',
  'ranks-daily',
] as const;
export type ReportKind = (typeof reportKinds)[number];

const figures = ['impressions', 'clicks', 'spend', 'orders', 'units', 'sales', 'currency'];
const path = [
  'date',
  'campaign',
  'campaign_id',
  'campaign_kind',
  'ad_group',
  'ad_group_id',
  'target',
  'target_id',
  'target_kind',
  'match_type',
];

const columns: Record<ReportKind, string[]> = {
  'targets-daily': [...path, ...figures],
  'terms-daily': [...path, 'term', ...figures],
  'placements-daily': ['date', 'campaign', 'campaign_id', 'placement', ...figures, 'bidding_strategy'],
  'products-daily': ['date', 'sku', 'item_code', 'sessions', 'total_orders', 'total_units', 'total_sales'],
  'creatives-daily': ['date', 'ad_group', 'ad_group_id', 'picture', 'title', ...figures],
  'collections-daily': ['date', 'ad_group', 'ad_group_id', 'sku', 'change'],
  'sold-daily': [
    'date',
    'campaign',
    'campaign_id',
    'ad_group',
    'ad_group_id',
    'sku',
    'orders',
    'units',
    'sales',
    'currency',
  ],
  'ranks-daily': ['date', 'sku', 'keyword', 'organic_rank', 'sponsored_rank', 'search_volume'],
  'campaign-hours': ['date', 'hour', 'campaign', 'campaign_id', ...figures, 'minutes_in_budget'],
};

type Row = Record<string, string | number | null>;

/** One day of a report as it was known on `asOf`: orders that had not arrived by then are not in it. */
async function dayRows(world: World, kind: ReportKind, day: string, asOf: string): Promise<Row[]> {
  const { sql, structure, scenario } = world;
  const { currency } = scenario.account;
  if (kind === 'products-daily') {
    return sql<Row[]>`
      select ${day} as date, p.sku, p.sessions,
        p.organic_orders + coalesce(o.orders, 0)::int as total_orders,
        p.organic_units + coalesce(o.units, 0)::int as total_units,
        p.organic_sales + coalesce(o.sales, 0) as total_sales
      from product_day p
      left join (select sku, count(*) as orders, sum(units) as units, sum(sales) as sales from ad_order
        where day = ${day} and known_on <= ${asOf} group by sku) o using (sku)
      where p.day = ${day} order by p.sku`.then((rows) =>
      rows.map((row) => ({
        ...row,
        item_code: scenario.products.find((product) => product.sku === row.sku)?.itemCode ?? '',
      })),
    );
  }
  if (kind === 'ranks-daily') {
    return sql<Row[]>`
      select ${day} as date, sku, keyword, organic_rank, sponsored_rank, search_volume from rank_day
      where day = ${day} order by sku, keyword`;
  }
  if (kind === 'collections-daily') {
    const rows = await sql<Row[]>`
      select ${day} as date, ad_group_id, sku, change from collection_day where day = ${day}
      order by ad_group_id, sku`;
    return rows.map((row) => ({ ...row, ad_group: structure.adGroups.get(String(row.ad_group_id))!.name }));
  }
  if (kind === 'creatives-daily') {
    const rows = await sql<Row[]>`
      with o as (select ad_group_id, picture, title, count(*)::int as orders, sum(units)::int as units,
          sum(sales) as sales
        from ad_order where day = ${day} and known_on <= ${asOf} and ad_group_id is not null group by 1, 2, 3)
      select ${day} as date, c.ad_group_id, c.picture, c.title, c.impressions, c.clicks, c.spend,
        coalesce(o.orders, 0) as orders, coalesce(o.units, 0) as units, coalesce(o.sales, 0) as sales
      from creative_day c left join o using (ad_group_id, picture, title)
      where c.day = ${day} order by c.ad_group_id, c.picture, c.title`;
    return rows.map((row) => ({
      ...row,
      ad_group: structure.adGroups.get(String(row.ad_group_id))!.name,
      currency,
    }));
  }
  const targets = [...structure.targets.values()];
  const ids = targets.map(({ id }) => id);
  if (kind === 'sold-daily') {
    const adGroups = targets.map(({ adGroupId }) => adGroupId);
    const rows = await sql<Row[]>`
      with owner as (select * from unnest(${ids}::text[], ${adGroups}::text[]) as t (target_id, own_group))
      select ${day} as date, own_group as ad_group_id, sku, count(*)::int as orders, sum(units)::int as units,
        sum(sales) as sales
      from ad_order join owner using (target_id)
      where day = ${day} and known_on <= ${asOf} group by own_group, sku order by own_group, sku`;
    return rows.map((row) => {
      const adGroup = structure.adGroups.get(String(row.ad_group_id))!;
      const { id, name } = structure.campaigns.get(adGroup.campaignId)!;
      return { ...row, ad_group: adGroup.name, campaign: name, campaign_id: id, currency };
    });
  }
  if (kind === 'campaign-hours') {
    const campaigns = targets.map(({ adGroupId }) => structure.adGroups.get(adGroupId)!.campaignId);
    const rows = await sql<Row[]>`
      with owner as (select * from unnest(${ids}::text[], ${campaigns}::text[]) as t (target_id, campaign_id)),
      o as (select hour, campaign_id, count(*)::int as orders, sum(units)::int as units, sum(sales) as sales
        from ad_order join owner using (target_id)
        where day = ${day} and known_on <= ${asOf} group by hour, campaign_id)
      select ${day} as date, h.hour, h.campaign_id, h.impressions, h.clicks, h.spend,
        coalesce(o.orders, 0) as orders, coalesce(o.units, 0) as units, coalesce(o.sales, 0) as sales,
        h.minutes as minutes_in_budget
      from campaign_hour h left join o using (hour, campaign_id)
      where h.day = ${day} order by h.campaign_id, h.hour`;
    return rows.map((row) => ({
      ...row,
      campaign: structure.campaigns.get(String(row.campaign_id))!.name,
      currency,
    }));
  }
  const withTerm = kind === 'terms-daily';
  const withPlacement = kind === 'placements-daily';
  const rows = await sql<Row[]>`
    with a as (
      select target_id, ${withTerm ? sql`term` : sql`''`} as term, ${withPlacement ? sql`placement` : sql`0`} as placement,
        sum(impressions)::int as impressions, sum(clicks)::int as clicks, sum(spend) as spend
      from ad_day where day = ${day} ${withTerm ? sql`and clicks > 0` : sql``} group by 1, 2, 3),
    o as (
      select target_id, ${withTerm ? sql`term` : sql`''`} as term, ${withPlacement ? sql`placement` : sql`0`} as placement,
        count(*)::int as orders, sum(units)::int as units, sum(sales) as sales
      from ad_order where day = ${day} and known_on <= ${asOf} group by 1, 2, 3)
    select ${day} as date, a.*, coalesce(o.orders, 0) as orders, coalesce(o.units, 0) as units,
      coalesce(o.sales, 0) as sales
    from a left join o using (target_id, term, placement) order by target_id, term, placement`;
  if (withPlacement) return placementRows(world, rows, day);
  return rows.map((row) => {
    const target = structure.targets.get(String(row.target_id))!;
    const adGroup = structure.adGroups.get(target.adGroupId)!;
    const campaign = structure.campaigns.get(adGroup.campaignId)!;
    return {
      ...row,
      campaign: campaign.name,
      campaign_id: campaign.id,
      campaign_kind: campaign.kind,
      ad_group: adGroup.name,
      ad_group_id: adGroup.id,
      target: target.expression,
      target_kind: target.kind,
      match_type: target.matchType,
      currency,
    };
  });
}

/** Sums the targets' rows to campaign and placement. */
function placementRows(world: World, rows: Row[], day: string): Row[] {
  const { structure, scenario } = world;
  const sums = new Map<string, Row>();
  for (const row of rows) {
    const target = structure.targets.get(String(row.target_id))!;
    const campaign = structure.campaigns.get(structure.adGroups.get(target.adGroupId)!.campaignId)!;
    const key = `${campaign.id}:${row.placement}`;
    const sum = sums.get(key) ?? {
      date: day,
      campaign: campaign.name,
      campaign_id: campaign.id,
      placement: placements[Number(row.placement)]!,
      currency: scenario.account.currency,
      bidding_strategy: campaign.strategy,
    };
    for (const name of ['impressions', 'clicks', 'spend', 'orders', 'units', 'sales']) {
      sum[name] = Math.round((Number(sum[name] ?? 0) + Number(row[name])) * 100) / 100;
    }
    sums.set(key, sum);
  }
  return [...sums.values()];
}

/** The report as CSV text, a day at a time. */
export async function* reportCsv(
  world: World,
  kind: ReportKind,
  from: string,
  to: string,
  asOf: string,
): AsyncGenerator<string> {
  yield stringify([columns[kind]]);
  for (let time = Date.parse(`${from}T00:00:00Z`); time <= Date.parse(`${to}T00:00:00Z`); time += 864e5) {
    const day = new Date(time).toISOString().slice(0, 10);
    const rows = await dayRows(world, kind, day, asOf);
    if (rows.length > 0) yield stringify(rows, { columns: columns[kind] });
  }
}
