import type { FileKind } from '../../answers/imports.ts';
import type { Readable } from 'node:stream';
import type { Database, Transaction } from '../db/connection.ts';

/** Everything of an account as CSV, resource by resource, in the columns of its kind (formats). */

export interface Resource {
  name: string;
  kind: FileKind;
  columns: string[];
  rows: () => Promise<Readable>;
}

const money = (column: string) => `round(${column} / 1e6, 6) as ${column.replace(/^\w+\./, '')}`;
const figures = `d.impressions, d.clicks, ${money('d.spend')}, d.orders, d.units, ${money('d.sales')}`;
const figureNames = ['impressions', 'clicks', 'spend', 'orders', 'units', 'sales'];
const path = `c.name as campaign, c.ext_id as campaign_id, c.kind as campaign_kind, g.name as ad_group,
  g.ext_id as ad_group_id, t.expression as target, t.ext_id as target_id, t.kind as target_kind, t.match_type`;
const pathNames = [
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
const above = `join target t on t.account_id = d.account_id and t.target_id = d.target_id
  join ad_group g on g.account_id = t.account_id and g.ad_group_id = t.ad_group_id
  join campaign c on c.account_id = g.account_id and c.campaign_id = g.campaign_id`;
const ofCampaign = 'join campaign c on c.account_id = d.account_id and c.campaign_id = d.campaign_id';

/** Columns that hold what people wrote: a spreadsheet must not take it for a formula. Importers take the mark off. */
const written = new Set([
  'campaign',
  'ad_group',
  'target',
  'term',
  'sku',
  'item_code',
  'title',
  'brand',
  'category',
  'keyword',
  'name',
  'expression',
  'budget_group',
]);
const unharmed = (column: string): string =>
  written.has(column)
    ? `case when ${column} ~ '^[=+@\\t\\r-]' then '''' || ${column} else ${column} end as ${column}`
    : column;

const structureNames = [
  'entity',
  'budget_group_id',
  'budget_group',
  'campaign',
  'campaign_id',
  'ad_group',
  'ad_group_id',
  'target_id',
  'negative_id',
  'status',
  'kind',
  'daily_budget',
  'lifetime_budget',
  'pacing',
  'strategy',
  'schedule',
  'start_date',
  'end_date',
  'placement',
  'modifier',
  'default_bid',
  'sku',
  'rule',
  'related_categories',
  'creative_id',
  'target_kind',
  'match_type',
  'expression',
  'bid',
  'scope',
];

/** One entity of the structure: the values it has, nothing in all other columns. */
const entity = (name: string, values: Record<string, string>, from: string): string =>
  `select ${structureNames
    .map((column) => `${column === 'entity' ? `'${name}'` : (values[column] ?? 'null')}::text as ${column}`)
    .join(', ')} from ${from}`;

function structureSql(account: string): string {
  const campaign = { campaign: 'c.name', campaign_id: 'c.ext_id' };
  const adGroup = { ...campaign, ad_group: 'g.name', ad_group_id: 'g.ext_id' };
  const inAdGroup = `join ad_group g on g.account_id = x.account_id and g.ad_group_id = x.ad_group_id
    join campaign c on c.account_id = g.account_id and c.campaign_id = g.campaign_id`;
  return [
    entity(
      'budget_group',
      { budget_group_id: 'x.ext_id', budget_group: 'x.name', daily_budget: 'round(x.daily_budget / 1e6, 6)' },
      `budget_group x where x.account_id = ${account}`,
    ),
    entity(
      'campaign',
      {
        ...campaign,
        budget_group_id: 'c.budget_group',
        status: 'c.status',
        kind: 'c.kind',
        daily_budget: 'round(c.daily_budget / 1e6, 6)',
        lifetime_budget: 'round(c.lifetime_budget / 1e6, 6)',
        pacing: 'c.pacing',
        strategy: 'c.strategy',
        schedule: 'c.schedule',
        start_date: 'c.start_date',
        end_date: 'c.end_date',
      },
      `campaign c where c.account_id = ${account}`,
    ),
    entity(
      'placement_modifier',
      { ...campaign, placement: 'x.placement', modifier: 'x.modifier' },
      `placement_modifier x join campaign c on c.account_id = x.account_id and c.campaign_id = x.campaign_id
        where x.account_id = ${account}`,
    ),
    entity(
      'ad_group',
      {
        ...adGroup,
        status: 'g.status',
        default_bid: 'round(g.default_bid / 1e6, 6)',
        rule: 'g.rule',
        related_categories: 'nullif(g.related_categories, false)',
      },
      `ad_group g join campaign c on c.account_id = g.account_id and c.campaign_id = g.campaign_id
        where g.account_id = ${account}`,
    ),
    entity(
      'product_ad',
      { ...adGroup, sku: 'x.sku', status: 'x.status' },
      `product_ad x ${inAdGroup} where x.account_id = ${account}`,
    ),
    entity(
      'target',
      {
        ...adGroup,
        target_id: 'x.ext_id',
        target_kind: 'x.kind',
        match_type: 'x.match_type',
        expression: 'x.expression',
        bid: 'round(x.bid / 1e6, 6)',
        status: 'x.status',
      },
      `target x ${inAdGroup} where x.account_id = ${account}`,
    ),
    entity(
      'negative',
      {
        ...adGroup,
        negative_id: 'x.ext_id',
        match_type: 'x.match_type',
        expression: 'x.expression',
        status: 'x.status',
        scope: `case when x.ad_group_id is null then 'campaign' else 'ad_group' end`,
      },
      `negative x join campaign c on c.account_id = x.account_id and c.campaign_id = x.campaign_id
        left join ad_group g on g.account_id = x.account_id and g.ad_group_id = x.ad_group_id
        where x.account_id = ${account}`,
    ),
    ...['picture', 'title', 'left_out'].map((kind) =>
      entity(
        kind,
        { ...adGroup, creative_id: 'x.ext_id', expression: 'x.value', status: 'x.status' },
        `creative x ${inAdGroup} where x.account_id = ${account} and x.kind = '${kind}'`,
      ),
    ),
  ].join(' union all ');
}

/** A sum of days as it was told, of one kind. */
const summarySql = (account: string, kind: string, columns: string, joins: string): string =>
  `select d.first_day as start_date, d.last_day as end_date, ${columns}, ${figures}
   from summary d ${joins} where d.account_id = ${account} and d.kind = '${kind}'`;

/** The parts of a package in the order in which they are loaded again. */
export function resourcesOf(tx: Transaction | Database, accountId: number): Resource[] {
  // COPY takes no parameters; the account is a number of our own.
  const account = String(Number(accountId));
  const of = (name: string, kind: FileKind, columns: string[], select: string): Resource => ({
    name,
    kind,
    columns,
    rows: () =>
      tx`copy (${tx.unsafe(`select ${columns.map(unharmed).join(', ')} from (${select}) r`)}) to stdout (format csv)`.readable(),
  });
  const days = (fact: string, columns: string, joins: string, order: string) =>
    `select d.day as date, ${columns}, ${figures} from ${fact} d ${joins} where d.account_id = ${account} order by d.day${order}`;
  const spans = ['start_date', 'end_date'];
  return [
    of('structure', 'structure', structureNames, structureSql(account)),
    of(
      'products',
      'products',
      [
        'sku',
        'item_code',
        'title',
        'brand',
        'category',
        'price',
        'unit_cost',
        'fee_rate',
        'fee_fixed',
        'shipping',
        'refund_rate',
        'rating',
        'stock',
      ],
      `select sku, item_code, title, brand, category, ${['price', 'unit_cost', 'fee_fixed', 'shipping'].map(money).join(', ')},
        fee_rate, refund_rate, rating, stock from product where account_id = ${account} order by sku`,
    ),
    of(
      'goals',
      'goals',
      [...'scope,id,name,objective,target_acos,target_margin,bid_floor,bid_ceiling,stance,method'.split(',')],
      `select o.scope, case o.scope when 'product' then o.key when 'campaign' then c.ext_id when 'ad_group' then g.ext_id end as id,
        coalesce(c.name, g.name) as name, o.objective, o.target_acos, o.target_margin, ${money('o.bid_floor')},
        ${money('o.bid_ceiling')}, o.stance, o.method
       from goal o
       left join campaign c on c.account_id = o.account_id and o.scope = 'campaign' and c.campaign_id::text = o.key
       left join ad_group g on g.account_id = o.account_id and o.scope = 'ad_group' and g.ad_group_id::text = o.key
       where o.account_id = ${account} and (o.scope not in ('campaign', 'ad_group')
         or coalesce(c.campaign_id, g.ad_group_id) is not null)`,
    ),
    of(
      'targets-daily',
      'targets-daily',
      ['date', ...pathNames, ...figureNames],
      days('target_day', path, above, ', d.target_id'),
    ),
    of(
      'terms-daily',
      'terms-daily',
      ['date', ...pathNames, 'term', ...figureNames],
      days(
        'term_day',
        `${path}, m.text as term`,
        `${above} join term m on m.account_id = d.account_id and m.term_id = d.term_id`,
        ', d.target_id',
      ),
    ),
    of(
      'placements-daily',
      'placements-daily',
      ['date', 'campaign', 'campaign_id', 'placement', ...figureNames],
      days(
        'placement_day',
        'c.name as campaign, c.ext_id as campaign_id, d.placement',
        ofCampaign,
        ', d.campaign_id',
      ),
    ),
    of(
      'campaign-hours',
      'campaign-hours',
      ['date', 'hour', 'campaign', 'campaign_id', ...figureNames, 'minutes_in_budget'],
      days(
        'campaign_hour',
        'd.hour, c.name as campaign, c.ext_id as campaign_id, d.minutes_in_budget',
        ofCampaign,
        ', d.campaign_id, d.hour',
      ),
    ),
    of(
      'products-daily',
      'products-daily',
      ['date', 'sku', 'sessions', 'total_orders', 'total_units', 'total_sales'],
      `select day as date, sku, sessions, total_orders, total_units, ${money('total_sales')} from product_day
       where account_id = ${account} order by day, sku`,
    ),
    of(
      'sold-daily',
      'sold-daily',
      ['date', 'campaign', 'campaign_id', 'ad_group', 'ad_group_id', 'sku', 'orders', 'units', 'sales'],
      `select d.day as date, c.name as campaign, c.ext_id as campaign_id, g.name as ad_group, g.ext_id as ad_group_id,
        d.sku, d.orders, d.units, ${money('d.sales')} from sold_day d
       join ad_group g on g.account_id = d.account_id and g.ad_group_id = d.ad_group_id
       join campaign c on c.account_id = g.account_id and c.campaign_id = g.campaign_id
       where d.account_id = ${account} order by d.day, d.ad_group_id, d.sku`,
    ),
    of(
      'ranks-daily',
      'ranks-daily',
      ['date', 'sku', 'keyword', 'organic_rank', 'sponsored_rank', 'search_volume'],
      `select day as date, sku, keyword, organic_rank, sponsored_rank, search_volume from rank_day
       where account_id = ${account} order by day, sku, keyword`,
    ),
    of(
      'targets-summary',
      'targets-daily',
      [...spans, ...pathNames, ...figureNames],
      summarySql(account, 'targets-daily', path, above),
    ),
    of(
      'terms-summary',
      'terms-daily',
      [...spans, ...pathNames, 'term', ...figureNames],
      summarySql(
        account,
        'terms-daily',
        `${path}, m.text as term`,
        `${above} join term m on m.account_id = d.account_id and m.term_id = d.term_id`,
      ),
    ),
    of(
      'placements-summary',
      'placements-daily',
      [...spans, 'campaign', 'campaign_id', 'placement', ...figureNames],
      summarySql(
        account,
        'placements-daily',
        'c.name as campaign, c.ext_id as campaign_id, d.placement',
        ofCampaign,
      ),
    ),
  ];
}
