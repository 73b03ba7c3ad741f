import gammaln from '@stdlib/math-base-special-gammaln';
import type { Gamma } from './gamma.ts';
import { tallyOf, type Siblings, type Tally } from './siblings.ts';

/** What the siblings of a row say before the row speaks. */
export interface Prior {
  /** Mean orders per click. */
  mu: number;
  /** b of the domain (section 5): how alike the siblings are, in clicks. */
  strength: number;
  /**
   * How well the mean itself is known: its variance over its square. A level of few orders says little about its own
   * mean; without this the intervals of sparse accounts are far too short.
   */
  doubt: number;
  /**
   * How far a row may have moved away from its own past: variance of a rate over its square, learned from the
   * account's own held-out days (check.ts). Absent: it stays what it was.
   */
  drift?: number;
}

/** Mean and standard deviation of log b at the top; how far log b of a level may lie from the one above. */
export const usualStrength = 40;
const topSpread = 1;
const levelSpread = 0.5;

/** Bounds of the search for b, clicks: far outside of what its prior lets through. */
const [least, greatest] = [Math.log(1), Math.log(20_000)];

/** ln of Gamma(a + y) / Gamma(a): a product of y factors while y is small. */
function lnRising(a: number, y: number): number {
  if (y > 24) return gammaln(a + y) - gammaln(a);
  let product = 1;
  let sum = 0;
  for (let k = 0; k < y; k++) {
    product *= a + k;
    if (product > 1e200 || product < 1e-200) {
      sum += Math.log(product);
      product = 1;
    }
  }
  return sum + Math.log(product);
}

/**
 * ln likelihood of the siblings' counts, less what does not depend on b: y ~ negative binomial with mean n mu and
 * shape b mu (domain, section 5).
 */
export function lnLikelihood({ clicks, orders, rows }: Tally, mu: number, b: number): number {
  const shape = b * mu;
  let sum = 0;
  for (let i = 0; i < rows.length; i++) {
    const n = clicks[i]!;
    const y = orders[i]!;
    const rest = shape * Math.log1p(n / b) + y * Math.log(b + n);
    sum += rows[i]! * ((y > 0 ? lnRising(shape, y) : 0) - rest);
  }
  return sum;
}

const golden = (Math.sqrt(5) - 1) / 2;

/** The x between `from` and `to` where `f`, with one peak, is highest; to 0.01. */
export function highest(f: (x: number) => number, from: number, to: number): number {
  let [low, high] = [from, to];
  let [left, right] = [high - golden * (high - low), low + golden * (high - low)];
  let [atLeft, atRight] = [f(left), f(right)];
  while (high - low > 0.01) {
    if (atLeft < atRight) {
      low = left;
      [left, atLeft] = [right, atRight];
      right = low + golden * (high - low);
      atRight = f(right);
    } else {
      high = right;
      [right, atRight] = [left, atLeft];
      left = high - golden * (high - low);
      atLeft = f(left);
    }
  }
  return (low + high) / 2;
}

/** b by likelihood, log b shrunk to the level above. */
export function strengthOf(tally: Tally, mu: number, above: number | null): number {
  const centre = Math.log(above ?? usualStrength);
  const spread = above === null ? topSpread : levelSpread;
  if (tally.rows.length === 0 || mu <= 0) return Math.exp(centre);
  // Beyond four deviations nothing is found: the search stays where the prior lets it.
  const [from, to] = [Math.max(least, centre - 4 * spread), Math.min(greatest, centre + 4 * spread)];
  const score = (logB: number) =>
    lnLikelihood(tally, mu, Math.exp(logB)) - 0.5 * ((logB - centre) / spread) ** 2;
  return Math.exp(highest(score, from, to));
}

/**
 * The prior of a level (domain, section 5): mu = (b' mu' + sum(y)) / (b' + sum(n)), always; b by the likelihood of the
 * members' undecayed counts. `above` is null at the top, where an account without one order gets half an order in
 * what it has clicked, so that nothing divides by zero.
 */
export function priorOf(siblings: Siblings, above: Prior | null): Prior {
  const { n, y } = siblings;
  const tally = tallyOf(siblings);
  const weight = above ? above.strength : 0;
  const mu = above ? (weight * above.mu + y) / (weight + n) : y > 0 ? y / n : 0.5 / (n + 10);
  const strength = strengthOf(tally, mu, above?.strength ?? null);
  return { mu, strength, doubt: doubtOf(tally, mu, strength, above, n) };
}

/**
 * Variance of a level's mean over its square. A member of n clicks tells about the mean what n b / (b + n) clicks of
 * the mean itself would (Buehlmann and Straub's credibility); what the level above does not know comes along with
 * the weight it had.
 */
function doubtOf({ clicks, rows }: Tally, mu: number, b: number, above: Prior | null, n: number): number {
  let telling = 0;
  for (let i = 0; i < rows.length; i++) telling += (rows[i]! * clicks[i]! * b) / (b + clicks[i]!);
  if (!above) return 1 / Math.max(0.5, mu * telling);
  const weight = above.strength / (above.strength + n);
  return 1 / (mu * (above.strength + telling)) + (above.doubt * (weight * above.mu) ** 2) / mu ** 2;
}

/** Gamma(a, b) with a = mu b. */
export const gammaOf = (prior: Prior): Gamma => ({ shape: prior.mu * prior.strength, rate: prior.strength });

/**
 * What is believed after the row has spoken: Gamma(a + y, b + n), widened by what is not known of mu itself and by how
 * far rows drift. The mean stays (a + y) / (b + n); the variance grows by b^2 var(mu) / (b + n)^2 (law of total
 * variance) and by drift x mean^2.
 * @example posterior({ mu: 0.05, strength: 40, doubt: 0 }, 60, 7) // { shape: 9, rate: 100 }
 */
export function posterior(prior: Prior, n: number, y: number): Gamma {
  const shape = prior.mu * prior.strength + y;
  const rate = prior.strength + n;
  const wider = 1 + (prior.doubt * (prior.mu * prior.strength) ** 2) / shape + (prior.drift ?? 0) * shape;
  return { shape: shape / wider, rate: rate / wider };
}
