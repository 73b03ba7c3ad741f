import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { methods } from '../bids/methods.ts';
import type { SetGoal } from '../goals/goals.ts';
import { Comparison } from './compare.ts';
import { judgeAccount, judgeTargets } from './judge.ts';
import { account } from './small-account.fixture.ts';
import type { JudgeInput } from './types.ts';
import { WhatIf } from './what-if.ts';

const goal = (targetAcos: number, more: Partial<SetGoal> = {}): SetGoal => ({
  scope: 'account',
  key: '',
  targetAcos,
  bidFloor: null,
  bidCeiling: null,
  theta: targetAcos / 0.6,
  ...more,
});

/** What judging finds under goals, counted as the outlook counts it. */
function counted(input: JudgeInput, goals: SetGoal[]) {
  const { findings } = judgeAccount({ ...input, goals }, 1000);
  const of = (test: (finding: (typeof findings)[number]) => boolean) => findings.filter(test).length;
  return {
    raises: of(({ proposal }) => proposal.kind === 'bid' && proposal.to > proposal.from),
    cuts: of(({ proposal }) => proposal.kind === 'bid' && proposal.to < proposal.from),
    held: of(({ queue, proposal }) => queue === 'targets' && proposal.kind === 'wait'),
    harvests: of(({ proposal }) => proposal.kind === 'harvest'),
    negatives: of(({ proposal }) => proposal.kind === 'negative'),
  };
}

describe('what if a goal were another', () => {
  test('finds what judging finds under it, whatever it is', () => {
    const input = account();
    const whatIf = new WhatIf(input);
    fc.assert(
      fc.property(
        fc.double({ min: 0.02, max: 1.5, noNaN: true }),
        fc.constantFrom(...methods),
        fc.constantFrom('careful' as const, 'even' as const, 'bold' as const),
        (targetAcos, method, stance) => {
          const goals = [
            goal(targetAcos, { stance }),
            goal(targetAcos / 2, { scope: 'ad_group', key: '3', method }),
          ];
          expect(whatIf.at(goals)).toMatchObject(counted(input, goals));
        },
      ),
      { numRuns: 60 },
    );
  });

  test('a higher goal never spends less', () => {
    const whatIf = new WhatIf(account());
    const spends = [0.1, 0.2, 0.3, 0.45, 0.7].map((target) => whatIf.at([goal(target)]).then.spend);
    expect([...spends].sort((a, b) => a - b)).toEqual(spends);
  });

  test('a week as it runs does not depend on goals; the one after them is it and their findings', () => {
    // The research target alone: 200 clicks in 30 days are 46.7 a week at 0.40, its belief 18 of 200 near 20.00.
    const input = account({ terms: [] });
    const whatIf = new WhatIf(input);
    const [low, high] = [whatIf.at([goal(0.15)]), whatIf.at([goal(0.6)])];
    expect(low.now).toEqual(high.now);
    expect(low.now.spend).toBeGreaterThan(0);
    const { findings } = judgeTargets({ ...input, goals: [goal(0.6)] }, 100);
    const change = findings.reduce((sum, { effect }) => sum + effect.spend, 0);
    expect(high.then.spend - high.now.spend).toBeCloseTo(change, 3);
  });

  test('what a term’s negative takes from a target is not counted twice', () => {
    const all = account();
    const whole = new WhatIf(all).at(all.goals);
    const targets = new WhatIf(account({ terms: [] })).at(all.goals);
    const terms = judgeAccount(all, 1000).findings.filter(({ queue }) => queue === 'terms');
    const ofTerms = terms.reduce((sum, { effect }) => sum + effect.spend, 0);
    const both = targets.then.spend - targets.now.spend + ofTerms;
    expect(ofTerms).not.toBe(0);
    expect(whole.then.spend - whole.now.spend).not.toBeCloseTo(both, 0);
  });
});

describe('methods compared', () => {
  const input = account();
  const comparison = new Comparison(input);
  const { totals } = comparison;
  const rows = comparison.targets.map((one) => comparison.row(one));

  test('the evidence proposes what judging proposes; no method breaks a guard', () => {
    const found = new Map(
      judgeTargets(input, 100).findings.map(({ targetId, proposal }) => [
        targetId,
        proposal.kind === 'bid' ? proposal.to : null,
      ]),
    );
    expect(rows).toHaveLength(input.targets.length);
    for (const row of rows) {
      expect(row.by.evidence.bid).toBe(found.get(row.targetId) ?? row.bid);
      for (const method of methods) {
        const { bid } = row.by[method];
        expect(bid).toBeGreaterThanOrEqual(Math.floor(row.bid / 3));
        expect(bid).toBeLessThanOrEqual(row.bid * 2);
      }
    }
    expect(totals.evidence.raises + totals.evidence.cuts).toBe(
      [...found.values()].filter((bid) => bid !== null).length,
    );
  });

  test('revenue per click is 20.00 × 18 of 200 clicks × 30 % = 0.54 for the automatic target', () => {
    const { by } = rows.find(({ targetId }) => targetId === 'a')!;
    expect(by.rpc.wanted).toBeCloseTo(540_000, 3);
    expect(by.rpc.formula).toBe('360.00 ÷ 200 clicks × 30 %');
  });

  test('totals are the sums of their rows', () => {
    for (const method of methods) {
      const of = (name: 'spend' | 'sales' | 'worth') =>
        rows.reduce((sum, { by }) => sum + by[method][name], 0);
      expect(totals[method].spend).toBeCloseTo(of('spend'), 3);
      expect(totals[method].sales).toBeCloseTo(of('sales'), 3);
      expect(totals[method].worth).toBeCloseTo(of('worth'), 3);
    }
  });

  test('those on which most money hangs stand first', () => {
    const money = rows.map(({ between }) => between);
    expect([...money].sort((a, b) => b - a)).toEqual(money);
    expect(money[0]).toBeGreaterThan(0);
  });
});
