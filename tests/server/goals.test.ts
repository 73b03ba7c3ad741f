import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { callApi, waitForJob } from '../../scripts/lib/processes.ts';
import type { OutsideAnswer } from '../../src/answers/changes.ts';
import type {
  GoalsAnswer,
  GoalPlace,
  MethodsAnswer,
  PlanMonth,
  ReadPlan,
  WhatIfAnswer,
} from '../../src/answers/goals.ts';
import type { QueueAnswer, WhyAnswer } from '../../src/answers/round.ts';
import type { ImportsAnswer, TakenBack } from '../../src/answers/imports.ts';
import { usualLadder } from '../../src/core/bids/ladder.ts';
import { connect, type Database } from '../../src/server/db/connection.ts';
import { callQuayside, startStack, type Stack } from '../support/stack.ts';

/** Goals setting by setting, on the demo account. */

let stack: Stack;
let sql: Database;
beforeAll(async () => {
  stack = await startStack(true);
  sql = connect(stack.databaseUrl, 2);
});
afterAll(async () => {
  await sql.end();
  await stack.stop();
});

const get = <T>(path: string) => callApi<T>(stack.url, 'GET', `/api/1/${path}`);
const put = (body: object) => callApi(stack.url, 'PUT', '/api/1/goals', body);
const remove = (scope: string, key: string) =>
  callApi(stack.url, 'DELETE', `/api/1/goals?scope=${scope}&key=${key}`, {});
const whatIf = (body: object) => callApi<WhatIfAnswer>(stack.url, 'POST', '/api/1/goals/what-if', body);
const goalOf = async (scope: string, key: string) =>
  (await get<GoalsAnswer>('goals')).goals.find((goal) => goal.scope === scope && goal.key === key);
/** Wrong calls, by what they are told. */
const told = (body: object) =>
  put(body).then(
    () => 'kept',
    (error: Error) => error.message,
  );

const adGroup = async (): Promise<GoalPlace> => {
  const places = await get<GoalPlace[]>('goals/places?text=lids%20exact');
  return places.find(({ scope }) => scope === 'ad_group')!;
};

describe('settings', () => {
  test('an ad group has its own method; all others keep theirs, and the why panel shows the formula', async () => {
    const place = await adGroup();
    expect(place).toMatchObject({ scope: 'ad_group', sku: 'TT-LID4' });
    await put({ scope: 'ad_group', key: place.key, method: 'rpc' });
    expect(await goalOf('ad_group', place.key)).toMatchObject({
      method: 'rpc',
      objective: null,
      targetAcos: null,
      name: place.name,
    });
    const { findings } = await get<QueueAnswer>('round/queue');
    const bids = findings.filter(({ queue, proposal }) => queue === 'targets' && proposal.kind === 'bid');
    const own = bids.filter((row) => row.adGroupId === place.key);
    expect(own.length).toBeGreaterThan(0);
    const why = await get<WhyAnswer>(`round/why?key=${encodeURIComponent(own[0]!.key)}`);
    expect(why.finding.working.method).toBe('rpc');
    expect(why.working.find(({ name }) => name === 'Bid')!.formula).toMatch(
      /clicks × \d+ %|without an order|too quiet/,
    );
    const other = bids.find((row) => row.adGroupId !== place.key)!;
    const otherWhy = await get<WhyAnswer>(`round/why?key=${encodeURIComponent(other.key)}`);
    expect(otherWhy.finding.working.method).toBe('evidence');
    await remove('ad_group', place.key);
  });

  test('an override that says nothing any more is gone', async () => {
    await put({ scope: 'product', key: 'TT-KIT1', bidFloor: 100_000 });
    expect(await goalOf('product', 'TT-KIT1')).toMatchObject({ bidFloor: 100_000, targetAcos: null });
    await put({ scope: 'product', key: 'TT-KIT1', bidFloor: null });
    expect(await goalOf('product', 'TT-KIT1')).toBeUndefined();
  });

  test('a target margin is each product’s own ACOS, and has its own theta; most profit takes the margin', async () => {
    const { products } = await get<GoalsAnswer>('goals');
    const lid = products.find(({ sku }) => sku === 'TT-LID4')!;
    await put({ scope: 'product', key: 'TT-LID4', objective: 'margin', targetMargin: 0.2 });
    const targets = async () => {
      const { findings } = await callApi<{
        findings: { sku: string; queue: string; working: { targetAcos: number; theta: number } }[];
      }>(stack.url, 'GET', '/api/1/round');
      return findings
        .filter(({ sku, queue }) => sku === 'TT-LID4' && queue === 'targets')
        .map(({ working }) => working);
    };
    for (const { targetAcos } of await targets()) expect(targetAcos).toBeCloseTo(lid.margin! - 0.2, 9);
    await put({ scope: 'product', key: 'TT-LID4', objective: 'profit' });
    const found = await targets();
    expect(found.length).toBeGreaterThan(0);
    for (const { targetAcos, theta } of found) {
      expect(theta).toBeCloseTo(lid.margin!, 9);
      expect(targetAcos).toBeCloseTo(lid.margin!, 9);
    }
    // What is not aimed at is not kept.
    expect(await goalOf('product', 'TT-LID4')).toMatchObject({ objective: 'profit', targetMargin: null });
    await remove('product', 'TT-LID4');
  });

  test('ladder and guards are kept as they are, and hold', async () => {
    const ladder = { ...usualLadder, noSales: { clicks: 12, spend: null, step: 'rest' as const } };
    await put({ scope: 'product', key: 'TT-WGT6', method: 'bands', ladder, guards: { cooldownDays: 21 } });
    expect(await goalOf('product', 'TT-WGT6')).toMatchObject({ ladder, guards: { cooldownDays: 21 } });
    const { rows } = await get<MethodsAnswer>('goals/methods?limit=500&text=weights');
    const bands = rows.filter(({ method }) => method === 'bands');
    expect(bands.length).toBeGreaterThan(0);
    const steps = new Set(
      bands.map(({ by, bid }) => Math.round((by.bands.bid / bid - 1) * 100)).filter((step) => step !== 0),
    );
    // One band each: 9, -6, -12 or -18 %, rounded to whole cents, unless it rests or is raised from quiet.
    expect([...steps].some((step) => step < 0)).toBe(true);
    await remove('product', 'TT-WGT6');
  });
});

describe('what is wrong', () => {
  test('a target above break-even is asked about, and kept once it is meant', async () => {
    const above = { scope: 'product', key: 'TT-TMP1', targetAcos: 0.95 };
    expect(await told(above)).toContain('lies above the break-even of TT-TMP1');
    expect(await goalOf('product', 'TT-TMP1')).toBeUndefined();
    expect(await told({ ...above, confirmed: true })).toBe('kept');
    // What stands so is no reason to refuse another setting.
    expect(await told({ scope: 'product', key: 'TT-TMP1', stance: 'careful' })).toBe('kept');
    await remove('product', 'TT-TMP1');
  });

  test('floors above ceilings, unknown places, ladders that are none: nothing of the call is kept', async () => {
    const before = await sql`select * from goal order by scope, key`;
    expect(
      await told({ scope: 'product', key: 'TT-TMP1', targetAcos: 0.2, bidFloor: 2e6, bidCeiling: 1e6 }),
    ).toContain('would lie above the ceiling');
    expect(await told({ scope: 'ad_group', key: '999999', targetAcos: 0.2 })).toContain('ad group 999999');
    expect(await told({ scope: 'campaign', key: 'x; drop', targetAcos: 0.2 })).toContain('campaign x; drop');
    expect(await told({ scope: 'account', ladder: { ...usualLadder, bands: [] } })).toContain(
      'A ladder needs a step.',
    );
    expect(await told({ scope: 'account', guards: { up: 0.5 } })).toContain('The largest step up');
    expect(await told({ scope: 'account', objective: 'everything' })).not.toBe('kept');
    expect(await sql`select * from goal order by scope, key`).toEqual(before);
  });

  test('a product that loses money before ads cannot aim at a margin', async () => {
    const { products } = await get<GoalsAnswer>('goals');
    const { economics } = products.find(({ sku }) => sku === 'TT-PHS2')!;
    const costs = {
      sku: 'TT-PHS2',
      unitCost: economics.unitCost,
      feeRate: economics.feeRate ?? null,
      feeFixed: economics.feeFixed ?? null,
      shipping: economics.shipping ?? null,
      refundRate: economics.refundRate ?? null,
    };
    await callApi(stack.url, 'PUT', '/api/1/goals/costs', { ...costs, unitCost: 20_000_000 });
    const margins = (await get<GoalsAnswer>('goals')).products.map(({ sku, margin }) => [sku, margin]);
    expect(Object.fromEntries(margins)['TT-PHS2']).toBeLessThan(0);
    expect(
      await told({ scope: 'product', key: 'TT-PHS2', objective: 'margin', targetMargin: 0.1 }),
    ).toContain('on every order before any advertising');
    await callApi(stack.url, 'PUT', '/api/1/goals/costs', costs);
    await expect(callApi(stack.url, 'PUT', '/api/1/goals/costs', { ...costs, sku: 'none' })).rejects.toThrow(
      'none',
    );
  });
});

describe('what if', () => {
  test('says what the round then finds', async () => {
    const { moved, kept } = await whatIf({ scope: 'account', targetAcos: 0.18 });
    const counts = async () => {
      const { findings } = await get<QueueAnswer>('round/queue');
      const of = (kind: string) => findings.filter(({ proposal }) => proposal.kind === kind);
      const bids = findings.flatMap(({ proposal }) => (proposal.kind === 'bid' ? [proposal] : []));
      return {
        raises: bids.filter(({ to, from }) => to > from).length,
        cuts: bids.filter(({ to, from }) => to < from).length,
        harvests: of('harvest').length,
        negatives: of('negative').length,
      };
    };
    expect(kept).toMatchObject(await counts());
    await put({ scope: 'account', targetAcos: 0.18 });
    expect(moved).toMatchObject(await counts());
    expect(moved.then.spend).toBeLessThan(kept.then.spend);
    expect(moved.now).toEqual(kept.now);
    await put({ scope: 'account', targetAcos: 0.26 });
    expect((await whatIf({ scope: 'account', targetAcos: 0.26 })).moved).toMatchObject(await counts());
  });

  test('of one product the others stay as they are; nothing is kept', async () => {
    const before = await sql`select * from goal order by scope, key`;
    const { kept, moved } = await whatIf({ scope: 'product', key: 'TT-LID4', targetAcos: 0.1 });
    expect(moved.cuts).toBeGreaterThan(kept.cuts);
    expect(await sql`select * from goal order by scope, key`).toEqual(before);
  });
});

describe('methods', () => {
  test('pages of one order: by the money between them, or by spend; found by text', async () => {
    const first = await get<MethodsAnswer>('goals/methods?limit=50');
    const second = await get<MethodsAnswer>('goals/methods?limit=50&offset=50');
    const between = [...first.rows, ...second.rows].map((row) => row.between);
    expect([...between].sort((a, b) => b - a)).toEqual(between);
    expect(new Set([...first.rows, ...second.rows].map(({ targetId }) => targetId)).size).toBe(100);
    const bySpend = await get<MethodsAnswer>('goals/methods?limit=50&sort=spend');
    expect(bySpend.rows[0]!.sums.spend).toBe(Math.max(...bySpend.rows.map(({ sums }) => sums.spend)));
    const kraut = await get<MethodsAnswer>('goals/methods?text=kraut');
    expect(kraut.count).toBeLessThan(first.count);
    expect(kraut.rows.every(({ expression, adGroup }) => /kraut/i.test(`${expression} ${adGroup}`))).toBe(
      true,
    );
  });
});

describe('the plan', () => {
  const plan = (body: object) => callApi(stack.url, 'PUT', '/api/1/goals/plan', { rows: [body] });

  test('a month is planned, and stands beside what the days brought', async () => {
    const { today } = await get<GoalsAnswer>('goals');
    const month = `${today!.slice(0, 7)}-01`;
    await plan({ month, sku: '', spend: 9_000_000_000, sales: null, revenue: 40_000_000_000 });
    const row = (await get<PlanMonth[]>('goals/plan')).find((one) => one.month === month && one.sku === '')!;
    const [days] = await sql<{ spend: number; sales: number }[]>`
      select sum(spend)::bigint as spend, sum(sales)::bigint as sales from target_day
      where account_id = 1 and day >= ${month}`;
    const [revenue] = await sql<{ revenue: number }[]>`
      select sum(total_sales)::bigint as revenue from product_day where account_id = 1 and day >= ${month}`;
    expect(row).toMatchObject({ spend: 9_000_000_000, sales: null, revenue: 40_000_000_000 });
    expect(row.done).toEqual({ ...days, ...revenue });
    await plan({ month, sku: 'TT-LID4', spend: 1_000_000_000, sales: null, revenue: null });
    const lids = (await get<PlanMonth[]>('goals/plan')).filter(({ sku }) => sku === 'TT-LID4');
    expect(lids.find((one) => one.month === month)!.done.spend).toBeGreaterThan(0);
    await plan({ month, sku: 'TT-LID4', spend: null, sales: null, revenue: null });
    expect((await get<PlanMonth[]>('goals/plan')).some(({ sku }) => sku === 'TT-LID4')).toBe(false);
  });

  test('by file: saved and loaded it changes nothing; what is wrong is told by its line, nothing is kept by reading', async () => {
    const file = `${stack.url}/api/1/goals/plan/file`;
    const read = async (text: string): Promise<ReadPlan> => {
      const answer = await fetch(file, { method: 'POST', body: text });
      const body = (await answer.json()) as ReadPlan & { detail?: string };
      if (!answer.ok) throw new Error(body.detail);
      return body;
    };
    const saved = await fetch(file).then((answer) => answer.text());
    const month = saved.split('\n')[1]!.slice(0, 7);
    expect(saved).toContain(`month,sku,spend,ad_sales,revenue\n${month},,9000,,40000\n`);
    expect(await read(saved)).toEqual({ rows: [], problems: [] });
    const told = await read(
      [
        'month;sku;spend;ad_sales',
        `${month};;8500,50;`,
        '2027-01;TT-LID4;1200;4000',
        '2025-01;;1;1',
        'May;;1;1',
        '2027-02;XX-9;1;1',
        '2027-03;;many;1',
        '2027-04;;-5;1',
        '2027-01;TT-LID4;1;1',
      ].join('\n'),
    );
    // A column that the file does not have stays as it was.
    expect(told.rows.map(({ row }) => row)).toEqual([
      { month: `${month}-01`, sku: '', spend: 8_500_500_000, sales: null, revenue: 40_000_000_000 },
      { month: '2027-01-01', sku: 'TT-LID4', spend: 1_200_000_000, sales: 4_000_000_000, revenue: null },
    ]);
    expect(told.problems.map(({ row, column }) => [row, column])).toEqual([
      [4, 'month'],
      [5, 'month'],
      [6, 'sku'],
      [7, 'spend'],
      [8, 'spend'],
      [9, 'month'],
    ]);
    expect(told.problems.at(-1)!.message).toContain('stands in line 3 already');
    const before = await get<PlanMonth[]>('goals/plan');
    await expect(read('name,amount\nx,1\n')).rejects.toThrow(/A file of plans has month/);
    // All or none: the second row is refused.
    await expect(
      callApi(stack.url, 'PUT', '/api/1/goals/plan', {
        rows: [told.rows[1]!.row, { ...told.rows[1]!.row, sku: 'XX-9' }],
      }),
    ).rejects.toThrow();
    expect(await get<PlanMonth[]>('goals/plan')).toEqual(before);
  });

  test('a month that is over, a product that is none', async () => {
    const body = { sku: '', spend: 1, sales: null, revenue: null };
    await expect(plan({ ...body, month: '2026-01-01' })).rejects.toThrow('2026-01 is over');
    await expect(plan({ ...body, month: '2027-01-01', sku: 'none' })).rejects.toThrow('none');
    await expect(plan({ ...body, month: '2027-01-15' })).rejects.toThrow();
  });
});

test('goals and costs are saved as files that say all of it', async () => {
  const place = await adGroup();
  await put({ scope: 'ad_group', key: place.key, targetAcos: 0.21, method: 'bands', bidFloor: 70_000 });
  const text = async (path: string) => (await fetch(`${stack.url}/api/1/${path}`)).text();
  const goals = await text('goals/file');
  const [{ ext_id: extId }] = (await sql`
    select ext_id from ad_group where ad_group_id = ${place.key}`) as unknown as [{ ext_id: string }];
  expect(goals.split('\n')[0]).toBe(
    'scope,id,name,objective,target_acos,target_margin,bid_floor,bid_ceiling,stance,method',
  );
  expect(goals).toContain(`ad_group,${extId},${place.name},acos,0.21,,0.07,,,bands`);
  const costs = await text('goals/file?of=costs');
  expect(costs).toContain('TT-LID4,QY7K2M9A,"Airlock lids for wide jars, 4 pack",18.9,4.1,0.14,0.3,2.9,0.03');
  await remove('ad_group', place.key);
});

describe('a file of goals', () => {
  const load = async (text: string) => {
    const sent = await fetch(`${stack.url}/api/1/files?name=goals.csv`, { method: 'POST', body: text });
    const { uploadId } = (await sent.json()) as { uploadId: string };
    const { jobId } = await callApi<{ jobId: string }>(stack.url, 'POST', '/api/1/imports', {
      uploadId,
      kind: 'goals',
    });
    await waitForJob(stack.url, jobId);
    const { imports } = await get<ImportsAnswer>('imports');
    return imports[0]!;
  };
  const back = (id: number) => callApi<TakenBack>(stack.url, 'POST', `/api/1/imports/${id}/back`, {});
  const set = async () =>
    (await get<GoalsAnswer>('goals')).goals
      .map(({ theta: _, ...goal }) => goal)
      .sort((a, b) => (a.key < b.key ? -1 : 1));

  test('is taken back as a whole: what was changed goes back, what was made goes, ladders stay as they were', async () => {
    await put({ scope: 'product', key: 'TT-CRK5', ladder: usualLadder, method: 'bands', bidFloor: 90_000 });
    const before = await set();
    const { import_id: id, can_take_back } = await load(
      'scope,name,target_acos,bid_floor\nproduct,TT-CRK5,21%,0.11\ncampaign,Tamper exact,19%,\naccount,,24%,\n',
    );
    expect(can_take_back).toBe(true);
    expect(await set()).not.toEqual(before);
    expect(await back(id)).toEqual({ back: 3, stays: 0 });
    expect(await set()).toEqual(before);
    await expect(back(id)).rejects.toThrow(/taken back already/);
    await put({ scope: 'product', key: 'TT-CRK5', ladder: null, method: null, bidFloor: null });
  });

  test('what somebody changed since stays and is counted; other files cannot be taken back', async () => {
    const { import_id: id } = await load(
      'scope,name,target_acos\nproduct,TT-CRK5,21%\nproduct,TT-PHS2,18%\n',
    );
    await put({ scope: 'product', key: 'TT-PHS2', targetAcos: 0.17 });
    expect(await back(id)).toEqual({ back: 1, stays: 1 });
    expect((await goalOf('product', 'TT-PHS2'))!.targetAcos).toBe(0.17);
    await remove('product', 'TT-PHS2');
    const { imports } = await get<ImportsAnswer>('imports');
    const other = imports.find(({ kind }) => kind === 'targets-daily')!;
    expect(other.can_take_back).toBe(false);
    await expect(back(other.import_id)).rejects.toThrow(/Only files of goals/);
    await expect(back(999_999)).rejects.toThrow(/import 999999/);
  });
});

describe('what is changed at the marketplace', () => {
  test('is found by the next fetch, stands in the ledger, cools its bid down, and is told apart in its history', async () => {
    const fetchAll = async () => {
      const { jobId } = await callApi<{ jobId: string }>(stack.url, 'POST', '/api/1/fetch', {});
      await waitForJob(stack.url, jobId);
    };
    await fetchAll();
    // Nothing was changed by anybody: nothing is told.
    expect(await get<OutsideAnswer>('ledger/outside')).toEqual({ count: 0, changes: [] });
    const { findings } = await get<QueueAnswer>('round/queue');
    const row = findings.find(
      ({ queue, proposal }) => queue === 'targets' && proposal.kind === 'bid' && proposal.to < proposal.from,
    )!;
    const [target] = await sql<{ ext_id: string; bid: number; campaign_ext: string }[]>`
      select t.ext_id, t.bid, c.ext_id as campaign_ext from target t
      join ad_group g using (account_id, ad_group_id) join campaign c using (account_id, campaign_id)
      where t.account_id = 1 and t.target_id = ${row.targetId}`;
    const bid = Math.round(target!.bid / 10_000 + 7) / 100;
    await callQuayside(stack.quayside, 'POST', '/changes', {
      idempotency_key: 'by hand at the marketplace',
      lines: [
        {
          line_id: '1',
          action: 'update',
          entity: 'target',
          id: target!.ext_id,
          field: 'bid',
          new_value: bid.toFixed(2),
        },
        {
          line_id: '2',
          action: 'update',
          entity: 'campaign',
          id: target!.campaign_ext,
          field: 'daily_budget',
          new_value: '77',
        },
      ],
    });
    await callQuayside(stack.quayside, 'POST', '/clock/advance', { days: 1 });
    await fetchAll();
    const { count, changes } = await get<OutsideAnswer>('ledger/outside');
    expect(count).toBe(2);
    expect(changes).toEqual(
      expect.arrayContaining([
        expect.objectContaining({
          entity: 'target',
          objectId: row.targetId,
          field: 'bid',
          oldValue: String(target!.bid),
          newValue: String(Math.round(bid * 1e6)),
        }),
        expect.objectContaining({ entity: 'campaign', field: 'daily_budget', newValue: '77000000' }),
      ]),
    );
    // The same is told once, however often it is fetched.
    await fetchAll();
    expect((await get<OutsideAnswer>('ledger/outside')).count).toBe(2);
    const again = (await get<QueueAnswer>('round/queue')).findings.find(({ key }) => key === row.key);
    expect(again?.proposal).toMatchObject({ kind: 'wait', held: { by: 'cooldown' } });
    const why = await get<WhyAnswer>(`round/why?key=${encodeURIComponent(row.key)}`);
    expect(why.bids.at(-1)).toMatchObject({ outside: true, bid: Math.round(bid * 1e6) });
    expect(why.changes.at(-1)).toMatchObject({ outside: true, from: target!.bid, weeks: 0 });
  });
});
