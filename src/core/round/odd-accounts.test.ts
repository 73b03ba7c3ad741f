import { linesOf } from './lines.ts';
import type { SetGoal } from '../goals/goals.ts';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { micros } from '../metrics/money.ts';
import { sentenceOf, workingOf } from './explain.ts';
import { judgeAccount } from './judge.ts';
import { noticesOf } from './notices.ts';
import { account, target, term } from './small-account.fixture.ts';
import type { JudgeInput } from './types.ts';

/** Accounts that nobody plans for: sentences that say what is odd, and never a number that is none. */

const goal = (targetAcos: number, more: Partial<SetGoal> = {}): SetGoal => ({
  ...account().goals[0]!,
  targetAcos,
  ...more,
});
const noPrice = new Map([['LID', { sku: 'LID', title: 'Lids', price: 0, margin: null }]]);
const unsold = { orders: 0, units: 0, sales: 0, y: 0, seenOrders: 0, seenSales: 0 };
const noOrders = (input: JudgeInput): JudgeInput => ({
  ...input,
  targets: input.targets.map((row) => ({ ...row, ...unsold })),
  terms: input.terms.map((row) => ({ ...row, evidence: { ...row.evidence, ...unsold } })),
});

/** Every number that a finding carries, also those deep in its working. */
function numbersOf(value: unknown, path = ''): [string, number][] {
  if (typeof value === 'number') return [[path, value]];
  if (value === null || typeof value !== 'object') return [];
  return Object.entries(value).flatMap(([key, one]) => numbersOf(one, `${path}.${key}`));
}

function soundness(input: JudgeInput): void {
  for (const finding of judgeAccount(input, 1000).findings) {
    const bad = numbersOf(finding).filter(([path, value]) =>
      // Without an order an ACOS has no upper end, and says so.
      /interval\.(high|1)$/.test(path) ? Number.isNaN(value) : !Number.isFinite(value),
    );
    expect(bad).toEqual([]);
    const text = [
      sentenceOf(finding, { adGroup: (id) => id }),
      ...workingOf(finding).flatMap(({ name, formula, result }) => [name, formula, result]),
    ].join(' ');
    expect(text).not.toMatch(/NaN|Infinity|undefined|null/);
    expect(finding.worth).toBeGreaterThanOrEqual(0);
  }
}

describe('what is odd is said', () => {
  test('nothing about an account like others', () => {
    expect(noticesOf(account())).toEqual([]);
  });

  test('no order at all', () => {
    expect(noticesOf(noOrders(account()))).toEqual([
      'No order came from 560 clicks since 2026-10-18: half an order in these is assumed, and the product’s price as its value.',
    ]);
  });

  test('one target, and none', () => {
    const [only] = account().targets;
    expect(noticesOf(account({ targets: [only!] }))[0]).toMatch(/^There is one target/);
    expect(noticesOf(account({ targets: [] }))[0]).toBe('No target is enabled: there is no bid to judge.');
  });

  test('zeros for the whole window', () => {
    const silent = account().targets.map((row) => ({ ...row, impressions: 0, clicks: 0, spend: 0 }));
    expect(noticesOf(account({ targets: silent }))).toEqual([
      'Nothing was shown from 2026-10-18 to 2026-11-16: what is proposed rests on what was seen before.',
    ]);
  });

  test('no price and no order: what cannot be judged, and where prices come from', () => {
    const input = noOrders(account({ products: noPrice }));
    expect(noticesOf(input)[1]).toMatch(/^4 targets cannot be judged: .* products file under Data\.$/);
    expect(judgeAccount(input, 1000).findings.filter(({ queue }) => queue === 'targets')).toEqual([]);
    // Once anything sold, its value stands in for the price.
    expect(noticesOf(account({ products: noPrice }))).toEqual([]);
  });

  test('a goal of 0.1 % and one of 300 %, with their places', () => {
    const goals = [goal(0.001), goal(3, { scope: 'campaign', key: 'c2' })];
    expect(noticesOf(account({ goals }))).toEqual([
      'The goal of 0.1 % of the account lets a click cost next to nothing: bids go to the least that is allowed.',
      'Under the goal of 300 % of campaign Lids broad research a click may cost more than it sells.',
    ]);
  });
});

describe('laws of odd accounts', () => {
  test('no order, one target, no price, zeros: no number that is none', () => {
    const zeros = account().targets.map((row) =>
      target(row.targetId, row.adGroupId, row.matchType, row.expression, 0, 0, {
        present: { days: 0, clicks: 0, spend: 0, priced: 0 },
      }),
    );
    for (const input of [
      noOrders(account()),
      noOrders(account({ products: noPrice })),
      account({ products: new Map() }),
      account({ targets: [account().targets[0]!], terms: [] }),
      account({ targets: zeros, terms: [] }),
      account({ targets: [], terms: [] }),
    ])
      soundness(input);
  });

  test('whatever was counted, under targets of 0.1 to 300 %', () => {
    const amount = fc.record({
      clicks: fc.nat(3000),
      orders: fc.nat(300),
      bid: fc.integer({ min: 30_000, max: 60_000_000 }),
      cpc: fc.double({ min: 0, max: 5, noNaN: true }),
      days: fc.nat(42),
    });
    fc.assert(
      fc.property(
        fc.array(amount, { minLength: 1, maxLength: 5 }),
        fc.constantFrom(0.001, 0.05, 0.3, 1, 3),
        fc.constantFrom(0.0005, 0.2, 0.9, 3.9),
        fc.constantFrom('careful' as const, 'even' as const, 'bold' as const),
        fc.boolean(),
        (amounts, targetAcos, theta, stance, priced) => {
          const targets = amounts.map(({ clicks, orders, bid, cpc, days }, i) =>
            target(`t${i}`, String(1 + (i % 3)), 'broad', `lid ${i}`, clicks, Math.min(orders, clicks), {
              bid,
              spend: micros(clicks * cpc),
              highestCpc: micros(cpc),
              present: { days, clicks, spend: micros(clicks * cpc), priced: clicks },
            }),
          );
          const terms = amounts.map(({ clicks, orders }, i) =>
            term(`t${i}`, `odd lid ${i}`, clicks, Math.min(orders, clicks)),
          );
          soundness(
            account({
              targets,
              terms,
              goals: [goal(targetAcos, { theta, stance })],
              ...(priced ? {} : { products: noPrice }),
            }),
          );
        },
      ),
      { numRuns: 60 },
    );
  });

  test('a held finding is never silent: who wants five percent more or less has a line, a guard by name, or waits', () => {
    const cases = fc.record({
      clicks: fc.integer({ min: 50, max: 2000 }),
      orders: fc.nat(400),
      bid: fc.integer({ min: 3, max: 400 }),
      cooling: fc.boolean(),
      paid: fc.double({ min: 0.05, max: 1, noNaN: true }),
    });
    fc.assert(
      fc.property(cases, ({ clicks, orders, bid, cooling, paid }) => {
        const cpc = (bid / 100) * paid;
        const row = target('x', '2', 'broad', 'odd lid', clicks, Math.min(orders, clicks), {
          bid: micros(bid / 100),
          changedOn: cooling ? '2026-11-19' : null,
          spend: micros(clicks * cpc),
          highestCpc: micros(cpc),
          present: { days: 30, clicks, spend: micros(clicks * cpc), priced: clicks },
        });
        const input = account({ targets: [...account().targets, row] });
        const finding = judgeAccount(input, 1000).findings.find(({ key }) => key === 'target:x:bid');
        // Redone from its siblings' working: theta x RPC against the bid.
        if (!finding) return;
        const { gamma, value, theta } = finding.working;
        const wanted = theta * (gamma.shape / gamma.rate) * value;
        // Five percent, once rounded to the bid step of 0.01.
        expect(Math.abs(wanted - row.bid!) + 5_001).toBeGreaterThan(0.05 * row.bid!);
        const { proposal } = finding;
        const places = { campaignOf: () => 'c2', campaignsOf: () => [] };
        if (proposal.kind === 'bid') {
          expect(linesOf(finding, {}, '', places)).toHaveLength(1);
          if (Math.abs(proposal.to / wanted - 1) > 0.02 && Math.abs(proposal.to - wanted) > 10_000)
            expect(proposal.held.length).toBeGreaterThan(0);
        } else {
          expect(proposal.kind === 'wait' && proposal.held?.by).toBeTruthy();
          expect(linesOf(finding, {}, '', places)).toEqual([]);
          expect(linesOf(finding, { beyond: true }, '', places)).toHaveLength(1);
        }
      }),
      { numRuns: 200 },
    );
  });
});
