import { describe, expect, test } from 'vitest';
import type { TargetRow } from '../account/rows.ts';
import { micros } from '../metrics/money.ts';
import { testDays, testWeeks, worthOfTest } from '../testing/plan.ts';
import { sentenceOf, workingOf } from './explain.ts';
import { judgeTargets } from './judge.ts';
import { linesOf } from './lines.ts';
import { account, target } from './small-account.fixture.ts';
import type { BidProposal, Finding, TargetsInput } from './types.ts';

const resting = (id: string, more: Partial<TargetRow> = {}): TargetRow =>
  target(id, '2', 'broad', `rests ${id}`, 0, 0, {
    bid: micros(0.04),
    impressions: 0,
    present: { days: 30, clicks: 0, spend: 0, priced: 0 },
    // A season ago: a few clicks and no order.
    n: 4,
    y: 0,
    seenClicks: 8,
    ...more,
  });

/** Siblings that are clicked, and some that rest. */
function input(testing?: TargetsInput['testing'], rested = [resting('71'), resting('72')]): TargetsInput {
  const base = account();
  const siblings = [
    target('61', '2', 'broad', 'airlock lids', 60, 7),
    target('62', '2', 'broad', 'jar lids', 50, 1),
    target('63', '2', 'broad', 'crock lids', 40, 9),
    target('64', '2', 'broad', 'glass lids', 70, 0),
  ];
  return { ...base, targets: [...siblings, ...rested], ...(testing ? { testing } : {}) };
}
const none = new Map();
const findings = (testing?: TargetsInput['testing'], rested?: TargetRow[]): Finding[] =>
  judgeTargets(input(testing, rested), 100).findings;
const testsIn = (all: Finding[]) => all.filter(({ working }) => working.test);

describe('a share of spend that is set aside to learn', () => {
  test('what rests is proposed for a return within it; nothing is, without', () => {
    expect(testsIn(findings())).toEqual([]);
    expect(testsIn(findings({ spend: 0, running: none }))).toEqual([]);
    const tried = testsIn(findings({ spend: micros(1000), running: none }));
    expect(tried.map(({ targetId }) => targetId).sort()).toEqual(['71', '72']);
    for (const { proposal, working, worth, effect } of tried) {
      const { from, to, isTest } = proposal as BidProposal;
      const plan = working.test!;
      expect({ from, isTest }).toEqual({ from: micros(0.04), isTest: true });
      expect(to).toBeGreaterThan(plan.ordinary);
      expect(plan.gain).toBeGreaterThan(0);
      expect(worth).toBeCloseTo(worthOfTest(plan), 6);
      expect(effect.clicks).toBeCloseTo(plan.after.clicks - plan.before.clicks, 9);
    }
  });

  test('a small share takes the one that may gain most for its spend', () => {
    const all = testsIn(findings({ spend: micros(1000), running: none }));
    const dearest = Math.max(...all.map(({ working }) => working.test!.spend));
    const one = testsIn(findings({ spend: dearest, running: none }));
    expect(one).toHaveLength(1);
    const ratio = ({ working }: Finding) => working.test!.gain / working.test!.spend;
    expect(ratio(one[0]!)).toBe(Math.max(...all.map(ratio)));
  });

  test('they are shown whatever is worth more', () => {
    const { findings: kept, count } = judgeTargets(input({ spend: micros(1000), running: none }), 1);
    expect(testsIn(kept)).toHaveLength(2);
    expect(kept).toHaveLength(3);
    expect(count).toBe(findings({ spend: micros(1000), running: none }).length);
  });

  test('tests that run take their part of it, and hold their bid', () => {
    const running = new Map([['71', { until: input().today, spend: micros(990) }]]);
    const left = findings({ spend: micros(1000), running });
    expect(testsIn(left).every(({ working }) => working.test!.spend <= micros(10))).toBe(true);
    const held = left.find(({ targetId }) => targetId === '71');
    expect(held?.proposal).toMatchObject({ kind: 'wait', held: { by: 'test' } });
    // The day after it is over, its bid is judged again.
    const over = new Map([['71', { until: '2000-01-01', spend: micros(990) }]]);
    const after = findings({ spend: 0, running: over }).find(({ targetId }) => targetId === '71');
    expect(after?.proposal.kind).toBe('bid');
  });

  test('a running test is cut short only by what loses beyond doubt since its change', () => {
    const losing = resting('71', {
      bid: micros(2),
      changedOn: input().today,
      n: 200,
      freshN: 200,
      freshClicks: 200,
      freshSpend: micros(300),
      present: { days: 14, clicks: 200, spend: micros(300), priced: 200 },
    });
    const running = new Map([['71', { until: input().today, spend: 0 }]]);
    const found = findings({ spend: 0, running }, [losing]).find(({ targetId }) => targetId === '71');
    expect(found?.proposal).toMatchObject({ kind: 'bid', from: micros(2) });
  });

  test('what was changed a short while ago, and what is well known, is not tried', () => {
    const { today } = input();
    const fresh = resting('71', { changedOn: today });
    const known = resting('72', { n: 5000, y: 5, seenClicks: 5000, seenOrders: 5 });
    expect(testsIn(findings({ spend: micros(1000), running: none }, [fresh, known]))).toEqual([]);
  });

  test('it says what it tries, costs and may teach; its line keeps what was believed', () => {
    const [found] = testsIn(findings({ spend: micros(1000), running: none })) as [Finding];
    const plan = found.working.test!;
    expect(sentenceOf(found, { adGroup: (id) => id })).toContain(
      `Try it at ${(plan.to / 1e6).toFixed(2)} instead of 0.04 for ${testDays} days, to know. It rests at 0.04`,
    );
    expect(workingOf(found).map(({ name }) => name)).toEqual(
      expect.arrayContaining(['Bid of the test', 'Clicks of the test', 'Knowing', 'Worth of the test']),
    );
    const [line] = linesOf(found, {}, 'to know', { campaignOf: () => '1', campaignsOf: () => [] });
    expect(line).toMatchObject({
      field: 'bid',
      oldValue: String(micros(0.04)),
      newValue: String(plan.to),
      test: {
        isRested: true,
        gamma: found.working.gamma,
        clicks: plan.after.clicks * testWeeks,
        spend: plan.after.spend * testWeeks,
      },
    });
  });
});
