import { acos as acosOf, type Sums } from '../metrics/figures.ts';
import { count, decimal, money, percent } from '../metrics/format.ts';
import { micros, type Micros } from '../metrics/money.ts';

/** Thresholds of one's own, absolute or by what is usual for the row (domain, section 16): they only narrow. */

export const thresholdFigures = ['orders', 'clicks', 'impressions', 'spend', 'sales', 'acos'] as const;
export type ThresholdFigure = (typeof thresholdFigures)[number];

/**
 * What a value is told in: itself, the clicks that an order takes in rows like it, the row's CPC, or its goal.
 */
export const thresholdMeasures = ['plain', 'clicks_per_order', 'cpc', 'goal'] as const;
export type ThresholdMeasure = (typeof thresholdMeasures)[number];

/** Which measures a figure may be told in. */
export const measuresOf: Readonly<Record<ThresholdFigure, readonly ThresholdMeasure[]>> = {
  orders: ['plain'],
  clicks: ['plain', 'clicks_per_order'],
  impressions: ['plain'],
  spend: ['plain', 'cpc'],
  sales: ['plain'],
  acos: ['plain', 'goal'],
};

export interface Threshold {
  figure: ThresholdFigure;
  is: 'at_least' | 'at_most';
  /** In the measure: a number, money in units, a share of 0.3 for 30 %, or a factor. */
  value: number;
  measure: ThresholdMeasure;
}

/** What a threshold is held against: sums of the days looked at, and what is usual. */
export interface Measured {
  sums: Pick<Sums, 'clicks' | 'spend' | 'orders' | 'sales'> & { impressions?: number };
  /** Orders per click of rows like it: an order takes 1 / mu clicks. */
  mu: number;
  /** Micros; null without a click. */
  cpc: Micros | null;
  targetAcos: number;
}

/** What is wrong with a threshold, and what to do; null where nothing is. */
export function thresholdProblem({ figure, measure, value }: Threshold): string | null {
  if (!measuresOf[figure].includes(measure))
    return `${figure === 'acos' ? 'ACOS' : figure} cannot be told in ${measureNames[measure]}.`;
  if (!Number.isFinite(value) || value < 0) return 'A threshold is a number from 0.';
  return null;
}

const measureNames: Readonly<Record<ThresholdMeasure, string>> = {
  plain: 'itself',
  clicks_per_order: 'clicks that an order takes',
  cpc: 'its CPC',
  goal: 'its goal',
};

/**
 * The value in the figure's own unit: clicks, orders, micros or a share; null where what it goes by is not known.
 * @example limitAt({ figure: 'clicks', is: 'at_least', value: 1.5, measure: 'clicks_per_order' }, { sums: { clicks: 9, spend: 0, orders: 0, sales: 0 }, mu: 0.1, cpc: null, targetAcos: 0.3 }) // 15
 */
export function limitAt({ figure, value, measure }: Threshold, row: Measured): number | null {
  switch (measure) {
    case 'plain':
      return figure === 'spend' || figure === 'sales' ? micros(value) : value;
    case 'clicks_per_order':
      return row.mu > 0 ? value / row.mu : null;
    case 'cpc':
      return row.cpc === null ? null : value * row.cpc;
    case 'goal':
      return value * row.targetAcos;
  }
}

/** What it does: a row without sales has spent without end for them. */
const figureAt = (figure: ThresholdFigure, { sums }: Measured): number => {
  if (figure === 'acos') return acosOf(sums) ?? (sums.spend > 0 ? Infinity : 0);
  return figure === 'impressions' ? (sums.impressions ?? Infinity) : sums[figure];
};

/** A figure as it is read. */
function said(figure: ThresholdFigure, value: number): string {
  if (figure === 'acos') return value === Infinity ? 'no sales' : percent(value);
  if (figure === 'spend' || figure === 'sales') return money(value);
  return Number.isInteger(value) ? count(value) : decimal(value);
}

/** "Clicks 9, at least 15 are asked for"; null where a row keeps to a threshold. */
export function missed(threshold: Threshold, row: Measured): string | null {
  const { figure, is } = threshold;
  const [has, limit] = [figureAt(figure, row), limitAt(threshold, row)];
  const name = figure === 'acos' ? 'ACOS' : `${figure.charAt(0).toUpperCase()}${figure.slice(1)}`;
  if (limit === null) return `${name} ${said(figure, has)}: what it is measured by is not known yet`;
  if (is === 'at_least' ? has >= limit : has <= limit) return null;
  return `${name} ${said(figure, has)}, ${is === 'at_least' ? 'at least' : 'at most'} ${said(figure, limit)} ${figure === 'acos' || figure === 'spend' || figure === 'sales' ? 'is' : 'are'} asked for`;
}

/** A threshold in words: "clicks at least 1.5 × the clicks that an order takes". */
export function thresholdSaid({ figure, is, value, measure }: Threshold): string {
  const name = figure === 'acos' ? 'ACOS' : figure;
  const bound = is === 'at_least' ? 'at least' : 'at most';
  if (measure !== 'plain')
    return `${name} ${bound} ${decimal(value)} × ${measure === 'clicks_per_order' ? 'the clicks that an order takes' : measure === 'cpc' ? 'CPC' : 'its goal'}`;
  if (figure === 'acos') return `${name} ${bound} ${percent(value)}`;
  return `${name} ${bound} ${figure === 'spend' || figure === 'sales' ? money(micros(value)) : count(value)}`;
}
