import { describe, expect, test } from 'vitest';
import { readScenario } from '../scenario.ts';
import { Matcher, type Campaign, type Structure } from './account.ts';
import { Catalogue } from './catalogue.ts';
import { liveDay, LivingDay, type HalfDay, type Memory, type Setting } from './day.ts';
import { makeDemand } from './shoppers.ts';
import type { DayResult } from './sums.ts';

const product = (sku: string, itemCode: string, fit: number) => ({
  sku,
  itemCode,
  title: sku,
  concept: 'lids',
  price: 20,
  unitCost: 5,
  feeRate: 0.15,
  feeFixed: 0,
  shipping: 3,
  refundRate: 0.02,
  rating: 4.3,
  stock: 1000,
  clickRate: 0.03 * fit,
  conversion: 0.12,
  placementConversion: { top: 1.1, rest: 1, pages: 0.8, browse: 0.7 },
});

/** A small market: two products, one thing that shoppers look for, in many words. */
const scenario = readScenario({
  seed: 5,
  account: { name: 'Jars', currency: 'EUR', timeZone: 'Europe/Berlin', firstDay: '2026-05-01' },
  searchesPerDay: 2000,
  pageVisitsPerDay: 300,
  categoryVisitsPerDay: 60,
  queryCount: 200,
  products: [product('LID', 'QY2AAAAA', 1), product('KIT', 'QY2BBBBB', 0.8)],
  concepts: [
    {
      name: 'lids',
      category: 'Kitchen',
      popularity: 1,
      rivalBid: 0.5,
      fit: { LID: 1, KIT: 0.8 },
      kinds: [
        { text: 'airlock lids', weight: 3 },
        { text: 'jar lids', weight: 2 },
      ],
      before: ['wide', 'steel', 'large'],
      after: ['for jars', 'set'],
    },
  ],
  words: ['wide', 'steel', 'large', 'for jars', 'set'].map((text) => ({
    text,
    weight: 1,
    clickFactor: 1,
    conversionFactor: 1,
    fit: {},
  })),
  budgetGroups: [],
  campaigns: [],
});
const demand = makeDemand(scenario);
const catalogue = new Catalogue(scenario, demand);
const turned = (day: string): Catalogue => {
  catalogue.turnTo(day, [1000, 1000]);
  return catalogue;
};
turned('2026-05-01');
const products = new Map(scenario.products.map(({ sku }, p) => [sku, p]));
const sku = scenario.products[0]!.sku;

const campaign = (id: string, more: Partial<Campaign> = {}): Campaign => ({
  id,
  name: id,
  kind: 'automatic',
  budgetGroup: null,
  dailyBudget: 1000,
  strategy: 'fixed',
  startDate: '2026-01-01',
  endDate: null,
  status: 'enabled',
  modifiers: [0, 0, 0, 0],
  ...more,
});

/** Campaigns that each catch whatever is close to the product, at one bid. */
function structureOf(campaigns: Campaign[], bid = 1, groups: Structure['budgetGroups'] = []): Structure {
  const modes = ['close terms', 'wide terms', 'similar items', 'companion items'];
  return {
    version: 1,
    budgetGroups: groups,
    campaigns: new Map(campaigns.map((one) => [one.id, one])),
    adGroups: new Map(
      campaigns.map(({ id }) => [
        `g${id}`,
        { id: `g${id}`, campaignId: id, name: id, defaultBid: bid, status: 'enabled' as const, skus: [sku] },
      ]),
    ),
    targets: new Map(
      campaigns.flatMap(({ id }) =>
        modes.map((expression, at) => {
          const target = { id: `${id}t${at}`, adGroupId: `g${id}`, kind: 'automatic', matchType: null };
          return [target.id, { ...target, expression, bid, status: 'enabled' as const }] as const;
        }),
      ),
    ),
    negatives: new Map(),
    creatives: new Map(),
  };
}

const memoryOf = (stock = 1e6): Memory => ({
  stock: scenario.products.map(() => stock),
  listed: scenario.products.map(() => stock > 0),
  rivalDrift: scenario.concepts.map(() => 0),
  organic: {},
});
const settingOf = (structure: Structure, day: string): Setting => {
  const matcher = new Matcher(structure, products, catalogue);
  return { scenario, demand, structure, matcher, catalogue: turned(day) };
};
const live = (structure: Structure, day = '2026-06-02', memory = memoryOf()): DayResult =>
  liveDay(settingOf(structure, day), memory, day);
const sum = (numbers: number[]) => numbers.reduce((a, b) => a + b, 0);
const spendOf = ({ ads }: DayResult, id: string) =>
  sum(ads.filter(({ targetId }) => targetId.startsWith(`${id}t`)).map(({ spend }) => spend));

describe('a day of the marketplace', () => {
  const one = live(structureOf([campaign('a'), campaign('b', { strategy: 'down_only' })]));

  test('is the same each time it is lived', () => {
    expect(live(structureOf([campaign('a'), campaign('b', { strategy: 'down_only' })]))).toEqual(one);
    expect(live(structureOf([campaign('a')]), '2026-06-03')).not.toEqual(live(structureOf([campaign('a')])));
  });

  test('hours and terms tell the same impressions, clicks and spend', () => {
    for (const id of ['a', 'b']) {
      const ads = one.ads.filter(({ targetId }) => targetId.startsWith(`${id}t`));
      const hours = one.hours.filter(({ campaignId }) => campaignId === id);
      for (const figure of ['impressions', 'clicks'] as const)
        expect(sum(hours.map((hour) => hour[figure]))).toBe(sum(ads.map((ad) => ad[figure])));
      expect(sum(hours.map(({ spend }) => spend))).toBeCloseTo(sum(ads.map(({ spend }) => spend)), 6);
      expect(ads.length).toBeGreaterThan(20);
    }
  });

  test('each term, target and placement has one row; no click without an impression, no spend without a click', () => {
    const keys = one.ads.map(({ targetId, term, placement }) => `${targetId}\t${term}\t${placement}`);
    expect(new Set(keys).size).toBe(keys.length);
    for (const { impressions, clicks, spend } of one.ads) {
      expect(clicks).toBeLessThanOrEqual(impressions);
      expect(spend > 0).toBe(clicks > 0);
      // Nobody pays more than the bid.
      expect(spend).toBeLessThanOrEqual(clicks * 1 + 1e-9);
    }
  });

  test('orders come from clicks of their target, and take from the stock', () => {
    const memory = memoryOf();
    const day = live(structureOf([campaign('a', { dailyBudget: 1e6 })], 3), '2026-06-02', memory);
    for (const { targetId, term, placement, units, sales } of day.orders) {
      const ad = day.ads.find(
        (one) => one.targetId === targetId && one.term === term && one.placement === placement,
      );
      expect(ad!.clicks).toBeGreaterThan(0);
      expect(units).toBeGreaterThan(0);
      expect(sales).toBeGreaterThan(0);
    }
    const gone = sum(memory.stock.map((left) => 1e6 - left));
    const organic = sum(day.products.map(({ organicUnits }) => organicUnits));
    expect(gone).toBe(sum(day.orders.map(({ units }) => units)) + organic);
  });

  test('what is out of stock is not shown once the marketplace has counted', () => {
    expect(live(structureOf([campaign('a')]), '2026-06-02', memoryOf(0)).ads).toEqual([]);
  });
});

describe('a day in pieces', () => {
  const shared = { budgetGroup: 'g', dailyBudget: 1000 };
  const groups = [{ id: 'g', name: 'g', dailyBudget: 4 }];
  const campaigns = [
    campaign('a', { dailyBudget: 3 }),
    campaign('b', { pacing: 'even', dailyBudget: 4 }),
    campaign('c', shared),
    campaign('d', shared),
  ];
  const pieces = (hours: number[], structures: Structure[]) => {
    let memory = memoryOf();
    let half: HalfDay | null = null;
    for (const [at, until] of hours.entries()) {
      const setting = settingOf(structures[at] ?? structures[0]!, '2026-06-02');
      const living: LivingDay = half
        ? LivingDay.resume(setting, memory, half)
        : LivingDay.begin(setting, memory, '2026-06-02');
      while (living.hours < until) living.liveHour();
      if (until === 24) return { result: living.close(), memory };
      // What is kept goes through the database as JSON.
      half = JSON.parse(JSON.stringify(living.pause().half)) as HalfDay;
      memory = JSON.parse(JSON.stringify(memory)) as Memory;
    }
    throw new Error('The last piece ends the day.');
  };

  test('comes to what one go comes to, wherever it is cut', () => {
    const structure = structureOf(campaigns, 1, groups);
    const memory = memoryOf();
    const whole = live(structure, '2026-06-02', memory);
    for (const hours of [
      [1, 24],
      [23, 24],
      [7, 12, 13, 24],
      Array.from({ length: 24 }, (_, hour) => hour + 1),
    ])
      expect(pieces(hours, [structure])).toEqual({ result: whole, memory });
  });

  test('settings that change at noon count from noon on', () => {
    const structure = structureOf(campaigns, 1, groups);
    const later = structureOf(
      [campaign('a', { dailyBudget: 1000 }), ...campaigns.slice(1, 3), campaign('d', { status: 'paused' })],
      1,
      groups,
    );
    const { result } = pieces([12, 24], [structure, later]);
    const minutes = (id: string, from: number, to: number) =>
      result.hours.filter((row) => row.campaignId === id && row.hour >= from && row.hour < to);
    // Its three euros were gone in the morning; with more it shows all afternoon.
    expect(minutes('a', 11, 12)[0]!.minutes).toBe(0);
    expect(minutes('a', 12, 24).every((row) => row.minutes === 60 && row.impressions > 0)).toBe(true);
    expect(minutes('d', 0, 12)).toHaveLength(12);
    expect(minutes('d', 12, 24)).toHaveLength(0);
  });

  test('the wallet is told as it stands at each pause', () => {
    const setting = settingOf(structureOf([campaign('a')]), '2026-06-02');
    const memory = { ...memoryOf(), wallet: 100 };
    const living = LivingDay.begin(setting, memory, '2026-06-02');
    while (living.hours < 12) living.liveHour();
    const { result } = living.pause();
    expect(memory.wallet).toBeCloseTo(100 - sum(result.ads.map(({ spend }) => spend)), 6);
    expect(memory.wallet).toBeLessThan(100);
    while (living.hours < 24) living.liveHour();
    expect(memory.wallet).toBeGreaterThan(0);
    expect(sum(living.close().ads.map(({ spend }) => spend))).toBeCloseTo(100 - memory.wallet, 6);
  });
});

describe('budgets', () => {
  test('a campaign stops at its budget, at most one click beyond it, and its minutes end', () => {
    const day = live(structureOf([campaign('a', { dailyBudget: 3 }), campaign('b')]));
    expect(spendOf(day, 'a')).toBeGreaterThanOrEqual(3);
    expect(spendOf(day, 'a')).toBeLessThan(3 + 1);
    expect(spendOf(day, 'b')).toBeGreaterThan(4);
    const minutes = day.hours.filter(({ campaignId }) => campaignId === 'a').map(({ minutes }) => minutes);
    expect(minutes[0]).toBe(60);
    expect(minutes.at(-1)).toBe(0);
    const out = minutes.findIndex((left) => left < 60);
    expect(minutes.slice(out + 1).every((left) => left === 0)).toBe(true);
    // Nothing is shown in an hour without a minute.
    for (const { campaignId, minutes: left, impressions } of day.hours)
      if (campaignId === 'a' && left === 0) expect(impressions).toBe(0);
  });

  test('campaigns of a budget group stop together', () => {
    const shared = { budgetGroup: 'g', dailyBudget: 1000 };
    const groups = [{ id: 'g', name: 'g', dailyBudget: 5 }];
    const day = live(structureOf([campaign('a', shared), campaign('b', shared), campaign('c')], 1, groups));
    const spent = spendOf(day, 'a') + spendOf(day, 'b');
    expect(spent).toBeGreaterThanOrEqual(5);
    expect(spent).toBeLessThan(6);
    expect(spendOf(day, 'c')).toBeGreaterThan(spent / 4);
    const last = (id: string) => day.hours.findLast(({ campaignId }) => campaignId === id)!.minutes;
    expect(['a', 'b', 'c'].map(last)).toEqual([0, 0, 60]);
  });

  test('before its first day, after its last and while paused nothing runs', () => {
    const day = live(
      structureOf([
        campaign('a', { startDate: '2026-06-03' }),
        campaign('b', { endDate: '2026-06-01' }),
        campaign('c', { status: 'paused' }),
        campaign('d', { startDate: '2026-06-02', endDate: '2026-06-02' }),
      ]),
    );
    expect(['a', 'b', 'c'].map((id) => spendOf(day, id))).toEqual([0, 0, 0]);
    expect(spendOf(day, 'd')).toBeGreaterThan(0);
    expect(new Set(day.hours.map(({ campaignId }) => campaignId))).toEqual(new Set(['d']));
  });
});
