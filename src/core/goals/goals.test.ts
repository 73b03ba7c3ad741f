import { describe, expect, test } from 'vitest';
import { defaultGuards, largestStep } from '../bids/guards.ts';
import { micros } from '../metrics/money.ts';
import { Goals, guardsOf, type Goal, type GoalScope } from './goals.ts';

const goal = (scope: GoalScope, key: string, targetAcos: number, more: Partial<Goal> = {}): Goal => ({
  scope,
  key,
  targetAcos,
  bidFloor: null,
  bidCeiling: null,
  theta: targetAcos,
  ...more,
});

describe('the goal that rules', () => {
  const goals = new Goals([
    goal('account', '', 0.26),
    goal('product', 'JAR', 0.2),
    goal('campaign', 'c7', 0.35),
  ]);

  test('the campaign before the product before the account', () => {
    expect(goals.of({ campaignId: 'c7', sku: 'JAR' }).targetAcos).toBe(0.35);
    expect(goals.of({ campaignId: 'c1', sku: 'JAR' }).targetAcos).toBe(0.2);
    expect(goals.of({ campaignId: 'c1', sku: 'LID' }).targetAcos).toBe(0.26);
    expect(goals.of({ campaignId: 'c1', sku: null }).targetAcos).toBe(0.26);
  });

  test('an account without a goal of its own is none', () => {
    expect(() => new Goals([goal('product', 'JAR', 0.2)])).toThrow('no goal');
  });
});

describe('guards of a goal', () => {
  test('its floor and ceiling stand in place of the account’s, what it leaves open stays', () => {
    const guards = guardsOf(goal('product', 'JAR', 0.2, { bidFloor: micros(0.1) }));
    expect(guards.floor).toBe(micros(0.1));
    expect(guards.ceiling).toBe(defaultGuards.ceiling);
    expect(guardsOf(goal('product', 'JAR', 0.2, { bidCeiling: micros(2) })).ceiling).toBe(micros(2));
  });

  test('its steps: careful ones are the smallest, and each goes further down than a hair', () => {
    for (const stance of Object.keys(largestStep) as (keyof typeof largestStep)[]) {
      const { up, down } = guardsOf(goal('account', '', 0.26, { stance }));
      expect([up, down]).toEqual([largestStep[stance].up, largestStep[stance].down]);
      expect(up).toBeGreaterThan(1);
      expect(down).toBeLessThan(1);
    }
    expect(guardsOf(goal('account', '', 0.26))).toEqual(defaultGuards);
  });
});
