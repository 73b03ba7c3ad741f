import { newRoutine } from '../../src/core/routines/shipped.ts';
import { randomUUID } from 'node:crypto';
import { readdirSync } from 'node:fs';
import { join, relative } from 'node:path';
import postgres from 'postgres';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { callApi, filesAccount, root, waitForJob } from '../../scripts/lib/processes.ts';
import { startStack, type Stack } from '../support/stack.ts';
import { kitBody } from '../support/kits.ts';
import { openSheetOf } from '../support/sheets.ts';

/** Two accounts in one installation: the demo's, and one of files that knows nothing of it. */

let stack: Stack;
let sql: postgres.Sql;
let mine: number;
const window = { from: '2026-10-18', to: '2026-11-16' };

beforeAll(async () => {
  stack = await startStack(true);
  sql = postgres(stack.databaseUrl, { max: 1 });
  mine = await filesAccount(stack.url, 'A second');
});
afterAll(async () => {
  await sql.end();
  await stack.stop();
});

const header = 'date,campaign,ad_group,target,match_type,term,impressions,clicks,spend,orders,sales\n';

async function loadInto(account: number, text: string, name = 'terms.csv'): Promise<unknown> {
  const sent = await fetch(`${stack.url}/api/${account}/files?name=${name}`, { method: 'POST', body: text });
  const { uploadId, kind } = (await sent.json()) as { uploadId: string; kind: string };
  const { jobId } = await callApi<{ jobId: string }>(stack.url, 'POST', `/api/${account}/imports`, {
    uploadId,
    kind,
  });
  return (await waitForJob(stack.url, jobId, undefined, account)).result;
}

const rows = Array.from({ length: 240 }, (_, i) => {
  const day = `2026-11-${String(1 + Math.floor(i / 12)).padStart(2, '0')}`;
  return `${day},My campaign,My group,jar,broad,my jar ${i % 12},90,${3 + (i % 4)},2.40,${i % 12 < 4 ? 1 : 0},${i % 12 < 4 ? 24 : 0}\n`;
}).join('');

test('an account of files holds what is loaded into it, and the other one stays as it was', async () => {
  const before = await callApi<{ days: unknown[] }>(stack.url, 'GET', '/api/1/season');
  expect(await loadInto(mine, header + rows)).toMatchObject({ rowsLoaded: 240, rowsRejected: 0 });
  const season = await callApi<{ account: object; days: { clicks: number }[] }>(
    stack.url,
    'GET',
    `/api/${mine}/season`,
  );
  expect(season.account).toMatchObject({ name: 'A second', source: 'files', today: '2026-11-20' });
  expect(season.days.reduce((sum, { clicks }) => sum + clicks, 0)).toBe(240 * 4.5);
  const after = await callApi<{ days: unknown[] }>(stack.url, 'GET', '/api/1/season');
  expect(after.days).toEqual(before.days);
  const table = await callApi<{ count: number; rows: { values: unknown[] }[] }>(
    stack.url,
    'POST',
    `/api/${mine}/explore/table`,
    {
      level: 'terms',
      columns: ['name', 'clicks'],
      sort: 'clicks',
      window: { from: '2026-11-01', to: '2026-11-20' },
    },
  );
  expect(table.count).toBe(12);
  expect(table.rows.every(({ values }) => String(values[0]).startsWith('my jar'))).toBe(true);
});

test('answers never cross accounts, however many are asked at once', async () => {
  const ask = (account: number) =>
    callApi<{ count: number }>(stack.url, 'POST', `/api/${account}/explore/table`, {
      level: 'terms',
      columns: ['name', 'clicks'],
      window: { from: '2026-11-01', to: '2026-11-15' },
    });
  const [one, other] = [(await ask(1)).count, (await ask(mine)).count];
  expect(one).not.toBe(other);
  const answers = await Promise.all(Array.from({ length: 40 }, (_, i) => ask(i % 2 === 0 ? 1 : mine)));
  answers.forEach(({ count }, i) => expect(count).toBe(i % 2 === 0 ? one : other));
});

test('facts stand apart by account', async () => {
  const parts = await sql<{ part: string; rows: number }[]>`
    select tableoid::regclass::text as part, count(*)::int as rows from term_day group by 1 order by 1`;
  const own = parts.filter(({ part }) => part.startsWith(`term_day_${mine}_`));
  expect(own).toEqual([{ part: `term_day_${mine}_2026_11`, rows: 240 }]);
  expect(
    await sql`select 1 from term_day where account_id = ${mine} and tableoid::regclass::text not like ${`term_day_${mine}_%`}`,
  ).toHaveLength(0);
});

describe('with the ids of another account', () => {
  /** Every endpoint of an account with its methods, as the pages say. */
  const endpoints = (): { path: string; methods: string[] }[] => {
    const folder = join(root, 'dist/server/pages/api/_account_');
    return readdirSync(folder, { recursive: true, encoding: 'utf8' })
      .filter((name) => name.endsWith('.mjs'))
      .map((name) => ({ path: relative('.', name), methods: [] }));
  };

  test('the list of what is tried below names every endpoint that takes an id', () => {
    const named = endpoints().filter(({ path }) => /_(id|line|name)_/.test(path));
    expect(named.map(({ path }) => path.replace(/\.astro\.mjs$/, '').replace(/\/index$/, '')).sort()).toEqual(
      [
        'explore/slices/_id_',
        'files/_name_',
        'imports/_id_/back',
        'jobs/_id_',
        'kits/_id_',
        'kits/_id_/sheet',
        'kits/pictures/_id_',
        'jobs/_id_/cancel',
        'jobs/_id_/events',
        'ledger/_id_',
        'ledger/_id_/effect',
        'ledger/_id_/export',
        'ledger/_id_/lines',
        'ledger/_id_/repair',
        'ledger/_id_/resume',
        'ledger/_id_/revert',
        'notes/_id_',
        'reports/_id_',
        'reports/_id_/file',
        'sheet/lines/_line_',
        'terms/lists/_id_',
        'routines/_id_',
        'routines/_id_/stages',
        'routines/runs/_id_',
        'terms/lists/_id_/apply',
        'terms/lists/_id_/file',
        'terms/negatives/_id_',
        'trials/_id_',
      ].sort(),
    );
  });

  test('nothing is told and nothing is changed', async () => {
    const round = await callApi<{ findings: { key: string; proposal: { kind: string } }[] }>(
      stack.url,
      'GET',
      `/api/1/round?from=${window.from}&to=${window.to}`,
    );
    const keys = round.findings
      .filter(({ proposal }) => proposal.kind === 'negative')
      .slice(0, 3)
      .map(({ key }) => key);
    await callApi(stack.url, 'POST', '/api/1/round/accept', { ...window, keys });
    const sheet = await openSheetOf<{ sheetId: number; lines: { line_id: number; group_key: string }[] }>(
      stack.url,
    );
    const { id: list } = await callApi<{ id: number }>(stack.url, 'POST', '/api/1/terms/lists', {
      name: 'theirs',
      entries: [{ matchType: 'negative_exact', expression: 'free' }],
      campaignIds: [],
    });
    const { id: slice } = await callApi<{ id: string }>(stack.url, 'POST', '/api/1/explore/slices', {
      name: 'theirs',
      body: { level: 'terms', columns: ['name'], where: null, sort: null, descending: true },
    });
    const { kitId } = await callApi<{ kitId: string }>(stack.url, 'POST', '/api/1/kits', {
      kitId: randomUUID(),
      body: kitBody(),
    });
    const { noteId } = await callApi<{ noteId: number }>(stack.url, 'POST', '/api/1/notes', {
      day: '2026-11-10',
      body: 'theirs',
    });
    const { reportId } = await callApi<{ reportId: number }>(stack.url, 'POST', '/api/1/reports', window);
    await sql`insert into picture values (1, ${'ab'.repeat(32)}, 'theirs.png', 'image/png', 'theirs')`;
    const [job] = await sql<{ job_id: string }[]>`select job_id from job where account_id = 1 limit 1`;
    const [imported] = await sql<
      { import_id: number }[]
    >`select import_id from import where account_id = 1 limit 1`;
    const [negative] = await sql<
      { negative_id: number }[]
    >`select negative_id from negative where account_id = 1 limit 1`;
    const [campaign] = await sql<
      { campaign_id: number }[]
    >`select campaign_id from campaign where account_id = 1 limit 1`;
    const [target] = await sql<
      { target_id: number; ad_group_id: number }[]
    >`select target_id, ad_group_id from target where account_id = 1 limit 1`;
    const line = sheet.lines[0]!;
    const trial = { name: 'theirs', days: 14, lineIds: [line.line_id] };
    const { trialId } = await callApi<{ trialId: number }>(stack.url, 'POST', '/api/1/trials', trial);
    const { routineId } = await callApi<{ routineId: number }>(stack.url, 'POST', '/api/1/routines', {
      ...newRoutine('theirs'),
      kinds: ['bids'],
    });
    const [run] = await sql<{ run_id: number }[]>`
      insert into routine_run (account_id, routine_id, due, day, state, began_at)
      values (1, ${routineId}, 'hand theirs', '2026-11-20', 'stopped', now()) returning run_id`;
    const state = () => sql`
      select (select json_agg(r order by routine_id) from routine r where account_id = 1) as routines,
        (select json_agg(n order by run_id) from routine_run n where account_id = 1) as runs,
        (select json_agg(l order by line_id) from line l where account_id = 1) as lines,
        (select json_agg(g order by scope, key) from goal g where account_id = 1) as goals,
        (select json_agg(n order by list_id) from negative_list n where account_id = 1) as lists,
        (select json_agg(s order by slice_id) from slice s where account_id = 1) as slices,
        (select json_agg(k order by kit_id) from kit k where account_id = 1) as kits,
        (select json_agg(n order by note_id) from note n where account_id = 1) as notes,
        (select json_agg(t order by trial_id) from trial t where account_id = 1) as trials,
        (select json_agg(r order by report_id) from report r where account_id = 1) as reports,
        (select count(*)::int from job where account_id = 1) as jobs`;
    const before = await state();
    const calls: [string, string, unknown?][] = [
      ['GET', `jobs/${job!.job_id}`],
      ['GET', `jobs/${job!.job_id}/events`],
      ['POST', `jobs/${job!.job_id}/cancel`, {}],
      ['POST', `imports/${imported!.import_id}/back`, {}],
      ['GET', `ledger/${sheet.sheetId}`],
      ['GET', `ledger/${sheet.sheetId}/export`],
      ['GET', `ledger/${sheet.sheetId}/lines`],
      ['GET', `ledger/${sheet.sheetId}/effect`],
      ['POST', `ledger/${sheet.sheetId}/revert`, { lineIds: null }],
      ['POST', `ledger/${sheet.sheetId}/repair`, {}],
      ['POST', `ledger/${sheet.sheetId}/resume`, {}],
      ['POST', `sheet/lines/${line.line_id}`, { newValue: '900000' }],
      ['POST', 'sheet/lines', { lineIds: [line.line_id] }],
      ['POST', 'sheet/undo', { groups: [line.group_key] }],
      ['POST', 'sheet/carried', { lineIds: [line.line_id] }],
      ['GET', `terms/lists/${list}`],
      ['GET', `terms/lists/${list}/file`],
      ['PUT', `terms/lists/${list}`, { name: 'mine', entries: [], campaignIds: [] }],
      ['POST', `terms/lists/${list}/apply`, {}],
      ['DELETE', `terms/lists/${list}`, {}],
      ['DELETE', `explore/slices/${slice}`, {}],
      ['GET', `reports/${reportId}`],
      ['GET', `reports/${reportId}/file`],
      ['PUT', `reports/${reportId}`, { words: 'mine' }],
      ['DELETE', `reports/${reportId}`, {}],
      ['PUT', `notes/${noteId}`, { day: '2026-11-10', body: 'mine' }],
      ['DELETE', `notes/${noteId}`, {}],
      ['POST', 'trials', trial],
      ['POST', `trials/${trialId}`, { act: 'keep' }],
      ['DELETE', `trials/${trialId}`, {}],
      ['PUT', `routines/${routineId}`, { version: 1, settings: { ...newRoutine('mine'), kinds: ['bids'] } }],
      ['POST', `routines/${routineId}`, { act: 'on' }],
      ['POST', `routines/${routineId}`, { act: 'remove' }],
      ['POST', `routines/${routineId}`, { act: 'run' }],
      ['GET', `routines/${routineId}/stages`],
      ['POST', `routines/runs/${run!.run_id}`, { act: 'hold_again' }],
      ['GET', `spend/hours/after?campaign=${String(campaign!.campaign_id)}&from=2026-11-01&to=2026-11-10`],
      ['GET', `spend/hours/scope?of=campaign:${String(campaign!.campaign_id)}&from=2026-11-01&to=2026-11-10`],
      ['PUT', 'spend/budgets/limits', { campaignId: String(campaign!.campaign_id), least: 1e6, most: null }],
      ['GET', `kits/pictures/${'ab'.repeat(32)}`],
      ['GET', `kits/${kitId}`],
      ['PUT', `kits/${kitId}`, { version: 1, body: { ...kitBody(), name: 'mine' } }],
      ['POST', `kits/${kitId}/sheet`, { version: 1 }],
      ['DELETE', `kits/${kitId}`, {}],
      ['GET', `explore/row?level=targets&key=${target!.target_id}&from=2026-11-01&to=2026-11-10`],
      ['PUT', 'goals', { scope: 'campaign', key: String(campaign!.campaign_id), targetAcos: 0.5 }],
      ['PUT', 'goals', { scope: 'ad_group', key: String(target!.ad_group_id), targetAcos: 0.5 }],
      ['DELETE', `goals?scope=product&key=TT-CRK2`, {}],
      ['POST', 'round/accept', { ...window, keys }],
      ['GET', `round/why?key=${encodeURIComponent(keys[0]!)}&from=2026-11-01&to=2026-11-10`],
      ['GET', 'files/rejected-rows-terms-daily.csv'],
    ];
    for (const [method, path, body] of calls) {
      const answer = await fetch(`${stack.url}/api/${mine}/${path}`, {
        method,
        headers: { 'content-type': 'application/json' },
        ...(body === undefined ? {} : { body: JSON.stringify(body) }),
      });
      expect([path, answer.status]).toEqual([
        path,
        expect.toSatisfy((status: number) => [404, 409, 422].includes(status)),
      ]);
    }
    // A negative of another account keeps nothing away here.
    const flow = await fetch(
      `${stack.url}/api/${mine}/terms/negatives/${negative!.negative_id}?from=2026-11-01&to=2026-11-10`,
    );
    expect(await flow.json()).toEqual({ terms: [] });
    expect(await state()).toEqual([...before]);
  });
});

test('files only: a sheet is carried over by hand, line by line, by its answers, and as a whole', async () => {
  const [target] = await sql<
    { target_id: number }[]
  >`select target_id from target where account_id = ${mine}`;
  await sql`update target set bid = 400000 where account_id = ${mine}`;
  await sql`update account set data_version = data_version + 1 where account_id = ${mine}`;
  const edit = (value: number) =>
    callApi(stack.url, 'POST', `/api/${mine}/explore/edit`, {
      level: 'targets',
      edit: { field: 'bid', how: 'set', value },
      keys: [String(target!.target_id)],
      window: { from: '2026-11-01', to: '2026-11-20' },
      keepGuards: false,
    });
  await callApi(stack.url, 'POST', `/api/${mine}/terms/negatives`, {
    scope: 'account',
    ids: [],
    texts: ['free', 'cheap'],
    matchType: 'negative_phrase',
  });
  await edit(450_000);
  const sheet = () =>
    openSheetOf<{ sheetId: number; lines: { line_id: number; field: string; expression: string }[] }>(
      stack.url,
      mine,
    );
  const first = await sheet();
  expect(first.lines).toHaveLength(3);
  const bid = first.lines.find(({ field }) => field === 'bid')!;
  const sent = await callApi<{ lines: number; left: number }>(
    stack.url,
    'POST',
    `/api/${mine}/sheet/carried`,
    {
      lineIds: [bid.line_id],
      lines: 3,
    },
  );
  expect(sent).toMatchObject({ lines: 1, left: 2 });
  expect(await sql`select bid from target where account_id = ${mine}`).toEqual([{ bid: '450000' }]);
  expect(await sql`select count(*)::int as n from target_bid where account_id = ${mine}`).toEqual([{ n: 1 }]);

  const second = await sheet();
  expect(second.lines).toHaveLength(2);
  const exported = await (await fetch(`${stack.url}/api/${mine}/ledger/${second.sheetId}/export`)).text();
  const [head, free, cheap] = exported.trim().split('\n');
  const at = head!.split(',').indexOf('state');
  const answered = (line: string, state: string) =>
    line
      .split(',')
      .map((cell, i) => (i === at ? state : cell))
      .join(',');
  await loadInto(
    mine,
    [head, answered(free!, 'applied'), answered(cheap!, 'refused')].join('\n'),
    'answers.csv',
  );
  expect(await sql`select expression from negative where account_id = ${mine}`).toEqual([
    { expression: free!.includes('free') ? 'free' : 'cheap' },
  ]);
  expect((await sheet()).lines).toHaveLength(0);
  const { sheets } = await callApi<{ sheets: { state: string; applied: number; refused: number }[] }>(
    stack.url,
    'GET',
    `/api/${mine}/ledger`,
  );
  expect(
    sheets.filter(({ state }) => state === 'sent').map(({ applied, refused }) => [applied, refused]),
  ).toEqual([
    [1, 1],
    [1, 0],
  ]);
  const fetched = await fetch(`${stack.url}/api/${mine}/fetch`, { method: 'POST', body: '{}' });
  expect([fetched.status, ((await fetched.json()) as { code: string }).code]).toEqual([
    409,
    'no_marketplace',
  ]);
});

test('an account is removed by its name, with everything in it, and the other stays', async () => {
  const remove = (name: string) =>
    fetch(`${stack.url}/api/${mine}/settings`, {
      method: 'DELETE',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ name }),
    });
  expect((await remove('Another')).status).toBe(422);
  const [before] = await sql`select count(*)::int as n from term_day where account_id = 1`;
  expect((await remove('A second')).status).toBe(200);
  expect((await fetch(`${stack.url}/api/${mine}/season`)).status).toBe(404);
  expect((await fetch(`${stack.url}/${mine}/round`)).status).toBe(404);
  await expect
    .poll(() => sql`select 1 from account where account_id = ${mine}`, { timeout: 20_000 })
    .toHaveLength(0);
  const tables = await sql<{ name: string }[]>`
    select distinct table_name as name from information_schema.columns where column_name = 'account_id' and table_schema = 'public'`;
  for (const { name } of tables)
    expect([name, (await sql`select 1 from ${sql(name)} where account_id = ${mine} limit 1`).length]).toEqual(
      [name, 0],
    );
  expect(await sql`select to_regclass(${`term_day_${mine}`}) as part`).toEqual([{ part: null }]);
  expect(await sql`select count(*)::int as n from term_day where account_id = 1`).toEqual([before]);
});

test('what an account is made of is checked', async () => {
  const make = async (body: object) => {
    const answer = await fetch(`${stack.url}/api/accounts`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(body),
    });
    return { status: answer.status, ...((await answer.json()) as { field?: string; detail?: string }) };
  };
  expect(await make({})).toMatchObject({ status: 422, field: 'name' });
  expect(await make({ name: 'x', currency: 'EURO' })).toMatchObject({ status: 422, field: 'currency' });
  expect(await make({ name: 'x', timeZone: 'Moon/Sea' })).toMatchObject({ status: 422, field: 'timeZone' });
  expect(await make({ name: 'x', targetAcos: 0 })).toMatchObject({ status: 422, field: 'targetAcos' });
  expect(await make({ name: 'x', marketplace: { kind: 'quayside', secret: 'wrong' } })).toMatchObject({
    status: 422,
    field: 'marketplace',
    detail: expect.stringContaining('secret') as string,
  });
  const { accounts } = await callApi<{ accounts: unknown[] }>(stack.url, 'GET', '/api/accounts');
  expect(accounts).toHaveLength(1);
});
