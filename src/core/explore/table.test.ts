import { describe, expect, test } from 'vitest';
import { exampleAccount } from '../../../tests/support/account.ts';
import type { Level } from '../account/levels.ts';

/**
 * A small account that can be reckoned by hand: a click costs 0.40, an order brings 20.00, the goal is 30 %, every bid
 * is 0.50, products have a margin of 50 %; the window has 28 days.
 */
const { table } = exampleAccount(
  [
    { name: 'Lids auto', sku: 'LID', targets: ['automatic close terms'] },
    { name: 'Lids exact', sku: 'LID', targets: ['exact airlock lids', 'exact silicone lids'] },
    { name: 'Jars broad', sku: 'JAR', targets: ['broad jars'], status: 'paused' },
    { name: 'Unknown', sku: null, targets: ['broad pots'] },
  ],
  [
    { by: 'Lids auto: close terms', term: 'lids', clicks: 100, orders: 5 },
    { by: 'Lids auto: close terms', term: 'lid set', clicks: 20 },
    { by: 'Lids exact: airlock lids', term: 'airlock lids', clicks: 50, orders: 10 },
    { by: 'Jars broad: jars', term: 'jars', clicks: 10, orders: 1 },
    { by: 'Unknown: pots', term: 'pots', clicks: 5 },
  ],
);
const values = (level: Level, ref: string) =>
  Array.from({ length: table.count(level) }, (_, row) => table.reader(level, ref)(row));
const rowOf = (level: Level, name: string) =>
  Array.from({ length: table.count(level) }, (_, row) => row).find(
    (row) => table.nameOf(level, row) === name,
  )!;
const at = (level: Level, name: string, ref: string) => table.reader(level, ref)(rowOf(level, name));

describe('sums of a level', () => {
  test('of targets are what their terms had', () => {
    expect(values('targets', 'clicks')).toEqual([120, 50, 0, 10, 5]);
    expect(values('targets', 'orders')).toEqual([5, 10, 0, 1, 0]);
    expect(values('targets', 'spend')).toEqual([48_000_000, 20_000_000, 0, 4_000_000, 2_000_000]);
  });

  test('of every level above are those of the targets below: nothing is lost on the way up', () => {
    for (const level of ['ad_groups', 'campaigns', 'products', 'account', 'terms'] as const) {
      const sum = (ref: string) => values(level, ref).reduce<number>((all, one) => all + (one as number), 0);
      const inside = level === 'products' ? 5 : 0;
      // What has no product is at no product: its five clicks stand at the levels that know it.
      expect(sum('clicks'), level).toBe(185 - inside);
      expect(sum('sales'), level).toBe(320_000_000);
    }
  });

  test('of products are told by their ad groups', () => {
    expect(at('products', 'LID for wide jars', 'clicks')).toBe(170);
    expect(at('products', 'JAR for wide jars', 'clicks')).toBe(10);
  });
});

describe('figures are ratios of sums', () => {
  test.each([
    // 68.00 of spend for 15 orders of 20.00.
    ['products', 'LID for wide jars', 'acos', 68 / 300],
    ['products', 'LID for wide jars', 'cvr', 15 / 170],
    ['campaigns', 'Lids exact', 'acos', 0.1],
    ['campaigns', 'Lids exact', 'roas', 10],
    ['campaigns', 'Lids auto', 'cpa', 9_600_000],
    ['campaigns', 'Lids auto', 'aov', 20_000_000],
    ['campaigns', 'Lids auto', 'ctr', 0.05],
    ['campaigns', 'Unknown', 'acos', Infinity],
    ['targets', 'silicone lids', 'acos', null],
    ['targets', 'silicone lids', 'cpc', null],
    // Goal 30 % of 100.00 less 48.00.
    ['campaigns', 'Lids auto', 'gain', -18_000_000],
    // Half of 200.00 less 20.00.
    ['campaigns', 'Lids exact', 'ad_profit', 80_000_000],
  ] as const)('%s %s: %s', (level, name, ref, value) => {
    const found = at(level, name, ref);
    if (typeof value === 'number' && Number.isFinite(value)) expect(found).toBeCloseTo(value, 9);
    else expect(found).toBe(value);
  });

  test('of a group are never means of those of its rows', () => {
    const [auto, exact] = [
      at('campaigns', 'Lids auto', 'acos'),
      at('campaigns', 'Lids exact', 'acos'),
    ] as number[];
    expect(at('products', 'LID for wide jars', 'acos')).not.toBeCloseTo((auto! + exact!) / 2, 3);
  });
});

describe('where a row stands', () => {
  test('names and places of a term lead up to its account', () => {
    const row = rowOf('terms', 'lid set');
    expect(table.reader('terms', 'target')(row)).toBe('close terms');
    expect(table.reader('terms', 'ad_group')(row)).toBe('Lids auto');
    expect(table.reader('terms', 'campaign')(row)).toBe('Lids auto');
    expect(table.reader('terms', 'product')(row)).toBe('LID');
  });

  test('the status of a campaign stands at what hangs on it', () => {
    expect(at('targets', 'jars', 'campaign_status')).toBe('paused');
    expect(at('targets', 'jars', 'status')).toBe('enabled');
  });

  test('what has no product says none', () => {
    expect(table.skuOf('targets', rowOf('targets', 'pots'))).toBeNull();
    expect(table.marginAt('targets', rowOf('targets', 'pots'))).toBeNull();
    expect(table.marginAt('targets', rowOf('targets', 'jars'))).toBe(0.5);
  });
});

describe('what is believed of a row', () => {
  test('lies between what its siblings say and what it says itself', () => {
    const row = rowOf('targets', 'airlock lids');
    const { gamma, prior } = table.belief('targets', row);
    const believed = gamma.shape / gamma.rate;
    expect(believed).toBeGreaterThan(Math.min(prior.mu, 0.2));
    expect(believed).toBeLessThan(Math.max(prior.mu, 0.2));
  });

  test('a row without a click is believed to be as its siblings', () => {
    const row = rowOf('targets', 'silicone lids');
    const { gamma, prior } = table.belief('targets', row);
    expect(gamma.shape / gamma.rate).toBeCloseTo(prior.mu, 9);
    expect(at('targets', 'silicone lids', 'verdict')).toBe('undecided');
  });

  test('ten orders of fifty clicks at an ACOS of 10 % are under a goal of 30 %', () => {
    expect(at('targets', 'airlock lids', 'verdict')).toBe('under');
    expect(at('targets', 'airlock lids', 'over')).toBeLessThan(0.2);
  });

  test('the goal that rules is told at every level', () => {
    for (const level of ['campaigns', 'ad_groups', 'targets', 'terms'] as const)
      expect(new Set(values(level, 'target_acos'))).toEqual(new Set([0.3]));
  });
});
