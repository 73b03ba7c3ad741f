import postgres from 'postgres';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { callApi, waitForJob } from '../../scripts/lib/processes.ts';
import type { ConditionsAnswer } from '../../src/answers/spend.ts';
import { emptyCondition, type Condition } from '../../src/core/placements/conditions.ts';
import { openSheetOf, sentSheetOf } from '../support/sheets.ts';
import { startStack, type Stack } from '../support/stack.ts';

/** Conditions of one's own on placements: kept, asked from days, accepted, sent and taken back. */

let stack: Stack;
let sql: postgres.Sql;
const window = { from: '2026-10-18', to: '2026-11-16' };
beforeAll(async () => {
  stack = await startStack(true);
  sql = postgres(stack.databaseUrl, { max: 1 });
});
afterAll(async () => {
  await sql.end();
  await stack.stop();
});

const call = <T>(method: string, path: string, body?: unknown) =>
  callApi<T>(stack.url, method, `/api/1/${path}`, body);
const read = () =>
  call<ConditionsAnswer>('GET', `spend/placements/conditions?from=${window.from}&to=${window.to}`);
const keep = (...conditions: Partial<Condition>[]) =>
  call('PUT', 'spend/placements/conditions', {
    conditions: conditions.map((part) => ({ ...emptyCondition, ...part })),
  });
const accept = (campaignIds: string[]) =>
  call<{ groups: string[]; lines: number }>('POST', 'spend/placements/conditions', {
    ...window,
    campaignIds,
  });

describe('conditions', () => {
  test('meet campaigns by their raw days, without the youngest', async () => {
    expect((await read()).conditions).toEqual([]);
    await keep({ share: 1.15, leastClicks: 40, days: 21, leaveOut: 5, stepUp: 1000, cap: 600 });
    const rows = await sql<{ id: string; ratio: number; clicks: number; modifier: number }[]>`
      with days as (select * from placement_day
        where day between (select max(day) from placement_day) - 25 and (select max(day) from placement_day) - 5),
      own as (select campaign_id, sum(clicks) as clicks, sum(sales) as sales from days
        where placement = 'top_of_search' group by 1),
      whole as (select campaign_id, sum(clicks) as clicks, sum(sales) as sales from days group by 1)
      select o.campaign_id::text as id, (o.sales / o.clicks / (w.sales / w.clicks))::float8 as ratio,
        o.clicks::int as clicks, coalesce(m.modifier, 0) as modifier
      from own o join whole w using (campaign_id) join campaign c using (campaign_id)
      left join placement_modifier m on m.campaign_id = o.campaign_id and m.placement = 'top_of_search'
      where o.clicks >= 40 and w.sales > 0 and c.status = 'enabled'
        and o.sales / o.clicks >= 1.15 * w.sales / w.clicks`;
    const { met } = await read();
    expect(met.length).toBeGreaterThan(3);
    expect(new Set(met.map(({ campaignId }) => campaignId))).toEqual(new Set(rows.map(({ id }) => id)));
    for (const { id, ratio, clicks, modifier } of rows) {
      const one = met.find(({ campaignId }) => campaignId === id)!;
      expect(one.ratio).toBeCloseTo(ratio, 9);
      expect(one).toMatchObject({
        clicks,
        from: modifier,
        to: Math.min(600, Math.round(((1 + modifier / 100) * ratio - 1) * 100)),
        beta: 1,
        waitsTo: null,
      });
      expect(one.sentence).toMatch(/^“Sells better there”: Sales per click on top of search is/);
    }
  });

  test('what cannot be is refused with its place, and nothing of the list is kept', async () => {
    const before = (await read()).conditions;
    for (const [part, said] of [
      [
        { cap: 5000 },
        /Condition 2, “Sells better there”: a modifier lies between 0 % and 600 % here, not at 5000 %/,
      ],
      [{ sku: 'XX-1' }, /Condition 2.*there is no product XX-1/],
      [{ of: 'top_of_search' }, /Condition 2.*cannot be held against itself/],
      [{ share: 0 }, /share/],
      [{ days: 0 }, /days/],
      [{ bids: -1 }, /bids/],
      [{ name: ' ' }, /name/],
    ] as const)
      await expect(keep({}, part)).rejects.toThrow(said);
    expect((await read()).conditions).toEqual(before);
  });

  test('one of a campaign that none meets any more takes nothing onto the sheet', async () => {
    const [one] = (await read()).met;
    await expect(accept([one!.campaignId, '999999999'])).rejects.toThrow(/not met any more/);
    expect((await openSheetOf(stack.url)).lines).toEqual([]);
  });

  test('modifier and bids together go to the marketplace and back; then the campaign waits', async () => {
    await keep({ share: 1.15, bids: -0.1, name: 'Dearer at the top, cheaper elsewhere' });
    const { met } = await read();
    const one = met.find(({ beta }) => beta === 0.9)!;
    const { lines } = await accept([one.campaignId]);
    expect(lines).toBeGreaterThan(1);
    const open = await openSheetOf<{
      sheetId: number;
      lines: {
        entity: string;
        field: string;
        new_value: string;
        old_value: string;
        reason: string;
        proposed_by: string;
      }[];
    }>(stack.url);
    const modifier = open.lines.find(({ entity }) => entity === 'placement_modifier')!;
    expect(modifier).toMatchObject({
      field: 'top_of_search',
      new_value: String(one.to),
      proposed_by: 'own conditions',
      reason: one.sentence,
    });
    for (const { new_value, old_value } of open.lines.filter(({ entity }) => entity === 'target'))
      expect(Number(new_value) / Number(old_value)).toBeCloseTo(0.9, 1);
    expect((await read()).onSheet).toContain(one.campaignId);
    const { jobId } = await call<{ jobId: string }>('POST', 'sheet/send', { clicksMeant: true });
    await waitForJob(stack.url, jobId);
    const sent = await sentSheetOf(stack.url, open.sheetId);
    expect(new Set(sent.lines.map(({ state }) => state))).toEqual(new Set(['applied']));
    const waits = (await read()).met.find(({ campaignId }) => campaignId === one.campaignId);
    if (waits) {
      expect(waits.waitsTo).not.toBeNull();
      await expect(accept([one.campaignId])).rejects.toThrow(/waits until/);
    }
    await call('POST', `ledger/${open.sheetId}/revert`, {});
    const back = await call<{ jobId: string }>('POST', 'sheet/send', { clicksMeant: true });
    await waitForJob(stack.url, back.jobId);
    const [now] = await sql<[{ modifier: number }]>`
      select modifier from placement_modifier where campaign_id = ${one.campaignId} and placement = 'top_of_search'`;
    expect(now.modifier).toBe(one.from);
  });

  test('the first that meets decides; off is not asked; a list goes whole with the account', async () => {
    await keep(
      { share: 9, name: 'never' },
      { isOn: false, name: 'off' },
      { share: 1.1 },
      { figure: 'cvr', share: 1 },
    );
    const { met, conditions } = await read();
    expect(conditions.map(({ name }) => name)).toEqual([
      'never',
      'off',
      'Sells better there',
      'Sells better there',
    ]);
    expect(met.length).toBeGreaterThan(0);
    expect(new Set(met.map(({ rank }) => rank))).toEqual(new Set([2, 3]));
    expect(met.some(({ others }) => others.includes(3))).toBe(true);
  });
});
