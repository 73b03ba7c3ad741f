/** The file kinds the importer knows (formats), with the names that a column goes by elsewhere. */

export type FileKind = 'targets-daily' | 'terms-daily' | 'structure' | 'placements-daily' | 'products-daily';
export type ColumnType = 'date' | 'count' | 'money' | 'share' | 'text';

export interface Column {
  name: string;
  type: ColumnType;
  required: boolean;
  synonyms: string[];
}

const column = (name: string, type: ColumnType, synonyms = '', required = false): Column => ({
  name,
  type,
  required,
  synonyms: synonyms === '' ? [] : synonyms.split(', '),
});

const date = column('date', 'date', 'day, report date, datum', true);
const campaign = column('campaign', 'text', 'campaign name, kampagne', true);
const campaignId = column('campaign_id', 'text', 'campaign number, campaign key');
const figures = [
  column('impressions', 'count', 'impr, views, shown, impressionen', true),
  column('clicks', 'count', 'click, klicks', true),
  column('spend', 'money', 'cost, costs, ad spend, ad cost, kosten, ausgaben', true),
  column('orders', 'count', 'order count, purchases, conversions, bestellungen'),
  column('units', 'count', 'units sold, quantity, items sold'),
  column('sales', 'money', 'revenue, ad sales, ad revenue, turnover, umsatz'),
  column('currency', 'text', 'currency code'),
];
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
  ],
  'products-daily': [
    date,
    column('sku', 'text', 'seller sku, article', true),
    column('item_code', 'text', 'item'),
    column('sessions', 'count', 'visits'),
    column('total_orders', 'count', 'orders'),
    column('total_units', 'count', 'units'),
    column('total_sales', 'money', 'sales, revenue', true),
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
    column('modifier', 'share', 'placement modifier, adjustment'),
    column('default_bid', 'money'),
    column('sku', 'text'),
    column('target_kind', 'text', 'target type'),
    column('match_type', 'text', 'match'),
    column('expression', 'text', 'keyword, target, keyword text'),
    column('bid', 'money', 'max bid, keyword bid'),
    column('scope', 'text', 'level'),
  ],
};

/** Kinds that people may load from a file. The others come from the marketplace through the same importer. */
export const loadableKinds: FileKind[] = ['terms-daily', 'targets-daily', 'structure'];

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
  fileKinds[kind].filter(({ name, required }) => required && mapping[name] == null).map(({ name }) => name);

/** The kind whose columns the headers fit best, or null when none has its required columns. */
export function recogniseKind(headers: readonly string[]): FileKind | null {
  let best: { kind: FileKind; score: number } | null = null;
  for (const kind of loadableKinds) {
    const mapping = mapHeaders(kind, headers);
    if (missingColumns(kind, mapping).length > 0) continue;
    const score = Object.values(mapping).filter((place) => place !== null).length;
    if (!best || score > best.score) best = { kind, score };
  }
  return best?.kind ?? null;
}
