import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { defaultGuards, largestStep } from '../bids/guards.ts';
import { usualLadder } from '../bids/ladder.ts';
import { micros } from '../metrics/money.ts';
import { Goals, guardsOf, scopeName, type GoalScope, type SetGoal } from './goals.ts';

const goal = (
  scope: GoalScope,
  key: string,
  targetAcos: number | null,
  more: Partial<SetGoal> = {},
): SetGoal => ({
  scope,
  key,
  targetAcos,
  bidFloor: null,
  bidCeiling: null,
  theta: targetAcos ?? 0,
  ...more,
});
const account = goal('account', '', 0.26, { theta: 0.4 });
const place = { adGroupId: 'g1', campaignId: 'c7', sku: 'JAR' };

describe('the goal that rules', () => {
  const goals = new Goals([
    account,
    goal('product', 'JAR', 0.2),
    goal('campaign', 'c7', 0.35),
    goal('ad_group', 'g1', 0.5),
  ]);

  test('the ad group before the campaign before the product before the account', () => {
    expect(goals.of(place).targetAcos).toBe(0.5);
    expect(goals.of({ ...place, adGroupId: 'g2' }).targetAcos).toBe(0.35);
    expect(goals.of({ campaignId: 'c1', sku: 'JAR' }).targetAcos).toBe(0.2);
    expect(goals.of({ campaignId: 'c1', sku: 'LID' }).targetAcos).toBe(0.26);
    expect(goals.of({ campaignId: 'c1', sku: null }).targetAcos).toBe(0.26);
  });

  test('each setting is the nearest one’s that says it, and its scope is named', () => {
    const mixed = new Goals([
      { ...account, stance: 'careful', bidFloor: micros(0.05) },
      goal('product', 'JAR', null, { method: 'bands', guards: { cooldownDays: 14 } }),
      goal('campaign', 'c7', 0.35, { bidFloor: micros(0.2), theta: 0.6 }),
      goal('ad_group', 'g1', null, { stance: 'bold' }),
    ]);
    const found = mixed.of(place);
    expect(found).toMatchObject({
      scope: 'campaign',
      targetAcos: 0.35,
      theta: 0.6,
      stance: 'bold',
      method: 'bands',
      ladder: usualLadder,
      bidFloor: micros(0.2),
      guards: { cooldownDays: 14 },
    });
    expect(found.from.stance && scopeName(found.from.stance)).toBe('ad_group:g1');
    expect(found.from.method && scopeName(found.from.method)).toBe('product:JAR');
    expect(found.from.bidFloor && scopeName(found.from.bidFloor)).toBe('campaign:c7');
    expect(found.from.ladder).toBeNull();
    expect(mixed.guardsOf(found)).toMatchObject({
      ...largestStep.bold,
      floor: micros(0.2),
      cooldownDays: 14,
    });
  });

  test('an account without a goal of its own is none', () => {
    expect(() => new Goals([goal('product', 'JAR', 0.2)])).toThrow('no goal');
    expect(() => new Goals([goal('account', '', null)])).toThrow('no goal');
  });
});

describe('margins as goals', () => {
  const margins: Record<string, number | null> = { JAR: 0.45, LID: 0.3, BAG: null };
  const of = (set: SetGoal[], sku: string) =>
    new Goals(set, defaultGuards, (one) => margins[one] ?? null).of({ campaignId: 'c1', sku });

  test('a margin after ads of 15 % is an ACOS of 30 % where 45 % are left before them, and theta goes along', () => {
    const set = [
      { ...account, objective: 'margin' as const, targetMargin: 0.15, theta: 0.5, thetaTarget: 0.25 },
    ];
    const jar = of(set, 'JAR');
    expect(jar).toMatchObject({ objective: 'margin', scope: 'account' });
    expect(jar.targetAcos).toBeCloseTo(0.3, 12);
    expect(jar.theta).toBeCloseTo(0.6, 12);
    expect(of(set, 'LID').targetAcos).toBeCloseTo(0.15, 12);
    expect(of(set, 'LID').theta).toBeCloseTo(0.3, 12);
    // Without costs there is no margin: the account's target ACOS stands for it.
    expect(of(set, 'BAG')).toMatchObject({ objective: 'acos', targetAcos: 0.26 });
  });

  test('most profit: the last click may cost what it earns', () => {
    const set = [account, goal('product', 'JAR', null, { objective: 'profit' })];
    expect(of(set, 'JAR')).toMatchObject({ objective: 'profit', targetAcos: 0.45, theta: 0.45 });
    expect(of(set, 'LID')).toMatchObject({ objective: 'acos', targetAcos: 0.26 });
  });

  test('a margin that leaves nothing for ads is no goal: the wider one rules', () => {
    const set = [account, goal('product', 'LID', null, { objective: 'margin', targetMargin: 0.3 })];
    expect(of(set, 'LID')).toMatchObject({ scope: 'account', targetAcos: 0.26 });
  });

  test('theta stays at 1 until somebody lets it go on', () => {
    const margin = { objective: 'margin' as const, targetMargin: 0.05, theta: 0.9, thetaTarget: 0.2 };
    expect(of([{ ...account, ...margin }], 'JAR').theta).toBe(1);
    expect(of([{ ...account, ...margin, aboveOne: true }], 'JAR').theta).toBeCloseTo(1.8, 12);
  });

  test('a goal never says more than its margin, whatever is asked', () => {
    fc.assert(
      fc.property(
        fc.double({ min: -0.5, max: 0.9, noNaN: true }),
        fc.double({ min: 0, max: 0.9, noNaN: true }),
        (margin, wanted) => {
          const set = [account, goal('product', 'X', null, { objective: 'margin', targetMargin: wanted })];
          const found = new Goals(set, defaultGuards, () => margin).of({ campaignId: 'c', sku: 'X' });
          if (margin - wanted > 0) expect(found.targetAcos).toBeCloseTo(margin - wanted, 12);
          else expect(found.scope).toBe('account');
        },
      ),
    );
  });
});

describe('guards of a goal', () => {
  const guardsAt = (more: Partial<SetGoal>) =>
    guardsOf(new Goals([{ ...account, ...more }]).of({ campaignId: '', sku: null }));

  test('its floor and ceiling stand in place of the account’s, what it leaves open stays', () => {
    const guards = guardsAt({ bidFloor: micros(0.1) });
    expect(guards.floor).toBe(micros(0.1));
    expect(guards.ceiling).toBe(defaultGuards.ceiling);
    expect(guardsAt({ bidCeiling: micros(2) }).ceiling).toBe(micros(2));
  });

  test('its steps: careful ones are the smallest, and its own guards go before its stance', () => {
    for (const stance of Object.keys(largestStep) as (keyof typeof largestStep)[]) {
      const { up, down } = guardsAt({ stance });
      expect([up, down]).toEqual([largestStep[stance].up, largestStep[stance].down]);
      expect(up).toBeGreaterThan(1);
      expect(down).toBeLessThan(1);
    }
    expect(guardsAt({})).toEqual(defaultGuards);
    expect(guardsAt({ stance: 'careful', guards: { up: 1.1 } })).toMatchObject({ up: 1.1, down: 0.5 });
  });
});
