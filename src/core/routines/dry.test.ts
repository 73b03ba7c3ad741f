import { expect, test } from 'vitest';
import { micros } from '../metrics/money.ts';
import { DryRun, type DryCandidate } from './dry.ts';
import { newRoutine } from './shipped.ts';

const effect = {
  clicks: -10,
  spend: micros(-7),
  orders: -0.5,
  sales: micros(-14),
  salesLow: 0,
  salesHigh: 0,
  profit: null,
  spreads: { clicks: 0, spend: micros(1), orders: 0.1, sales: micros(3), profit: null },
};
const candidate = (key: string, more: Partial<DryCandidate> = {}): DryCandidate => ({
  key,
  kind: 'bids',
  campaignId: 'c',
  campaign: 'C',
  subject: key,
  sentence: 'Cut the bid.',
  measured: null,
  worth: micros(2),
  raises: false,
  held: null,
  changedOn: null,
  handOn: null,
  since: '2026-01-01',
  lines: 1,
  effect,
  bid: { targetId: key, to: micros(0.4) },
  ...more,
});
const routine = {
  ...newRoutine('Dry'),
  kinds: ['bids' as const],
  limits: { ...newRoutine('').limits, lines: 2 },
};

test('what is played counts from its night to the end of the stretch, each with what is not known of it', () => {
  const run = new DryRun(routine, '2026-11-15');
  run.night('2026-11-01', [candidate('a')], micros(1000));
  run.night('2026-11-08', [candidate('b')], micros(1000));
  const { spend, sales, taken, profit } = run.summary();
  // Two weeks of the first and one of the second: 3 x 7.00 of spend; spreads 2 and 1 together.
  expect(taken).toBe(2);
  expect(spend.value).toBe(micros(-21));
  expect(sales.value).toBe(micros(-42));
  expect(spend.high - spend.value).toBeCloseTo(1.2815 * 1e6 * Math.hypot(2, 1), -4);
  expect(profit).toBeNull();
});

test('bids that were played stand for the nights after it; its limits leave the rest', () => {
  const run = new DryRun(routine, '2026-11-15');
  run.night(
    '2026-11-01',
    ['a', 'b', 'c'].map((key) => candidate(key)),
    micros(1000),
  );
  expect(run.played.map(({ targetId, bid, on }) => [targetId, bid, on])).toEqual([
    ['a', micros(0.4), '2026-11-01'],
    ['b', micros(0.4), '2026-11-01'],
  ]);
  expect(run.nights[0]).toMatchObject({ taken: 2, beyond: 1, left: 0, lines: 2 });
  // The next night it waits after its own change, and what was left is taken.
  run.night('2026-11-02', [candidate('a', { changedOn: '2026-11-01' }), candidate('c')], micros(1000));
  expect(run.nights[1]).toMatchObject({ taken: 1, left: 1 });
});

test('a term that was harvested or blocked once is not again, however often its evidence comes back', () => {
  const run = new DryRun(routine, '2026-11-15');
  const term = candidate('term:1:jar', { kind: 'negate', bid: null, raises: null });
  run.night('2026-11-01', [term], micros(1000));
  run.night('2026-11-02', [term], micros(1000));
  expect(run.nights.map(({ taken }) => taken)).toEqual([1, 0]);
});

test('it is due on its weekdays only', () => {
  const mondays = { ...routine, time: { on: 'time' as const, weekdays: [0], at: '06:00' } };
  const run = new DryRun(mondays, '2026-11-15');
  expect(run.isDue('2026-11-02')).toBe(true);
  expect(run.isDue('2026-11-03')).toBe(false);
  run.rest('2026-11-03');
  expect(run.summary().sentence).toBe('In 0 runs over 1 night it would have done nothing.');
});
