import type { Mixes } from './mix.ts';
import type { Day } from '../metrics/days.ts';
import type { Micros } from '../metrics/money.ts';
import type { Sums } from '../metrics/figures.ts';
import type { TermPlaces } from './term-places.ts';

/** The account's objects with pointers by place in their list, and sums as columns: made to be read a million times. */

/** Values of fields that nothing but their entry in `changes/fields.ts` reads, by the column that keeps them. */
export type FieldValues = Readonly<Record<string, string | number | null | undefined>>;

export interface CampaignObject {
  id: string;
  name: string;
  kind: string;
  status: string;
  fields: FieldValues;
  strategy: string | null;
  budgetGroup: string | null;
  endDate: Day | null;
}

export interface AdGroupObject {
  id: string;
  campaign: number;
  name: string;
  status: string;
  /** Its first advertised product; null without one. */
  sku: string | null;
  fields: FieldValues;
}

export interface TargetObject {
  id: string;
  adGroup: number;
  kind: string;
  matchType: string | null;
  expression: string;
  bid: Micros | null;
  status: string;
  changedOn: Day | null;
  /** The bid before the last change. */
  bidBefore: Micros | null;
  firstSeen: Day | null;
  lastSeen: Day | null;
}

export interface ProductObject {
  sku: string;
  title: string;
  price: Micros;
  margin: number | null;
  stock: number | null;
}

export interface PlacementObject {
  campaign: number;
  placement: string;
  modifier: number | null;
}

export type NegativeType = 'negative_exact' | 'negative_phrase' | 'negative_item';

export interface NegativeObject {
  id: string;
  campaign: number;
  adGroup: number | null;
  matchType: NegativeType;
  expression: string;
  status: string;
}

export interface BudgetGroupObject {
  id: string;
  name: string;
  dailyBudget: Micros | null;
}

/** Which term was caught by which target, ever: the rows of the term level. */
export interface Pairs {
  target: Int32Array;
  /** Where its text and its id stand. */
  term: Int32Array;
  texts: string[];
  termIds: ArrayLike<number>;
  /** The same as terms of ad groups. */
  places: TermPlaces;
  firstSeen: Day[];
  lastSeen: Day[];
}

export interface Objects {
  budgetGroups: BudgetGroupObject[];
  products: ProductObject[];
  campaigns: CampaignObject[];
  adGroups: AdGroupObject[];
  /** What ad groups of several products really sell, by their id. */
  mixes?: Mixes;
  targets: TargetObject[];
  placements: PlacementObject[];
  negatives: NegativeObject[];
}

export const sumNames = ['impressions', 'clicks', 'spend', 'orders', 'units', 'sales'] as const;

/** Sums of many rows, a column each. */
export class SumsColumns {
  readonly impressions: Float64Array;
  readonly clicks: Float64Array;
  readonly spend: Float64Array;
  readonly orders: Float64Array;
  readonly units: Float64Array;
  readonly sales: Float64Array;

  constructor(readonly count: number) {
    this.impressions = new Float64Array(count);
    this.clicks = new Float64Array(count);
    this.spend = new Float64Array(count);
    this.orders = new Float64Array(count);
    this.units = new Float64Array(count);
    this.sales = new Float64Array(count);
  }

  /** The sums of one row, put into `into`: hot loops make no object per row. */
  read(row: number, into: Sums): Sums {
    into.impressions = this.impressions[row]!;
    into.clicks = this.clicks[row]!;
    into.spend = this.spend[row]!;
    into.orders = this.orders[row]!;
    into.units = this.units[row]!;
    into.sales = this.sales[row]!;
    return into;
  }

  /** Adds figures, in the order impressions, clicks, spend, orders, units, sales, to one row. */
  addTo(row: number, figures: readonly number[]): void {
    sumNames.forEach((name, i) => (this[name][row]! += figures[i]!));
  }

  /** Adds rows up into groups: `group[row]` is the place here, -1 for none. */
  addGrouped(rows: SumsRows, group: Int32Array): this {
    for (const name of sumNames) {
      const [into, from] = [this[name], rows[name]];
      for (let row = 0; row < group.length; row++) {
        const at = group[row]!;
        if (at >= 0) into[at]! += from[row]!;
      }
    }
    return this;
  }
}

/** Rows of sums, a column each, in whatever arrays they came. */
export type SumsRows = Record<keyof Sums, ArrayLike<number>>;

export const emptySums = (): Sums => ({ impressions: 0, clicks: 0, spend: 0, orders: 0, units: 0, sales: 0 });

/** What is counted over one window: of targets, of terms (as `Pairs`), of placements; total sales by product. */
export interface FrameSums {
  targets: SumsColumns;
  /** Of each target the highest spend per click of a day, 0 without a click. */
  highestCpc: Float64Array;
  pairs: SumsColumns | null;
  /** Of each term of a target the same; null where terms were not read. */
  pairsHighestCpc: Float64Array | null;
  placements: SumsColumns | null;
  totalSales: Float64Array | null;
}

/** What targets do at their present bids, a column each; see `PresentSums` of the round. */
export interface PresentColumns {
  days: Float64Array;
  clicks: Float64Array;
  spend: Float64Array;
  priced: Float64Array;
}

/** What targets did since their bid was changed, where that was lately; settling clicks weighted in `n`. */
export interface FreshColumns {
  n: Float64Array;
  clicks: Float64Array;
  orders: Float64Array;
  spend: Float64Array;
}

/** Evidence of targets, terms or placements: weighted clicks and orders, and what was seen over the season. */
export interface EvidenceColumns {
  n: Float64Array;
  y: Float64Array;
  seen: SumsColumns;
}
