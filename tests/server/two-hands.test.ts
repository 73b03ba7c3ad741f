import { afterAll, beforeAll, expect, test } from 'vitest';
import { callApi, waitForJob } from '../../scripts/lib/processes.ts';
import { connect, type Database } from '../../src/server/db/connection.ts';
import { startStack, type Stack } from '../support/stack.ts';
import { openSheetOf } from '../support/sheets.ts';

/** Two hands on one sheet: nothing is lost, nothing goes that was taken off, and the second hand is told. */

interface Line {
  line_id: number;
  version: number;
  field: string;
  state: string;
  new_value: string;
}

let stack: Stack;
let sql: Database;
beforeAll(async () => {
  stack = await startStack(true);
  sql = connect(stack.databaseUrl, 3);
});
afterAll(async () => {
  await sql.end();
  await stack.stop();
});

/** The status of an answer and its body, refusals too. */
async function ask<T>(
  path: string,
  body: object,
  key?: string,
): Promise<{ status: number; body: T & { code?: string } }> {
  const answer = await fetch(`${stack.url}${path}`, {
    method: 'POST',
    headers: { 'content-type': 'application/json', ...(key ? { 'idempotency-key': key } : {}) },
    body: JSON.stringify(body),
  });
  return { status: answer.status, body: (await answer.json()) as T & { code?: string } };
}
const sheet = () => openSheetOf<{ sheetId: number; lines: Line[] }>(stack.url);

/** What accepts so many bids of the round. */
async function findings(from: number, to: number) {
  const round = await callApi<{
    window: { from: string; to: string };
    findings: { key: string; queue: string; proposal: { kind: string } }[];
  }>(stack.url, 'GET', '/api/1/round');
  const keys = round.findings
    .filter(({ proposal }) => proposal.kind === 'bid')
    .slice(from, to)
    .map(({ key }) => key);
  return { ...round.window, keys };
}
const accept = async (from: number, to: number): Promise<{ groups: string[] }> =>
  callApi(stack.url, 'POST', '/api/1/round/accept', await findings(from, to));
const clear = async () => {
  const { lines } = await sheet();
  if (lines.length > 0)
    await callApi(stack.url, 'POST', '/api/1/sheet/lines', { lineIds: lines.map(({ line_id }) => line_id) });
};

/** Waits until so many statements of the application wait for a lock. */
async function untilWaiting(count: number): Promise<void> {
  for (;;) {
    const [row] = await sql<{ waiting: number }[]>`
      select count(*)::int as waiting from pg_stat_activity
      where datname = current_database() and wait_event_type = 'Lock'`;
    if (row!.waiting >= count) return;
  }
}

test('lines that are added while the sheet is sent are on it, or on the next one: none is stranded', async () => {
  await accept(0, 5);
  const before = await sheet();
  let added: ReturnType<typeof ask<{ lines: number }>>;
  let sent: ReturnType<typeof ask<{ jobId: string; sheetId: number }>>;
  const window = { from: '2026-10-18', to: '2026-11-16' };
  // A large edit stops in the middle of its lines; meanwhile the sheet is sent.
  await sql.begin(async (tx) => {
    await tx`lock table line in share row exclusive mode`;
    added = ask('/api/1/explore/edit', {
      window,
      level: 'targets',
      columns: [],
      where: { all: [{ column: 'clicks', is: 'at_least', value: 1 }] },
      edit: { field: 'bid', how: 'percent', value: -0.11 },
    });
    await untilWaiting(1);
    sent = ask('/api/1/sheet/send', {});
    await untilWaiting(2);
  });
  const [more, going] = [await added!, await sent!];
  expect(more.status, JSON.stringify(more.body)).toBe(200);
  expect(more.body.lines).toBeGreaterThan(100);
  // Sent with them, or refused because of what they changed; never without them.
  if (going.status === 200) await waitForJob(stack.url, going.body.jobId);
  const stranded = await sql`
    select 1 from line l join sheet s using (account_id, sheet_id) where l.state = 'open' and s.state <> 'open'`;
  expect(stranded).toHaveLength(0);
  const [all] = await sql<
    { lines: number }[]
  >`select count(*)::int as lines from line where state <> 'removed'`;
  expect(all!.lines).toBe(before.lines.length + more.body.lines);
  await clear();
});

test('a sheet that grew since it was looked at is not sent', async () => {
  await accept(10, 14);
  const seen = (await sheet()).lines.length;
  await accept(14, 16);
  const refused = await ask('/api/1/sheet/send', { lines: seen });
  expect(refused).toMatchObject({ status: 409, body: { code: 'sheet_changed' } });
  const now = await sheet();
  expect(now.lines).toHaveLength(seen + 2);
  expect(now.lines.every(({ state }) => state === 'open')).toBe(true);
  await clear();
});

test('of two edits of one line the second is told, and its value is not lost silently', async () => {
  await accept(20, 21);
  const [line] = (await sheet()).lines;
  const edit = (newValue: string) =>
    ask(`/api/1/sheet/lines/${line!.line_id}`, { newValue, version: line!.version });
  const answers = await Promise.all([edit('310000'), edit('320000')]);
  expect(answers.map(({ status }) => status).sort()).toEqual([200, 409]);
  const lost = answers.find(({ status }) => status === 409)!;
  expect(lost.body.code).toBe('line_changed');
  const [now] = (await sheet()).lines;
  expect(now!.new_value).toBe(answers[0]!.status === 200 ? '310000' : '320000');
  expect(now!.version).toBe(line!.version + 1);
  expect(JSON.stringify(lost.body)).toContain(now!.new_value === '310000' ? '0.31' : '0.32');
  await clear();
});

test('an edit against a removal, twenty times: what was told is what stands', async () => {
  await accept(30, 50);
  const { lines } = await sheet();
  expect(lines).toHaveLength(20);
  for (const line of lines) {
    const [edited, removed] = await Promise.all([
      ask(`/api/1/sheet/lines/${line.line_id}`, { newValue: '330000', version: line.version }),
      ask('/api/1/sheet/lines', { lineIds: [line.line_id] }),
    ]);
    expect(removed.status).toBe(200);
    const [row] = await sql<Line[]>`select * from line where line_id = ${line.line_id}`;
    expect(row!.state).toBe('removed');
    if (edited.status === 200) expect(row!.new_value).toBe('330000');
    else {
      expect(edited).toMatchObject({ status: 409, body: { code: 'not_on_the_sheet' } });
      expect(row!.new_value).toBe(line.new_value);
    }
  }
  expect((await sheet()).lines).toEqual([]);
});

test('what a call put on the sheet is taken back by its key, also while it is at work', async () => {
  const key = 'left-before-its-answer';
  let accepted: ReturnType<typeof ask<{ lines: number }>>;
  let undone: ReturnType<typeof ask<{ lines: number }>>;
  await sql.begin(async (tx) => {
    await tx`lock table line in share row exclusive mode`;
    accepted = ask('/api/1/round/accept', await findings(30, 40), key);
    await untilWaiting(1);
    undone = ask('/api/1/sheet/undo', { call: key });
    await untilWaiting(2);
  });
  const [made, back] = [await accepted!, await undone!];
  expect(made.body.lines).toBeGreaterThan(0);
  expect(back).toMatchObject({ status: 200, body: { lines: made.body.lines } });
  expect((await sheet()).lines).toEqual([]);
  expect(await ask('/api/1/sheet/undo', { call: 'nobody-called' })).toMatchObject({
    status: 409,
    body: { code: 'never_done' },
  });
});

test('undoing what has left the sheet says so', async () => {
  const { groups } = await accept(60, 62);
  const { jobId } = await callApi<{ jobId: string }>(stack.url, 'POST', '/api/1/sheet/send', {});
  await waitForJob(stack.url, jobId);
  expect(await ask('/api/1/sheet/undo', { groups })).toMatchObject({
    status: 409,
    body: { code: 'not_on_the_sheet' },
  });
});
