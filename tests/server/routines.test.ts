import { randomUUID } from 'node:crypto';
import postgres from 'postgres';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import type { ItemsAnswer, RoutinesWaiting } from '../../src/answers/routines.ts';
import type { QueueAnswer } from '../../src/answers/round.ts';
import { routinesOf } from '../support/routines.ts';
import { openSheetOf } from '../support/sheets.ts';
import { callQuayside, startStack, structureOf, type Stack } from '../support/stack.ts';

/** Routines: a round by itself, within limits, with the same findings and sentences as a person's. */

let stack: Stack;
let sql: postgres.Sql;
const { call, all, routine, runs, settled, turn, make, change, run, act, items, days } = routinesOf(
  () => stack,
);

const bidsOf = async () =>
  new Map(
    (await structureOf(stack.quayside))
      .filter(({ entity, bid }) => entity === 'target' && bid !== null)
      .map((row) => [String(row.target_id), Number(row.bid)]),
  );
const queue = () => call<QueueAnswer>('GET', 'round/queue');
const problem = async (promise: Promise<unknown>) => {
  const error = (await promise.then(
    () => null,
    (failed: Error) => failed,
  ))!;
  return error.message;
};

beforeAll(async () => {
  stack = await startStack(true);
  sql = postgres(stack.databaseUrl, { max: 1, onnotice: () => undefined });
});
afterAll(async () => {
  await sql.end();
  await stack.stop();
});

describe('what is there from the start', () => {
  test('eight routines, off, each with a rank of its own', async () => {
    const { routines, allStopped } = await all();
    expect(routines.map(({ settings }) => settings.name)).toEqual([
      'Daily harvest and isolate',
      'Stop spend without orders',
      'Nightly toward target, careful',
      'Weekly bids, evidence',
      'Bands, weekly',
      'Revenue per click, weekly',
      'Weekly placements',
      'Nightly budgets',
    ]);
    expect(routines.map(({ rank }) => rank)).toEqual([1, 2, 3, 4, 5, 6, 7, 8]);
    expect(routines.every(({ isOn }) => !isOn)).toBe(true);
    expect(allStopped).toBe(false);
  });
});

describe('how far it goes', () => {
  test('one that only proposes leaves the sheet as it is; what it proposes can be taken onto it', async () => {
    await make('Proposes', { kinds: ['bids'], reach: { how: 'propose' }, grace: 0 });
    const made = await run('Proposes');
    expect(made).toMatchObject({ state: 'proposed', sheetId: null });
    const proposed = await items(made.runId, 'proposed');
    expect(proposed.length).toBe(made.summary.taken);
    const { runs: told } = await call<RoutinesWaiting>('GET', 'routines/waiting');
    expect(told).toMatchObject([{ runId: made.runId, routine: 'Proposes', state: 'proposed' }]);
    expect(proposed.length).toBeGreaterThan(3);
    // The same findings with the same worth as a person’s round has, in the same order.
    const { findings } = await queue();
    const bids = findings.filter(({ proposal }) => proposal.kind === 'bid').map(({ key }) => key);
    expect(bids.slice(0, 3)).toEqual(proposed.slice(0, 3).map(({ findingKey }) => findingKey));
    expect((await openSheetOf(stack.url)).lines).toHaveLength(0);
    const { lines, groups } = await act(made.runId, 'accept');
    expect(lines).toBe(made.summary.lines);
    expect((await openSheetOf(stack.url)).lines).toHaveLength(lines);
    await call('POST', 'sheet/undo', { groups });
    expect((await openSheetOf(stack.url)).lines).toHaveLength(0);
  });

  test('what it proposes by its own method and step is taken as it was proposed', async () => {
    const limits = { lines: 20, weekLines: 90, spend: 9e8, weekSpend: 9e9, share: 1 };
    await make('Small steps', {
      kinds: ['bids'],
      up: 1.1,
      down: 0.9,
      grace: 0,
      limits,
      reach: { how: 'propose' },
    });
    const made = await run('Small steps');
    const { groups } = await act(made.runId, 'accept');
    const { lines } = await openSheetOf(stack.url);
    expect(lines.length).toBeGreaterThan(10);
    for (const line of lines) {
      const [from, to] = [Number(line.old_value), Number(line.new_value)];
      expect(Math.abs(to - from)).toBeLessThanOrEqual(0.1 * from + 10_000);
    }
    await call('POST', 'sheet/undo', { groups });
  });

  test('one that holds is stopped, held again, and sent when its time has come, once', async () => {
    await make('Holds', { kinds: ['bids'], reach: { how: 'hold', hours: 5 }, grace: 0, thresholds: [] });
    await change('Holds', { limits: { lines: 4, weekLines: 8, spend: 9e8, weekSpend: 9e9, share: 1 } });
    const before = await bidsOf();
    const held = await run('Holds');
    expect(held).toMatchObject({ state: 'held', summary: { taken: 4, lines: 4 } });
    expect(held.summary.beyond).toBeGreaterThan(0);
    expect((await items(held.runId, 'beyond'))[0]!.why).toBe('A run may hold 4 lines: it waits for you.');
    // What stands on its sheet waits for nobody's decision any more.
    const keys = (await items(held.runId, 'taken')).map(({ findingKey }) => findingKey);
    const waiting = new Set((await queue()).findings.map(({ key }) => key));
    expect(keys.some((key) => waiting.has(key))).toBe(false);
    // Round and Today tell of it, what leaves first before what is only proposed.
    const told = async () => (await call<RoutinesWaiting>('GET', 'routines/waiting')).runs;
    expect((await told())[0]).toMatchObject({
      runId: held.runId,
      routine: 'Holds',
      state: 'held',
      sendAfter: held.sendAfter,
    });
    await act(held.runId, 'stop');
    expect((await runs('Holds'))[0]).toMatchObject({ state: 'stopped' });
    expect((await told()).some(({ state }) => state === 'held')).toBe(false);
    expect(await problem(act(held.runId, 'stop'))).toContain('not held any more');
    expect(await bidsOf()).toEqual(before);
    await act(held.runId, 'hold_again');
    await sql`update sheet set send_after = now() - interval '1 minute' where sheet_id = ${held.sheetId}`;
    await expect
      .poll(async () => (await runs('Holds'))[0]!.state, { timeout: 90_000, interval: 500 })
      .toBe('sent');
    const after = await bidsOf();
    expect([...after].filter(([id, bid]) => before.get(id) !== bid)).toHaveLength(4);
    // Taken back, as any other sheet is.
    const back = await act(held.runId, 'revert');
    expect(back.lines).toBe(4);
    await call('POST', 'sheet/undo', { groups: back.groups });
  }, 180_000);

  test('one that sends at once goes no further than a week allows', async () => {
    await change('Holds', { reach: { how: 'send' } });
    const second = await run('Holds');
    expect(second).toMatchObject({ state: 'sent', summary: { lines: 4 } });
    const third = await run('Holds');
    expect(third).toMatchObject({ state: 'nothing', summary: { taken: 0 } });
    expect((await items(third.runId, 'beyond'))[0]!.why).toContain(
      'A week may hold 8 lines, 8 of them are used',
    );
  });
});

describe('who goes first', () => {
  test('of two that want the same the higher rank wins, whichever came first, and the other says so', async () => {
    const limits = { lines: 5, weekLines: 50, spend: 9e8, weekSpend: 9e9, share: 1 };
    await make('Low', { kinds: ['bids'], grace: 0, limits });
    await make('Lower', { kinds: ['bids'], grace: 0, limits });
    const lower = await run('Lower');
    expect(lower.summary.taken).toBe(5);
    const low = await run('Low');
    // “Low” ranks above: what “Lower” held is its own now.
    expect(low.summary.taken).toBe(5);
    const lost = await items(lower.runId, 'lost');
    expect(lost).toHaveLength(5);
    expect(lost[0]!.why).toBe('“Low” has a higher rank and sets the same.');
    const again = await run('Lower');
    expect(
      (await items(again.runId, 'left')).some(({ why }) => why === '“Low” sets the same, and goes first.'),
    ).toBe(true);
    for (const one of [low, again]) if (one.state === 'held') await act(one.runId, 'stop');
  });

  test('a person outranks all: what stands on the sheet, was put off, or was set by hand is left alone', async () => {
    const { findings, window } = await queue();
    const bids = findings.filter(({ proposal }) => proposal.kind === 'bid');
    const [onSheet, later] = [bids[0]!.key, bids[1]!.key];
    await call('POST', 'round/accept', { ...window, keys: [onSheet], adjustments: {} });
    await call('POST', 'round/decide', { keys: [later], decision: 'later', days: 7 });
    const low = await run('Low');
    const taken = (await items(low.runId))
      .filter(({ did }) => did === 'taken')
      .map(({ findingKey }) => findingKey);
    expect(taken).not.toContain(onSheet);
    expect(taken).not.toContain(later);
    expect(low.summary.decided).toBe(1);
    await act(low.runId, 'stop');
    const { lines } = await openSheetOf(stack.url);
    await call('POST', 'sheet/lines', { lineIds: lines.map(({ line_id: id }) => id) });
  });
});

test('what a trial touches stays as it is until it is decided; a routine that is turned off holds nothing', async () => {
  const { findings, window } = await queue();
  // A negative is of its whole campaign: no bid of it moves either.
  const bidding = new Set(
    findings.filter(({ proposal }) => proposal.kind === 'bid').map(({ campaignId }) => campaignId),
  );
  const tried = findings.find(
    ({ proposal, campaignId }) => proposal.kind === 'negative' && bidding.has(campaignId),
  )!;
  await call('POST', 'round/accept', { ...window, keys: [tried.key], adjustments: {} });
  const [line] = (await openSheetOf(stack.url)).lines;
  const plan = { name: 'Mine', days: 14, deciding: 'gain', harmOrders: null, harmRank: null };
  await call('POST', 'trials', { ...plan, lineIds: [line!.line_id] });
  await call('POST', 'sheet/send', { clicksMeant: true });
  await settled();
  const limits = { lines: 5000, weekLines: 5000, spend: 9e9, weekSpend: 9e9, share: 1 };
  await make('Moves', { kinds: ['bids'], grace: 0, reach: { how: 'propose' }, limits });
  const { runId } = await run('Moves');
  const log = (query: string) =>
    call<ItemsAnswer>('GET', `routines/log?run=${runId}&limit=500&${query}`).then((answer) => answer.items);
  const left = await log(`text=${encodeURIComponent('The trial “Mine” touches it')}`);
  expect(left.length).toBeGreaterThan(0);
  expect(left.every(({ campaignId, did }) => campaignId === tried.campaignId && did === 'left')).toBe(true);
  const proposed = await log(`did=proposed&text=${encodeURIComponent(left[0]!.campaign)}`);
  expect(proposed.filter(({ campaignId }) => campaignId === tried.campaignId)).toEqual([]);
  await make('Holder', { kinds: ['bids'], grace: 0, limits: { ...limits, lines: 2 } });
  expect((await run('Holder')).state).toBe('held');
  await turn('Holder', 'on');
  await turn('Holder', 'off');
  expect((await runs('Holder'))[0]!.state).toBe('stopped');
});

test('what is turned off while others of the same night run is not run, and says so', async () => {
  const limits = { lines: 2, weekLines: 50, spend: 9e8, weekSpend: 9e9, share: 1 };
  for (const name of ['First', 'Second']) {
    await make(name, { kinds: ['bids'], grace: 0, limits, time: { on: 'figures' } });
    await turn(name, 'on');
  }
  await call('POST', 'fetch', {});
  const running = async () =>
    (await call<{ jobs: { kind: string; state: string }[] }>('GET', 'jobs')).jobs.some(
      ({ kind, state }) => kind === 'routines' && state === 'running',
    );
  await expect.poll(running, { timeout: 90_000, interval: 20 }).toBe(true);
  await sql.begin(async (tx) => {
    // “First” waits for its turn at the account, while a hand turns “Second” off.
    await tx`select 1 from account for no key update`;
    await turn('Second', 'off');
  });
  await settled();
  expect((await runs('First'))[0]!.state).toBe('held');
  expect((await runs('Second'))[0]).toMatchObject({
    state: 'stopped',
    why: 'It was turned off before it ran.',
  });
  for (const name of ['First', 'Second']) await turn(name, 'remove');
});

describe('bad input', () => {
  const bad = (more: object) => problem(make('Bad', { kinds: ['bids'], ...more }));
  const limits = { lines: 5, weekLines: 50, spend: 1e6, weekSpend: 1e7, share: 0.1 };

  test('says which field and what to do, and nothing is kept', async () => {
    expect(await bad({ limits: { ...limits, lines: 0 } })).toContain(
      'A limit of 0 lines would let nothing through',
    );
    expect(await bad({ limits: { ...limits, spend: 0 } })).toContain('A limit of 0.00');
    expect(await bad({ kinds: [] })).toContain('at least one kind');
    expect(await bad({ scope: { of: 'campaigns', keys: [] } })).toContain('at least one of the campaigns');
    expect(await bad({ time: { on: 'time', weekdays: [0], at: '25:10' } })).toContain('no time of day');
    expect(await problem(make('Low', { kinds: ['bids'] }))).toContain('There is a routine “Low” already');
    expect(await routine('Bad')).toBeUndefined();
  });

  test('no two have one rank; an order that leaves one out is refused', async () => {
    const ids = (await all()).routines.map(({ routineId }) => routineId);
    const order = (list: number[]) => call('PUT', 'routines', { order: list });
    expect(await problem(order([...ids.slice(1), ids[1]!]))).toContain('named twice');
    expect(await problem(order(ids.slice(1)))).toContain('There are other routines by now');
    await order([...ids].reverse());
    const now = await all();
    expect(now.routines.map(({ routineId }) => routineId)).toEqual([...ids].reverse());
    expect(now.routines.map(({ rank }) => rank)).toEqual(ids.map((_, at) => at + 1));
    await order(ids);
  });

  test('a slice that means something else by now, or has gone, stops it before it acts', async () => {
    const body = { level: 'campaigns', columns: ['name'], sort: null, descending: false };
    const where = (text: string) => ({ column: 'name', is: 'contains', value: text });
    const { id } = await call<{ id: string }>('POST', 'explore/slices', {
      name: 'Mine',
      body: { ...body, where: where('Crock') },
    });
    const { choices } = await all();
    const meaning = choices.slices.find(({ key }) => key === id)!.meaning;
    await make('Sliced', {
      kinds: ['bids'],
      grace: 0,
      scope: { of: 'slice', id, meaning },
      reach: { how: 'propose' },
    });
    const first = await run('Sliced');
    expect(first.state).toBe('proposed');
    expect((await items(first.runId)).every(({ campaign }) => campaign.includes('Crock'))).toBe(true);
    await turn('Sliced', 'on');
    await call('POST', 'explore/slices', { name: 'Mine', body: { ...body, where: where('Lid') } });
    const second = await run('Sliced');
    expect(second).toMatchObject({ state: 'refused' });
    expect(second.why).toContain('“Mine” means something else by now');
    expect(await routine('Sliced')).toMatchObject({ isOn: false, stoppedWhy: second.why });
    expect(await problem(turn('Sliced', 'on'))).toContain('means something else');
    await call('DELETE', `explore/slices/${id}`, {});
    expect((await routine('Sliced')).problem).toBe('Its slice has gone. Choose another scope.');
  });

  test('two who change one at once: the second is told, and nothing of it is kept', async () => {
    const { routineId, version, settings } = await routine('Low');
    const put = (name: string) =>
      call('PUT', `routines/${routineId}`, { version, settings: { ...settings, days: 21, name } });
    await put('Low');
    expect(await problem(put('Else'))).toContain('Somebody changed this routine meanwhile');
    expect(await routine('Else')).toBeUndefined();
  });
});

describe('safety', () => {
  test('one switch stops all: nothing runs, nothing that is held leaves', async () => {
    await change('Low', { reach: { how: 'hold', hours: 1 } });
    const held = await run('Low');
    expect(held.state).toBe('held');
    await call('POST', 'routines/switch', { isStopped: true });
    expect(await problem(turn('Low', 'run'))).toContain('All routines are stopped');
    expect(await problem(act(held.runId, 'send_now'))).toContain('All routines are stopped');
    await call('POST', 'routines/switch', { isStopped: false });
    await act(held.runId, 'send_now');
    await settled();
    expect((await runs('Low'))[0]!.state).toBe('sent');
  });

  test('a marketplace that answers with errors stops it, and it says why', async () => {
    await turn('Low', 'on');
    await sql`
      insert into job (account_id, job_id, kind, payload, state, message, created_at, finished_at)
      values (1, gen_random_uuid(), 'fetch', '{}', 'failed', 'Quayside answered 503.', now(), now())`;
    const refused = await run('Low');
    expect(refused).toMatchObject({ state: 'refused', sheetId: null });
    expect(refused.why).toContain('The marketplace answered with an error: Quayside answered 503.');
    expect(await routine('Low')).toMatchObject({ isOn: false });
    await sql`delete from job where message = 'Quayside answered 503.'`;
  });

  test('figures that are stale stop it', async () => {
    await sql`update account set today = today + 9 where account_id = 1`;
    expect((await run('Low')).why).toContain('Figures are stale: the last day told is');
    await sql`update account set today = today - 9 where account_id = 1`;
  });
});

describe('when it runs', () => {
  test('after figures came in, once for each fetch', async () => {
    await make('Daily', { kinds: ['negate'], grace: 0, reach: { how: 'propose' } });
    await turn('Daily', 'on');
    await days(1);
    expect(await runs('Daily')).toHaveLength(1);
    await days(1);
    const made = await runs('Daily');
    expect(made).toHaveLength(2);
    expect(made.every(({ due }) => due.startsWith('figures '))).toBe(true);
    await turn('Daily', 'off');
    await days(1);
    expect(await runs('Daily')).toHaveLength(2);
  });

  test('a time that was missed is made up once, not for each night that was missed', async () => {
    const time = { on: 'time' as const, weekdays: [0, 1, 2, 3, 4, 5, 6], at: '03:30' };
    await make('Clocked', { kinds: ['negate'], grace: 0, reach: { how: 'propose' }, time });
    await turn('Clocked', 'on');
    await stack.kill();
    await sql`update routine set on_since = now() - interval '5 days' where settings ->> 'name' = 'Clocked'`;
    await stack.restart();
    await expect
      .poll(async () => (await runs('Clocked')).length, { timeout: 150_000, interval: 1000 })
      .toBe(1);
    await settled();
    // The next looks at the clock find nothing due.
    await stack.killAndRestart();
    await expect
      .poll(
        async () =>
          (
            await sql`select 1 from pgboss.job where name = 'clock' and state = 'completed' and completed_on > now() - interval '40 seconds'`
          ).length,
        { timeout: 150_000, interval: 1000 },
      )
      .toBeGreaterThan(0);
    expect(await runs('Clocked')).toHaveLength(1);
  }, 400_000);
});

test('collections: a rule that takes in what is sold out is mended as a person would, and stays mended', async () => {
  const rule = { inStock: false };
  await callQuayside(stack.quayside, 'POST', '/changes', {
    idempotency_key: randomUUID(),
    lines: [
      {
        line_id: '1',
        action: 'create',
        entity: 'campaign',
        temp_id: 'c',
        values: { name: 'Everything', kind: 'manual', budget: 10 },
      },
      {
        line_id: '2',
        action: 'create',
        entity: 'ad_group',
        campaign_id: 'new:c',
        values: { name: 'Everything', default_bid: 0.3, rule },
      },
    ],
  });
  await days(1);
  await make('Chosen', { kinds: ['collections'], grace: 0, reach: { how: 'send' } });
  const made = await run('Chosen');
  expect(made).toMatchObject({ state: 'sent', summary: { taken: 1, lines: 1 } });
  const [item] = await items(made.runId, 'taken');
  expect(item!.kind).toBe('collections');
  expect(item!.sentence).toMatch(
    /^A collection takes in what cannot earn\. Everything shows \d+ products by its rule “all products”\. .+ sold out/,
  );
  const ruleNow = async () =>
    JSON.parse(
      String(
        (await structureOf(stack.quayside)).find(
          ({ entity, campaign }) => entity === 'ad_group' && campaign === 'Everything',
        )!.rule,
      ),
    ) as object;
  expect(await ruleNow()).toMatchObject({ inStock: true });
  expect((await run('Chosen')).state).toBe('nothing');
  // Taken back: what Postgres keeps of a rule is the same rule, however it is written.
  await act(made.runId, 'revert');
  await call('POST', 'sheet/send', {});
  await settled();
  expect(await ruleNow()).toMatchObject({ inStock: false });
});
