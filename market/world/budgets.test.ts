import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { Campaign, Structure } from './account.ts';
import { DayBudgets, type Purse } from './budgets.ts';

const shares = Array.from({ length: 24 }, () => 1);
const campaign = (more: Partial<Campaign> = {}): Campaign => ({
  id: 'c',
  name: 'c',
  kind: 'manual',
  budgetGroup: null,
  dailyBudget: 24,
  strategy: 'fixed',
  startDate: '2026-01-01',
  endDate: null,
  status: 'enabled',
  modifiers: [0, 0, 0, 0],
  ...more,
});
const begin = (one: Campaign, purse: Purse = {}) => {
  const structure = { budgetGroups: [], campaigns: new Map([[one.id, one]]) } as unknown as Structure;
  return new DayBudgets(structure, purse, '2026-06-01', shares, 0, { campaigns: {}, groups: {} });
};

describe('money of a day', () => {
  test('a daily budget is spent as it comes, and the click that empties it is still paid', () => {
    const one = campaign();
    const budgets = begin(one);
    expect(budgets.spend(one, 23)).toEqual([]);
    expect(budgets.spend(one, 2)).toEqual([one]);
    expect(budgets.open.has(one)).toBe(false);
  });

  test('paced evenly it has 1.00 an hour of 24.00, and comes back with the next hour', () => {
    const one = campaign({ pacing: 'even' });
    const budgets = begin(one);
    budgets.startHour(0);
    expect(budgets.spend(one, 1.2)).toEqual([one]);
    expect(budgets.startHour(1)).toEqual([one]);
    expect(budgets.spend(one, 0.7)).toEqual([]);
    expect(budgets.spend(one, 0.2)).toEqual([one]);
  });

  test('a lifetime budget of 100.00 with 40.00 spent and three days left gives 20.00 today when paced evenly', () => {
    const one = campaign({
      budgetKind: 'lifetime',
      lifetimeBudget: 100,
      endDate: '2026-06-03',
      pacing: 'even',
    });
    const purse: Purse = { lifetimeSpent: { c: 40 } };
    const budgets = begin(one, purse);
    budgets.startHour(23);
    expect(budgets.spend(one, 19.99)).toEqual([]);
    expect(budgets.spend(one, 0.02)).toEqual([one]);
    budgets.close();
    expect(purse.lifetimeSpent).toEqual({ c: 60.01 });
  });

  test('a lifetime budget as it comes may be spent on one day', () => {
    const one = campaign({ budgetKind: 'lifetime', lifetimeBudget: 100, endDate: '2026-06-03' });
    expect(begin(one).spend(one, 99)).toEqual([]);
    expect(begin(one, { lifetimeSpent: { c: 100 } }).open.size).toBe(0);
  });

  test('an empty wallet stops all that runs, and what was spent is gone from it', () => {
    const one = campaign();
    const purse: Purse = { wallet: 5 };
    const budgets = begin(one, purse);
    expect(budgets.spend(one, 5.5)).toEqual([one]);
    budgets.close();
    expect(purse.wallet).toBe(-0.5);
    expect(begin(one, purse).open.size).toBe(0);
  });

  test('whatever the pace, no more than the budget and one click is spent', () => {
    const clicks = fc.array(fc.tuple(fc.integer({ min: 0, max: 23 }), fc.integer({ min: 3, max: 300 })), {
      maxLength: 200,
    });
    fc.assert(
      fc.property(clicks, fc.constantFrom('even' as const, 'as_it_comes' as const), (list, pacing) => {
        const one = campaign({ pacing });
        const budgets = begin(one);
        let spent = 0;
        for (let hour = 0; hour < 24; hour++) {
          budgets.startHour(hour);
          for (const [at, cents] of list)
            if (at === hour && budgets.open.has(one)) {
              spent += cents / 100;
              budgets.spend(one, cents / 100);
            }
        }
        expect(spent).toBeLessThan(24 + 3.001);
      }),
    );
  });
});
