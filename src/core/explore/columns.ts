import { fields, statuses } from '../changes/fields.ts';
import { levels, type Level } from '../account/levels.ts';
import type { Window } from '../metrics/days.ts';
import { windowBefore, windowEnding } from '../metrics/days.ts';

/** How a value is read and written: counts, micros, shares 0-1, plain numbers, days, words. */
export type ColumnKind = 'text' | 'count' | 'money' | 'share' | 'number' | 'day' | 'days';

export interface Column {
  name: string;
  label: string;
  kind: ColumnKind;
  /** Figures have a value for every window; the others are what an object is now. */
  figure: boolean;
  /** Words that a text column can hold, when they are few. */
  choices?: readonly string[];
  /** Shown and exported, but neither sorted nor tested by: it is read for the rows in view only. */
  shownOnly?: boolean;
  /** Levels that have it; all when left out. */
  levels?: readonly Level[];
}

const belowCampaign: Level[] = ['campaigns', 'ad_groups', 'placements', 'targets', 'terms', 'negatives'];
const belowAdGroup: Level[] = ['ad_groups', 'targets', 'terms', 'negatives'];
const belowTarget: Level[] = ['targets', 'terms'];
const withFigures = levels.filter((level) => level !== 'negatives');

const figure = (
  name: string,
  label: string,
  kind: ColumnKind,
  only: readonly Level[] = withFigures,
): Column => ({
  name,
  label,
  kind,
  figure: true,
  levels: only,
});
const about = (
  name: string,
  label: string,
  kind: ColumnKind,
  only?: readonly Level[],
  choices?: readonly string[],
): Column => ({
  name,
  label,
  kind,
  figure: false,
  ...(only ? { levels: only } : {}),
  ...(choices ? { choices } : {}),
});

/** Every column there is. Names of figures those of the domain, section 3. */
export const columns: readonly Column[] = [
  about('name', 'Name', 'text'),
  figure('impressions', 'Impressions', 'count'),
  figure('clicks', 'Clicks', 'count'),
  figure('spend', 'Spend', 'money'),
  figure('orders', 'Orders', 'count'),
  figure('units', 'Units', 'count'),
  figure('sales', 'Sales', 'money'),
  figure('acos', 'ACOS', 'share'),
  figure('roas', 'ROAS', 'number'),
  figure('ctr', 'CTR', 'share'),
  figure('cpc', 'CPC', 'money'),
  figure('cvr', 'CVR', 'share'),
  figure('rpc', 'RPC', 'money'),
  figure('aov', 'AOV', 'money'),
  figure('cpa', 'CPA', 'money'),
  figure('gain', 'Gain against goal', 'money'),
  figure('ad_profit', 'Ad profit', 'money'),
  figure('total_sales', 'Total sales', 'money', ['account', 'products']),
  figure('tacos', 'TACOS', 'share', ['account', 'products']),
  about('target_acos', 'Goal', 'share', withFigures),
  about('verdict', 'Verdict', 'text', withFigures, ['under', 'undecided', 'over']),
  about('over', 'Chance over goal', 'share', withFigures),
  about('clicks_per_order', 'Clicks an order takes', 'number', withFigures),
  ...fieldColumns(),
  about('most_of_click', 'Most of a click', 'money', ['placements', 'targets']),
  about('changed_on', 'Last change', 'day', belowTarget),
  about('last_change', 'Changed by', 'share', belowTarget),
  { ...about('bid_history', 'Bid history', 'text', belowTarget), shownOnly: true },
  about('days_since_change', 'Days since change', 'days', belowTarget),
  about('first_seen', 'First seen', 'day', belowTarget),
  about('last_seen', 'Last seen', 'day', belowTarget),
  about('campaign', 'Campaign', 'text', belowCampaign),
  about('campaign_status', 'Campaign status', 'text', belowCampaign, statuses),
  about('campaign_kind', 'Campaign kind', 'text', belowCampaign, ['automatic', 'manual']),
  about('budget_group', 'Budget group', 'text', ['budget_groups', ...belowCampaign]),
  about('ad_group', 'Ad group', 'text', belowAdGroup),
  about('ad_group_status', 'Ad group status', 'text', belowAdGroup, statuses),
  about('product', 'Product', 'text', ['products', ...belowCampaign]),
  about('stock', 'Stock', 'count', ['products', ...belowCampaign]),
  about('placement', 'Placement', 'text', ['placements']),
  about('target', 'Target', 'text', belowTarget),
  about('target_kind', 'Target kind', 'text', belowTarget, ['keyword', 'item', 'category', 'automatic']),
  about('match_type', 'Match type', 'text', [...belowTarget, 'negatives']),
  about('served', 'Served by', 'text', ['terms']),
  about('blocked', 'Blocked by', 'text', ['terms']),
];

/** Fields that can be changed, each once, at all levels that show it. */
function fieldColumns(): Column[] {
  const kinds = {
    money: 'money',
    percent: 'number',
    day: 'day',
    status: 'text',
    choice: 'text',
    text: 'text',
    schedule: 'text',
    rule: 'text',
  } as const;
  const names = [...new Set(['status', ...fields.map(({ name }) => name)])];
  return names.map((name) => {
    const own = fields.filter((field) => field.name === name);
    const { label, kind, choices: words } = own[0]!;
    const shown = new Set(own.flatMap(({ level, shownAt }) => [level, ...shownAt]));
    const choices = kind === 'status' ? statuses : words;
    return about(name, label, kinds[kind], [...shown], choices);
  });
}

const byName = new Map(columns.map((column) => [column.name, column]));

export const columnsOf = (level: Level): Column[] =>
  columns.filter((column) => !column.levels || column.levels.includes(level));

/**
 * A column over a window: `acos` is the window's, `acos@before` the comparison's, `acos@d14` of the 14 days that end
 * with the window, `acos@diff` window less comparison, `acos@change` that as a share of the comparison.
 */
export interface ColumnRef {
  column: Column;
  frame: string;
}

/** Null for what is no column of this level. */
export function readColumn(ref: string, level: Level): ColumnRef | null {
  const [name = '', frame = ''] = ref.split('@');
  const column = byName.get(name);
  if (!column || (column.levels && !column.levels.includes(level))) return null;
  if (frame === '') return { column, frame };
  const known =
    frame === 'before' || frame === 'diff' || frame === 'change' || /^d([1-9]\d{0,2})$/.test(frame);
  return column.figure && known ? { column, frame } : null;
}

const frameLabels: Record<string, string> = { before: 'before', diff: 'difference', change: 'change' };

export const columnLabel = ({ column, frame }: ColumnRef): string =>
  frame === '' ? column.label : `${column.label}, ${frameLabels[frame] ?? `${frame.slice(1)} days`}`;

/** The windows that figures are asked for. */
export interface Windows {
  window: Window;
  /** What it is compared with; by default the same number of days just before. */
  comparison: Window;
}

/** The window that a frame means; `diff` and `change` rest on two and have none of their own. */
export function windowOfFrame(frame: string, { window, comparison }: Windows): Window {
  if (frame === 'before') return comparison;
  return frame.startsWith('d') && frame !== 'diff' ? windowEnding(window.to, Number(frame.slice(1))) : window;
}

export const withComparison = (window: Window, comparison?: Window | null): Windows => ({
  window,
  comparison: comparison ?? windowBefore(window),
});
