import normalQuantile from '@stdlib/stats-base-dists-normal-quantile';

/** Whether one daily series follows another, and by how many days: what is shared beyond each one's own habit. */

/** A day each; null where nothing was told. */
export type Series = readonly (number | null)[];

export interface LagCorrelation {
  /** Days by which the second series comes later; negative: it came first. */
  lag: number;
  /** Pairs of days behind it. */
  pairs: number;
  /** Between -1 and 1, with an interval that holds for all lags at once with 95 %. */
  r: number;
  low: number;
  high: number;
}

export interface Following {
  lags: LagCorrelation[];
  /** The lag that stands out of chance most; null: none does. */
  peak: LagCorrelation | null;
}

/** Lags looked at: what came a week before tells causes from effects. */
export const usualLags = { from: -7, to: 21 } as const;
/** Fewer pairs say nothing. */
const fewestPairs = 20;
/** All lags together find something where nothing is in so many cases. */
const falseAlarms = 0.05;
/** A series is told from its own last days, up to a week. */
const longestMemory = 7;

const meanOf = (values: readonly number[]): number => values.reduce((sum, v) => sum + v, 0) / values.length;

/** Without what its weekday explains; without its mean alone where three weeks are not known. */
function withoutWeekday(series: Series): (number | null)[] {
  const known = series.flatMap((value, day) => (value === null ? [] : [{ value, day }]));
  if (known.length === 0) return [...series];
  const mean = meanOf(known.map(({ value }) => value));
  const means = Array.from({ length: 7 }, (_, weekday) => {
    const own = known.filter(({ day }) => day % 7 === weekday);
    return own.length >= 3 ? meanOf(own.map(({ value }) => value)) : mean;
  });
  return series.map((value, day) => (value === null ? null : value - means[day % 7]!));
}

/** Covariance of a series of mean zero with itself so many days later, over the pairs that are known. */
function autocovariance(series: Series, lag: number): number {
  let sum = 0;
  let pairs = 0;
  for (let day = lag; day < series.length; day++) {
    const [now, then] = [series[day]!, series[day - lag]!];
    if (now === null || then === null) continue;
    sum += now * then;
    pairs++;
  }
  // Over all known days, not over the pairs: the sequence stays one that a series can have.
  return pairs === 0 ? 0 : sum / Math.max(pairs, series.filter((value) => value !== null).length);
}

/**
 * How a series of mean zero follows from its own last days (Levinson 1947, Durbin 1960), the length by Akaike's
 * criterion. Coefficients, the last day's first; none where it does not.
 */
export function ownMemory(series: Series): number[] {
  const known = series.filter((value) => value !== null).length;
  const covariance = Array.from({ length: longestMemory + 1 }, (_, lag) => autocovariance(series, lag));
  let error = covariance[0]!;
  if (known < fewestPairs || error <= 0) return [];
  let coefficients: number[] = [];
  let best = { score: known * Math.log(error), coefficients };
  for (let order = 1; order <= longestMemory; order++) {
    const told = coefficients.reduce((sum, phi, at) => sum + phi * covariance[order - 1 - at]!, 0);
    const reflection = (covariance[order]! - told) / error;
    if (!(Math.abs(reflection) < 1)) break;
    const before = coefficients;
    coefficients = [...before.map((phi, at) => phi - reflection * before[order - 2 - at]!), reflection];
    error *= 1 - reflection ** 2;
    const score = known * Math.log(error) + 2 * order;
    if (score < best.score) best = { score, coefficients };
  }
  return best.coefficients;
}

/** What of each day neither its weekday nor the days before it said. */
export function surprises(series: Series): (number | null)[] {
  const level = withoutWeekday(series);
  const memory = ownMemory(level);
  return level.map((value, day) => {
    if (value === null) return null;
    let rest = value;
    for (const [at, phi] of memory.entries()) {
      const before = level[day - 1 - at];
      if (before === undefined || before === null) return null;
      rest -= phi * before;
    }
    return rest;
  });
}

function correlation(first: Series, second: Series, lag: number): { r: number; pairs: number } {
  const pairs: [number, number][] = [];
  for (const [day, a] of first.entries()) {
    const b = second[day + lag];
    if (a !== null && b !== null && b !== undefined) pairs.push([a, b]);
  }
  if (pairs.length < fewestPairs) return { r: 0, pairs: 0 };
  const [x, y] = [meanOf(pairs.map(([a]) => a)), meanOf(pairs.map(([, b]) => b))];
  let [xy, xx, yy] = [0, 0, 0];
  for (const [a, b] of pairs) {
    xy += (a - x) * (b - y);
    xx += (a - x) ** 2;
    yy += (b - y) ** 2;
  }
  return xx > 0 && yy > 0 ? { r: xy / Math.sqrt(xx * yy), pairs: pairs.length } : { r: 0, pairs: 0 };
}

/** An interval by Fisher's z that holds for so many lags at once (Sidak). */
function interval(z: number, weight: number, looks: number): { r: number; low: number; high: number } {
  const each = 1 - (1 - falseAlarms) ** (1 / looks);
  const reach = normalQuantile(1 - each / 2, 0, 1) / Math.sqrt(weight);
  return { r: Math.tanh(z), low: Math.tanh(z - reach), high: Math.tanh(z + reach) };
}

const inner = (r: number): number => Math.max(-0.999999, Math.min(0.999999, r));

function judged(lags: LagCorrelation[]): Following {
  const standing = lags.filter(({ low, high }) => low > 0 || high < 0);
  const peak = standing.reduce<LagCorrelation | null>(
    (most, one) => (most === null || Math.abs(one.r) > Math.abs(most.r) ? one : most),
    null,
  );
  return { lags, peak };
}

/**
 * How the second series follows the first, lag by lag. Both lose their weekday and what their own last days say first
 * (Haugh 1976): two slow series that have nothing to do with each other move together for weeks, and their plain
 * correlation would claim what is not there. Lags with too few pairs are left out.
 */
export function following(
  first: Series,
  second: Series,
  { from, to }: { from: number; to: number } = usualLags,
): Following {
  const [a, b] = [surprises(first), surprises(second)];
  const looks = to - from + 1;
  const lags = Array.from({ length: looks }, (_, at): LagCorrelation | null => {
    const lag = from + at;
    const { r, pairs } = correlation(a, b, lag);
    if (pairs === 0) return null;
    return { lag, pairs, ...interval(Math.atanh(inner(r)), pairs - 3, looks) };
  });
  return judged(lags.filter((lag) => lag !== null));
}

/** Several pairs of series as one: what their keywords share, each weighed by its pairs of days. */
export function pooled(all: readonly Following[]): Following {
  const byLag = new Map<number, { z: number; weight: number; pairs: number }>();
  for (const { lag, r, pairs } of all.flatMap(({ lags }) => lags)) {
    const sum = byLag.get(lag) ?? { z: 0, weight: 0, pairs: 0 };
    const weight = pairs - 3;
    byLag.set(lag, {
      z: sum.z + weight * Math.atanh(inner(r)),
      weight: sum.weight + weight,
      pairs: sum.pairs + pairs,
    });
  }
  return judged(
    [...byLag]
      .sort(([a], [b]) => a - b)
      .map(([lag, { z, weight, pairs }]) => ({ lag, pairs, ...interval(z / weight, weight, byLag.size) })),
  );
}
