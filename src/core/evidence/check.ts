import gammaln from '@stdlib/math-base-special-gammaln';
import type { Gamma } from './gamma.ts';

/** The model grades itself out of sample: what was believed before, against the orders of the days after (domain, section 5). */

/** One row's belief as of a day, and what it then did. */
export interface HeldOut {
  gamma: Gamma;
  /** Clicks and orders of the days after, clicks x maturity. */
  clicks: number;
  orders: number;
}

/** The belief with `drift` more relative variance; the mean stays. */
export const widened = ({ shape, rate }: Gamma, drift: number): Gamma => {
  const wider = 1 + drift * shape;
  return { shape: shape / wider, rate: rate / wider };
};

/** ln P(orders | clicks) by the Gamma-Poisson predictive (negative binomial). */
export function lnPredictive({ shape, rate }: Gamma, clicks: number, orders: number): number {
  return (
    gammaln(shape + orders) -
    gammaln(shape) -
    gammaln(orders + 1) +
    shape * Math.log(rate / (rate + clicks)) +
    orders * Math.log(clicks / (rate + clicks))
  );
}

/** Mean ln score per row with clicks: higher is better. Null without rows. */
export function logScore(rows: readonly HeldOut[], drift = 0): number | null {
  let sum = 0;
  let count = 0;
  for (const { gamma, clicks, orders } of rows) {
    if (clicks <= 0) continue;
    sum += lnPredictive(widened(gamma, drift), clicks, orders);
    count++;
  }
  return count > 0 ? sum / count : null;
}

/** Relative variances that are tried for drift: standard deviations of 0 to 50 %. */
const drifts = [0, 0.04, 0.06, 0.08, 0.1, 0.13, 0.16, 0.2, 0.25, 0.3, 0.4, 0.5].map((share) => share ** 2);

/** Fewer orders in the days held out, and nothing is learned of drift. */
const leastOrders = 100;

/** How far rows drift from their past: the relative variance under which the held-out days score best. */
export function learnDrift(rows: readonly HeldOut[]): number {
  if (rows.reduce((sum, { orders }) => sum + orders, 0) < leastOrders) return 0;
  let best = 0;
  let most = -Infinity;
  for (const drift of drifts) {
    const score = logScore(rows, drift)!;
    if (score > most + 1e-9) [best, most] = [drift, score];
  }
  return best;
}

/**
 * Share of rows whose orders lie in the middle 80 % of their predictive. Counts are whole: where an end of the
 * interval falls into the chance of one count, that count is in by the part that lies within (randomised probability
 * integral transform, Czado, Gneiting and Held 2009).
 */
export function predictiveCoverage(rows: readonly HeldOut[], drift = 0): number | null {
  let inside = 0;
  let count = 0;
  for (const { gamma, clicks, orders } of rows) {
    if (clicks <= 0) continue;
    const wide = widened(gamma, drift);
    let below = 0;
    for (let k = 0; k < orders; k++) below += Math.exp(lnPredictive(wide, clicks, k));
    const at = Math.exp(lnPredictive(wide, clicks, orders));
    inside +=
      at > 0
        ? Math.max(0, Math.min(0.9, below + at) - Math.max(0.1, below)) / at
        : below > 0.1 && below < 0.9
          ? 1
          : 0;
    count++;
  }
  return count > 0 ? inside / count : null;
}

/** Brier score of chances against what came of them: mean squared distance, 0 is perfect. Null without any. */
export function brier(rows: readonly { chance: number; came: boolean }[]): number | null {
  if (rows.length === 0) return null;
  return rows.reduce((sum, { chance, came }) => sum + (chance - (came ? 1 : 0)) ** 2, 0) / rows.length;
}

/** One row as it is checked: also what it sold and cost in the days after, and its goal. Money in micros. */
export interface CheckedRow extends HeldOut {
  value: number;
  spend: number;
  targetAcos: number;
}

/** How the model did out of sample. */
export interface Check {
  /** Rows with clicks in the days held out. */
  rows: number;
  orders: number;
  expected: number;
  /** Mean ln score per row, with what was learned of drift, and of a model in which rows are all like their mean. */
  logScore: number;
  plainScore: number;
  /** Share of rows within the 80 % interval of their predictive. */
  coverage: number;
  /** Brier score of "over its target in the days held out", of rows with 20 clicks and more; null without any. */
  brier: number | null;
  /** (orders + 50) / (expected + 50). */
  kappa: number;
  /** Kappa lies beyond two standard errors from 1: forecasts are multiplied by it. */
  kappaCounts: boolean;
}

const fewForVerdict = 20;

/** Grades the model: beliefs as of a day against the days after. Null where nothing was clicked since. */
export function checkModel(rows: readonly CheckedRow[], drift: number): Check | null {
  const seen = rows.filter(({ clicks }) => clicks > 0);
  if (seen.length === 0) return null;
  let [orders, expected, clicks, surplus] = [0, 0, 0, 0];
  for (const row of seen) {
    const mean = (row.gamma.shape / row.gamma.rate) * row.clicks;
    orders += row.orders;
    expected += mean;
    clicks += row.clicks;
    // Variance of the row's expectation, beside the chance of its counts.
    surplus += mean ** 2 / widened(row.gamma, drift).shape;
  }
  // Everybody at the same rate, as sure as can be.
  const rate = Math.max(orders, 0.5) / clicks;
  const plain = seen.map((row) => ({ ...row, gamma: { shape: rate * 1e6, rate: 1e6 } }));
  const kappa = (orders + 50) / (expected + 50);
  const error = Math.sqrt(expected + surplus) / (expected + 50);
  return {
    rows: seen.length,
    orders,
    expected,
    logScore: logScore(seen, drift)!,
    plainScore: logScore(plain)!,
    coverage: predictiveCoverage(seen, drift)!,
    brier: brier(verdicts(seen, drift)),
    kappa,
    kappaCounts: Math.abs(kappa - 1) > 2 * error,
  };
}

/** The chance that a row comes out over its target, and whether it did. */
function verdicts(rows: readonly CheckedRow[], drift: number): { chance: number; came: boolean }[] {
  return rows
    .filter(({ clicks, spend, value }) => clicks >= fewForVerdict && spend > 0 && value > 0)
    .map(({ gamma, clicks, orders, value, spend, targetAcos }) => {
      // Over: orders x value x target < spend.
      const needed = spend / (value * targetAcos);
      const wide = widened(gamma, drift);
      let chance = 0;
      for (let k = 0; k < needed && chance < 1; k++) chance += Math.exp(lnPredictive(wide, clicks, k));
      return { chance: Math.min(1, chance), came: orders < needed };
    });
}
