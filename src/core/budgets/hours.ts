import type { Day } from '../metrics/days.ts';
import type { Micros } from '../metrics/money.ts';

/** When campaigns had budget left, in parts of a day's clicks (domain, section 9). */

/** Clicks of one hour of the week, of campaigns on days on which their budgets lasted: from Monday, 1, to Sunday, 7. */
export interface HourOfWeek {
  weekday: number;
  hour: number;
  clicks: number;
  /** So many days of campaigns stand behind it. */
  days: number;
}

/** A campaign's day. Money in micros. */
export interface CampaignDay {
  day: Day;
  clicks: number;
  spend: Micros;
  orders: number;
  sales: Micros;
  /** Minutes with budget left; null where they are not told. */
  minutes: number | null;
  /** Parts of an average day's clicks that fell into the time with budget, and without. */
  shown: number;
  missed: number;
}

/** Clicks that the hours of a weekday are shrunk by to those of all days. */
const shapeClicks = 240;
const hoursOfDay = 24;
const daysOfWeek = 7;

/**
 * What part of an average day's clicks falls into each hour of the week: 168 numbers from Monday's first hour on, that sum
 * to seven. Hours of a weekday are shrunk to those of all days; where nothing is told, all hours are alike.
 */
export function hourShares(hours: readonly HourOfWeek[]): number[] {
  const clicks = Array<number>(hoursOfDay * daysOfWeek).fill(0);
  const days = Array<number>(daysOfWeek).fill(0);
  for (const { weekday, hour, clicks: some, days: behind } of hours) {
    clicks[(weekday - 1) * hoursOfDay + hour] = some;
    days[weekday - 1] = Math.max(days[weekday - 1]!, behind);
  }
  const all = sum(clicks);
  if (all <= 0) return clicks.map(() => 1 / hoursOfDay);
  const ofDay = Array.from({ length: daysOfWeek }, (_, at) =>
    sum(clicks.slice(at * hoursOfDay, (at + 1) * hoursOfDay)),
  );
  const perDay = ofDay.map((some, at) => (days[at]! > 0 ? some / days[at]! : null));
  const told = perDay.filter((some) => some !== null);
  const usual = sum(told) / told.length;
  const levels = perDay.map((some) => (some === null ? 1 : some / usual));
  const level = sum(levels) / daysOfWeek;
  const shape = Array.from({ length: hoursOfDay }, (_, hour) =>
    sum(ofDay.map((_, at) => clicks[at * hoursOfDay + hour]! / all)),
  );
  return clicks.map((some, place) => {
    const at = Math.floor(place / hoursOfDay);
    const part = (some + shapeClicks * shape[place % hoursOfDay]!) / (ofDay[at]! + shapeClicks);
    return (levels[at]! / level) * part;
  });
}

const sum = (list: readonly number[]): number => list.reduce((all, one) => all + one, 0);
