import fc from 'fast-check';
import { expect, test } from 'vitest';
import type { TargetRow } from '../account/rows.ts';
import { micros } from '../metrics/money.ts';
import { account, target } from './small-account.fixture.ts';
import { judgeTargets } from './judge.ts';
import { Usuals } from './usual.ts';

const { adGroups } = account();
const group = adGroups.get('2')!;
const days = 30;

/** A target of 30 days at one bid of 0.50: impressions, clicks, what a click cost. */
const row = (id: string, impressions: number, clicks: number, cpc = 0.4, more: Partial<TargetRow> = {}) =>
  target(id, '2', 'broad', id, clicks, 0, {
    impressions,
    present: { days, clicks, spend: micros(clicks * cpc), priced: clicks },
    ...more,
  });

test('clicks a week by hand: own clicks, drawn to what impressions promise', () => {
  // CTR of the only ad group: 400 of 20,000, 2 %.
  const quiet = row('quiet', 150, 0);
  const rare = row('rare', 1500, 10);
  const usuals = new Usuals([row('large', 18_350, 390), rare, quiet], adGroups, days);
  // 150 impressions promise 3 clicks in 30 days; 2 of them count: (2 + 0) / (2 / 0.1 + 30) = 0.04 a day, 0.28 a week.
  expect(usuals.week(quiet).clicks).toBeCloseTo(0.28, 6);
  expect(usuals.week(quiet).seen).toBe(2);
  // 1,500 promise 30, one a day; ten came: (2 + 10) / (2 / 1 + 30) x 7 = 2.625 a week.
  expect(usuals.week(rare)).toEqual({ clicks: expect.closeTo(2.625, 6) as number, seen: 12 });
  // Never shown: none, and nothing that this is known by.
  expect(usuals.week(row('never', 0, 0))).toEqual({ clicks: 0, seen: 0 });
});

test('paid per bid by hand: what few clicks let expect, until its own are heard', () => {
  // One target alone: its campaign pays 0.80 of a bid, at its own clicks a week.
  const large = row('large', 15_000, 300);
  const usuals = new Usuals([large], adGroups, days);
  expect(usuals.paid(large, group)).toBeCloseTo(0.8, 6);
  // 150 impressions: 0.28 a week against 70; ln 250 = 5.52 less, x 0.05 = 0.28 more, held at 0.95 of the bid.
  expect(usuals.paid(row('quiet', 150, 0), group)).toBe(0.95);
  // 5 clicks at 0.30 count as much as what was expected of so few.
  const few = row('few', 250, 5, 0.3);
  const expected = Math.min(0.95, 0.8 + 0.05 * Math.log(usuals.week(large).clicks / usuals.week(few).clicks));
  expect(usuals.paid(few, group)).toBeCloseTo((5 * expected + 5 * 0.6) / 10, 2);
});

test('a raise of a target that is shown and was never clicked says what it may bring', () => {
  const quiet = row('quiet', 600, 0, 0, { bid: micros(0.2), clicks: 0, seenClicks: 0, n: 0, spend: 0 });
  const input = account({ targets: [...account().targets, quiet] });
  const finding = judgeTargets(input, 100).findings.find(({ targetId }) => targetId === 'quiet')!;
  expect(finding.proposal).toMatchObject({ kind: 'bid', from: micros(0.2) });
  expect(finding.effect.clicks).toBeGreaterThan(0);
  expect(finding.effect.sales).toBeGreaterThan(0);
  expect(finding.effect.spend).toBeGreaterThan(0);
});

test('more of its own clicks bring it nearer to what it pays itself', () => {
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 200 }),
      fc.integer({ min: 1, max: 200 }),
      fc.double({ min: 0.2, max: 0.95, noNaN: true }),
      (a, more, paid) => {
        const usuals = new Usuals([row('large', 15_000, 300)], adGroups, days);
        const away = (clicks: number) =>
          Math.abs(usuals.paid(row('own', 5000, clicks, 0.5 * paid), group) - paid);
        // What is expected of it moves with its clicks too, by no more than a tenth.
        expect(away(a + more)).toBeLessThanOrEqual(away(a) + 0.1);
        expect(away(100_000)).toBeLessThan(1e-3);
      },
    ),
  );
});
