import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import postgres from 'postgres';
import { callApi, waitForJob } from '../../scripts/lib/processes.ts';
import type { AfterAnswer, HoursAnswer, ReadSchedules, ScopeAnswer } from '../../src/answers/hours.ts';
import type { OpenSheet } from '../../src/answers/changes.ts';
import type { PlacementsAnswer } from '../../src/answers/spend.ts';
import type { QueueAnswer, WiderAnswer } from '../../src/answers/round.ts';
import { flat, readSchedule, writeSchedule } from '../../src/core/account/schedule.ts';
import { eighty } from '../../src/core/effect/forecast.ts';
import { hoursKey } from '../../src/core/hours/lines.ts';
import { isHeldWhole } from '../../src/core/round/queue.ts';
import { openSheetOf, sentSheetOf } from '../support/sheets.ts';
import { callQuayside, startStack, structureOf, type Stack } from '../support/stack.ts';

/** Days and hours: judged from hours, schedules to the marketplace and back, compared with weeks before. */

let stack: Stack;
let sql: postgres.Sql;
let window: { from: string; to: string };
beforeAll(async () => {
  stack = await startStack(true);
  sql = postgres(stack.databaseUrl, { max: 1 });
  await judgeNow();
});
afterAll(async () => {
  await sql.end();
  await stack.stop();
});

const call = <T>(method: string, path: string, body?: unknown) =>
  callApi<T>(stack.url, method, `/api/1/${path}`, body);
async function judgeNow() {
  window = (await call<QueueAnswer>('GET', 'round/queue')).window!;
}
const span = () => `from=${window.from}&to=${window.to}`;
const hours = (weeks = 12) => call<HoursAnswer>('GET', `spend/hours?${span()}&weeks=${weeks}`);
const scope = (of: string) =>
  call<ScopeAnswer>('GET', `spend/hours/scope?${span()}&of=${encodeURIComponent(of)}`);
const after = (campaignId: string) =>
  call<AfterAnswer>('GET', `spend/hours/after?campaign=${campaignId}&${span()}`);
const set = (schedules: { campaignId: string; schedule: string }[]) =>
  call<{ lines: number }>('POST', 'spend/hours', { ...window, schedules });
const accept = (keys: string[], adjustments: Record<string, object> = {}) =>
  call<{ lines: number }>('POST', 'round/accept', { ...window, keys, adjustments });
const empty = async () => {
  const { lines } = await openSheetOf(stack.url);
  if (lines.length > 0) await call('POST', 'sheet/lines', { lineIds: lines.map(({ line_id: id }) => id) });
};
const send = async () => {
  const { sheetId } = await openSheetOf(stack.url);
  const { jobId } = await call<{ jobId: string }>('POST', 'sheet/send', { clicksMeant: true });
  await waitForJob(stack.url, jobId);
  return sheetId;
};
const liveOf = async (name: string) =>
  (await structureOf(stack.quayside)).find(
    ({ entity, campaign }) => entity === 'campaign' && campaign === name,
  )!.schedule as string;

describe('what times sell', () => {
  test('sums are those of the hours, over whole weeks that end with the settled days', async () => {
    const { weeks, span: told, campaigns } = await hours();
    expect(weeks).toBe(12);
    expect(told!.to).toBe(window.to);
    const rows = await sql<{ id: string; clicks: number; spend: number }[]>`
      select campaign_id::text as id, sum(clicks)::int as clicks, sum(spend)::float8 as spend from campaign_hour
      where account_id = 1 and day between ${told!.from} and ${told!.to} group by 1`;
    const raw = new Map(rows.map((row) => [row.id, row]));
    expect(campaigns.length).toBeGreaterThan(20);
    for (const { campaignId, sums } of campaigns) {
      expect(sums.clicks).toBe(raw.get(campaignId)?.clicks ?? 0);
      expect(sums.spend).toBe(raw.get(campaignId)?.spend ?? 0);
    }
    const all = await scope('account');
    const [sundays] = await sql<[{ clicks: number }]>`
      select sum(clicks)::int as clicks from campaign_hour
      where account_id = 1 and day between ${told!.from} and ${told!.to} and extract(isodow from day) = 7`;
    const shown = new Set(campaigns.map(({ campaignId }) => campaignId));
    const stopped = rows.filter(({ id }) => !shown.has(id)).reduce((sum, one) => sum + one.clicks, 0);
    expect(all.picture.weekdays[6]!.clicks).toBeLessThanOrEqual(sundays.clicks);
    expect(all.picture.weekdays[6]!.clicks).toBeGreaterThanOrEqual(sundays.clicks - stopped);
  });

  test('the weak Sundays of this market are found, within their interval, in the account and in its campaigns', async () => {
    // What the market makes of its weekdays, by what is searched on them; from Monday on.
    const conversion = [1.04, 1.08, 1.08, 1.06, 1, 1.05, 0.62];
    const demand = [1.02, 0.98, 0.97, 0.96, 0.94, 1.05, 1.08];
    const mean =
      conversion.reduce((sum, one, at) => sum + one * demand[at]!, 0) /
      demand.reduce((sum, one) => sum + one, 0);
    const { picture } = await scope('account');
    let held = 0;
    picture.weekdays.forEach(({ factor, spread }, weekday) => {
      if (Math.abs(Math.log(factor / (conversion[weekday]! / mean))) <= 1.96 * spread) held++;
    });
    expect(held).toBeGreaterThanOrEqual(6);
    expect(picture.weekdays[6]!.factor * Math.exp(eighty * picture.weekdays[6]!.spread)).toBeLessThan(0.85);
    const { campaigns } = await hours();
    const [largest] = [...campaigns].sort((a, b) => b.sums.spend - a.sums.spend);
    const own = await scope(`campaign:${largest!.campaignId}`);
    expect(own.picture.weekdays[6]!.factor).toBeLessThan(0.85);
    expect(own.ground).not.toBeNull();
    // Total sales stand beside it: those of the product.
    expect(own.totals).toHaveLength(7);
    expect(own.totals[0]!.sales).toBeGreaterThan(0);
    const product = await scope(`product:${largest!.sku!}`);
    expect(product.picture.weekdays[6]!.factor).toBeLessThan(0.9);
    const group = await scope(`ad_group:${largest!.adGroups[0]!.id}`);
    expect(group.picture.weekdays.reduce((sum, { clicks }) => sum + clicks, 0)).toBeGreaterThan(0);
  });

  test('never from fewer than four weeks; what is no scope or no number of weeks is said', async () => {
    const short = await hours(2);
    expect(short.weeks).toBe(2);
    expect(short.campaigns.filter(({ proposal }) => proposal)).toEqual([]);
    await expect(hours(0)).rejects.toThrow('Weeks are whole');
    await expect(scope('shelf:9')).rejects.toThrow('is no scope');
    await expect(scope('campaign:999999')).rejects.toThrow('scope with campaigns that run');
  });
});

describe('schedules', () => {
  test('findings stand in Round, biggest first; accepted they are the schedule and its bids, with what they would do', async () => {
    const { campaigns } = await hours();
    const found = campaigns.filter(({ isFinding }) => isFinding);
    expect(found.length).toBeGreaterThan(0);
    expect(campaigns.slice(0, found.length)).toEqual(found);
    for (const { proposal } of found) {
      expect(proposal!.stage).toBe('weekdays');
      expect(proposal!.parts.map(({ name }) => name)).toContain('Sunday');
      expect(proposal!.worth).toBeGreaterThan(0);
    }
    const { findings } = await call<WiderAnswer>('GET', `round/wider?${span()}`);
    expect(
      findings
        .filter(({ queue }) => queue === 'hours')
        .map(({ key }) => key)
        .sort(),
    ).toEqual(found.map(({ campaignId }) => hoursKey(campaignId)).sort());
    const one = found.find(({ proposal }) => proposal!.beta !== 1)!;
    await accept([hoursKey(one.campaignId)]);
    const { lines } = await openSheetOf(stack.url);
    expect(lines).toHaveLength(one.lines);
    const schedule = lines.find(({ field }) => field === 'schedule')!;
    expect(schedule).toMatchObject({
      entity: 'campaign',
      old_value: null,
      new_value: one.proposal!.schedule,
    });
    expect(schedule.effect!.sales).toBeCloseTo(one.proposal!.effect.sales, 0);
    // And its bids by what the schedule takes off the mean.
    const bids = lines.filter(({ field }) => field === 'bid');
    expect(bids.length).toBeGreaterThan(0);
    for (const { old_value: old, new_value: now } of bids)
      expect(Math.abs(Number(now) - Number(old) * one.proposal!.beta)).toBeLessThanOrEqual(5001);
    const wider = await call<WiderAnswer>('GET', `round/wider?${span()}`);
    const budget = wider.findings.find(
      ({ queue, campaignId }) => queue === 'placements' && campaignId === one.campaignId,
    );
    if (budget) expect(wider.covered[budget.key]).toBe('the schedule of its campaign');
    expect((await hours()).onSheet).toEqual({ [one.campaignId]: one.proposal!.schedule });
    await empty();
  });

  test('by hand onto many at once; what is no schedule, or of no campaign, is refused whole', async () => {
    const { campaigns } = await hours();
    const [one, two] = campaigns;
    const schedule = 'sunday 0-23 0';
    const both = await set([one!, two!].map(({ campaignId }) => ({ campaignId, schedule })));
    expect(both.lines).toBe(2);
    await empty();
    const bad = { campaignId: two!.campaignId, schedule: 'someday 0-23 50' };
    await expect(set([{ campaignId: one!.campaignId, schedule }, bad])).rejects.toThrow(
      'parts like “sunday 0-23 70”',
    );
    await expect(
      set([
        { campaignId: one!.campaignId, schedule },
        { campaignId: '99999', schedule },
      ]),
    ).rejects.toThrow('is not there any more');
    await expect(set([{ campaignId: one!.campaignId, schedule: '' }])).rejects.toThrow(
      'stand like that already',
    );
    expect((await openSheetOf(stack.url)).lines).toEqual([]);
  });

  test('a raised hour counts in what one click may cost, everywhere, and is asked before it is sent', async () => {
    const { campaigns } = await hours();
    const placed = async (id: string) =>
      (await call<PlacementsAnswer>('GET', `spend/placements?${span()}`)).campaigns.find(
        ({ campaignId }) => campaignId === id,
      )!;
    const one = campaigns.find(({ strategy, sums }) => strategy !== 'up_and_down' && sums.clicks > 0)!;
    const before = await placed(one.campaignId);
    await set([{ campaignId: one.campaignId, schedule: 'monday 9-12 300' }]);
    const { unusual } = await call<OpenSheet>('GET', 'sheet');
    expect(unusual.map(({ name }) => name)).toEqual([one.name]);
    await expect(call('POST', 'sheet/send', {})).rejects.toThrow();
    const sheetId = await send();
    const raised = await placed(one.campaignId);
    raised.placements.forEach(({ most }, at) =>
      expect(Math.abs(most - 3 * before.placements[at]!.most)).toBeLessThanOrEqual(2),
    );
    await call('POST', `ledger/${sheetId}/revert`, {});
    await send();
    expect(await liveOf(one.name)).toBe('');
    expect((await placed(one.campaignId)).placements[0]!.most).toBe(before.placements[0]!.most);
  });

  test('by file: every hour out and in again; rows that cannot be are said with their place', async () => {
    const { campaigns } = await hours();
    const [one] = campaigns;
    const read = async (text: string) => {
      const response = await fetch(`${stack.url}/api/1/spend/hours/file`, { method: 'POST', body: text });
      return (await response.json()) as ReadSchedules;
    };
    const saved = await (await fetch(`${stack.url}/api/1/spend/hours/file`)).text();
    expect(saved.split('\n')[0]!.trim()).toBe('campaign,campaign_id,weekday,hour,multiplier');
    expect(await read(saved)).toEqual({ schedules: [], problems: [] });
    const found = await read(
      [
        'campaign,weekday,hour,multiplier,ad_group',
        `${one!.name},7,0,0.5,`,
        `${one!.name},sunday,1,50%,`,
        `${one!.name},8,1,0.5,`,
        `${one!.name},7,24,0.5,`,
        `${one!.name},7,2,-1,`,
        `${one!.name},7,1,0.7,`,
        `${one!.name},7,3,0.7,Some group`,
        'No such campaign,1,1,1,',
      ].join('\n'),
    );
    expect(found.schedules).toEqual([
      { campaignId: one!.campaignId, name: one!.name, from: '', schedule: 'sunday 0-1 50' },
    ]);
    expect(found.problems.map(({ row, column }) => [row, column])).toEqual([
      [4, 'weekday'],
      [5, 'hour'],
      [6, 'multiplier'],
      [7, 'hour'],
      [8, 'ad_group'],
      [9, 'campaign'],
    ]);
    expect(found.problems[3]!.message).toContain('stands in line 3 already');
    expect((await openSheetOf(stack.url)).lines).toEqual([]);
  });
});

describe('sent', () => {
  test('no impressions where it is off; compared after three weeks; held by cooldown; and taken back', async () => {
    const found = (await hours()).campaigns.filter(({ isFinding }) => isFinding);
    const one = found[0]!;
    const off = writeSchedule(flat().fill(0, 6 * 24));
    await set([{ campaignId: one.campaignId, schedule: off }]);
    const sheetId = await send();
    expect(await liveOf(one.name)).toBe('sunday 0-23 0');
    expect((await hours()).campaigns.find(({ campaignId }) => campaignId === one.campaignId)!.schedule).toBe(
      off,
    );
    expect((await after(one.campaignId)).after!.weeks.after).toBe(0);
    const changed = (await after(one.campaignId)).change!;
    expect(changed).toMatchObject({ from: '', to: off });

    await callQuayside(stack.quayside, 'POST', '/clock/advance', { days: 32 });
    const { jobId } = await call<{ jobId: string }>('POST', 'fetch', {});
    await waitForJob(stack.url, jobId);
    await judgeNow();
    const [shown] = await sql<[{ sundays: number; others: number }]>`
      select coalesce(sum(impressions) filter (where extract(isodow from day) = 7), 0)::int as sundays,
        coalesce(sum(impressions) filter (where extract(isodow from day) <> 7), 0)::int as others
      from campaign_hour where account_id = 1 and campaign_id = ${one.campaignId} and day > ${changed.day}`;
    expect(shown.sundays).toBe(0);
    expect(shown.others).toBeGreaterThan(0);

    const answer = await after(one.campaignId);
    expect(answer.after!.weeks.after).toBeGreaterThanOrEqual(3);
    expect(answer.after!.weeks.before).toBe(8);
    expect(answer.controls).toBeGreaterThan(10);
    const [sunday, rest] = answer.after!.times;
    expect(sunday).toMatchObject({ name: 'Sunday', from: 100, to: 0 });
    expect(sunday!.compared.after).toMatchObject({ clicks: 0, spend: 0 });
    expect(sunday!.compared.effect!.spend.value).toBeLessThan(0);
    expect(sunday!.compared.decided!.low).toBeLessThan(sunday!.compared.decided!.high);
    expect(rest).toMatchObject({ name: 'Monday to Saturday', from: 100, to: 100 });
    expect(answer.rank!.keywords).toBeGreaterThan(0);
    expect(answer.organic!.before).toBeGreaterThan(0);
    // By hand: the mean of the eight Sundays before.
    const [before] = await sql<[{ clicks: number }]>`
      select sum(clicks)::float8 / 8 as clicks from campaign_hour
      where account_id = 1 and campaign_id = ${one.campaignId} and extract(isodow from day) = 7
        and day < ${changed.day}::date and day >= ${changed.day}::date - 56`;
    expect(sunday!.compared.before.clicks).toBeCloseTo(before.clicks, 6);

    // What is off stays off; what is proposed beside it is held for four weeks after a change.
    const now = (await hours()).campaigns.find(({ campaignId }) => campaignId === one.campaignId)!;
    if (now.proposal) expect(readSchedule(now.proposal.schedule)!.slice(144)).toEqual(Array(24).fill(0));
    await call('POST', `ledger/${sheetId}/revert`, {});
    await send();
    expect(await liveOf(one.name)).toBe('');
    const { findings } = await call<WiderAnswer>('GET', `round/wider?${span()}`);
    const cooling = findings.find(({ key }) => key === hoursKey(one.campaignId));
    if (cooling) {
      expect(isHeldWhole(cooling)).toBe(true);
      await expect(accept([cooling.key])).rejects.toThrow('held by cooldown');
      expect((await accept([cooling.key], { [cooling.key]: { beyond: true } })).lines).toBeGreaterThan(0);
      await empty();
    }
    const sent = await sentSheetOf(stack.url, sheetId);
    expect(sent.lines).toHaveLength(1);
  }, 240_000);
});
