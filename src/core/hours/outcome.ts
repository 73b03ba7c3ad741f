import normal from '@stdlib/stats-base-dists-normal-quantile';
import { ownSpread } from '../effect/forecast.ts';
import { respond, responseAt, type Response } from '../effect/response.ts';
import type { MoveOutcome } from '../effect/types.ts';
import { worthAlong } from '../effect/worth.ts';
import type { Micros } from '../metrics/money.ts';
import type { HourFactors, TimeFactor } from './beliefs.ts';
import { daysOfWeek, hoursOfDay, hoursOfWeek, type Schedule } from '../account/schedule.ts';

/** What a schedule brings a week beside another (domain, sections 10 to 12). */

/** A campaign as its hours are weighed. Money in micros. */
export interface HourGround {
  /** Of a week, by hour of the week, as the campaign runs: 168 numbers each. */
  clicks: number[];
  spend: Micros[];
  /** What it bids on the mean, modifiers in, schedule not. */
  bid: Micros;
  /** What a click is expected to sell, and how many orders. */
  earns: Micros;
  perClick: number;
  theta: number;
  /** Its budget runs dry some of the time. */
  isDry: boolean;
  response: Response;
  factors: HourFactors;
}

/** A bid of nothing has no elasticity: from here down clicks go with what is left. */
const leastRatio = 0.01;
const draws = 128;
const unit = 1_000_000;

/** Even numbers from 0 to 1 in an order of their own in each dimension (linear congruence), as normals. */
function normals(dimensions: number): number[][] {
  let state = 20_011;
  const next = () => (state = (state * 48_271) % 2_147_483_647) / 2_147_483_647;
  const columns = Array.from({ length: dimensions }, () => {
    const order = Array.from({ length: draws }, (_, at) => at);
    for (let at = draws - 1; at > 0; at--) {
      const other = Math.floor(next() * (at + 1));
      [order[at], order[other]] = [order[other]!, order[at]!];
    }
    return order.map((place) => normal((place + 0.5) / draws, 0, 1));
  });
  return Array.from({ length: draws }, (_, draw) => columns.map((column) => column[draw]!));
}
let points: number[][] | null = null;

/** Factors of all hours, each draw of what weekdays and hours may be; the mean over `clicks` stays 1. */
function drawnFactors({ weekdays, hours, week }: HourFactors, clicks: readonly number[]): number[][] {
  points ??= normals(daysOfWeek + hoursOfDay);
  const all = clicks.reduce((sum, one) => sum + one, 0);
  const moved = ({ spread }: TimeFactor, z: number): number => Math.exp(spread * z - spread ** 2 / 2);
  return points.map((point) => {
    const byDay = weekdays.map((one, weekday) => moved(one, point[weekday]!));
    const byHour = hours.map((one, hour) => moved(one, point[daysOfWeek + hour]!));
    const drawn = week.map(
      ({ factor }, at) => factor * byDay[Math.floor(at / hoursOfDay)]! * byHour[at % hoursOfDay]!,
    );
    const mean = all > 0 ? drawn.reduce((sum, one, at) => sum + one * clicks[at]!, 0) / all : 1;
    return mean > 0 ? drawn.map((one) => one / mean) : drawn;
  });
}

/**
 * What hours bring once a schedule stands where another does. What is off now is taken for what it was at 100 %.
 * `beta`: factor on the bids that goes with it.
 */
export function outcomeOf(ground: HourGround, from: Schedule, to: Schedule, beta = 1): MoveOutcome {
  const { clicks, spend, bid, earns, perClick, theta, response, factors } = ground;
  const moved = Array.from({ length: hoursOfWeek }, (_, at) => {
    const was = from[at] === 0 ? 100 : from[at]!;
    const ratio = (beta * to[at]!) / was;
    const none = { clicks: 0, spend: 0, clicksSpread: 0, spendSpread: 0, idle: 0, some: 0 };
    if ((from[at] === to[at] && (beta === 1 || to[at] === 0)) || clicks[at]! <= 0) return none;
    const cpc = spend[at]! / clicks[at]!;
    const base = (bid * was) / 100;
    const own = responseAt(response, base > 0 && cpc > 0 ? cpc / base : null);
    const after =
      ratio <= 0
        ? { clicks: 0, spend: 0 }
        : respond({ clicks: clicks[at]!, spend: spend[at]! }, Math.max(leastRatio, ratio), own);
    // Worth is linear in what a click sells.
    const worthAt = (revenue: Micros) => {
      const whole = worthAlong(clicks[at]!, base, base * ratio, revenue, theta, own);
      // From off: all that it then has is won.
      return from[at] === 0 ? whole - worthAlong(clicks[at]!, base, 0, revenue, theta, own) : whole;
    };
    const before = from[at] === 0 ? { clicks: 0, spend: 0 } : { clicks: clicks[at]!, spend: spend[at]! };
    const far = Math.abs(Math.log(Math.max(leastRatio, ratio)));
    const idle = worthAt(0);
    return {
      clicks: after.clicks - before.clicks,
      spend: after.spend - before.spend,
      clicksSpread: after.clicks * far * ownSpread.clicks,
      spendSpread: after.spend * far * Math.hypot(ownSpread.clicks, ownSpread.cpc),
      idle,
      some: worthAt(unit) - idle,
    };
  });
  const of = (factorAt: (at: number) => number) => {
    const all = { worth: 0, sales: 0, orders: 0 };
    moved.forEach((one, at) => {
      const factor = factorAt(at);
      all.worth += one.idle + (one.some * earns * factor) / unit;
      all.sales += one.clicks * earns * factor;
      all.orders += one.clicks * perClick * factor;
    });
    return all;
  };
  const middle = of((at) => factors.week[at]!.factor);
  const drawn = drawnFactors(factors, clicks).map((own) => of((at) => own[at]!));
  const sorted = (name: 'worth' | 'sales') => drawn.map((one) => one[name]).sort((a, b) => a - b);
  const [worths, sales] = [sorted('worth'), sorted('sales')];
  const tenth = Math.floor(draws / 10);
  const sum = (name: 'clicks' | 'spend') => moved.reduce((all, one) => all + one[name], 0);
  return {
    worth: middle.worth,
    worthLow: worths[tenth]!,
    worthHigh: worths[draws - 1 - tenth]!,
    chance: worths.filter((worth) => worth > 0).length / draws,
    effect: {
      clicks: sum('clicks'),
      spend: sum('spend'),
      orders: middle.orders,
      sales: middle.sales,
      low: sales[tenth]!,
      high: sales[draws - 1 - tenth]!,
      clicksSpread: Math.hypot(...moved.map((one) => one.clicksSpread)),
      spendSpread: Math.hypot(...moved.map((one) => one.spendSpread)),
    },
  };
}
