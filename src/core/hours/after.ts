import { hourOfWeek, hoursOfWeek, timesSaid, type Schedule } from '../account/schedule.ts';
import { addDays, daysBetween, type Day } from '../metrics/days.ts';
import { compare, type Comparison, type DayFigures, type Deciding, type Sides } from '../trials/compare.ts';

/** What a change of schedule did: the same times before and after, beside campaigns that were not touched (domain, section 10). */

/** What something had in one hour. Money in micros. */
export interface HourOfDay extends DayFigures {
  hour: number;
}

/** A change of a schedule. */
export interface ScheduleChange {
  from: Schedule;
  to: Schedule;
  day: Day;
}

/** Times whose multiplier went the same way. */
export interface ChangedTimes {
  /** "Sunday", "Monday to Friday 0 to 7". */
  name: string;
  /** Per cent. */
  from: number;
  to: number;
  compared: Comparison;
}

export interface AfterSchedule {
  day: Day;
  /** Whole weeks before and after that could be compared. */
  weeks: { before: number; after: number };
  times: ChangedTimes[];
  whole: Comparison;
}

/** Weeks before a change that are compared at most. */
export const mostWeeksBefore = 8;
const week = 7;

/** Monday is 0. */
export const weekdayOf = (day: Day): number => (new Date(`${day}T00:00:00Z`).getUTCDay() + 6) % 7;

/** Days of whole weeks around a change: its own day belongs to neither. `first`: the earliest; `settledTo`: the last that counts. */
export function weeksAround(change: Day, first: Day, settledTo: Day): { before: Day[][]; after: Day[][] } {
  const before = Math.min(mostWeeksBefore, Math.max(0, Math.floor(daysBetween(first, change) / week)));
  const after = Math.max(0, Math.floor(daysBetween(change, settledTo) / week));
  const weekFrom = (day: Day) => Array.from({ length: week }, (_, at) => addDays(day, at));
  return {
    before: Array.from({ length: before }, (_, at) => weekFrom(addDays(change, -week * (before - at)))),
    after: Array.from({ length: after }, (_, at) => weekFrom(addDays(change, 1 + week * at))),
  };
}

/** Days of weeks with what fell into some hours of the week. */
function sidesOf(
  rows: readonly HourOfDay[],
  { before, after }: { before: Day[][]; after: Day[][] },
  isIn: (at: number) => boolean,
): Sides {
  const days = new Map<Day, DayFigures>();
  for (const { day, hour, clicks, spend, orders, sales } of rows) {
    if (!isIn(hourOfWeek(weekdayOf(day), hour))) continue;
    const sum = days.get(day) ?? { day, clicks: 0, spend: 0, orders: 0, sales: 0 };
    sum.clicks += clicks;
    sum.spend += spend;
    sum.orders += orders;
    sum.sales += sales;
    days.set(day, sum);
  }
  const figures = (list: Day[][]) =>
    list.map((own) => own.map((day) => days.get(day) ?? { day, clicks: 0, spend: 0, orders: 0, sales: 0 }));
  return { before: figures(before), after: figures(after) };
}

/**
 * Compares each group of times that went from one multiplier to another, those that were not touched included, and all of
 * the campaign.
 *
 * @param own The campaign's hours; `control`: those of campaigns whose schedules stood still meanwhile; empty for none.
 */
export function afterSchedule(
  { from, to, day }: ScheduleChange,
  own: readonly HourOfDay[],
  control: readonly HourOfDay[],
  known: { first: Day; settledTo: Day },
  deciding: Deciding,
  random: () => number,
): AfterSchedule {
  const weeks = weeksAround(day, known.first, known.settledTo);
  const groups = new Map<string, { from: number; to: number; places: number[] }>();
  for (let at = 0; at < hoursOfWeek; at++) {
    const key = `${from[at]} ${to[at]}`;
    const group = groups.get(key) ?? { from: from[at]!, to: to[at]!, places: [] };
    group.places.push(at);
    groups.set(key, group);
  }
  const comparedIn = (isIn: (at: number) => boolean): Comparison =>
    compare(
      sidesOf(own, weeks, isIn),
      control.length > 0 ? sidesOf(control, weeks, isIn) : null,
      deciding,
      random,
    );
  return {
    day,
    weeks: { before: weeks.before.length, after: weeks.after.length },
    times: [...groups.values()]
      .sort((a, b) => Number(a.from === a.to) - Number(b.from === b.to) || a.places[0]! - b.places[0]!)
      .map((group) => {
        const places = new Set(group.places);
        return {
          name: group.places.length === hoursOfWeek ? 'all hours' : timesSaid(group.places),
          from: group.from,
          to: group.to,
          compared: comparedIn((at) => places.has(at)),
        };
      }),
    whole: comparedIn(() => true),
  };
}

/** Whether ranks moved: each keyword against itself, before and after; positions that are not found count as this. */
const notFound = 60;

export interface RankShift {
  keywords: number;
  /** Mean positions by searches. */
  before: number;
  after: number;
  /** Fell for sure: by a tenth of a position in the mean of logarithms, beyond two standard errors over keywords. */
  fell: boolean;
}

/** How ranks of a product's keywords moved; null where none is told on both sides. `position` null: not found. */
export function rankShift(
  rows: readonly { keyword: string; isAfter: boolean; position: number | null; searches: number }[],
): RankShift | null {
  const keywords = new Map<string, { searches: number; days: number; before: number[]; after: number[] }>();
  for (const { keyword, isAfter, position, searches } of rows) {
    const one = keywords.get(keyword) ?? { searches: 0, days: 0, before: [], after: [] };
    one.searches += searches;
    one.days++;
    one[isAfter ? 'after' : 'before'].push(Math.min(notFound, position ?? notFound));
    keywords.set(keyword, one);
  }
  const mean = (list: readonly number[]) => list.reduce((sum, one) => sum + one, 0) / list.length;
  const both = [...keywords.values()]
    .filter(({ before, after }) => before.length > 0 && after.length > 0)
    .map(({ searches, days, before, after }) => ({
      weight: Math.max(1, searches / days),
      before: mean(before),
      after: mean(after),
    }));
  if (both.length === 0) return null;
  const weight = both.reduce((sum, one) => sum + one.weight, 0);
  const by = (of: (one: (typeof both)[number]) => number) =>
    both.reduce((sum, one) => sum + (one.weight * of(one)) / weight, 0);
  const moves = both.map(({ before, after }) => Math.log(after / before));
  const move = mean(moves);
  const spread = Math.sqrt(
    moves.reduce((sum, one) => sum + (one - move) ** 2, 0) / Math.max(1, moves.length - 1) / moves.length,
  );
  return {
    keywords: both.length,
    before: by((one) => one.before),
    after: by((one) => one.after),
    fell: both.length > 2 && move > Math.max(0.1, 2 * spread),
  };
}
