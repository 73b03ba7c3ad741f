import cdf from '@stdlib/stats-base-dists-normal-cdf';
import { eighty } from '../effect/forecast.ts';
import type { Day } from '../metrics/days.ts';
import { noSums, total, type Sums } from '../metrics/figures.ts';
import type { Micros } from '../metrics/money.ts';

/**
 * Bidding strategies against each other: what a unit spent sells under one and under another, among campaigns that aim
 * alike, each held against its own product. Nobody drew lots which campaign has which: it is a hint with an interval.
 */

/** What a campaign aims with, mostly. */
export type Aim = 'automatic' | 'exact' | 'wide' | 'items';

export interface StrategyCampaign {
  campaignId: string;
  sku: string | null;
  aim: Aim;
  strategy: string;
  spend: Micros;
  sales: Micros;
  orders: number;
  /** Its strategy was changed within the window or since: figures are of the days after, and it is left as it is. */
  isNew?: boolean;
}

/** What a campaign had in each placement since its strategy was changed; nothing in those that are left out. */
export interface SinceStrategy {
  day: Day;
  sums: Readonly<Record<string, Sums>>;
}

interface ByPlacement {
  placements: readonly { placement: string; sums: Sums }[];
  /** Null where its strategy is older than the window. */
  sinceStrategy: SinceStrategy | null;
}

/** What a campaign had under the strategy that it has. */
export const underItsStrategy = <Row extends ByPlacement>(row: Row): Row => {
  const { placements, sinceStrategy } = row;
  return sinceStrategy === null
    ? row
    : {
        ...row,
        placements: placements.map((one) => ({ ...one, sums: sinceStrategy.sums[one.placement] ?? noSums })),
      };
};

/** Campaigns by placement as their strategies are compared. */
export const strategyCampaigns = (
  rows: readonly (Pick<StrategyCampaign, 'campaignId' | 'sku' | 'aim' | 'strategy'> &
    ByPlacement & { name: string })[],
): (StrategyCampaign & { name: string })[] =>
  rows.map((row) => {
    const { campaignId, name, sku, aim, strategy, sinceStrategy } = row;
    const { spend, sales, orders } = total(underItsStrategy(row).placements.map(({ sums }) => sums));
    return { campaignId, name, sku, aim, strategy, spend, sales, orders, isNew: sinceStrategy !== null };
  });

/** With the ends of its 80 % interval. */
interface Ratio {
  ratio: number;
  low: number;
  high: number;
}

/** `ratio`: sales of a unit spent under the first over those under the second, as they stand beside each other. */
export interface StrategyPair extends Ratio {
  strategy: string;
  against: string;
  /** The same of campaigns under the second, once they have the first too. */
  switched: Ratio;
  /** That the first sells more. */
  chance: number;
  /** Campaigns with enough orders under each. */
  campaigns: number;
  others: number;
}

/** Fewer orders tell too little of a campaign. */
const leastOrders = 5;
/** Variance of the log of sales for an order: chance of counts, and of baskets. */
const orderScatter = 1.5;
/** Of fewer campaigns under each nobody knows how far they lie apart by themselves: nothing is proposed. */
export const fewestCampaigns = 6;
/**
 * How much of a difference stays once those under the other strategy switch, as a part of its logarithm: campaigns of one
 * account bid for the same shoppers, and who bids by likelihood takes the better ones from siblings that do not. At six
 * Quaysides 0.63 of it stayed; of a single pair give or take 0.25 (decision 030).
 */
const stays = { share: 0.65, spread: 0.25 };
/** A strategy is said to be better from this chance on. */
export const surelyBetter = 0.95;

interface Point {
  cell: string;
  aim: Aim;
  strategy: string;
  /** Log of sales a unit spent, over its product's. */
  y: number;
  variance: number;
}

const sum = (values: readonly number[]): number => values.reduce((all, value) => all + value, 0);

function pointsOf(campaigns: readonly StrategyCampaign[]): Point[] {
  const able = campaigns.filter(
    ({ orders, spend, sales }) => orders >= leastOrders && spend > 0 && sales > 0,
  );
  const products = new Map<string, { spend: number; sales: number }>();
  for (const { sku, spend, sales } of campaigns) {
    const all = products.get(sku ?? '') ?? { spend: 0, sales: 0 };
    products.set(sku ?? '', { spend: all.spend + spend, sales: all.sales + sales });
  }
  return able.map(({ sku, aim, strategy, spend, sales, orders }) => {
    const all = products.get(sku ?? '')!;
    return {
      cell: `${aim} ${strategy}`,
      aim,
      strategy,
      y: Math.log(sales / spend) - Math.log(all.sales / all.spend),
      variance: orderScatter / orders,
    };
  });
}

/** How far campaigns of one strategy that aim alike lie apart beyond chance, as a variance (DerSimonian and Laird 1986). */
function scatterOf(points: readonly Point[]): number {
  let [excess, scale] = [0, 0];
  for (const cell of new Set(points.map((one) => one.cell))) {
    const own = points.filter((one) => one.cell === cell);
    if (own.length < 2) continue;
    const weights = own.map(({ variance }) => 1 / variance);
    const all = sum(weights);
    const mean = sum(own.map(({ y }, at) => y * weights[at]!)) / all;
    excess += sum(own.map(({ y }, at) => weights[at]! * (y - mean) ** 2)) - (own.length - 1);
    scale += all - sum(weights.map((weight) => weight ** 2)) / all;
  }
  return scale > 0 ? Math.max(0, excess / scale) : 0;
}

/** Mean of some points by what is known of each, and its variance. */
function meanOf(points: readonly Point[], scatter: number): { y: number; variance: number } {
  const weights = points.map(({ variance }) => 1 / (variance + scatter));
  const all = sum(weights);
  return { y: sum(points.map(({ y }, at) => y * weights[at]!)) / all, variance: 1 / all };
}

const ratioOf = (log: number, spread: number): Ratio => ({
  ratio: Math.exp(log),
  low: Math.exp(log - eighty * spread),
  high: Math.exp(log + eighty * spread),
});

/** Every strategy against every other, where campaigns that aim alike have both; the surest first. */
export function compareStrategies(campaigns: readonly StrategyCampaign[]): StrategyPair[] {
  const points = pointsOf(campaigns);
  const scatter = scatterOf(points);
  const strategies = [...new Set(points.map(({ strategy }) => strategy))].sort();
  const aims = [...new Set(points.map(({ aim }) => aim))];
  return strategies
    .flatMap((one, at) => strategies.slice(at + 1).map((other) => [one, other] as const))
    .flatMap(([one, other]): StrategyPair[] => {
      let [weighed, weight, campaignCount, otherCount] = [0, 0, 0, 0];
      for (const aim of aims) {
        const [a, b] = [one, other].map((strategy) =>
          points.filter((point) => point.aim === aim && point.strategy === strategy),
        ) as [Point[], Point[]];
        if (a.length === 0 || b.length === 0) continue;
        const [mine, theirs] = [meanOf(a, scatter), meanOf(b, scatter)];
        const precision = 1 / (mine.variance + theirs.variance);
        weighed += precision * (mine.y - theirs.y);
        weight += precision;
        campaignCount += a.length;
        otherCount += b.length;
      }
      // One campaign of each says how these two differ, not how strategies do.
      if (weight === 0 || campaignCount + otherCount < 4) return [];
      const [difference, spread] = [weighed / weight, 1 / Math.sqrt(weight)];
      const sign = difference < 0 ? -1 : 1;
      const log = sign * difference;
      return [
        {
          strategy: sign > 0 ? one : other,
          against: sign > 0 ? other : one,
          ...ratioOf(log, spread),
          switched: ratioOf(stays.share * log, Math.hypot(stays.share * spread, stays.spread * log)),
          chance: cdf(log / spread, 0, 1),
          campaigns: sign > 0 ? campaignCount : otherCount,
          others: sign > 0 ? otherCount : campaignCount,
        },
      ];
    })
    .sort((a, b) => b.chance - a.chance);
}

export interface ServedBetter<Row extends StrategyCampaign> {
  pair: StrategyPair;
  campaigns: Row[];
  /** What they would sell a week more for the same money, micros; as much of the ratio believed as its interval bears. */
  sales: Micros;
}

/**
 * Campaigns that another strategy would surely serve better, each once, by the surest comparison; only those that aim as
 * campaigns under both do. `days`: of the window that sums are of.
 */
export function servedBetter<Row extends StrategyCampaign>(
  campaigns: readonly Row[],
  pairs: readonly StrategyPair[],
  days = 30,
): ServedBetter<Row>[] {
  const taken = new Set<string>();
  return pairs
    .filter(
      ({ chance, campaigns: mine, others }) =>
        chance >= surelyBetter && Math.min(mine, others) >= fewestCampaigns,
    )
    .flatMap((pair): ServedBetter<Row>[] => {
      const aims = (strategy: string) =>
        new Set(
          campaigns
            .filter((one) => one.strategy === strategy && one.orders >= leastOrders)
            .map(({ aim }) => aim),
        );
      const [mine, theirs] = [aims(pair.strategy), aims(pair.against)];
      const own = campaigns.filter(
        (one) =>
          one.strategy === pair.against &&
          !one.isNew &&
          one.spend > 0 &&
          mine.has(one.aim) &&
          theirs.has(one.aim) &&
          !taken.has(one.campaignId),
      );
      for (const { campaignId } of own) taken.add(campaignId);
      if (own.length === 0) return [];
      // The log of the ratio drawn to nothing by what is not known of it.
      const { ratio, high } = pair.switched;
      const [log, spread] = [Math.log(ratio), Math.log(high / ratio) / eighty];
      const believed = Math.exp(log * (log ** 2 / (log ** 2 + spread ** 2)));
      const sales = (sum(own.map((one) => one.sales)) * (believed - 1) * 7) / days;
      return [{ pair, campaigns: own, sales }];
    });
}
