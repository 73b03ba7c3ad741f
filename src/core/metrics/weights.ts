import { addDays, daysBetween, windowDays, type Day, type Window } from './days.ts';
import { decay, maturity } from './maturity.ts';

/** How much a day counts (domain, sections 5 and 11). */

/** Days that evidence is drawn from: the season before the window's end. With a half-life of 45 days the rest is faint. */
export const evidenceDays = 90;

/** Weight of a day's evidence: clicks x maturity x decay, orders x decay. */
export interface DayWeight {
  day: Day;
  n: number;
  y: number;
  /** Whether the day lies in the window: figures are summed over it, evidence over all weighted days. */
  inside: boolean;
}

/** Weights of the days of evidence: decay counts from their end, maturity from today. */
export function dayWeights(
  evidence: Window,
  window: Window,
  today: Day,
  curve: readonly number[],
): DayWeight[] {
  return Array.from({ length: Math.max(0, windowDays(evidence)) }, (_, i) => {
    const day = addDays(evidence.from, i);
    const fade = decay(daysBetween(day, evidence.to));
    const inside = day >= window.from && day <= window.to;
    return { day, n: maturity(curve, daysBetween(day, today)) * fade, y: fade, inside };
  });
}

/** Whole weeks that tell what a target does at its present bid, and after how many days one counts half. */
export const presentDays = 42;
const presentHalfLife = 14;

/**
 * How much a day tells about the present: 1 today, half 14 days ago, 0 after six weeks.
 * @example presentWeight(14) // 0.5
 */
export const presentWeight = (age: number): number =>
  age < 0 || age >= presentDays ? 0 : 0.5 ** (age / presentHalfLife);
