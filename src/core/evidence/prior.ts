import type { Gamma } from './gamma.ts';

/** What the siblings of a row say before the row speaks: mean orders per click, and its weight in clicks. */
export interface Prior {
  mu: number;
  /** b of the guide: clicks, 10 to 500. */
  strength: number;
}

export const leastStrength = 10;
export const mostStrength = 500;
export const fewestSiblings = 5;

/** Running sums over siblings: enough for the moments, whatever their number. */
export interface Moments {
  count: number;
  /** Sums of weighted orders and clicks: they make the mean. */
  y: number;
  n: number;
  /** Sums of orders o and clicks c as they were counted, o*o, o*c, c*c: they make the spread. */
  o: number;
  c: number;
  oo: number;
  oc: number;
  cc: number;
}

export const noMoments = (): Moments => ({ count: 0, y: 0, n: 0, o: 0, c: 0, oo: 0, oc: 0, cc: 0 });

/** Adds one sibling in place (hot loop: up to a million rows). Siblings without clicks say nothing. */
export function addSibling(moments: Moments, n: number, y: number, clicks = n, orders = y): void {
  if (n <= 0) return;
  moments.count++;
  moments.y += y;
  moments.n += n;
  moments.o += orders;
  moments.c += clicks;
  moments.oo += orders * orders;
  moments.oc += orders * clicks;
  moments.cc += clicks * clicks;
}

/** Adds siblings that were summed elsewhere. */
export function addMoments(moments: Moments, more: Moments): void {
  for (const name of Object.keys(moments) as (keyof Moments)[]) moments[name] += more[name];
}

/**
 * Prior by moments (guide, section 5): s2 = max(0, (sum((y - n mu)^2) - sum(n mu)) / sum(n^2)), b = mu / s2 within
 * [10, 500]. The spread is taken from counts without decay: decayed counts scatter less than Poisson, and the
 * formula would find no spread where there is some (docs/decisions/002-evidence.md). Fewer than 5 siblings or s2 = 0: the next level's mu with b = 500. Mu is shrunk to the level above
 * with that level's strength: (y + b' mu') / (n + b').
 */
export function priorOf(moments: Moments, above: Prior | null): Prior {
  const { count, y, n, o, c, oo, oc, cc } = moments;
  // An account without one order yet: half an order in what it has clicked, so that nothing divides by zero.
  const fallback: Prior = above ?? { mu: y > 0 ? y / n : 0.5 / (n + leastStrength), strength: mostStrength };
  if (count < fewestSiblings || y <= 0) return { mu: fallback.mu, strength: mostStrength };
  const counted = o / c;
  // The square is expanded so that one pass over the siblings is enough.
  const spread = oo - 2 * counted * oc + counted * counted * cc;
  const s2 = Math.max(0, (spread - c * counted) / cc);
  if (s2 === 0) return { mu: fallback.mu, strength: mostStrength };
  const mu = above ? (y + above.strength * above.mu) / (n + above.strength) : y / n;
  return { mu, strength: Math.min(mostStrength, Math.max(leastStrength, counted / s2)) };
}

/** Gamma(a, b) with a = mu b. */
export const gammaOf = (prior: Prior): Gamma => ({ shape: prior.mu * prior.strength, rate: prior.strength });

/** Gamma(a + y, b + n): what is believed after the row has spoken. */
export const posterior = (prior: Prior, n: number, y: number): Gamma => ({
  shape: prior.mu * prior.strength + y,
  rate: prior.strength + n,
});

/** Weight of the level above in a value per order, in orders. */
export const valueWeight = 3;

/** Value per order in micros: (k v_parent + sales) / (k + orders), k = 3. */
export const valuePerOrder = (above: number, sales: number, orders: number): number =>
  (valueWeight * above + sales) / (valueWeight + orders);
