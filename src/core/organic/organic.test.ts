import { randomLcg, randomNormal } from 'd3';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { following, ownMemory, pooled, surprises, type Series } from './follow.ts';
import { gained, shareOfRanks, shifted, visibility } from './visibility.ts';

const days = 90;

/** A slow series with a week of its own: each day a share of the day before, and something new. */
function slow(seed: number, share: number, week = 1): number[] {
  const normal = randomNormal.source(randomLcg(seed))(0, 1);
  const rhythm = Array.from({ length: 7 }, () => week * normal());
  let value = normal() / Math.sqrt(1 - share ** 2);
  return Array.from({ length: days }, (_, day) => (value = share * value + normal()) + rhythm[day % 7]!);
}

/** Follows the first by so many days, beside a slow life of its own. */
function follower(first: readonly number[], lag: number, strength: number, seed: number): number[] {
  const news = surprises(first);
  const normal = randomNormal.source(randomLcg(seed))(0, 1);
  let value = 0;
  return first.map((_, day) => {
    value = 0.8 * value + strength * (news[day - lag] ?? 0) + Math.sqrt(1 - strength ** 2) * normal();
    return value;
  });
}

const seeds = Array.from({ length: 400 }, (_, at) => (at + 1) / 401);

describe('whether one series follows another', () => {
  test('what a series owes to itself is found: an AR(1) of 0.7 by hand-made autocovariances', () => {
    const memory = ownMemory(slow(0.3, 0.7, 0));
    expect(memory[0]).toBeGreaterThan(0.5);
    expect(memory[0]).toBeLessThan(0.9);
    // Nothing to be told of noise that goes up and down by chance, or of a constant.
    expect(ownMemory(new Array<number>(days).fill(0))).toEqual([]);
  });

  test('surprises of a weekly pattern alone are nothing', () => {
    const weekly = Array.from({ length: days }, (_, day) => [3, 1, 4, 1, 5, 9, 2][day % 7]!);
    for (const value of surprises(weekly)) expect(value ?? 0).toBeCloseTo(0, 9);
  });

  test('series that have nothing to do with each other are said to follow in about 5 of 100 cases', () => {
    const claims = seeds.filter(
      (seed) => following(slow(seed, 0.95), slow(seed / 2 + 0.251, 0.9)).peak !== null,
    );
    expect(claims.length / seeds.length).toBeLessThan(0.09);
    // Plain correlation would claim most of them.
    const plain = seeds.filter((seed) => {
      const [a, b] = [slow(seed, 0.95, 0), slow(seed / 2 + 0.251, 0.95, 0)];
      const [x, y] = [a, b].map((one) => one.reduce((sum, value) => sum + value, 0) / days) as [
        number,
        number,
      ];
      const [xy, xx, yy] = a.reduce(
        ([p, q, r], value, day) => [
          p + (value - x) * (b[day]! - y),
          q + (value - x) ** 2,
          r + (b[day]! - y) ** 2,
        ],
        [0, 0, 0] as [number, number, number],
      );
      return Math.abs(xy / Math.sqrt(xx * yy)) > 0.21;
    });
    expect(plain.length / seeds.length).toBeGreaterThan(0.4);
  });

  test('a lag that is there is found at its place, and its interval holds the truth', () => {
    const strength = 0.6;
    const found = seeds.slice(0, 200).map((seed) => {
      const first = slow(seed, 0.9);
      return following(first, follower(first, 4, strength, seed / 3 + 0.5));
    });
    const right = found.filter(({ peak }) => peak?.lag === 4);
    expect(right.length / found.length).toBeGreaterThan(0.85);
    const held = found.filter(({ lags }) => {
      const at = lags.find(({ lag }) => lag === 4)!;
      return at.low <= strength && strength <= at.high;
    });
    expect(held.length / found.length).toBeGreaterThan(0.93);
  });

  test('weak followers are found together where each alone says nothing', () => {
    const pairs = Array.from({ length: 12 }, (_, at) => {
      const first = slow((at + 1) / 14, 0.8);
      return following(first, follower(first, 3, 0.3, (at + 1) / 29));
    });
    expect(pairs.filter(({ peak }) => peak?.lag === 3).length).toBeLessThan(9);
    const all = pooled(pairs);
    expect(all.peak?.lag).toBe(3);
    expect(all.peak!.low).toBeGreaterThan(0.1);
    expect(all.peak!.high).toBeLessThan(0.5);
    expect(all.peak!.pairs).toBe(
      pairs.reduce((sum, { lags }) => sum + lags.find(({ lag }) => lag === 3)!.pairs, 0),
    );
  });

  test('seen from the other series the lags are turned round', () => {
    const [a, b] = [slow(0.2, 0.9), slow(0.7, 0.5)];
    const there = following(a, b, { from: -5, to: 5 });
    const back = following(b, a, { from: -5, to: 5 });
    for (const { lag, r, pairs } of there.lags) {
      const other = back.lags.find((one) => one.lag === -lag)!;
      expect(other.r).toBeCloseTo(r, 12);
      expect(other.pairs).toBe(pairs);
    }
  });

  test('gaps, constants and a few days claim nothing and break nothing', () => {
    const series = fc.array(fc.option(fc.double({ noNaN: true, min: -1e9, max: 1e9 })), { maxLength: 60 });
    fc.assert(
      fc.property(series, series, (a, b) => {
        const { lags } = following(a as Series, b as Series);
        for (const { r, low, high, pairs } of lags) {
          expect(pairs).toBeGreaterThanOrEqual(20);
          expect(low).toBeLessThanOrEqual(r);
          expect(high).toBeGreaterThanOrEqual(r);
          expect(Math.abs(r)).toBeLessThanOrEqual(1);
        }
      }),
    );
    expect(following([1, 2, 3], [3, 2, 1])).toEqual({ lags: [], peak: null });
    expect(following(new Array<number>(90).fill(2), slow(0.4, 0.5)).lags).toEqual([]);
    expect(pooled([])).toEqual({ lags: [], peak: null });
  });
});

describe('what ranks are worth', () => {
  const untold = { sponsoredRank: [null, null, null], orders: [0, 0, 0] };
  const crock = { keyword: 'crock', organicRank: [2, 4, null], volume: [90, 110, 100], ...untold };
  const jar = { keyword: 'jar', organicRank: [10, 5, null], volume: [400, null, 400], ...untold };

  test('by hand: 100 / 2 + 400 / 10 = 90, then 25 + 80; no rank told is unknown, not nothing', () => {
    expect(visibility([crock, jar])).toEqual([90, 105, null]);
    expect(visibility([])).toEqual([]);
  });

  test('shares by hand: 100 x (1/2 + 1/4 + 0) / 3 = 25 of 25 + 400 x (1/10 + 1/5) / 3 = 40', () => {
    const shares = shareOfRanks([crock, jar]);
    expect(shares.get('crock')).toBeCloseTo(25 / 65, 12);
    expect(shares.get('jar')).toBeCloseTo(40 / 65, 12);
    const nothing = { organicRank: [null], volume: [null], sponsoredRank: [null], orders: [0] };
    expect(shareOfRanks([{ keyword: 'x', ...nothing }]).get('x')).toBe(0);
    // The last two days alone: 100 / 8 = 12.5 of 52.5.
    expect(shareOfRanks([crock, jar], 1, 3).get('crock')).toBeCloseTo(12.5 / 52.5, 12);
  });

  test('how gladly searchers buy, by hand: ads say it, drawn to the mean by four orders', () => {
    // Ads seen by 100 x 3 and 400 x 3 / 2 = 600 searches; 20 and 4 orders, 24 in 900: four orders are usual in 150.
    const shares = shareOfRanks([
      { ...crock, sponsoredRank: [1, 1, 1], orders: [8, 12, 0] },
      { ...jar, sponsoredRank: [2, 2, 2], orders: [4, 0, 0] },
    ]);
    const [ofCrock, ofJar] = [(25 * 24) / 450, (40 * 8) / 750];
    expect(shares.get('crock')).toBeCloseTo(ofCrock / (ofCrock + ofJar), 12);
    expect(shares.get('jar')).toBeCloseTo(ofJar / (ofCrock + ofJar), 12);
  });

  test('ranks as gains, and a series laid under another', () => {
    const [first, half, none] = gained([8, 4, null]);
    expect(half! - first!).toBeCloseTo(Math.LN2, 12);
    expect(none).toBeNull();
    expect(shifted([1, 2, 3, 4], 1)).toEqual([2, 3, 4, null]);
    expect(shifted([1, 2, 3, 4], -2)).toEqual([null, null, 1, 2]);
  });
});
