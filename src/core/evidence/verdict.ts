import { below, mean, quantileOf, type Gamma } from './gamma.ts';
import { posterior, type Prior } from './prior.ts';

export type Verdict = 'under' | 'over' | 'undecided';

/** What is believed of one row: orders per click, value per order (micros), CPC (micros, null without a click). */
export interface Belief {
  gamma: Gamma;
  value: number;
  cpc: number | null;
}

/** Expected revenue per click, micros: lambda x value per order. */
export const revenue = (belief: Belief): number => mean(belief.gamma) * belief.value;

/** P(ACOS > target) = P(lambda < CPC / (target x value)); null without a CPC. */
export const probabilityOver = (belief: Belief, targetAcos: number): number | null =>
  belief.cpc === null ? null : below(belief.gamma, belief.cpc / (targetAcos * belief.value));

/**
 * Under target at P(over) <= 0.2, over target at >= 0.8, else undecided (domain, section 5).
 * @example verdictOf(0.85) // 'over'
 * @example verdictOf(null) // 'undecided'
 */
export const verdictOf = (over: number | null): Verdict =>
  over === null ? 'undecided' : over <= 0.2 ? 'under' : over >= 0.8 ? 'over' : 'undecided';

/** ACOS as shares: the middle of the belief and the ends of its 80 % interval. */
export interface AcosInterval {
  low: number;
  middle: number;
  high: number;
}

export function acosInterval({ gamma, value, cpc }: Belief): AcosInterval | null {
  if (cpc === null || cpc <= 0) return null;
  const at = (lambda: number) => cpc / (Math.max(lambda, 1e-9) * value);
  return { low: at(quantileOf(gamma, 0.9)), middle: at(mean(gamma)), high: at(quantileOf(gamma, 0.1)) };
}

/** exp(-mu n): the chance that an average row shows no order in n clicks. */
export const chanceOfNoOrder = (mu: number, clicks: number): number => Math.exp(-mu * clicks);

/**
 * Clicks in which an average row would have sold with 90 %: 2.3 / mu.
 * @example clicksForAnOrder(0.046) // 50
 */
export const clicksForAnOrder = (mu: number): number => 2.3 / mu;

/**
 * About how many more clicks until the verdict is decided, if the row goes on as believed. Null when 2,000 clicks
 * would not do: it sits on its target.
 */
export function clicksToKnow(
  prior: Prior,
  n: number,
  y: number,
  belief: Belief,
  targetAcos: number,
): number | null {
  if (belief.cpc === null) return null;
  const rate = mean(belief.gamma);
  const decided = (more: number) => {
    const gamma = posterior(prior, n + more, y + rate * more);
    return verdictOf(probabilityOver({ ...belief, gamma }, targetAcos)) !== 'undecided';
  };
  if (decided(0)) return 0;
  let high = 1;
  while (!decided(high)) {
    high *= 2;
    if (high > 2000) return null;
  }
  let low = high / 2;
  while (high - low > 1) {
    const middle = Math.floor((low + high) / 2);
    if (decided(middle)) high = middle;
    else low = middle;
  }
  return high;
}
