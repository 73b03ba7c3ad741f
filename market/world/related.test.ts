import { describe, expect, test } from 'vitest';
import { readScenario } from '../scenario.ts';
import { Matcher, type AdGroup, type Structure, type Target } from './account.ts';
import { Catalogue } from './catalogue.ts';
import { Advice } from './clearing.ts';
import { makeDemand } from './shoppers.ts';

const product = (sku: string, itemCode: string, concept: string) => ({
  sku,
  itemCode,
  title: sku,
  concept,
  price: 20,
  unitCost: 5,
  feeRate: 0.15,
  feeFixed: 0,
  shipping: 3,
  refundRate: 0.02,
  rating: 4.3,
  stock: 1000,
  clickRate: 0.03,
  conversion: 0.12,
  placementConversion: {},
});
const concept = (name: string, fit: Record<string, number>) => ({
  name,
  category: name,
  popularity: 1,
  rivalBid: 0.5,
  fit,
  kinds: [{ text: name, weight: 1 }],
  before: ['wide'],
  after: [],
});

/** Jars and lids go with each other; hoses with neither. */
const scenario = readScenario({
  seed: 3,
  account: { name: 'Jars', currency: 'EUR', timeZone: 'Europe/Berlin', firstDay: '2026-05-01' },
  movesFrom: '2026-05-10',
  searchesPerDay: 100,
  pageVisitsPerDay: 100,
  categoryVisitsPerDay: 100,
  queryCount: 20,
  products: [product('LID', 'QY2AAAAA', 'lids'), product('HOSE', 'QY2BBBBB', 'hoses')],
  concepts: [concept('lids', { LID: 1 }), concept('jars', { LID: 0.6 }), concept('hoses', { HOSE: 1 })],
  words: [{ text: 'wide', weight: 1, clickFactor: 1, conversionFactor: 1, fit: {} }],
  budgetGroups: [],
  campaigns: [],
});
const demand = makeDemand(scenario);
const catalogue = new Catalogue(scenario, demand);
catalogue.turnTo('2026-05-01', [1000, 1000]);

function matcherOf(expression: string, more: Partial<AdGroup> = {}): Matcher {
  const campaign = {
    id: 'c',
    name: 'c',
    kind: 'manual',
    budgetGroup: null,
    dailyBudget: 10,
    strategy: 'fixed',
    startDate: '2026-01-01',
    endDate: null,
    status: 'enabled' as const,
    modifiers: [0, 0, 0, 0],
  };
  const adGroup: AdGroup = {
    id: 'g',
    campaignId: 'c',
    name: 'g',
    defaultBid: 1,
    status: 'enabled',
    skus: ['LID'],
    ...more,
  };
  const target: Target = {
    id: 't',
    adGroupId: 'g',
    kind: 'category',
    matchType: null,
    expression,
    bid: 1,
    status: 'enabled',
  };
  const structure: Structure = {
    version: 1,
    budgetGroups: [],
    campaigns: new Map([['c', campaign]]),
    adGroups: new Map([['g', adGroup]]),
    targets: new Map([['t', target]]),
    negatives: new Map(),
    creatives: new Map(),
  };
  return new Matcher(
    structure,
    new Map([
      ['LID', 0],
      ['HOSE', 1],
    ]),
    catalogue,
  );
}

const shownIn = (matcher: Matcher) =>
  new Set(
    demand.pages.filter((page) => matcher.forCategory(page).length > 0).map(({ category }) => category),
  );

describe('category targets', () => {
  test('show in their category, and with the switch in those near it', () => {
    expect(shownIn(matcherOf('lids'))).toEqual(new Set(['lids']));
    expect(shownIn(matcherOf('lids', { relatedCategories: true }))).toEqual(new Set(['lids', 'jars']));
  });

  test('stand beside pages of the prices and ratings that they ask for, as these are today', () => {
    const matcher = matcherOf('lids, price 22.00-, rating -4.0');
    const asked = () =>
      demand.pages
        .filter((page) => matcher.forCategory(page).length > 0)
        .map((page) => catalogue.item(page.text)!);
    const before = asked();
    expect(before.length).toBeGreaterThan(2);
    for (const { price, rating } of before) expect([price >= 22, rating <= 4]).toEqual([true, true]);
    catalogue.turnTo('2026-06-20', [1000, 1000]);
    matcher.newDay();
    const after = asked();
    for (const { price, rating } of after) expect([price >= 22, rating <= 4]).toEqual([true, true]);
    expect(after.map(({ itemCode }) => itemCode)).not.toEqual(before.map(({ itemCode }) => itemCode));
    catalogue.turnTo('2026-05-01', [1000, 1000]);
  });
});

describe('the catalogue', () => {
  test('stands still until its day, and is the same whenever a day is turned to', () => {
    const at = (day: string) => {
      catalogue.turnTo(day, [1000, 0]);
      return JSON.stringify(catalogue.all.map(({ price, rating, discount }) => [price, rating, discount]));
    };
    expect(at('2026-05-09')).toBe(at('2026-05-01'));
    const moved = at('2026-05-20');
    expect(moved).not.toBe(at('2026-05-01'));
    expect(at('2026-05-20')).toBe(moved);
    expect(catalogue.item('QY2BBBBB')!.stock).toBe(0);
    catalogue.turnTo('2026-05-01', [1000, 1000]);
  });

  test('a dearer or sold out page sends its visitors on more gladly', () => {
    catalogue.turnTo('2026-06-20', [1000, 1000]);
    const lids = demand.pages.filter(({ own, category }) => own < 0 && category === 'lids');
    for (const page of lids) {
      const now = catalogue.item(page.text)!;
      const factor = catalogue.factor(page, 0);
      if (now.stock > 0 && now.price > 1.05 * page.price && now.rating === Math.round(page.rating * 10) / 10)
        expect(factor).toBeGreaterThan(1);
      if (now.stock === 0 && now.price >= page.price) expect(factor).toBeGreaterThan(1.2);
    }
    catalogue.turnTo('2026-05-01', [1000, 1000]);
  });
});

test('bids that clicks took rise with the rivals’ level', () => {
  const advice = (drift: number) =>
    new Advice(scenario, demand, [drift, 0, 0], (code) => catalogue.item(code));
  const asked = { kind: 'keyword', matchType: 'exact', expression: 'lids' };
  const low = advice(0).bidFor(0, asked)!;
  const high = advice(0.5).bidFor(0, asked)!;
  expect(low.low).toBeLessThan(low.middle);
  expect(low.middle).toBeLessThan(low.high);
  expect(high.middle / low.middle).toBeCloseTo(Math.exp(0.5), 1);
  expect(advice(0).bidFor(1, asked)).toBeNull();
});
