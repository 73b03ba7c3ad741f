import type { Level } from '../account/levels.ts';
import type { Condition } from './conditions.ts';

/** A way to look at a table, saved under a name: level, columns, conditions, sorting. */
export interface SliceBody {
  level: Level;
  columns: string[];
  where: Condition | null;
  sort: string | null;
  descending: boolean;
}

export interface Slice {
  /** Shipped ones have a name for an id, saved ones a number. */
  id: string;
  name: string;
  shipped: boolean;
  body: SliceBody;
}

/** What a table shows before anybody chose: the figures of the job, then what tells rows apart. */
export const usualColumns: Record<Level, string[]> = {
  account: [
    'name',
    'clicks',
    'spend',
    'orders',
    'sales',
    'acos',
    'gain',
    'total_sales',
    'tacos',
    'ad_profit',
  ],
  budget_groups: ['name', 'daily_budget', 'clicks', 'spend', 'orders', 'sales', 'acos', 'gain', 'verdict'],
  products: [
    'name',
    'product',
    'stock',
    'clicks',
    'spend',
    'orders',
    'sales',
    'acos',
    'target_acos',
    'gain',
    'tacos',
  ],
  campaigns: [
    'name',
    'status',
    'daily_budget',
    'clicks',
    'spend',
    'orders',
    'sales',
    'acos',
    'verdict',
    'gain',
  ],
  ad_groups: ['name', 'product', 'clicks', 'spend', 'orders', 'sales', 'acos', 'verdict', 'gain'],
  placements: [
    'name',
    'campaign',
    'modifier',
    'most_of_click',
    'clicks',
    'spend',
    'orders',
    'cvr',
    'cpc',
    'acos',
    'verdict',
  ],
  targets: [
    'name',
    'match_type',
    'ad_group',
    'bid',
    'clicks',
    'spend',
    'orders',
    'acos',
    'verdict',
    'gain',
    'changed_on',
    'bid_history',
  ],
  terms: ['name', 'target', 'ad_group', 'clicks', 'spend', 'orders', 'acos', 'verdict', 'gain', 'served'],
  negatives: ['name', 'match_type', 'campaign', 'ad_group', 'status'],
};

const live: Condition[] = [
  { column: 'status', is: 'equals', value: 'enabled' },
  { column: 'campaign_status', is: 'equals', value: 'enabled' },
];

const shipped = (
  id: string,
  name: string,
  level: Level,
  where: Condition,
  sort: string,
  descending = true,
  more: string[] = [],
): Slice => ({
  id,
  name,
  shipped: true,
  body: { level, columns: [...usualColumns[level], ...more], where, sort, descending },
});

/** Slices that come with Mowing. */
export const shippedSlices: readonly Slice[] = [
  shipped(
    'no-orders',
    'Spends without orders',
    'targets',
    {
      all: [
        { column: 'orders', is: 'equals', value: 0 },
        { column: 'spend', is: 'above', value: 0 },
      ],
    },
    'spend',
  ),
  shipped(
    'over-goal',
    'Biggest money over target',
    'targets',
    { column: 'gain', is: 'below', value: 0 },
    'gain',
    false,
  ),
  shipped('gain', 'Biggest gain', 'targets', { column: 'gain', is: 'above', value: 0 }, 'gain'),
  shipped(
    'quiet',
    'Under target and quiet',
    'targets',
    {
      all: [
        ...live,
        { column: 'verdict', is: 'equals', value: 'over', not: true },
        { column: 'orders', is: 'above', value: 0 },
        { column: 'clicks', is: 'below', value: 30 },
        { column: 'acos', is: 'at_most', value: 1, times: 'target_acos' },
      ],
    },
    'gain',
    true,
    ['impressions'],
  ),
  shipped(
    'harvest',
    'Terms ready to harvest',
    'terms',
    {
      all: [
        { column: 'orders', is: 'at_least', value: 2 },
        { column: 'acos', is: 'at_most', value: 1, times: 'target_acos' },
        { column: 'match_type', is: 'equals', value: 'exact', not: true },
        { column: 'target_kind', is: 'equals', value: 'item', not: true },
        { column: 'served', is: 'empty' },
        { column: 'blocked', is: 'empty' },
      ],
    },
    'gain',
  ),
  shipped(
    'undecided',
    'Undecided but expensive',
    'targets',
    {
      all: [
        { column: 'verdict', is: 'equals', value: 'undecided' },
        { column: 'spend', is: 'above', value: 10, times: 'cpc' },
      ],
    },
    'spend',
  ),
  shipped(
    'always-over',
    'Over target in every window',
    'targets',
    {
      all: [14, 30, 60].map((days) => ({
        column: `acos@d${days}`,
        is: 'above' as const,
        value: 1,
        times: 'target_acos',
      })),
    },
    'gain',
    false,
    ['acos@d14', 'acos@d30', 'acos@d60'],
  ),
  shipped(
    'unchanged',
    'Unchanged for 30 days',
    'targets',
    {
      all: [
        ...live,
        { column: 'days_since_change', is: 'at_least', value: 30 },
        { column: 'spend', is: 'above', value: 0 },
      ],
    },
    'spend',
    true,
    ['days_since_change'],
  ),
  shipped(
    'out-of-stock',
    'Out of stock and spending',
    'products',
    {
      all: [
        { column: 'stock', is: 'equals', value: 0 },
        { column: 'spend', is: 'above', value: 0 },
      ],
    },
    'spend',
  ),
];
