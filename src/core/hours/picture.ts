import normalCdf from '@stdlib/stats-base-dists-normal-cdf';
import { daysOfWeek, hoursOfDay, hoursOfWeek } from '../account/schedule.ts';
import type { Verdict } from '../evidence/verdict.ts';
import { verdictOf } from '../evidence/verdict.ts';
import type { Micros } from '../metrics/money.ts';
import type { HourFactors, TimeFactor, WeekCounts } from './beliefs.ts';

/** A scope by the time of the week, as it is drawn: what was spent when, and how far that stands from the goal. */

/** A weekday, an hour of the day or an hour of the week. Money in micros. */
export interface TimeFigures extends TimeFactor {
  clicks: number;
  spend: Micros;
  orders: number;
  sales: Micros;
  /** Expected ACOS; null where nothing was clicked. */
  acos: number | null;
  verdict: Verdict;
}

export interface HoursPicture {
  weekdays: TimeFigures[];
  hours: TimeFigures[];
  week: TimeFigures[];
}

/** What a click of a scope is expected to sell, and its goal. */
export interface ScopeMean {
  earns: Micros;
  /** Relative standard deviation of `earns`. */
  doubt: number;
  targetAcos: number;
}

/** Chance that a time's ACOS lies over the goal: its logarithm is taken for normal. */
const chanceOver = (acos: number, { targetAcos, doubt }: ScopeMean, { spread }: TimeFactor): number => {
  const deviation = Math.hypot(spread, doubt);
  return deviation > 0 ? normalCdf(Math.log(acos / targetAcos), 0, deviation) : acos > targetAcos ? 1 : 0;
};

/** Figures of a scope at each time, from its counts, what its times sell, and what it sells on the mean. */
export function hoursPicture(counts: WeekCounts, factors: HourFactors, mean: ScopeMean): HoursPicture {
  const figures = (one: TimeFactor, places: readonly number[]): TimeFigures => {
    const sum = (list: readonly number[]) => places.reduce((all, at) => all + list[at]!, 0);
    const [clicks, spend] = [sum(counts.clicks), sum(counts.spend)];
    const earns = mean.earns * one.factor;
    const acos = clicks > 0 && earns > 0 && mean.targetAcos > 0 ? spend / clicks / earns : null;
    return {
      ...one,
      clicks,
      spend,
      orders: sum(counts.orders),
      sales: sum(counts.sales),
      acos,
      verdict: acos === null ? 'undecided' : verdictOf(chanceOver(acos, mean, one)),
    };
  };
  const every = (length: number, at: (index: number) => number) => Array.from({ length }, (_, i) => at(i));
  return {
    weekdays: factors.weekdays.map((one, weekday) =>
      figures(
        one,
        every(hoursOfDay, (hour) => weekday * hoursOfDay + hour),
      ),
    ),
    hours: factors.hours.map((one, hour) =>
      figures(
        one,
        every(daysOfWeek, (weekday) => weekday * hoursOfDay + hour),
      ),
    ),
    week: factors.week.map((one, at) => figures(one, [at])).slice(0, hoursOfWeek),
  };
}

/** Orders of a part that has few of its own, beside the whole that it belongs to: the whole counts as so many. */
const partOrders = 40;

/** Weekdays of a part of a campaign, drawn to the campaign's; its hours are the campaign's, for no others are told. */
export function factorsOfPart(
  whole: HourFactors,
  days: readonly { clicks: number; orders: number }[],
): HourFactors {
  const clicks = days.reduce((sum, one) => sum + one.clicks, 0);
  const orders = days.reduce((sum, one) => sum + one.orders, 0);
  const perClick = clicks > 0 ? orders / clicks : 0;
  const raw = whole.weekdays.map(({ factor, spread }, weekday): TimeFactor => {
    const { clicks: own, orders: had } = days[weekday]!;
    const expected = own * perClick;
    const shape = 1 / (spread ** 2 + 1 / partOrders);
    return {
      factor: (shape + had) / (shape / factor + expected),
      spread: 1 / Math.sqrt(shape + had),
    };
  });
  const mean =
    clicks > 0 ? raw.reduce((sum, { factor }, at) => sum + (factor * days[at]!.clicks) / clicks, 0) : 1;
  const weekdays = raw.map((one) => ({ ...one, factor: one.factor / mean }));
  return {
    weekdays,
    hours: whole.hours,
    week: whole.week.map(({ factor, spread }, at) => {
      const weekday = Math.floor(at / hoursOfDay);
      const [own, of] = [weekdays[weekday]!, whole.weekdays[weekday]!];
      return { factor: (factor * own.factor) / of.factor, spread: Math.hypot(spread, own.spread) };
    }),
  };
}
