import { changeColumns } from '../../changes/columns.ts';

/** The file kinds the importer knows (formats), with the names that a column goes by elsewhere. */

export type FileKind =
  | 'targets-daily'
  | 'terms-daily'
  | 'placements-daily'
  | 'campaign-hours'
  | 'products-daily'
  | 'ranks-daily'
  | 'products'
  | 'structure'
  | 'goals'
  | 'changes';

/** `percent` is read as it stands (50, 50 %), `share` is kept between 0 and 1 (0.15, 15 %). */
export type ColumnType = 'date' | 'count' | 'money' | 'percent' | 'share' | 'number' | 'text';

export interface Column {
  name: string;
  type: ColumnType;
  required: boolean;
  synonyms: string[];
  /** Nothing in a cell means 0; elsewhere it means that nobody knows. */
  zero: boolean;
}

const column = (name: string, type: ColumnType, synonyms = '', required = false): Column => ({
  name,
  type,
  required,
  synonyms: synonyms === '' ? [] : synonyms.split(', '),
  zero: false,
});
const zero = (one: Column): Column => ({ ...one, zero: true });

const date = column('date', 'date', 'day, report date, datum', true);
const campaign = column('campaign', 'text', 'campaign name, kampagne', true);
const campaignId = column('campaign_id', 'text', 'campaign number, campaign key');
const start = column('start_date', 'date', 'start, from, first day, period start');
const end = column('end_date', 'date', 'end, to, until, last day, period end');
const sku = column('sku', 'text', 'seller sku, article, article number', true);
const figures = [
  column('impressions', 'count', 'impr, views, shown, impressionen', true),
  column('clicks', 'count', 'click, klicks', true),
  column('spend', 'money', 'cost, costs, ad spend, ad cost, kosten, ausgaben', true),
  column('orders', 'count', 'order count, purchases, conversions, bestellungen'),
  column('units', 'count', 'units sold, quantity, items sold'),
  column('sales', 'money', 'revenue, ad sales, ad revenue, turnover, umsatz'),
]
  .map(zero)
  .concat(column('currency', 'text', 'currency code'));
const target = [
  date,
  campaign,
  campaignId,
  column('campaign_kind', 'text', 'campaign type'),
  column('ad_group', 'text', 'ad group name, adgroup, group, anzeigengruppe', true),
  column('ad_group_id', 'text', 'adgroup id, ad group number'),
  column('target', 'text', 'keyword, keyword or target, keyword text, expression, bid on', true),
  column('target_id', 'text', 'keyword id, target number'),
  column('target_kind', 'text', 'target type, kind of target'),
  column('match_type', 'text', 'match, matching, match kind'),
  start,
  end,
];

export const fileKinds: Record<FileKind, Column[]> = {
  'targets-daily': [...target, ...figures],
  'terms-daily': [
    ...target,
    column('term', 'text', 'search term, search query, query, shopper query, search, suchbegriff', true),
    ...figures,
  ],
  'placements-daily': [
    date,
    campaign,
    campaignId,
    column('placement', 'text', 'ad placement, position', true),
    ...figures,
    column('bidding_strategy', 'text', 'strategy'),
    start,
    end,
  ],
  'campaign-hours': [
    date,
    column('hour', 'count', 'hour of day, stunde', true),
    campaign,
    campaignId,
    ...figures,
    column('minutes_in_budget', 'count', 'minutes within budget'),
  ],
  'products-daily': [
    date,
    sku,
    column('item_code', 'text', 'item'),
    zero(column('sessions', 'count', 'visits')),
    zero(column('total_orders', 'count', 'orders')),
    zero(column('total_units', 'count', 'units')),
    zero(column('total_sales', 'money', 'sales, revenue', true)),
  ],
  'ranks-daily': [
    date,
    sku,
    column('keyword', 'text', 'search term, term, phrase', true),
    column('organic_rank', 'count', 'organic position, rank, position'),
    column('sponsored_rank', 'count', 'sponsored position, ad rank, ad position'),
    column('search_volume', 'count', 'volume, searches, monthly searches'),
  ],
  products: [
    sku,
    column('item_code', 'text', 'item', true),
    column('title', 'text', 'name, product, product name, product title', true),
    column('brand', 'text', 'make'),
    column('category', 'text', 'product category'),
    column('price', 'money', 'sale price, list price', true),
    column('unit_cost', 'money', 'cost, cost of goods, landed cost, purchase price'),
    column('fee_rate', 'share', 'commission, referral rate'),
    column('fee_fixed', 'money', 'fixed fee'),
    column('shipping', 'money', 'shipping cost, delivery, fulfilment'),
    column('refund_rate', 'share', 'refunds, return rate, returns'),
    column('rating', 'number', 'stars, review rating'),
    column('stock', 'count', 'quantity, inventory, units in stock'),
  ],
  structure: [
    column('entity', 'text', 'object, record, record type', true),
    column('budget_group_id', 'text'),
    column('budget_group', 'text'),
    { ...campaign, required: false },
    campaignId,
    column('ad_group', 'text', 'ad group name, adgroup'),
    column('ad_group_id', 'text', 'adgroup id'),
    column('target_id', 'text', 'keyword id'),
    column('negative_id', 'text'),
    column('status', 'text', 'state'),
    column('kind', 'text', 'campaign kind, campaign type'),
    column('daily_budget', 'money', 'budget'),
    column('strategy', 'text', 'bidding strategy'),
    column('start_date', 'date', 'start'),
    column('end_date', 'date', 'end'),
    column('placement', 'text'),
    column('modifier', 'percent', 'placement modifier, adjustment'),
    column('default_bid', 'money'),
    column('sku', 'text'),
    column('target_kind', 'text', 'target type'),
    column('match_type', 'text', 'match'),
    column('expression', 'text', 'keyword, target, keyword text'),
    column('bid', 'money', 'max bid, keyword bid'),
    column('scope', 'text', 'level'),
  ],
  goals: [
    column('scope', 'text', 'goal of, level', true),
    column('id', 'text', 'object id, sku, campaign id'),
    column('name', 'text', 'object, campaign, product, title'),
    column('target_acos', 'share', 'goal, acos goal, acos target'),
    column('target_margin', 'share', 'margin goal, margin after ads'),
    column('bid_floor', 'money', 'floor, lowest bid'),
    column('bid_ceiling', 'money', 'ceiling, highest bid'),
  ],
  changes: changeColumns.map((name) =>
    column(name, 'text', '', ['action', 'entity', 'field'].includes(name)),
  ),
};

/** Every kind, in the order in which they are offered. */
export const fileKindNames = Object.keys(fileKinds) as FileKind[];

/** Kinds whose rows may tell a whole span of days instead of one. */
const summarised: readonly FileKind[] = ['targets-daily', 'terms-daily', 'placements-daily'];

/** Whether a file tells spans of days: it has a first and a last day, and no day. */
export const isSummary = (kind: FileKind, mapping: Mapping): boolean =>
  summarised.includes(kind) && mapping.date == null && mapping.start_date != null && mapping.end_date != null;

/** Case, punctuation and units in brackets do not matter in a header. */
export const foldHeader = (header: string): string =>
  header
    .normalize('NFKC')
    .toLowerCase()
    .replace(/\(.*?\)|\[.*?\]/g, ' ')
    .replace(/[^\p{L}\p{N}]+/gu, ' ')
    .trim();

/** Column name to the place of the header that feeds it; null: not in the file. */
export type Mapping = Record<string, number | null>;

/** Maps the headers of a file to the columns of a kind, each header used once. */
export function mapHeaders(kind: FileKind, headers: readonly string[]): Mapping {
  const folded = headers.map(foldHeader);
  const taken = new Set<number>();
  const mapping: Mapping = {};
  const claim = (names: string[]): number | null => {
    const at = folded.findIndex((header, i) => !taken.has(i) && names.includes(header));
    if (at >= 0) taken.add(at);
    return at >= 0 ? at : null;
  };
  // Own names first, so that a synonym never takes the header of another column.
  for (const { name } of fileKinds[kind]) mapping[name] = claim([foldHeader(name)]);
  for (const { name, synonyms } of fileKinds[kind]) mapping[name] ??= claim(synonyms);
  return mapping;
}

export const missingColumns = (kind: FileKind, mapping: Mapping): string[] =>
  fileKinds[kind]
    .filter(({ name, required }) => required && mapping[name] == null)
    .filter(({ name }) => name !== 'date' || !isSummary(kind, mapping))
    .map(({ name }) => name);

/** The kind whose columns the headers fit best, or null when none has its required columns. */
export function recogniseKind(headers: readonly string[]): FileKind | null {
  let best: { kind: FileKind; score: number } | null = null;
  for (const kind of fileKindNames) {
    const mapping = mapHeaders(kind, headers);
    if (missingColumns(kind, mapping).length > 0) continue;
    const score = Object.values(mapping).filter((place) => place !== null).length;
    if (!best || score > best.score) best = { kind, score };
  }
  return best?.kind ?? null;
}
