import postgres from 'postgres';
import { afterEach, expect, test } from 'vitest';
import { callApi, waitForJob } from '../../scripts/lib/processes.ts';
import { callQuayside, startStack, structureOf, type Stack } from '../support/stack.ts';
import { openSheetOf, sentSheetOf } from '../support/sheets.ts';

/** Whatever breaks on the way, every line is applied exactly once and the ledger says so. */

let stack: Stack;
afterEach(() => stack.stop());

interface RoundAnswer {
  window: { from: string; to: string };
  findings: { key: string; proposal: { kind: string } }[];
}

/** Accepts many findings of all kinds; the lines of the sheet. */
async function fillSheet(count: number) {
  const round = await callApi<RoundAnswer>(stack.url, 'GET', '/api/1/round');
  const keys = round.findings
    .filter(({ proposal }) => proposal.kind !== 'wait')
    .slice(0, count)
    .map(({ key }) => key);
  const { from, to } = round.window;
  await callApi(stack.url, 'POST', '/api/1/round/accept', { from, to, keys });
  return openSheetOf<{ sheetId: number; lines: { line_id: number }[] }>(stack.url);
}

const fault = (kind: string, times = 1, milliseconds = 0) =>
  fetch(`${stack.quayside}/faults`, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ kind, times, milliseconds }),
  });

interface Detail {
  sheet: { state: string };
  lines: {
    line_id: number;
    state: string;
    entity: string;
    action: string;
    expression: string;
    new_value: string | null;
    match_type: string | null;
  }[];
}

/** Compares the ledger with the marketplace: created objects stand there once, bids as the ledger says. */
async function expectExactlyOnce(sheetId: number, lines: number) {
  const detail = await sentSheetOf<Detail>(stack.url, sheetId);
  expect(detail.sheet.state).toBe('sent');
  expect(detail.lines).toHaveLength(lines);
  expect(detail.lines.filter(({ state }) => state !== 'applied')).toEqual([]);
  const structure = await structureOf(stack.quayside);
  const made = structure.filter((row) => /^[tn]1\d{5}$/.test(String(row.target_id ?? row.negative_id ?? '')));
  expect(made).toHaveLength(detail.lines.filter(({ action }) => action === 'create').length);
  const sql = postgres(stack.databaseUrl, { max: 1 });
  try {
    const bids = await sql<{ ext_id: string; bid: string }[]>`
      select t.ext_id, t.bid from line l join target t on t.target_id::text = l.object_id
      where l.sheet_id = ${sheetId} and l.action = 'update'`;
    const live = new Map(
      structure.filter((row) => row.entity === 'target').map((row) => [row.target_id, row.bid]),
    );
    for (const { ext_id, bid } of bids) expect(Math.round(Number(live.get(ext_id)) * 1e6)).toBe(Number(bid));
    expect(bids.length).toBeGreaterThan(0);
  } finally {
    await sql.end();
  }
}

test('the connection is cut after the marketplace has applied a batch', async () => {
  stack = await startStack(true, { MOWING_BATCH_LINES: '20' });
  const sheet = await fillSheet(60);
  await fault('cut_after_batch');
  await fault('cut_before_batch');
  await fault('error', 2);
  const { jobId } = await callApi<{ jobId: string }>(stack.url, 'POST', '/api/1/sheet/send', {});
  await waitForJob(stack.url, jobId);
  await expectExactlyOnce(sheet.sheetId, sheet.lines.length);
});

test('the server is killed in the middle of sending', async () => {
  stack = await startStack(true, { MOWING_BATCH_LINES: '5' });
  const sheet = await fillSheet(60);
  // Each call takes a while, so that the kill falls between two batches or within one.
  await fault('latency', 1000, 120);
  const { jobId } = await callApi<{ jobId: string }>(stack.url, 'POST', '/api/1/sheet/send', {});
  for (;;) {
    const job = await callApi<{ progress: { batch?: number } }>(stack.url, 'GET', `/api/1/jobs/${jobId}`);
    if ((job.progress.batch ?? 0) >= 3) break;
  }
  await stack.kill();
  const before = await structureOf(stack.quayside);
  await fault('latency', 0);
  await stack.restart();
  const job = await waitForJob(stack.url, jobId);
  expect(job.state).toBe('done');
  await expectExactlyOnce(sheet.sheetId, sheet.lines.length);
  expect((await structureOf(stack.quayside)).length).toBeGreaterThan(before.length - 1);
});

test('a sending that failed is resumed where it stopped, and a whole sheet is reverted', async () => {
  stack = await startStack(true, { MOWING_BATCH_LINES: '10' });
  const before = await structureOf(stack.quayside);
  const sheet = await fillSheet(40);
  await fault('error', 1000);
  const { jobId } = await callApi<{ jobId: string }>(stack.url, 'POST', '/api/1/sheet/send', {});
  await expect(waitForJob(stack.url, jobId)).rejects.toThrow();
  const failed = await sentSheetOf<Detail>(stack.url, sheet.sheetId);
  expect(failed.sheet.state).toBe('sending');
  await fault('error', 0);
  const resumed = await callApi<{ jobId: string }>(
    stack.url,
    'POST',
    `/api/1/ledger/${sheet.sheetId}/resume`,
    {},
  );
  await waitForJob(stack.url, resumed.jobId);
  await expectExactlyOnce(sheet.sheetId, sheet.lines.length);

  await callApi(stack.url, 'POST', `/api/1/ledger/${sheet.sheetId}/revert`, {});
  const back = await openSheetOf<{ lines: unknown[] }>(stack.url);
  expect(back.lines).toHaveLength(sheet.lines.length);
  const again = await callApi<{ jobId: string }>(stack.url, 'POST', '/api/1/sheet/send', {});
  const { result } = await waitForJob(stack.url, again.jobId);
  expect(result).toMatchObject({ applied: sheet.lines.length, refused: 0 });
  // Every bid that was there stands as it stood; what was made is archived.
  const alive = (rows: Awaited<ReturnType<typeof structureOf>>) =>
    rows
      .filter((row) => ['target', 'negative'].includes(String(row.entity)) && row.status !== 'archived')
      .map((row) => [row.target_id ?? row.negative_id, row.bid, row.status].join())
      .sort();
  expect(alive(await structureOf(stack.quayside))).toEqual(alive(before));
});

test('accepting twice under one key is accepting once', async () => {
  stack = await startStack(true);
  const round = await callApi<RoundAnswer>(stack.url, 'GET', '/api/1/round');
  const { key } = round.findings.find(({ proposal }) => proposal.kind !== 'wait')!;
  const call = () =>
    fetch(`${stack.url}/api/1/round/accept`, {
      method: 'POST',
      headers: { 'content-type': 'application/json', 'idempotency-key': 'one-and-the-same' },
      body: JSON.stringify({ from: round.window.from, to: round.window.to, keys: [key] }),
    });
  const [first, second] = [await call(), await call()];
  expect([first.status, second.status]).toEqual([200, 200]);
  expect(await second.json()).toEqual(await first.json());
  const sheet = await openSheetOf<{ lines: unknown[] }>(stack.url);
  expect(new Set(sheet.lines.map((line) => (line as { conflict_key: string }).conflict_key)).size).toBe(
    sheet.lines.length,
  );
});

test('a refused line says why, stays on the ledger, and comes back for repair; a stale one is flagged', async () => {
  stack = await startStack(true);
  const round = await callApi<RoundAnswer>(stack.url, 'GET', '/api/1/round');
  const bid = round.findings.find(({ proposal }) => proposal.kind === 'bid')!;
  const { from, to } = round.window;
  await callApi(stack.url, 'POST', '/api/1/round/accept', { from, to, keys: [bid.key] });
  const sheet = await openSheetOf<{
    sheetId: number;
    lines: { line_id: number; object_id: string; old_value: string }[];
  }>(stack.url);
  // Somebody else changes the bid at the marketplace meanwhile.
  const sql = postgres(stack.databaseUrl, { max: 1 });
  const [target] = await sql<
    { ext_id: string }[]
  >`select ext_id from target where target_id::text = ${sheet.lines[0]!.object_id}`;
  await sql.end();
  await callQuayside(stack.quayside, 'POST', '/changes', {
    idempotency_key: 'somebody-else',
    lines: [
      {
        line_id: '1',
        action: 'update',
        entity: 'target',
        id: target!.ext_id,
        field: 'bid',
        new_value: '0.77',
      },
    ],
  });
  const { jobId } = await callApi<{ jobId: string }>(stack.url, 'POST', '/api/1/sheet/send', {});
  const job = await waitForJob(stack.url, jobId);
  expect(job.result).toMatchObject({ applied: 0, refused: 1 });
  const detail = await sentSheetOf<{ lines: { message: string; code: string }[] }>(stack.url, sheet.sheetId);
  expect(detail.lines[0]).toMatchObject({
    code: 'stale',
    message: expect.stringContaining('0.77') as string,
  });
  await callApi(stack.url, 'POST', `/api/1/ledger/${sheet.sheetId}/repair`, {});
  const fetched = await callApi<{ jobId: string }>(stack.url, 'POST', '/api/1/fetch', {});
  await waitForJob(stack.url, fetched.jobId);
  const open = await openSheetOf<{ lines: { line_id: number; overtaken: boolean }[] }>(stack.url);
  expect(open.lines).toMatchObject([{ overtaken: true }]);
  await callApi(stack.url, 'POST', `/api/1/sheet/lines/${open.lines[0]!.line_id}`, { rebase: true });
  const again = await callApi<{ jobId: string }>(stack.url, 'POST', '/api/1/sheet/send', {});
  expect((await waitForJob(stack.url, again.jobId)).result).toMatchObject({ applied: 1, refused: 0 });
});
