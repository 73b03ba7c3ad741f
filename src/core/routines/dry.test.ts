import { expect, test } from 'vitest';
import { micros } from '../metrics/money.ts';
import { DryRun, type DryCandidate, type DryFound } from './dry.ts';
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
  sets: [key],
  touches: [],
  played: [{ entity: 'target', objectId: key, field: 'bid', value: '400000' }],
  ...more,
});
const routine = {
  ...newRoutine('Dry'),
  kinds: ['bids' as const],
  limits: { ...newRoutine('').limits, lines: 2 },
};

const stretch = { from: '2026-11-01', to: '2026-11-15' };

const never = () => null;
const found = (candidates: DryCandidate[], changedOn: DryFound['changedOn'] = never): DryFound => ({
  candidates,
  weekSpend: micros(1000),
  changedOn,
});

test('what is played counts from its night to the end of the stretch, each with what is not known of it', () => {
  const run = new DryRun(routine, stretch);
  run.night('2026-11-01', found([candidate('a')]));
  run.night('2026-11-08', found([candidate('b')]));
  const { spend, sales, taken, profit } = run.summary();
  // Two weeks of the first and one of the second: 3 x 7.00 of spend; spreads 2 and 1 together.
  expect(taken).toBe(2);
  expect(spend.value).toBe(micros(-21));
  expect(sales.value).toBe(micros(-42));
  expect(spend.high - spend.value).toBeCloseTo(1.2815 * 1e6 * Math.hypot(2, 1), -4);
  expect(profit).toBeNull();
});

test('bids that were played stand for the nights after it; its limits leave the rest', () => {
  const run = new DryRun(routine, stretch);
  run.night('2026-11-01', found(['a', 'b', 'c'].map((key) => candidate(key))));
  expect(run.played).toEqual(
    ['a', 'b'].map((objectId) => ({
      entity: 'target',
      objectId,
      field: 'bid',
      value: '400000',
      on: '2026-11-01',
    })),
  );
  expect(run.nights[0]).toMatchObject({ taken: 2, beyond: 1, left: 0, lines: 2 });
  // The next night it waits after its own change, and what was left is taken.
  run.night('2026-11-02', found([candidate('a', { changedOn: '2026-11-01' }), candidate('c')]));
  expect(run.nights[1]).toMatchObject({ taken: 1, left: 1 });
});

test('a term that was harvested or blocked once is not again, however often its evidence comes back', () => {
  const run = new DryRun(routine, stretch);
  const term = candidate('term:1:jar', { kind: 'negate', played: [], raises: null });
  run.night('2026-11-01', found([term]));
  run.night('2026-11-02', found([term]));
  expect(run.nights.map(({ taken }) => taken)).toEqual([1, 0]);
});

test('it is due on its weekdays only', () => {
  const mondays = { ...routine, time: { on: 'time' as const, weekdays: [0], at: '06:00' } };
  const run = new DryRun(mondays, stretch);
  expect(run.isDue('2026-11-02')).toBe(true);
  expect(run.isDue('2026-11-03')).toBe(false);
  run.rest('2026-11-03');
  expect(run.summary().sentence).toBe('In 0 runs over 1 night it would have done nothing.');
});

test('what moves something that was changed a short while ago waits; a budget comes again, a repair does not', () => {
  const all = { ...routine, kinds: ['budgets' as const, 'structure' as const], wait: 7 };
  const run = new DryRun({ ...all, limits: newRoutine('').limits }, stretch);
  const budget = candidate('budget:1', {
    kind: 'budgets',
    touches: ['campaign:1:daily_budget'],
    played: [{ entity: 'campaign', objectId: '1', field: 'daily_budget', value: '9000000' }],
  });
  const repair = candidate('structure:no_end_date:1', {
    kind: 'structure',
    played: [{ entity: 'campaign', objectId: '1', field: 'end_date', value: '2027-01-01' }],
  });
  const changedOn = (day: string) => (name: string) => (name === 'campaign:1:daily_budget' ? day : null);
  run.night('2026-11-01', found([budget, repair], changedOn('2026-10-26')));
  run.night('2026-11-02', found([budget, repair], changedOn('2026-10-26')));
  run.night('2026-11-09', found([budget, repair], changedOn('2026-11-02')));
  expect(run.nights.map(({ taken, items }) => [taken, items.map(({ kind }) => kind)])).toEqual([
    [1, ['structure']],
    [1, ['budgets']],
    [1, ['budgets']],
  ]);
});

test('no two findings of a night set the same: the one worth more does', () => {
  const run = new DryRun({ ...routine, limits: newRoutine('').limits }, stretch);
  const placements = candidate('placements:1', { sets: ['bid of 7', 'modifier'], worth: micros(3) });
  run.night('2026-11-01', found([placements, candidate('a', { sets: ['bid of 7'] }), candidate('b')]));
  expect(run.nights[0]).toMatchObject({ taken: 2, left: 1 });
});
