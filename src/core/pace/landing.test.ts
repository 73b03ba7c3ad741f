import { describe, expect, test } from 'vitest';
import { addDays } from '../metrics/days.ts';
import {
  forecastDays,
  landing,
  monthOf,
  runsDry,
  usualError,
  weekdayProfile,
  type DayValue,
} from './landing.ts';

const series = (from: string, values: readonly number[]): DayValue[] =>
  values.map((value, at) => ({ day: addDays(from, at), value }));

/** Numbers that look random, about normal, and are the same each time. */
function noise(seed: number): () => number {
  let state = seed;
  const unit = () => {
    state = (state * 1103515245 + 12345) % 2147483648;
    return (state + 0.5) / 2147483648;
  };
  return () => (unit() + unit() + unit() + unit() - 2) * Math.sqrt(3);
}

describe('where a month lands', () => {
  test('by hand: ten a day and twenty on Sundays', () => {
    // 2026-03-02 is a Monday. Eight weeks of it, then the rest of May.
    const days = series(
      '2026-03-02',
      Array.from({ length: 70 }, (_, at) => (at % 7 === 6 ? 20 : 10)),
    );
    const profile = weekdayProfile(days);
    // Mean day 80 / 7; with two even days added to eight Sundays: (8 x 20 + 2 x 11.43) / 10 / 11.43.
    expect(profile[0]).toBeCloseTo((160 + 2 * (80 / 7)) / 10 / (80 / 7), 6);
    expect(forecastDays(days, 7).every((value, at) => (at === 6 ? value > 16 : value < 12))).toBe(true);
    const found = landing(days, '2026-05-01', '2026-05-31');
    // To 10 May: two Sundays (3, 10) and eight other days.
    expect(found.done).toBe(120);
    expect(found.left).toBe(21);
    // 18 days of ten and three Sundays of twenty are to come: 240.
    expect(found.middle).toBeGreaterThan(350);
    expect(found.middle).toBeLessThan(372);
    expect(found.low).toBeLessThan(found.middle);
  });

  test('a month that is over landed; one that has not begun is all forecast; without a day there is nothing', () => {
    const days = series('2026-04-01', Array<number>(40).fill(5));
    expect(landing(days, '2026-04-01', '2026-04-30')).toMatchObject({ done: 150, middle: 150, left: 0 });
    const next = landing(days, '2026-06-01', '2026-06-30');
    expect(next).toMatchObject({ done: 0, left: 30 });
    expect(next.middle).toBeCloseTo(150, 0);
    expect(landing([], '2026-06-01', '2026-06-30')).toMatchObject({ done: 0, middle: 0 });
    expect(monthOf('2028-02-11')).toEqual({ first: '2028-02-01', last: '2028-02-29' });
  });

  test('a rise goes on for a while, and dies down', () => {
    const days = series(
      '2026-03-02',
      Array.from({ length: 84 }, (_, at) => 10 * 1.01 ** at),
    );
    const ahead = forecastDays(days, 28);
    const last = days.at(-1)!.value;
    expect(ahead[6]!).toBeGreaterThan(last * 0.93);
    expect(ahead[27]! / ahead[13]!).toBeLessThan(1.02);
  });

  test('against hidden truth: the 80 % interval holds about as often', () => {
    let inside = 0;
    const runs = 120;
    for (let run = 0; run < runs; run++) {
      const next = noise(run + 1);
      let drift = 0;
      const values = Array.from({ length: 105 }, (_, at) => {
        drift += 0.02 * next();
        return 100 * Math.exp(drift + 0.12 * next()) * (at % 7 < 2 ? 1.4 : 1);
      });
      const days = series('2026-02-01', values);
      const known = days.slice(0, 85);
      const found = landing(known, known.at(-1)!.day, days.at(-1)!.day);
      const seen = days.slice(84).reduce((sum, { value }) => sum + value, 0);
      if (seen >= found.low && seen <= found.high) inside++;
    }
    expect(inside / runs).toBeGreaterThan(0.7);
    expect(inside / runs).toBeLessThan(0.95);
  });

  test('few days: a wide interval, narrower over more days', () => {
    const days = series('2026-05-01', [4, 6, 5]);
    expect(usualError(days, 1)).toBeGreaterThan(usualError(days, 9));
  });

  test('money runs dry on the day it does', () => {
    expect(runsDry(100, 30, '2026-05-10')).toBe('2026-05-13');
    expect(runsDry(0, 30, '2026-05-10')).toBe('2026-05-10');
    expect(runsDry(100, 0, '2026-05-10')).toBeNull();
    expect(runsDry(1e6, 1, '2026-05-10')).toBeNull();
  });
});
