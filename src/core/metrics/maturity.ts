import type { Day } from './days.ts';

/** Share of a day's final orders known when it is 0, 1, 2 ... days old (domain, section 4). From the last on: 1. */
export const defaultMaturity: readonly number[] = [0.45, 0.7, 0.82, 0.89, 0.93, 0.96, 0.98, 1];

/** Days younger than this share of known orders are settling days. */
export const settledShare = 0.95;

/** m(age): share 0-1. `curve[age]`, 1 beyond its end. */
export const maturity = (curve: readonly number[], age: number): number => (age < 0 ? 0 : (curve[age] ?? 1));

/** The least age in days at which a day counts as settled. */
export function settledAge(curve: readonly number[]): number {
  let age = 0;
  while (maturity(curve, age) < settledShare) age++;
  return age;
}

/** A day's orders as one report told them when the day was `age` days old. */
export interface Sight {
  day: Day;
  age: number;
  orders: number;
}

/** A slower marketplace must be learned: what restatements tell goes on up to this age. */
export const oldestRestated = 30;

/** Fewer later orders than this behind an age, and the default stays. */
const leastOrders = 100;

/**
 * The account's own curve from its restatements: the same day seen at several ages, ratios chained from the oldest
 * age down like a loss triangle, up to 30 days. An age with too little history keeps the default, but never tells more
 * than the ages after it.
 */
export function estimateMaturity(sights: readonly Sight[]): number[] {
  const byDay = new Map<Day, Sight[]>();
  for (const sight of sights) byDay.set(sight.day, [...(byDay.get(sight.day) ?? []), sight]);
  for (const list of byDay.values()) list.sort((a, b) => a.age - b.age);
  const curve = Array.from({ length: oldestRestated + 1 }, (_, age) => maturity(defaultMaturity, age));
  for (let age = curve.length - 2; age >= 0; age--) {
    let seen = 0;
    let final = 0;
    for (const list of byDay.values()) {
      const at = list.findIndex((sight) => sight.age === age);
      const later = at < 0 ? undefined : list[at + 1];
      if (!later) continue;
      seen += list[at]!.orders;
      final += later.orders / maturity(curve, later.age);
    }
    if (final >= leastOrders) curve[age] = Math.min(1, seen / final);
    curve[age] = Math.min(curve[age]!, curve[age + 1]!);
  }
  // Once nothing changes any more the curve ends.
  while (curve.length > defaultMaturity.length && curve[curve.length - 2] === 1) curve.pop();
  return curve;
}

/** Days in which evidence loses half of its weight. */
export const halfLife = 45;

/**
 * Decay of evidence: halves every 45 days.
 * @example decay(45) // 0.5
 * @example decay(0) // 1
 */
export const decay = (age: number): number => 0.5 ** (Math.max(0, age) / halfLife);
