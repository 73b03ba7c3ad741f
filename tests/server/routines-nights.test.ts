import postgres from 'postgres';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { shippedRoutines } from '../../src/core/routines/shipped.ts';
import type { StagesAnswer } from '../../src/answers/routines.ts';
import { routinesOf } from '../support/routines.ts';
import { startStack, structureOf, type Stack } from '../support/stack.ts';

/** Routines by themselves: stages, a server that falls, and four weeks of all that are shipped. */

let stack: Stack;
let sql: postgres.Sql;
const { call, all, routine, runs, settled, turn, make, change, run, items, days } = routinesOf(() => stack);

beforeAll(async () => {
  stack = await startStack(true);
  sql = postgres(stack.databaseUrl, { max: 1, onnotice: () => undefined });
});
afterAll(async () => {
  await sql.end();
  await stack.stop();
});

test('stages of a group keep to its total; each budget has its reason; a campaign that earns is remembered', async () => {
  const stages = { measure: 'acos', from: 0, to: 0.3, tuning: 0.35, outDays: 14, leastOrders: 5 } as const;
  await make('Stages', {
    kinds: ['stages'],
    scope: { of: 'budget_groups', keys: ['bg1'] },
    stages,
    grace: 0,
    reach: { how: 'send' },
    limits: { lines: 50, weekLines: 50, spend: 9e8, weekSpend: 9e9, share: 1 },
  });
  const { routineId } = await routine('Stages');
  const { groups } = await call<StagesAnswer>('GET', `routines/${routineId}/stages`);
  const { shares, campaigns } = groups[0]!;
  expect(shares.reduce((sum, { money }) => sum + money, 0)).toBeCloseTo(85e6, -1);
  expect(shares.find(({ stage }) => stage === 'research')!.money).toBe(20e6);
  const total = campaigns.reduce((sum, { budget, becomes }) => sum + (becomes ?? budget ?? 0), 0);
  const now = campaigns.reduce((sum, { budget }) => sum + (budget ?? 0), 0);
  expect(total).toBeLessThanOrEqual(Math.max(85e6, now));
  const made = await run('Stages');
  expect(made.state).toBe('sent');
  const taken = (await items(made.runId, 'taken')).filter(({ kind }) => kind === 'stages');
  expect(taken.length).toBeGreaterThan(2);
  expect(
    taken.every(({ sentence }) => /^(Research|Tuning|Earning): .+ The stage has [\d.]+ a day/.test(sentence)),
  ).toBe(true);
  const kept = await sql<
    { stage: string; n: number }[]
  >`select stage, count(*)::int as n from campaign_stage group by 1 order by 1`;
  expect(kept.map(({ stage }) => stage)).toContain('earning');
  expect(kept.reduce((sum, { n }) => sum + n, 0)).toBe(campaigns.length);
  // What it has moved waits: a second run on the same evidence moves no budget again.
  const again = await run('Stages');
  expect((await items(again.runId, 'taken')).filter(({ kind }) => kind === 'stages')).toEqual([]);
});

test('a server that is killed in the middle of a run sends nothing twice', async () => {
  const bids = async () =>
    new Map(
      (await structureOf(stack.quayside))
        .filter(({ entity }) => entity === 'target')
        .map((one) => [String(one.target_id), one.bid]),
    );
  await make('Killed', {
    kinds: ['bids'],
    grace: 0,
    byHand: 0,
    reach: { how: 'send' },
    limits: { lines: 30, weekLines: 900, spend: 9e8, weekSpend: 9e9, share: 1 },
  });
  for (const pause of [150, 600, 1100, 1600]) {
    const before = await bids();
    await turn('Killed', 'run');
    await new Promise((done) => setTimeout(done, pause));
    await stack.killAndRestart();
    await expect
      .poll(async () => (await runs('Killed'))[0]!.state, { timeout: 120_000, interval: 500 })
      .toMatch(/sent|nothing/);
    await settled();
    const [made] = await runs('Killed');
    const sheets = await sql`select sheet_id from sheet where run_id = ${made!.runId}`;
    expect(sheets).toHaveLength(made!.state === 'sent' ? 1 : 0);
    const after = await bids();
    const moved = [...after].filter(([id, bid]) => before.get(id) !== bid);
    // Each of its lines changed one bid, once.
    expect(moved).toHaveLength(made!.summary.lines!);
    const twice = await sql`
      select object_id from line where sheet_id = any(${sheets.map(({ sheet_id: id }) => Number(id))}::bigint[])
        and state = 'applied' group by object_id, field having count(*) > 1`;
    expect(twice).toEqual([]);
  }
  await turn('Killed', 'remove');
}, 400_000);

test('four weeks of the shipped routines: no guard broken, no limit passed, no cut twice on the same evidence', async () => {
  await turn('Stages', 'remove');
  const first = Number(
    (await sql<{ id: number }[]>`select coalesce(max(sheet_id), 0) as id from sheet`)[0]!.id,
  );
  for (const { name } of shippedRoutines)
    await change(name, { reach: { how: 'send' }, time: { on: 'figures' } });
  const nightly = [
    'Daily harvest and isolate',
    'Stop spend without orders',
    'Nightly toward target, careful',
    'Nightly budgets',
  ];
  const weekly = shippedRoutines.map(({ name }) => name).filter((name) => !nightly.includes(name));
  for (const name of nightly) await turn(name, 'on');
  for (let night = 0; night < 28; night++) {
    await days(1);
    if (night % 7 === 0) for (const name of weekly) await turn(name, 'run');
    await settled();
  }
  const lines = await sql<
    {
      day: string;
      routine: string;
      entity: string;
      action: string;
      object: string;
      field: string;
      old: string | null;
      new: string | null;
      state: string;
      kind: string;
    }[]
  >`
    select s.sent_on::text as day, l.proposed_by as routine, l.entity, l.action, l.object_id as object, l.field, l.old_value as old,
      l.new_value as new, l.state, coalesce(l.finding_key, '') as kind
    from line l join sheet s using (account_id, sheet_id)
    where s.sheet_id > ${first} and s.state = 'sent' and l.state <> 'removed' order by s.sent_on, l.line_id`;
  expect(lines.length).toBeGreaterThan(150);
  expect(lines.filter(({ state }) => state === 'refused')).toEqual([]);
  const bids = lines.filter(
    ({ entity, field, action }) => entity === 'target' && field === 'bid' && action === 'update',
  );
  const ratio = (one: (typeof bids)[number]) => Number(one.new) / Number(one.old);
  for (const one of bids) {
    expect(Number(one.new)).toBeGreaterThanOrEqual(40_000);
    // The careful one moves by a tenth at most, up to a bid step; the others by the account's largest step.
    const isCareful = one.routine.includes('careful');
    const step = 10_000 / Number(one.old);
    expect(ratio(one)).toBeLessThanOrEqual((isCareful ? 1.1 : 2) + step);
    expect(ratio(one)).toBeGreaterThanOrEqual((isCareful ? 0.9 : 1 / 3) - step);
    if (one.routine.includes('Stop spend')) expect(ratio(one)).toBeLessThan(1);
  }
  // No field is changed twice within a week, by whichever of them.
  const last = new Map<string, string>();
  for (const { action, entity, object, field, day } of lines) {
    if (action !== 'update') continue;
    const name = `${entity}:${object}:${field}`;
    const before = last.get(name);
    if (before !== undefined)
      expect((Date.parse(day) - Date.parse(before)) / 864e5).toBeGreaterThanOrEqual(7);
    last.set(name, day);
  }
  // Nothing is made twice.
  const made = lines.filter(({ action }) => action === 'create').map(({ object }) => object);
  expect(new Set(made).size).toBe(made.length);
  const { runs: known, routines } = await all();
  const names = new Set(shippedRoutines.map(({ name }) => name));
  for (const one of known.filter((each) => each.state === 'sent' && names.has(each.routine))) {
    const { limits } = routines.find(({ routineId }) => routineId === one.routineId)!.settings;
    expect(one.summary.lines!).toBeLessThanOrEqual(limits.lines);
    expect(one.summary.spend!).toBeLessThanOrEqual(limits.spend);
  }
  // None stopped itself, and each of the nightly ones ran every night.
  expect(
    routines.filter(({ stoppedWhy }) => stoppedWhy !== null).map(({ stoppedWhy }) => stoppedWhy),
  ).toEqual([]);
  for (const name of nightly) expect((await runs(name)).length).toBe(28);
}, 1_500_000);
