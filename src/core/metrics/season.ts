import { addDays, type Day } from './days.ts';
import { count } from './format.ts';

/** A product's orders that in one part of what is known of it than in another, beyond doubt. */
export interface Season {
  /** Orders a week at the height of it, and at its low: the last four weeks once it is over. */
  high: number;
  low: number;
  /** The first day of the four weeks at its height. */
  from: Day;
  /** The last four weeks are those of the low. */
  isOver: boolean;
}

const span = 28;
/** Of four weeks so many days are known at least; the others it was out of stock. */
const leastKnown = 20;
/** The height is at least this often the low, and farther from it than five standard errors of counts. */
const leastFactor = 2;
/** It is over once this often less is ordered than at its height. */
const overFactor = 4;
const errors = 5;

/** Four weeks with all their days in stock, and the variance of that (Poisson). */
interface FourWeeks {
  at: number;
  orders: number;
  variance: number;
}

/** All runs of four weeks of which enough days are known. */
function fourWeeks(days: readonly (number | null)[]): FourWeeks[] {
  const found: FourWeeks[] = [];
  let [sum, known] = [0, 0];
  const count = (value: number | null | undefined, sign: 1 | -1) => {
    if (value == null) return;
    sum += sign * value;
    known += sign;
  };
  days.forEach((value, at) => {
    count(value, 1);
    count(days[at - span], -1);
    if (at < span - 1 || known < leastKnown) return;
    const scale = span / known;
    found.push({ at: at - span + 1, orders: sum * scale, variance: sum * scale ** 2 });
  });
  return found;
}

/**
 * Whether a product has a season: four weeks whose orders lie far above those of other four weeks, beyond what counts
 * vary by themselves. Null where that cannot be told. `days`: the orders of each, the first day first; null on days
 * when it could not be sold: an empty shelf is no season.
 */
export function seasonOf(first: Day, days: readonly (number | null)[]): Season | null {
  const all = fourWeeks(days);
  if (days.length < 2 * span || all.length === 0) return null;
  const differ = (high: FourWeeks, low: FourWeeks) =>
    high.orders >= leastFactor * low.orders &&
    high.orders - low.orders > errors * Math.sqrt(high.variance + low.variance);
  const most = all.reduce((a, b) => (b.orders > a.orders ? b : a));
  const last = all.at(-1)!;
  const isOver =
    last.at === days.length - span &&
    most.at + span <= last.at &&
    most.orders >= overFactor * last.orders &&
    differ(most, last);
  const low = isOver ? last : all.reduce((a, b) => (b.orders < a.orders ? b : a));
  if (!differ(most, low)) return null;
  return { high: most.orders / 4, low: low.orders / 4, from: addDays(first, most.at), isOver };
}

/** The season in words. */
export const seasonSaid = ({ high, low, from, isOver }: Season): string =>
  `It had ${count(high)} orders a week from ${from}, and ${count(low)} ${isOver ? 'in the last four weeks' : 'in its quietest'}`;
