import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { micros } from '../metrics/money.ts';
import type { BudgetRow } from '../budgets/rows.ts';
import { nextStage, sharesOf, stageBudgets, usualStages, type Standing } from './stages.ts';

const rules = { ...usualStages, from: 0.1, to: 0.3 };
const row = (name: string, more: Partial<BudgetRow> = {}): BudgetRow => ({
  campaignId: name,
  name,
  sku: 'A',
  budget: micros(10),
  isResearch: false,
  since: '2026-01-01',
  days: [],
  full: Array.from({ length: 10 }, () => micros(12)),
  shown: 1,
  caught: 0,
  lost: { clicks: 0, clicksSpread: 0, sales: 0, salesSpread: 0 },
  sums: { clicks: 200, spend: micros(100), orders: 20, sales: micros(500) },
  cpc: micros(0.5),
  earns: micros(2.5),
  earnsSpread: micros(0.3),
  targetAcos: 0.3,
  theta: 0.4,
  proposal: null,
  isFinding: false,
  isHeld: false,
  lines: 0,
  ...more,
});
const sums = (acos: number, orders = 20) => ({
  clicks: 200,
  spend: micros(500 * acos),
  orders,
  sales: micros(500),
});
const stand = (one: BudgetRow, was: Standing | null, today = '2026-11-20') =>
  nextStage(rules, one, was, 0.5, today);

describe('where a campaign stands', () => {
  test('research stays research; within the range it earns; outside it is tuned', () => {
    expect(stand(row('auto', { isResearch: true }), null).now.stage).toBe('research');
    expect(stand(row('good'), null)).toMatchObject({
      now: { stage: 'earning' },
      why: 'ACOS 20 % lies within 10 % to 30 %.',
    });
    expect(stand(row('bad', { sums: sums(0.5) }), null)).toMatchObject({ now: { stage: 'tuning' } });
  });

  test('few orders say nothing: it stays where it is', () => {
    const few = row('few', { sums: sums(0.2, 3) });
    expect(stand(few, null)).toMatchObject({
      now: { stage: 'tuning' },
      why: '3 orders say too little; 5 are asked for.',
    });
    const earning: Standing = { stage: 'earning', since: '2026-10-01', outSince: null };
    expect(stand(few, earning).now).toEqual(earning);
  });

  test('one that earns goes back after 14 days out of its range, not before, and not if it came back meanwhile', () => {
    const out = row('out', { sums: sums(0.45) });
    const first = stand(out, { stage: 'earning', since: '2026-10-01', outSince: null }, '2026-11-01');
    expect(first.now).toEqual({ stage: 'earning', since: '2026-10-01', outSince: '2026-11-01' });
    expect(stand(out, first.now, '2026-11-14').now.stage).toBe('earning');
    expect(stand(out, first.now, '2026-11-15')).toMatchObject({
      now: { stage: 'tuning', since: '2026-11-15' },
      why: 'ACOS 45 % has been outside 10 % to 30 % since 2026-11-01, 14 days.',
    });
    expect(stand(row('out'), first.now, '2026-11-10').now).toEqual({
      stage: 'earning',
      since: '2026-10-01',
      outSince: null,
    });
  });

  test('by margin: half of the price is left before ads, ACOS takes 20 points of it', () => {
    const byMargin = { ...rules, measure: 'margin' as const, from: 0.25, to: 1 };
    expect(nextStage(byMargin, row('m'), null, 0.5, '2026-11-20')).toMatchObject({
      at: 0.3,
      now: { stage: 'earning' },
    });
    expect(nextStage(byMargin, row('m'), null, null, '2026-11-20').why).toContain('cannot be told');
  });
});

describe('what each stage has', () => {
  const group = {
    scope: 'budget_group' as const,
    object: 'g',
    name: 'Crocks',
    set: micros(85),
    campaignIds: [],
    rule: null,
  };
  const counts = { research: 1, tuning: 1, earning: 2 };

  test('research a quarter with a cap of 20.00, tuning its share of the rest, earning what is left', () => {
    const shares = sharesOf(micros(85), { share: 0.25, cap: micros(20) }, 0.35, counts);
    expect(shares.map(({ money }) => money / 1e6)).toEqual([20, 22.75, 42.25]);
  });

  test('all of the total is somebody’s, whichever stages have campaigns', () =>
    fc.assert(
      fc.property(
        fc.record({ research: fc.nat(3), tuning: fc.nat(3), earning: fc.nat(3) }),
        fc.integer({ min: 1e6, max: 1e9 }),
        (many, total) => {
          const shares = sharesOf(total, { share: 0.25, cap: micros(20) }, 0.35, many);
          const all = shares.reduce((sum, { money }) => sum + money, 0);
          const isAny = many.research + many.tuning + many.earning > 0;
          expect(all).toBeCloseTo(isAny ? total : 0, 0);
        },
      ),
    ));

  test('budgets of a group keep to its total, move no further than twice, and say why', () => {
    const rows = [
      row('auto', { isResearch: true, budget: micros(30) }),
      row('bad', { sums: sums(0.6), budget: micros(40) }),
      row('good', { budget: micros(8), full: Array.from({ length: 10 }, () => micros(40)) }),
      row('best', {
        budget: micros(7),
        earns: micros(4),
        full: Array.from({ length: 10 }, () => micros(40)),
      }),
    ];
    const staged = rows.map((one) => stand(one, null));
    const { budgets, shares } = stageBudgets(rules, group, rows, staged, new Map(), micros(2), '2026-11-20');
    const total = rows.reduce(
      (sum, one) => sum + (budgets.find(({ campaignId }) => campaignId === one.name)?.to ?? one.budget!),
      0,
    );
    expect(total).toBeLessThanOrEqual(micros(85));
    for (const { from, to } of budgets) expect(to).toBeGreaterThanOrEqual(from / 2 - 10_000);
    expect(shares.find(({ stage }) => stage === 'research')!.money).toBe(micros(20));
    for (const { from, to } of budgets) expect(to).toBeLessThanOrEqual(2 * from);
    const best = budgets.find(({ campaignId }) => campaignId === 'best')!;
    expect(best.to).toBe(micros(14));
    expect(best.sales).toBeGreaterThan(0);
    expect(best.sentence).toContain('Earning: ACOS 20 % lies within 10 % to 30 %.');
  });
});
