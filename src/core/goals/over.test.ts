import { expect, test } from 'vitest';
import { scopesOverGoal } from './over.ts';

const account = { scope: 'account', key: '', targetAcos: 0.26 } as const;
const lids = { scope: 'product', key: 'LID', targetAcos: 0.2 } as const;
const week = { spend: 2390, sales: 10_000 };

test('a scope that the changes put over its goal is told with both', () => {
  const [one] = scopesOverGoal([{ goal: account, week, change: { spend: 600, sales: 1075 } }]);
  expect(one).toMatchObject({ scope: 'account', targetAcos: 0.26, before: 0.239 });
  expect(one!.after).toBeCloseTo(0.27, 4);
});

test('what stays under, gets better, or does not move is no matter', () => {
  expect(scopesOverGoal([{ goal: account, week, change: { spend: 100, sales: 400 } }])).toEqual([]);
  // 30 % of 26 %, and getting better.
  const over = { spend: 3000, sales: 10_000 };
  expect(scopesOverGoal([{ goal: account, week: over, change: { spend: -200, sales: -100 } }])).toEqual([]);
  expect(scopesOverGoal([{ goal: account, week: over, change: { spend: 0, sales: 0 } }])).toEqual([]);
  expect(
    scopesOverGoal([{ goal: account, week: { spend: 5, sales: 0 }, change: { spend: 5, sales: 1 } }]),
  ).toEqual([]);
});

test('further over than before counts too; the furthest first', () => {
  const found = scopesOverGoal([
    { goal: account, week: { spend: 3000, sales: 10_000 }, change: { spend: 100, sales: 50 } },
    { goal: lids, week: { spend: 390, sales: 2000 }, change: { spend: 200, sales: 100 } },
  ]);
  expect(found.map(({ scope }) => scope)).toEqual(['product', 'account']);
});
