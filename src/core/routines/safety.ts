import { addDays, daysBetween, type Day } from '../metrics/days.ts';
import { counted, percent } from '../metrics/format.ts';

/** Why a routine stops itself instead of acting (domain, section 16). */

export interface Sureness {
  today: Day;
  /** The last day that a report told; null: none. */
  newest: Day | null;
  /** Hours since figures came in last; null: never. */
  hoursSince: number | null;
  /** Orders of settled days as they were told when they counted as settled, and as they are told now, of the last weeks. */
  settled: { then: number; now: number };
  /** Share of orders that a settled day shows, by the account's own curve. */
  settledShare: number;
  /** How the last talks with the marketplace ended. */
  lastTalk: { failed: boolean; message: string | null; applied: number; refused: number };
  /** Forecasts of the kinds at hand that have their score: how many, and how many came within their 80 % interval. */
  forecasts: { scored: number; within: number };
  /** Whether it acts by the clock: then figures must have come in lately. */
  byClock: boolean;
}

/** Hours after which figures count as stale for what runs by the clock; days behind which they count so for all. */
export const staleHours = 48;
export const staleDays = 3;
/** Orders below which nothing is said of how days settle. */
const leastSettled = 100;
/** A settled day may grow by so much more than was left of it. */
const settlingMargin = 0.1;
/** Fewer forecasts say nothing of their like; 80 % intervals that hold for less than this are wrong beyond chance. */
const leastForecasts = 20;
export const leastWithin = 0.5;
/** Refused lines of the last sheets, beyond which something is wrong with the connection or the account. */
const mostRefused = 0.5;
const leastTold = 10;

/** The first reason to stop; null where there is none. */
export function stopReason(sureness: Sureness): string | null {
  const { today, newest, hoursSince, settled, settledShare, lastTalk, forecasts, byClock } = sureness;
  if (newest === null) return 'There are no figures yet.';
  if (daysBetween(newest, today) > staleDays)
    return `Figures are stale: the last day told is ${newest}, and it is ${today}. Fetch, then start it again.`;
  if (byClock && (hoursSince === null || hoursSince > staleHours))
    return `Figures are stale: they came in ${hoursSince === null ? 'never' : `${Math.floor(hoursSince / 24)} days ago`}. Fetch, then start it again.`;
  if (settled.then >= leastSettled && settled.now / settled.then > 1 / settledShare + settlingMargin)
    return `Days have not settled as expected: ${counted(Math.round(settled.then), 'order')} of settled days have become ${Math.round(settled.now)}. Look whether the marketplace reports later than it did.`;
  if (lastTalk.failed)
    return `The marketplace answered with an error: ${lastTalk.message ?? 'it did not say which.'} Look at the job, then start it again.`;
  const told = lastTalk.applied + lastTalk.refused;
  if (told >= leastTold && lastTalk.refused / told > mostRefused)
    return `The marketplace refused ${lastTalk.refused} of the last ${counted(told, 'line')}. Look at their reasons, then start it again.`;
  if (forecasts.scored >= leastForecasts && forecasts.within / forecasts.scored < leastWithin)
    return `Its forecasts have been wrong: only ${percent(forecasts.within / forecasts.scored)} of ${forecasts.scored} came within their 80 % intervals.`;
  return null;
}

/** The window that is looked at: so many days up to the last settled one, the youngest left out. */
export function lookedAt(
  { days, youngest }: { days: number; youngest: number },
  today: Day,
  settledTo: Day,
): { from: Day; to: Day } {
  const last = addDays(today, -youngest);
  const to = last < settledTo ? last : settledTo;
  return { from: addDays(to, 1 - days), to };
}
