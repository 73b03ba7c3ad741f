import { describe, expect, test } from 'vitest';
import { micros } from '../metrics/money.ts';
import {
  acosAfter,
  addEffects,
  claimingOfLine,
  conflictKey,
  revertOf,
  totalEffect,
  type LineDraft,
} from './lines.ts';

const line = (values: Partial<LineDraft> = {}): LineDraft => ({
  action: 'update',
  entity: 'target',
  objectId: '7',
  campaignId: '1',
  adGroupId: '2',
  field: 'bid',
  oldValue: String(micros(0.5)),
  newValue: String(micros(0.4)),
  targetKind: 'keyword',
  matchType: 'exact',
  expression: 'airlock lids',
  harvest: null,
  test: null,
  reason: 'Cut',
  effect: { clicks: -5, spend: -3, orders: -1, sales: -10, salesLow: -14, salesHigh: -6, profit: -2 },
  ...values,
});

describe('conflicts', () => {
  test('two bids of one target share a key; another target, or its status, does not', () => {
    expect(conflictKey(line())).toBe(conflictKey(line({ newValue: '1' })));
    expect(conflictKey(line())).not.toBe(conflictKey(line({ objectId: '8' })));
    expect(conflictKey(line())).not.toBe(conflictKey(line({ action: 'archive', field: 'status' })));
  });

  test('one new keyword twice in an ad group, whatever its case', () => {
    const made = line({ action: 'create', objectId: null });
    expect(conflictKey(made)).toBe(conflictKey({ ...made, expression: 'Airlock Lids' }));
    expect(conflictKey(made)).not.toBe(conflictKey({ ...made, adGroupId: '3' }));
  });
});

describe('reverting', () => {
  test('a bid goes back, its effect turns', () => {
    const back = revertOf(line());
    expect([back.oldValue, back.newValue]).toEqual([String(micros(0.4)), String(micros(0.5))]);
    expect(back.effect).toMatchObject({ spend: 3, sales: 10, salesLow: 6, salesHigh: 14 });
  });

  test('a created object is archived, an archived one is made anew', () => {
    const archived = revertOf(line({ action: 'create', oldValue: null }));
    expect(archived).toMatchObject({ action: 'archive', field: 'status', objectId: '7' });
    expect(revertOf(archived)).toMatchObject({ action: 'create', objectId: null, field: 'bid' });
  });

  test('a revert of a revert sets what stood before', () => {
    expect(revertOf(revertOf(line())).newValue).toBe(line().newValue);
  });
});

test('effects add up; spreads add in squares', () => {
  const effect = (spend: number, half: number) => ({
    effect: {
      clicks: 0,
      spend,
      orders: 1,
      sales: 10,
      salesLow: 10 - half,
      salesHigh: 10 + half,
      profit: null,
    },
  });
  expect(totalEffect([effect(-5, 3), { effect: null }, effect(2, 4)])).toMatchObject({
    spend: -3,
    sales: 20,
    orders: 2,
    profit: null,
    // Lines of before forecasts had spreads: only their sales had an interval.
    spendSpread: 0,
    salesSpread: 5,
  });
});

test('spreads of every figure add in squares, 1.2816 deviations each; profit as long as costs are known', () => {
  const spreads = (by: number) => ({ clicks: by, spend: 2 * by, orders: by, sales: 10 * by, profit: by });
  const effect = (by: number) => ({
    effect: {
      clicks: 1,
      spend: 5,
      orders: 1,
      sales: 10,
      salesLow: 0,
      salesHigh: 0,
      profit: 2,
      spreads: spreads(by),
    },
  });
  const sum = totalEffect([effect(3), effect(4)]);
  expect(sum.profit).toBe(4);
  expect(sum.spendSpread).toBeCloseTo(1.2816 * 10);
  expect(sum.salesSpread).toBeCloseTo(1.2816 * 50);
  expect(sum.profitSpread).toBeCloseTo(1.2816 * 5);
});

test('ACOS after a sheet by hand: 100 + 20 of 400 + 100, half width 24 % x hypot(12/120, 50/500)', () => {
  const after = acosAfter(
    { spend: 100, sales: 400 },
    { spend: 20, sales: 100, spendSpread: 12, salesSpread: 50 },
  )!;
  expect(after.middle).toBeCloseTo(0.24);
  expect(after.high - after.middle).toBeCloseTo(0.24 * Math.hypot(0.1, 0.1));
  expect(
    acosAfter({ spend: 0, sales: 0 }, { spend: 0, sales: 0, spendSpread: 0, salesSpread: 0 }),
  ).toBeNull();
});

describe('lines that overlap', () => {
  const effect = { clicks: -10, spend: -8, orders: 0, sales: -2, salesLow: -4, salesHigh: 0, profit: null };
  const negative = (expression: string, matchType: string, part: number): LineDraft =>
    line({
      action: 'create',
      entity: 'negative',
      objectId: null,
      field: 'negative',
      matchType,
      expression,
      effect: { ...effect, claims: [{ targetId: '7', clicks: part * 20, part }] },
    });
  const counted = (one: LineDraft) => ({ effect: one.effect, claiming: claimingOfLine(one) });

  test('a phrase after a term that it holds counts only what the term has left', () => {
    const [term, phrase] = [
      negative('canning jars', 'negative_exact', 0.25),
      negative('canning', 'negative_phrase', 0.5),
    ];
    expect(totalEffect([counted(term), counted(phrase)]).spend).toBeCloseTo(-12, 9);
    expect(totalEffect([counted(phrase), counted(term)]).spend).toBe(-8);
  });

  test('a cut of the target’s bid counts what the negatives have left of it; a paused target leaves nothing', () => {
    const cut = line({
      effect: { ...effect, clicks: -5, spend: -4, before: { clicks: 20, spend: 16, orders: 1, sales: 20 } },
    });
    const term = negative('canning jars', 'negative_exact', 0.25);
    expect(totalEffect([counted(term), counted(cut)]).spend).toBeCloseTo(-8 - 4 * 0.75, 9);
    const paused = line({ field: 'status', newValue: 'paused', effect: null });
    expect(totalEffect([counted(paused), counted(term)]).spend).toBeCloseTo(0, 9);
  });

  test('parts that share no target add up: sums plainly, what is not known in squares', () => {
    const one = totalEffect([counted(line({ effect: { ...effect, profit: 3 } }))]);
    const both = addEffects([one, one]);
    expect(both).toMatchObject({ spend: -16, profit: 6 });
    expect(both.salesSpread).toBeCloseTo(one.salesSpread * Math.SQRT2, 9);
    expect(addEffects([one, { ...one, profit: null }]).profit).toBeNull();
  });
});
