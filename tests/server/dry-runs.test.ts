import postgres from 'postgres';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import type { DryAnswer } from '../../src/answers/routines.ts';
import { addDays, daysBetween } from '../../src/core/metrics/days.ts';
import type { Routine, RoutineKind } from '../../src/core/routines/routine.ts';
import { newRoutine } from '../../src/core/routines/shipped.ts';
import { waitForJob } from '../../scripts/lib/processes.ts';
import { routinesOf } from '../support/routines.ts';
import { startStack, type Stack } from '../support/stack.ts';

/** Routines over nights of the past: what was known by then, what was played, and what they would do by now. */

let stack: Stack;
let sql: postgres.Sql;
const { call, all, routine, make, run, act, items } = routinesOf(() => stack);

beforeAll(async () => {
  stack = await startStack(true);
  sql = postgres(stack.databaseUrl, { max: 1, onnotice: () => undefined });
});
afterAll(async () => {
  await sql.end();
  await stack.stop();
});

const wide = { lines: 2000, weekLines: 2000, spend: 9e11, weekSpend: 9e12, share: 1 };
const settings = (kinds: RoutineKind[], more: Partial<Routine> = {}): Routine => ({
  ...newRoutine('Played'),
  kinds,
  grace: 0,
  limits: wide,
  ...more,
});
const play = async (of: Routine, from: string, to = from): Promise<DryAnswer> => {
  const { jobId } = await call<{ jobId: string }>('POST', 'routines/dry', { settings: of, from, to });
  await waitForJob(stack.url, jobId);
  return (await call<{ result: { played: DryAnswer } }>('GET', `jobs/${jobId}`)).result.played;
};

const kinds = [
  'harvest',
  'negate',
  'bids',
  'words',
  'conflicts',
  'placements',
  'budgets',
  'hours',
  'structure',
  'collections',
  'stages',
] as const;
const ofGroup: Partial<Routine> = {
  scope: { of: 'budget_groups', keys: ['bg1'] },
  stages: { measure: 'acos', from: 0, to: 0.3, tuning: 0.35, outDays: 14, leastOrders: 5 },
};

describe('by now, with nothing played before', () => {
  test.each(kinds)('%s: the last night finds, takes and says what the routine itself does', async (kind) => {
    const name = `Alike ${kind}`;
    const more = kind === 'stages' ? ofGroup : {};
    await make(name, settings([kind], { ...more, name, reach: { how: 'propose' } }));
    const live = await run(name);
    const { today } = await all();
    const [night] = (await play(settings([kind], more), today!)).nights;
    const told = await items(live.runId);
    const { found = 0, left = 0 } = live.summary;
    expect(night).toMatchObject({ found, left, beyond: 0 });
    if (kind !== 'collections') expect(found).toBeGreaterThan(0);
    expect(night!.lines).toBe(live.summary.lines);
    const brief = (one: { worth: number; sentence: string }) => [one.sentence, Math.round(one.worth)];
    const taken = told.filter(({ did }) => did === 'proposed').slice(0, night!.items.length);
    expect(night!.items.map((one) => [one.key, ...brief(one)])).toEqual(
      taken.map((one) => [one.findingKey, ...brief(one)]),
    );
  });
});

const tables = ['target_day', 'term_day', 'placement_day', 'campaign_hour'];

test('it sees no more than was known: later days, whatever they hold, change nothing of an earlier night', async () => {
  const last = '2026-10-28';
  const moved: RoutineKind[] = [
    'bids',
    'negate',
    'harvest',
    'words',
    'conflicts',
    'placements',
    'budgets',
    'hours',
  ];
  const before = await play(settings(moved), '2026-10-26', last);
  expect(before.nights).toHaveLength(3);
  expect(before.summary.taken).toBeGreaterThan(20);
  expect(before.summary.sales.low).toBeLessThan(before.summary.sales.high);
  const times = async (by: string) => {
    // Orders of all days after the last night: no night knows of them.
    for (const table of tables)
      await sql`update ${sql(table)} set orders = orders ${sql.unsafe(by)}, sales = sales ${sql.unsafe(by)} where day > ${last}`;
    await sql`delete from day_block where day > ${last}`;
    await sql`update account set data_version = data_version + 1`;
    await stack.killAndRestart();
  };
  await times('* 10');
  const after = await play(settings(moved), '2026-10-26', last);
  expect(after.nights).toEqual(before.nights);
  await times('/ 10');
});

test('budgets and placements that were played stand on the nights after: none is moved twice within its wait', async () => {
  const wait = 10;
  const nights = 24;
  const few: Partial<Routine> = { wait, limits: { ...wide, lines: 60, weekLines: 400 } };
  const from = '2026-10-20';
  for (const kind of ['budgets', 'placements', 'hours'] as const) {
    const played = await play(settings([kind], few), from, addDays(from, nights - 1));
    const days = new Map<string, string[]>();
    for (const { day, items: taken } of played.nights)
      for (const { key } of taken) days.set(key, [...(days.get(key) ?? []), day]);
    const again = [...days.values()].flatMap((list) =>
      list.slice(1).map((day, at) => daysBetween(list[at]!, day)),
    );
    for (const apart of again) expect(apart).toBeGreaterThanOrEqual(wait);
    // What was moved to where it should stand is not found anew every time its wait is over.
    expect(played.summary.taken).toBeLessThan((days.size * nights) / wait);
    expect(played.summary.taken).toBeGreaterThan(3);
    expect(played.summary.worth).toBeGreaterThan(0);
  }
}, 120_000);

test('stages begin with the first night, and each budget that they move stands for its wait', async () => {
  const of = settings(['stages'], { ...ofGroup, wait: 7, grace: 0 });
  const { nights, summary } = await play(of, '2026-10-20', '2026-11-08');
  const moves = nights.flatMap(({ day, items: taken }) =>
    taken.filter(({ kind }) => kind === 'stages').map(({ key, sentence }) => ({ day, key, sentence })),
  );
  expect(moves.length).toBeGreaterThan(2);
  expect(summary.spend.low).toBeLessThan(summary.spend.high);
  const last = new Map<string, string>();
  for (const { day, key, sentence } of moves) {
    expect(sentence).toMatch(/^(Research|Tuning|Earning): .+ The stage has [\d.]+ a day/);
    if (last.has(key)) expect(daysBetween(last.get(key)!, day)).toBeGreaterThanOrEqual(7);
    last.set(key, day);
  }
});

test('what was changed since is taken back for nights before it', async () => {
  await make(
    'Once',
    settings(['bids'], { name: 'Once', reach: { how: 'send' }, limits: { ...wide, lines: 1, weekLines: 9 } }),
  );
  const { settings: once } = await routine('Once');
  const first = async () => (await play(once, '2026-11-12')).nights[0]!.items[0]!;
  const before = await first();
  const sent = await run('Once');
  expect(sent.state).toBe('sent');
  // The bid that was sent stood otherwise on that night: it is said from what it was then.
  expect(await first()).toEqual(before);
  const back = await act(sent.runId, 'revert');
  await call('POST', 'sheet/undo', { groups: back.groups });
});

test('bad stretches are told', async () => {
  const wrong = async (more: object) =>
    call('POST', 'routines/dry', {
      settings: settings(['bids']),
      from: '2026-11-01',
      to: '2026-11-05',
      ...more,
    }).then(
      () => '',
      (error: Error) => error.message,
    );
  expect(await wrong({ from: '2026-11-09' })).toContain('ends before it begins');
  expect(await wrong({ from: '2026-01-01' })).toContain('nights at most');
  expect(await wrong({ from: '2026-11-20', to: '2026-12-20' })).toContain(
    'lies after the last day that is known',
  );
});
