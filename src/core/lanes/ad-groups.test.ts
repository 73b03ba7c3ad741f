import { expect, test } from 'vitest';
import { defaultGuards } from '../bids/guards.ts';
import { editLane, type LaneRow } from '../edits/edits.ts';
import { runningOn } from '../account/running.ts';
import { Lanes } from './ad-groups.ts';
import type { Objects, TargetObject } from '../account/store.ts';

const target = (adGroup: number, kind: string, matchType: string | null): TargetObject => ({
  id: String(adGroup + 1),
  adGroup,
  kind,
  matchType,
  expression: 'lid set',
  bid: 450_000,
  status: 'enabled',
  changedOn: null,
  bidBefore: null,
  firstSeen: null,
  lastSeen: null,
});
const campaign = (id: string, name: string, kind = 'manual') => ({
  id,
  name,
  kind,
  status: 'enabled',
  fields: {},
  strategy: null,
  budgetGroup: null,
  endDate: null,
});
const adGroup = (id: string, at: number, name: string, sku: string) => ({
  id,
  campaign: at,
  name,
  status: 'enabled',
  sku,
  fields: {},
});

const objects: Objects = {
  budgetGroups: [],
  products: [],
  placements: [],
  negatives: [],
  campaigns: [
    campaign('1', 'Lids automatic', 'automatic'),
    campaign('2', 'Lids broad'),
    campaign('3', 'Lids exact'),
    campaign('4', 'Jars automatic', 'automatic'),
  ],
  adGroups: [
    adGroup('11', 0, 'Lids automatic', 'LID'),
    adGroup('12', 1, 'Lids broad', 'LID'),
    adGroup('13', 2, 'Lids exact', 'LID'),
    adGroup('14', 3, 'Jars automatic', 'JAR'),
  ],
  targets: [
    target(0, 'automatic', null),
    target(1, 'keyword', 'broad'),
    target(2, 'keyword', 'exact'),
    target(3, 'automatic', null),
  ],
};
const lanes = new Lanes(objects, runningOn(objects, '2026-11-21'), '^QY[0-9]{6}$', null);

test('a term goes to the exact ad group of its product, and is blocked in all of its research', () => {
  for (const source of [0, 1]) {
    expect(lanes.of(source, 'airlock lids')).toMatchObject({
      adGroup: 2,
      lane: { kind: 'keyword', matchType: 'exact' },
      isolateIn: [0, 1],
    });
  }
});

test('what has nowhere to go says so', () => {
  expect(lanes.of(0, 'QY000123')).toBe('No lane for items leads out of Lids automatic.');
  expect(lanes.of(3, 'jar')).toBe('No lane for keywords leads out of Jars automatic.');
  expect(lanes.of(2, 'lid set')).toBe('No lane for keywords leads out of Lids exact.');
});

const row: LaneRow = {
  term: 'airlock lids',
  served: null,
  blocked: null,
  destination: lanes.of(0, 'airlock lids'),
  whyNoKeyword: null,
  rpc: 2_000_000,
  theta: 0.25,
  paidPerBid: 0.6,
  cpc: 600_000,
};

test('the first bid is theta of revenue per click, held by what a click has cost', () => {
  // 2.00 x 0.25 = 0.50; a click may cost 2 x 0.60, which a bid of 2.00 would.
  expect(editLane(row, defaultGuards)).toEqual({ old: null, next: '500000', held: [], problem: null });
  // 2.00 x 0.25 = 0.50 against 2 x 0.09 / 0.6 = 0.30.
  expect(editLane({ ...row, cpc: 90_000 }, defaultGuards)).toEqual({
    old: null,
    next: '300000',
    held: ['highest CPC'],
    problem: null,
  });
  const poor = editLane({ ...row, rpc: 10_000 }, defaultGuards);
  expect([poor.next, poor.held]).toEqual([
    String(Math.max(defaultGuards.floor, defaultGuards.minimumBid)),
    ['floor'],
  ]);
});

test.each([
  [{ served: 'exact in Lids exact' }, 'Served already: exact in Lids exact.'],
  [{ blocked: 'negative exact “x” in Lids' }, 'Blocked already by negative exact “x” in Lids.'],
  [{ destination: 'Nowhere.' }, 'Nowhere.'],
  [{ whyNoKeyword: 'It has 12 words, 10 are the most.' }, 'It has 12 words, 10 are the most.'],
])('a row that stays says why: %o', (more, problem) => {
  expect(editLane({ ...row, ...more }, defaultGuards)).toEqual({ old: null, next: null, held: [], problem });
});
