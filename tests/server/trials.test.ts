import postgres from 'postgres';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { callApi, waitForJob } from '../../scripts/lib/processes.ts';
import type { SeasonAnswer } from '../../src/answers/account.ts';
import type { AfterAnswer } from '../../src/answers/hours.ts';
import type { BudgetsAnswer } from '../../src/answers/spend.ts';
import type { QueueAnswer, WiderAnswer } from '../../src/answers/round.ts';
import type { TrialsAnswer, TrialRow } from '../../src/answers/trials.ts';
import { openSheetOf } from '../support/sheets.ts';
import { callQuayside, startStack, structureOf, type Stack } from '../support/stack.ts';

/** Trials: made of lines, sent, compared with what was not touched; one ends with a verdict, one does harm. */

let stack: Stack;
let window: { from: string; to: string };
/** Two campaigns that sell: one is tried, one is harmed. */
let tried: { id: string; name: string };
let harmed: { id: string; name: string };
/** One whose Sundays are compared with its other days. */
let apart: { id: string; name: string };

const call = <T>(method: string, path: string, body?: unknown) =>
  callApi<T>(stack.url, method, `/api/1/${path}`, body);
const trials = async () => (await call<TrialsAnswer>('GET', 'trials')).trials;
const trial = async (name: string): Promise<TrialRow> => (await trials()).find((one) => one.name === name)!;
const plan = { days: 14, deciding: 'gain', harmOrders: 0.2, harmRank: null };
const make = (name: string, lineIds: number[] | null, more: object = {}) =>
  call<{ trialId: number; lines: number }>('POST', 'trials', { ...plan, name, lineIds, ...more });
const act = (trialId: number, body: object) =>
  call<{ groups: string[]; lines: number }>('POST', `trials/${trialId}`, body);
const linesOf = async (campaign: string) =>
  (await openSheetOf(stack.url)).lines
    .filter((line) => line.campaign === campaign)
    .map(({ line_id: id }) => id);
const send = async () => {
  const { jobId } = await call<{ jobId: string }>('POST', 'sheet/send', { clicksMeant: true });
  await waitForJob(stack.url, jobId);
};
const days = async (count: number) => {
  await callQuayside(stack.quayside, 'POST', '/clock/advance', { days: count });
  const { jobId } = await call<{ jobId: string }>('POST', 'fetch', {});
  await waitForJob(stack.url, jobId);
};
const setSchedule = (campaignId: string, schedule: string) =>
  call('POST', 'spend/hours', { ...window, schedules: [{ campaignId, schedule }] });
const pause = (name: string) =>
  call('POST', 'explore/edit', {
    level: 'campaigns',
    columns: [],
    where: { column: 'name', is: 'equals', value: name },
    window,
    edit: { field: 'status', to: 'paused' },
    keepGuards: false,
    keys: null,
    values: null,
  });

beforeAll(async () => {
  stack = await startStack(true);
  window = (await call<QueueAnswer>('GET', 'round/queue')).window!;
  const { campaigns } = await call<BudgetsAnswer>('GET', `spend/budgets?from=${window.from}&to=${window.to}`);
  const selling = [...campaigns].sort((a, b) => b.sums.orders - a.sums.orders);
  const other = selling.find(({ sku }) => sku !== selling[0]!.sku)!;
  harmed = { id: selling[0]!.campaignId, name: selling[0]!.name };
  tried = { id: other.campaignId, name: other.name };
  const third = selling.find(({ sku }) => sku !== selling[0]!.sku && sku !== other.sku)!;
  apart = { id: third.campaignId, name: third.name };
});
afterAll(() => stack.stop());

describe('a trial is made', () => {
  test('of lines that wait, with all that belongs to them; what cannot be is said with its field, and nothing is made', async () => {
    await setSchedule(tried.id, 'sunday 0-23 60');
    const [line] = await linesOf(tried.name);
    await expect(make('short', [line!], { days: 3 })).rejects.toThrow('7 to 84 days');
    await expect(make('  ', [line!])).rejects.toThrow('a name of 1 to 80 characters');
    await expect(make('odd', [line!], { harmOrders: 2 })).rejects.toThrow('between 0 and 100 %');
    await expect(make('gone', [987_654])).rejects.toThrow(
      'None of these lines is on the open sheet any more',
    );
    expect(await trials()).toEqual([]);
    expect(await make('Quiet Sundays', [line!])).toMatchObject({ lines: 1 });
    expect(await trial('Quiet Sundays')).toMatchObject({
      state: 'planned',
      lines: 1,
      campaigns: [tried.name],
      compared: null,
    });
  });

  test('two of one object clash when the second is made; a trial that was not sent can be taken away', async () => {
    const [line] = await linesOf(tried.name);
    await expect(make('again', [line!])).rejects.toThrow('in the trial “Quiet Sundays” already');
    await pause(tried.name);
    const other = (await linesOf(tried.name)).find((id) => id !== line)!;
    await expect(make('all of it', [other])).rejects.toThrow('The trial “Quiet Sundays” touches all of');
    await call('POST', 'sheet/lines', { lineIds: [other] });
    const { trialId } = await trial('Quiet Sundays');
    await call('DELETE', `trials/${trialId}`, {});
    expect(await trials()).toEqual([]);
    expect(await linesOf(tried.name)).toEqual([line]);
    await make('Quiet Sundays', [line!]);
  });
});

test('schedules alone are compared with the same hours of other weekdays; what cannot be says why, and nothing is made', async () => {
  const weekdays = { control: 'weekdays' };
  await pause(apart.name);
  const paused = await linesOf(apart.name);
  await expect(make('paused', paused, weekdays)).rejects.toThrow('None of these lines is a schedule');
  await call('POST', 'sheet/lines', { lineIds: paused });
  const week = ['monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday', 'sunday'];
  await setSchedule(apart.id, week.map((day) => `${day} 0-5 50`).join(';'));
  await expect(make('nights', await linesOf(apart.name), weekdays)).rejects.toThrow(
    `The schedule of ${apart.name} moves its hours on all weekdays`,
  );
  await call('POST', 'sheet/lines', { lineIds: await linesOf(apart.name) });
  await setSchedule(apart.id, 'sunday 0-23 50');
  // Of hours that nobody told of, nothing could ever be said.
  const sql = postgres(stack.databaseUrl, { max: 1, onnotice: () => undefined });
  const id = Number(apart.id);
  await sql`create table told as select * from campaign_hour where campaign_id = ${id}`;
  await sql`delete from campaign_hour where campaign_id = ${id}`;
  await expect(make('Own Sundays', await linesOf(apart.name), weekdays)).rejects.toThrow(
    `Nothing is told of the hours of ${apart.name}. Load campaign-hours`,
  );
  await sql`insert into campaign_hour select * from told`;
  await sql`drop table told`;
  await sql.end();
  await make('Own Sundays', await linesOf(apart.name), weekdays);
  expect(await trial('Own Sundays')).toMatchObject({ control: 'weekdays', state: 'planned', lines: 1 });
});

describe('sent', () => {
  test('one that does harm says so before its time; one that is over waits for a decision, with its interval', async () => {
    await pause(harmed.name);
    await make('Without it', await linesOf(harmed.name), { days: 28 });
    await send();
    const first = await trial('Without it');
    expect(first).toMatchObject({ state: 'running', passed: 0 });
    await expect(call('DELETE', `trials/${first.trialId}`, {})).rejects.toThrow('is kept or taken back');
    const season = await call<SeasonAnswer>('GET', 'season');
    expect(season.trials.map(({ name }) => name).sort()).toEqual([
      'Own Sundays',
      'Quiet Sundays',
      'Without it',
    ]);

    await days(12);
    const early = await trial('Without it');
    expect(early.state).toBe('running');
    expect(early.verdict).toBe('harm');
    expect(early.harm!.sureOn).toBeLessThan(12);
    expect(early.said).toMatch(/^It does harm: orders are at 0 % of what was expected/);
    expect((await trial('Quiet Sundays')).verdict).not.toBe('harm');
    const { findings } = await call<WiderAnswer>('GET', 'round/wider');
    expect(findings.filter(({ queue }) => queue === 'trials').map(({ subject }) => subject)).toEqual([
      'Without it',
    ]);

    // Taken back: its lines the other way round, sent, and it runs again.
    const back = await act(early.trialId, { act: 'take_back' });
    expect(back.lines).toBe(1);
    expect((await trial('Without it')).state).toBe('taken_back');
    await expect(act(early.trialId, { act: 'keep' })).rejects.toThrow('taken back already');
    await send();
    const live = (await structureOf(stack.quayside)).find(
      ({ entity, campaign }) => entity === 'campaign' && campaign === harmed.name,
    )!;
    expect(live.status).toBe('enabled');

    await days(10);
    const over = await trial('Quiet Sundays');
    expect(over.state).toBe('over');
    expect(over.compared!.weeks).toEqual({ before: 8, after: 2 });
    expect(over.controls).toBeGreaterThan(10);
    expect(over.compared!.decided!.low).toBeLessThan(over.compared!.decided!.high);
    expect(over.said).toMatch(
      /^Gain against the goal: [+−][\d.]+ a week \([+−]?[\d.]+ to [+−]?[\d.]+\), 2 weeks beside 8 weeks before/,
    );
    const { findings: due } = await call<WiderAnswer>('GET', 'round/wider');
    expect(
      due
        .filter(({ queue }) => queue === 'trials')
        .map(({ subject }) => subject)
        .sort(),
    ).toEqual(['Own Sundays', 'Quiet Sundays']);
    await sundays();

    await act(over.trialId, { act: 'go_on', days: 7 });
    expect(await trial('Quiet Sundays')).toMatchObject({
      state: expect.stringMatching(/running|settling|over/),
      days: 21,
    });
    await act(over.trialId, { act: 'reopen', days: 14 });
    // Two hands at once: one decides, the other is told, and leaves nothing on the sheet.
    const both = await Promise.allSettled(
      (['keep', 'take_back'] as const).map((one) => act(over.trialId, { act: one })),
    );
    expect(both.filter(({ status }) => status === 'fulfilled')).toHaveLength(1);
    const isKept = both[0]!.status === 'fulfilled';
    expect((await trial('Quiet Sundays')).state).toBe(isKept ? 'kept' : 'taken_back');
    expect((await openSheetOf(stack.url)).lines).toHaveLength(isKept ? 0 : 1);
    const { findings: none } = await call<WiderAnswer>('GET', 'round/wider');
    expect(none.filter(({ queue }) => queue === 'trials').map(({ subject }) => subject)).toEqual([
      'Own Sundays',
    ]);
  }, 240_000);

  /** Sundays and the six days beside them are those that the schedule's own before and after tells of these times. */
  async function sundays() {
    const { compared, controls, said } = await trial('Own Sundays');
    const { after } = await call<AfterAnswer>(
      'GET',
      `spend/hours/after?from=${window.from}&to=${window.to}&campaign=${apart.id}`,
    );
    const times = (to: number) => after!.times.find((one) => one.to === to)!.compared;
    expect(controls).toBe(0);
    expect(compared!.weeks).toEqual(after!.weeks);
    expect(compared!.before).toEqual(times(50).before);
    expect(compared!.after).toEqual(times(50).after);
    // Expected: Sundays before, moved as the six other days moved, a hundred clicks and thirty orders to the mean.
    const [others, own] = [times(100), compared!];
    for (const [name, steady] of [
      ['clicks', 100],
      ['orders', 30],
    ] as const)
      expect(own.expected[name]).toBeCloseTo(
        (own.before[name] * (others.after[name] + steady)) / (others.before[name] + steady),
        6,
      );
    expect(own.before.clicks).toBeGreaterThan(1);
    expect(said).toContain('2 weeks beside 8 weeks before');
  }
});
