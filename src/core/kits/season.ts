import { addDays, type Day } from '../metrics/days.ts';
import { count } from '../metrics/format.ts';

/** A product's sales that are higher in one part of what is known of it than in another, beyond doubt. */
export interface Season {
  /** Units a week at the height of it, and in the weeks of which one asks. */
  high: number;
  low: number;
  /** The first day of the four weeks at its height. */
  from: Day;
  /** The last four weeks are those of the low. */
  isOver: boolean;
}

const span = 28;
/** The height is at least this often the low, and farther from it than five standard errors of counts. */
const leastFactor = 2;
const errors = 5;

/**
 * Whether a product has a season: four weeks whose units lie far above those of other four weeks, beyond what counts
 * vary by themselves (Poisson: the difference of two counts has the standard error of the root of their sum). Null
 * where that cannot be told. `units`: those of each day, the first day first.
 */
export function seasonOfUnits(first: Day, units: readonly number[]): Season | null {
  if (units.length < 2 * span) return null;
  const sums: number[] = [];
  let sum = 0;
  units.forEach((value, at) => {
    sum += value - (at >= span ? units[at - span]! : 0);
    if (at >= span - 1) sums.push(sum);
  });
  const differ = (high: number, low: number) =>
    high >= leastFactor * low && high - low > errors * Math.sqrt(high + low);
  const at = sums.indexOf(Math.max(...sums));
  const last = sums.at(-1)!;
  const isOver = at + span <= sums.length - 1 && differ(sums[at]!, last);
  const low = isOver ? last : Math.min(...sums);
  if (!differ(sums[at]!, low)) return null;
  return { high: sums[at]! / 4, low: low / 4, from: addDays(first, at), isOver };
}

/** The season in words. */
export const seasonSaid = ({ high, low, from, isOver }: Season): string =>
  `It sold ${count(high)} units a week from ${from}, and ${count(low)} ${isOver ? 'in the last four weeks' : 'in its quietest'}`;
