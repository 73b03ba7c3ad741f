import { eighty } from '../effect/forecast.ts';
import { addDays, daysBetween, type Day } from '../metrics/days.ts';

/** Where a month lands: what it brought so far, and what its other days will bring (domain, section 9). */

/** What a day brought, in any unit, its settling part in. */
export interface DayValue {
  day: Day;
  value: number;
}

export interface Landing {
  /** What the days so far brought. */
  done: number;
  /** What all its days will have brought, and the 80 % interval. */
  middle: number;
  low: number;
  high: number;
  /** Days of it that are still to come. */
  left: number;
}

/** Days that a level rests on, each half as much as the one a week later; and that its weekdays are read from. */
const levelHalfLife = 7;
const weekdayDays = 56;
/** A weekday's share is drawn to an even one as if by so many days. */
const weekdayShrink = 2;
/** Two stretches of which the trend is the ratio; how fast it dies down, and how far it is believed at all. */
const trendDays = 14;
const fade = 0.9;
const trendShrink = 0.5;
/** What forecasts miss is read off so many past ones at least; before, this of the sum for a day, less for more of them. */
const leastTries = 8;
const usualMiss = 0.35;

const weekdayOf = (day: Day): number => new Date(`${day}T00:00:00Z`).getUTCDay();
const sum = (list: readonly number[]): number => list.reduce((all, one) => all + one, 0);

/** What each weekday brings beside the mean day: seven numbers about 1, from Sunday on. */
export function weekdayProfile(days: readonly DayValue[]): number[] {
  const recent = days.slice(-weekdayDays);
  const mean = recent.length > 0 ? sum(recent.map(({ value }) => value)) / recent.length : 0;
  if (mean <= 0) return Array<number>(7).fill(1);
  const totals = Array<number>(7).fill(weekdayShrink * mean);
  const counts = Array<number>(7).fill(weekdayShrink);
  for (const { day, value } of recent) {
    const weekday = weekdayOf(day);
    totals[weekday] = totals[weekday]! + value;
    counts[weekday] = counts[weekday]! + 1;
  }
  return totals.map((total, weekday) => total / counts[weekday]! / mean);
}

/** What the days after these bring, so many of them: level, weekday, and a trend that dies down. */
export function forecastDays(days: readonly DayValue[], count: number): number[] {
  if (days.length === 0) return Array<number>(count).fill(0);
  const profile = weekdayProfile(days);
  const level = days.map(({ day, value }) => value / Math.max(0.05, profile[weekdayOf(day)]!));
  let [weight, total] = [0, 0];
  level.forEach((value, at) => {
    const counted = 0.5 ** ((level.length - 1 - at) / levelHalfLife);
    weight += counted;
    total += counted * value;
  });
  const [late, early] = [level.slice(-trendDays), level.slice(-2 * trendDays, -trendDays)];
  const ratio =
    early.length < trendDays || sum(early) <= 0 || sum(late) <= 0
      ? 0
      : Math.log(sum(late) / late.length / (sum(early) / early.length));
  const aDay = (trendShrink * ratio) / trendDays;
  const last = days[days.length - 1]!.day;
  let risen = 0;
  return Array.from({ length: count }, (_, ahead) => {
    risen += aDay * fade ** (ahead + 1);
    return (total / weight) * Math.exp(risen) * profile[weekdayOf(addDays(last, ahead + 1))]!;
  });
}

/** How far past forecasts of so many days were off, as a standard deviation of natural logs. */
export function usualError(days: readonly DayValue[], count: number): number {
  const errors: number[] = [];
  for (let from = 2 * trendDays; from + count <= days.length; from++) {
    const said = sum(forecastDays(days.slice(0, from), count));
    const seen = sum(days.slice(from, from + count).map(({ value }) => value));
    if (said > 0 && seen > 0) errors.push(Math.log(seen / said));
  }
  if (errors.length < leastTries) return usualMiss / Math.sqrt(Math.max(1, Math.min(count, 10)));
  // Forecasts that overlap are fewer than they are counted.
  const apart = Math.max(1, errors.length / count);
  return Math.sqrt((sum(errors.map((error) => error ** 2)) / errors.length) * (1 + 1 / apart));
}

/**
 * Where the days from `first` to `last` land, known up to the last of `days`.
 * @example landing([{ day: '2026-05-01', value: 3 }], '2026-05-01', '2026-05-01') // { done: 3, middle: 3, low: 3, high: 3, left: 0 }
 */
export function landing(days: readonly DayValue[], first: Day, last: Day): Landing {
  const done = sum(days.filter(({ day }) => day >= first && day <= last).map(({ value }) => value));
  const known = days.at(-1)?.day;
  const from = known === undefined || known < first ? addDays(first, -1) : known;
  const left = Math.max(0, daysBetween(from, last));
  if (left === 0) return { done, middle: done, low: done, high: done, left };
  const gap = known === undefined ? 0 : Math.max(0, daysBetween(known, from));
  const rest = sum(forecastDays(days, gap + left).slice(gap));
  const spread = usualError(days, left);
  return {
    done,
    middle: done + rest,
    low: done + rest * Math.exp(-eighty * spread),
    high: done + rest * Math.exp(eighty * spread),
    left,
  };
}

/** First and last day of the month that a day lies in. */
export function monthOf(day: Day): { first: Day; last: Day } {
  const first = `${day.slice(0, 7)}-01`;
  const next = new Date(`${first}T00:00:00Z`);
  next.setUTCMonth(next.getUTCMonth() + 1);
  return { first, last: addDays(next.toISOString().slice(0, 10), -1) };
}

/** The day on which money that is left is gone at a day's spend; null when it lasts beyond a year, or nothing is spent. */
export function runsDry(left: number, aDay: number, today: Day): Day | null {
  if (aDay <= 0) return null;
  const days = Math.floor(Math.max(0, left) / aDay);
  return days > 366 ? null : addDays(today, days);
}
