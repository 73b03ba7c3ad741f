import { randomLcg, randomNormal, randomPoisson } from 'd3';
import { describe, expect, test } from 'vitest';
import { noSums, type Sums } from '../metrics/figures.ts';
import { sentenceOfStrategy } from './explain.ts';
import {
  compareStrategies,
  servedBetter,
  strategyCampaigns,
  surelyBetter,
  underItsStrategy,
  type Aim,
  type StrategyCampaign,
} from './strategies.ts';

const one = (part: Partial<StrategyCampaign>): StrategyCampaign => ({
  campaignId: '1',
  sku: 'A',
  aim: 'exact',
  strategy: 'fixed',
  spend: 100e6,
  sales: 400e6,
  orders: 150,
  ...part,
});

/** An account: products and aims of their own worth, campaigns that lie apart, and what a strategy is truly worth. */
function account(seed: number, worth: Record<string, number>, apart: number, size = 40): StrategyCampaign[] {
  const source = randomLcg(seed);
  const normal = randomNormal.source(source)(0, 1);
  const aims: Record<Aim, number> = { automatic: -0.3, exact: 0.3, wide: 0, items: -0.1 };
  const names = Object.keys(worth);
  return Array.from({ length: size }, (_, at) => {
    const sku = String(at % 8);
    const aim = Object.keys(aims)[at % 4] as Aim;
    const strategy = names[Math.floor(source() * names.length)]!;
    const spend = 50 + 400 * source();
    const roas = Math.exp(1.2 + 0.4 * Math.sin(at % 8) + aims[aim] + worth[strategy]! + apart * normal());
    const orders = randomPoisson.source(source)((spend * roas) / 25)();
    return { campaignId: String(at), sku, aim, strategy, spend: spend * 1e6, sales: orders * 25e6, orders };
  });
}

const seeds = Array.from({ length: 200 }, (_, at) => (at + 0.5) / 200);

describe('strategies', () => {
  test('by hand: 4.00 and 2.00 a unit among alike campaigns is twice; the interval from 1.5 / 150 each', () => {
    const fixed = [one({}), one({ sku: 'B' })];
    const down = fixed.map((row) => ({ ...row, strategy: 'down_only', sales: 200e6 }));
    const [pair] = compareStrategies([...fixed, ...down]);
    expect(pair).toMatchObject({ strategy: 'fixed', against: 'down_only', campaigns: 2, others: 2 });
    expect(pair!.ratio).toBeCloseTo(2, 9);
    // Variance of each mean: 0.01 / 2; of the difference 0.01.
    expect(pair!.high / pair!.ratio).toBeCloseTo(Math.exp(1.2816 * 0.1), 6);
    expect(pair!.chance).toBeGreaterThan(0.999);
  });

  test('who would be served better, once, and about what that sells a week', () => {
    const fixed = Array.from({ length: 6 }, (_, at) => one({ campaignId: String(at), sku: `P${at % 2}` }));
    const down = fixed.map((row, at) => ({
      ...row,
      campaignId: `d${at}`,
      strategy: 'down_only',
      sales: 200e6,
    }));
    const apart = one({ campaignId: 'x', sku: 'C', strategy: 'down_only', aim: 'automatic', sales: 100e6 });
    const all = [...fixed, ...down, apart];
    const [found, ...others] = servedBetter(all, compareStrategies(all), 28);
    expect(others).toEqual([]);
    // Nobody aims automatically under fixed: that one is left.
    expect(found!.campaigns.map(({ campaignId }) => campaignId)).toEqual(
      down.map(({ campaignId }) => campaignId),
    );
    // 0.65 of ln 2 stays, 0.451, with a spread of sqrt((0.65 x 0.1 / sqrt 3)^2 + (0.25 ln 2)^2) = 0.177: believed by 0.866,
    // which is 1.477; 1,200 x 0.477 / 4 weeks.
    expect(found!.sales / 1e6).toBeCloseTo(143.2, 1);
    expect(found!.pair.switched.ratio).toBeCloseTo(2 ** 0.65, 9);
    expect(Math.log(found!.pair.switched.high) - 0.65 * Math.LN2).toBeCloseTo(1.2816 * 0.1773, 3);
    // One fewer under one of them: it may be these five.
    const fewer = all.filter(({ campaignId }) => campaignId !== 'd0');
    expect(servedBetter(fewer, compareStrategies(fewer), 28)).toEqual([]);
    expect(servedBetter(all, [])).toEqual([]);
  });

  test('the sentence of a pair says both ratios', () => {
    const twice = { ratio: 2, low: 1.6, high: 2.5 };
    const switched = { ratio: 1.57, low: 1.2, high: 2.054 };
    const pair = { strategy: 'down_only', against: 'fixed', ...twice, switched, chance: 0.99 };
    expect(sentenceOfStrategy({ ...pair, campaigns: 9, others: 12 })).toBe(
      'Of a unit spent down only sells 2.00 × (1.60 to 2.50) what fixed does, among 9 and 12 campaigns that aim alike; ' +
        'once these switch too, about 1.57 × (1.20 to 2.05).',
    );
  });

  test('a strategy changed within the window: the days after count, and the campaign is left as it is', () => {
    const sums = (spend: number, sales: number): Sums => ({ ...noSums, spend, sales, orders: 9 });
    const row = {
      ...one({ strategy: 'down_only' }),
      name: 'Crock',
      placements: [
        { placement: 'top_of_search', sums: sums(80e6, 100e6) },
        { placement: 'product_page', sums: sums(20e6, 10e6) },
      ],
      sinceStrategy: { day: '2026-11-02', sums: { top_of_search: sums(30e6, 90e6) } },
    };
    expect(strategyCampaigns([row])).toEqual([
      expect.objectContaining({ spend: 30e6, sales: 90e6, orders: 9, isNew: true }),
    ]);
    expect(underItsStrategy(row).placements[1]!.sums).toEqual(noSums);
    const older = { ...row, sinceStrategy: null };
    expect(underItsStrategy(older)).toBe(older);
    expect(strategyCampaigns([older])[0]).toMatchObject({ spend: 100e6, sales: 110e6, isNew: false });
    // Seven would be served better; the one that was changed only now is left.
    const fixed = Array.from({ length: 6 }, (_, at) => one({ campaignId: String(at) }));
    const down = Array.from({ length: 7 }, (_, at) =>
      one({ campaignId: `d${at}`, strategy: 'down_only', sales: 200e6, isNew: at === 0 }),
    );
    const all = [...fixed, ...down];
    const [found] = servedBetter(all, compareStrategies(all), 28);
    expect(found!.campaigns.map(({ campaignId }) => campaignId)).toEqual([
      'd1',
      'd2',
      'd3',
      'd4',
      'd5',
      'd6',
    ]);
  });

  test('only what aims alike is compared; too few, or too few orders, say nothing', () => {
    expect(compareStrategies([one({}), one({ strategy: 'down_only', aim: 'automatic' })])).toEqual([]);
    expect(compareStrategies([one({}), one({ strategy: 'down_only' })])).toEqual([]);
    const few = [one({}), one({}), one({}), one({ strategy: 'down_only', orders: 4 })];
    expect(compareStrategies(few)).toEqual([]);
    expect(compareStrategies([])).toEqual([]);
  });

  test('a product that sells dear does not pass for a strategy', () => {
    const rows = ['A', 'B', 'C'].flatMap((sku, at) =>
      ['fixed', 'down_only'].map((strategy) => one({ sku, strategy, sales: (at + 1) * 200e6 })),
    );
    expect(compareStrategies(rows)[0]!.ratio).toBeCloseTo(1, 6);
  });

  test('where strategies are worth the same, one is said to be surely better in about a tenth of accounts', () => {
    const said = seeds.filter((seed) =>
      compareStrategies(account(seed, { fixed: 0, down_only: 0 }, 0.35)).some(
        ({ chance }) => chance >= surelyBetter,
      ),
    );
    expect(said.length / seeds.length).toBeLessThan(0.15);
  });

  test('a strategy that sells 1.4 times as much is found, and its interval holds the truth', () => {
    const found = seeds.map(
      (seed) => compareStrategies(account(seed, { fixed: 0, down_only: Math.log(1.4) }, 0.25))[0]!,
    );
    const right = found.filter(({ strategy, chance }) => strategy === 'down_only' && chance >= surelyBetter);
    expect(right.length / found.length).toBeGreaterThan(0.75);
    const held = found.filter(
      ({ strategy, low, high }) => strategy === 'down_only' && low <= 1.4 && high >= 1.4,
    );
    expect(held.length / found.length).toBeGreaterThan(0.68);
    expect(held.length / found.length).toBeLessThan(0.9);
  });
});
