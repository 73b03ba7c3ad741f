import { beforeAll, describe, expect, test } from 'vitest';
import { families } from './crowd/families.ts';
import { makeCrowd } from './crowd/auction.ts';
import { bestSimple, coverage, measure, wayNames, type Measured } from './measure.ts';
import { insideOf } from './hours.ts';
import { forSameMoney, logRatio } from './strategies.ts';
import { playPlaced } from './placements.ts';
import { salesAtTarget } from './play.ts';
import { playRoutines, routineWays } from './routines.ts';

test('modifiers and bids that move together sell more than bids alone, where better targets stand at the top', () => {
  const plays = [0, 2].map((family) => playPlaced(family, 13));
  for (const one of plays) expect(one.with).toBeGreaterThan(one.without);
}, 120_000);

test('a routine by itself brings most of what a person’s round does', () => {
  const names = ['do nothing', 'Weekly bids, evidence'];
  const { ways } = playRoutines(
    0,
    5,
    routineWays.filter(({ name }) => names.includes(name)),
  );
  const [idle, weekly] = names.map((name) => ways[name]!.share);
  expect(weekly).toBeGreaterThan(0.75);
  expect(weekly).toBeGreaterThan(1.3 * idle!);
}, 120_000);

/** The laboratory in small: judgement that gets worse fails here before anybody plays all markets. */

describe('three markets', () => {
  let markets: Measured[];
  beforeAll(() => {
    markets = ['normal', 'sparse', 'wild'].map((name, i) =>
      measure(
        families.find((family) => family.name === name)!,
        3 + i,
      ),
    );
  }, 240_000);
  const share = (one: Measured, way: string) => one.ways[way]!.share;
  const median = (values: number[]) => [...values].sort((a, b) => a - b)[1]!;

  test('Mowing sells at least 1.2 times what the best simple way does, and never less', () => {
    const times = markets.map((one) => share(one, wayNames.all) / bestSimple(one));
    expect(median(times)).toBeGreaterThan(1.2);
    expect(Math.min(...times)).toBeGreaterThan(1);
  });

  test('forty findings a week bring most of it', () => {
    expect(
      median(markets.map((one) => share(one, wayNames.forty) / share(one, wayNames.all))),
    ).toBeGreaterThan(0.7);
  });

  test('80 % intervals hold the truth in 74 to 86 %', () => {
    const held = coverage(markets.map((one) => one.held));
    expect(held).toBeGreaterThan(0.74);
    expect(held).toBeLessThan(0.86);
  });

  test('verdicts “under” are right, expected revenue is not biased', () => {
    const sum = (list: (one: Measured) => number) => markets.reduce((total, one) => total + list(one), 0);
    expect(sum(({ held }) => held.under.right) / sum(({ held }) => held.under.said)).toBeGreaterThan(0.85);
    expect(sum(({ held }) => held.expected) / sum(({ held }) => held.truth)).toBeCloseTo(1, 1);
  });

  test('theta does not run away when half of the lines are never sent', () => {
    for (const { ways } of markets) {
      const [half, all] = [wayNames.half, wayNames.all].map((way) => ways[way]!.theta.at(-1)!);
      expect(half! / all!).toBeLessThan(1.5);
      expect(half! / all!).toBeGreaterThan(1 / 1.5);
    }
  });
});

test('sales at target by hand: 20 % over the target takes away a factor of 1.44', () => {
  const week = { spend: 30, sales: 100, changes: 0, theta: null };
  expect(salesAtTarget({ way: '', targetAcos: 0.3, weeks: [week] })).toBe(100);
  expect(salesAtTarget({ way: '', targetAcos: 0.25, weeks: [week] })).toBeCloseTo(100 / 1.44);
});

test('the crowd by hand: at the median of one rival half is won; nobody pays more than the bid or less than the least', () => {
  const crowd = makeCrowd(1, 0.5, 0.03);
  expect(crowd.wins(1, 1)).toBeCloseTo(0.5, 3);
  expect(crowd.wins(0.02, 1)).toBe(0);
  for (const u of [0.01, 0.5, 0.99]) {
    expect(crowd.draw(0.8, 1, u)).toBeLessThanOrEqual(0.8);
    expect(crowd.draw(0.8, 1, u)).toBeGreaterThanOrEqual(0.03);
  }
  // Of draws evenly spread the mean is the price.
  const draws = Array.from({ length: 2000 }, (_, i) => crowd.draw(0.8, 1, (i + 0.5) / 2000));
  expect(draws.reduce((sum, price) => sum + price, 0) / 2000).toBeCloseTo(crowd.price(0.8, 1), 2);
});

test('strategies by hand: the same lives side by side, and how far their ratio scatters', () => {
  const week = (spend: number, sales: number) => ({ clicks: 0, orders: 0, spend, sales });
  // 4 and 6 for a unit against 2 and 2: ln 2 and ln 3.
  const { mean, error } = logRatio([week(10, 40), week(10, 60)], [week(10, 20), week(20, 40)]);
  expect(Math.exp(2 * mean)).toBeCloseTo(6, 10);
  expect(error).toBeCloseTo(Math.log(1.5) / 2, 10);
  // The 10 of the first week sell 40 at 4 a unit, 20 more; the 20 of the second 120 at 6, 80 more.
  const { mean: more } = forSameMoney([week(5, 20), week(10, 60)], [week(10, 20), week(20, 40)]);
  expect(more).toBe(50);
});

test('times by hand: what is true is told beside the mean of clicks', () => {
  // Three quarters of the clicks where twice as much is sold: the mean is 1.75, the times 1.14 and 0.57.
  const told = (first: number, second: number, spread: number) =>
    insideOf(
      [
        { factor: first, spread },
        { factor: second, spread },
      ],
      [2, 1],
      [30, 10],
    );
  expect(told(1.143, 0.571, 0.001)).toEqual({ inside: 2, all: 2 });
  expect(told(1.3, 0.571, 0.05)).toEqual({ inside: 1, all: 2 });
  expect(told(1.3, 0.5, 0.11)).toEqual({ inside: 2, all: 2 });
});
