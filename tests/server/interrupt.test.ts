import { createWriteStream, readFileSync } from 'node:fs';
import { mkdtemp } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import postgres from 'postgres';
import { expect, test } from 'vitest';
import { callApi, waitForJob } from '../../scripts/lib/processes.ts';
import { startStack, type Stack } from '../support/stack.ts';

const rows = 150_000;

async function writeTerms(): Promise<string> {
  const path = join(await mkdtemp(join(tmpdir(), 'mowing-')), 'terms.csv');
  const file = createWriteStream(path);
  file.write('date,campaign,ad_group,target,match_type,term,impressions,clicks,spend,orders,sales\n');
  for (let i = 0; i < rows; i++) {
    const day = String(1 + (i % 28)).padStart(2, '0');
    file.write(
      `2026-10-${day},Campaign ${i % 40},Group,target ${i % 900},broad,term ${i % 50_000} of ${i % 7},50,2,0.90,1,18.90\n`,
    );
  }
  await new Promise((done) => file.end(done));
  return path;
}

async function startLoad(stack: Stack, path: string): Promise<string> {
  const sent = await fetch(`${stack.url}/api/1/files?name=terms.csv`, {
    method: 'POST',
    body: readFileSync(path),
  });
  const preview = (await sent.json()) as { uploadId: string; kind: string };
  expect(preview.kind).toBe('terms-daily');
  const { uploadId, kind } = preview;
  const { jobId } = await callApi<{ jobId: string }>(stack.url, 'POST', '/api/1/imports', { uploadId, kind });
  return jobId;
}

/** Mowing with nothing loaded, a file of many terms, and the database beside it; all gone afterwards. */
async function withEmptyStack(act: (stack: Stack, sql: postgres.Sql, path: string) => Promise<void>) {
  const path = await writeTerms();
  const stack = await startStack(false);
  const sql = postgres(stack.databaseUrl, { max: 1 });
  try {
    await act(stack, sql, path);
  } finally {
    await sql.end();
    await stack.stop();
  }
}

interface JobAnswer {
  state: string;
  progress: { bytes?: number };
}

/** Waits until the job reads its file. */
async function untilReading(stack: Stack, jobId: string): Promise<void> {
  for (;;) {
    const job = await callApi<JobAnswer>(stack.url, 'GET', `/api/1/jobs/${jobId}`);
    expect(job.state).not.toBe('done');
    if ((job.progress.bytes ?? 0) > 0) return;
  }
}

test('a load that is cancelled leaves nothing, and can be done again', () =>
  withEmptyStack(async (stack, sql, path) => {
    const jobId = await startLoad(stack, path);
    await untilReading(stack, jobId);
    await callApi(stack.url, 'POST', `/api/1/jobs/${jobId}/cancel`, {});
    const job = await callApi<JobAnswer>(stack.url, 'GET', `/api/1/jobs/${jobId}`);
    expect(job.state).toBe('cancelled');
    // The next load waits for the account, so it also tells that the first has let go of it.
    const again = await waitForJob(stack.url, await startLoad(stack, path));
    expect(again.result).toMatchObject({ rowsLoaded: rows, daysReplaced: 0 });
    expect((await sql`select 1 from import`).length).toBe(1);
  }));

test('a server killed in the middle of a load leaves nothing half-loaded, and goes on after its start', () =>
  withEmptyStack(async (stack, sql, path) => {
    const jobId = await startLoad(stack, path);
    await untilReading(stack, jobId);
    await stack.kill();
    const [half] =
      await sql`select (select count(*)::int from term_day) as facts, (select count(*)::int from campaign) as campaigns`;
    expect(half).toEqual({ facts: 0, campaigns: 0 });

    await stack.restart();
    const job = await waitForJob(stack.url, jobId);
    expect(job.result).toMatchObject({ rowsRead: rows, rowsLoaded: rows, rowsRejected: 0 });
    const [sums] = await sql`select sum(clicks)::int as clicks, sum(sales)::text as sales from term_day`;
    expect(sums).toEqual({ clicks: rows * 2, sales: String(rows * 18_900_000) });
    expect((await sql`select 1 from import`).length).toBe(1);
  }));

test('a rejected cell that cannot be kept as it is does not turn a load into a failure', () =>
  withEmptyStack(async (stack, sql) => {
    const body =
      'date,campaign,ad_group,target,match_type,term,impressions,clicks,spend,orders,sales\n' +
      '2026-10-05,C,G,t,broad,fine,50,2,0.90,1,18.90\n2026-10-05,C,G,t,broad,fine,50,2\u0000,0.90,1,18.90\n';
    const sent = await fetch(`${stack.url}/api/1/files?name=terms.csv`, { method: 'POST', body });
    const { uploadId, kind } = (await sent.json()) as { uploadId: string; kind: string };
    const { jobId } = await callApi<{ jobId: string }>(stack.url, 'POST', '/api/1/imports', {
      uploadId,
      kind,
    });
    const job = await waitForJob(stack.url, jobId);
    expect(job.state).toBe('done');
    expect(job.result).toMatchObject({ rowsLoaded: 1, rowsRejected: 1, rejected: [{ row: 3, value: '2␀' }] });
    expect(await sql`select clicks from term_day`).toEqual([{ clicks: 2 }]);
  }));

test('a change whose server falls is there with its answer, or not at all: its key is never stuck', async () => {
  const stack = await startStack(true);
  const sql = postgres(stack.databaseUrl, { max: 1 });
  try {
    const round = await callApi<{ findings: { key: string; proposal: { kind: string } }[] }>(
      stack.url,
      'GET',
      '/api/1/round',
    );
    const wanted = ['harvest', 'negative'];
    const keys = round.findings
      .filter(({ proposal }) => wanted.includes(proposal.kind))
      .map(({ key }) => key);
    const { defaultWindow } = await callApi<{ defaultWindow: object }>(stack.url, 'GET', '/api/1/season');
    const call = (key: string, body: object) =>
      fetch(`${stack.url}/api/1/round/accept`, {
        method: 'POST',
        headers: { 'content-type': 'application/json', 'idempotency-key': key },
        body: JSON.stringify({ ...defaultWindow, ...body }),
      });
    for (const wait of [0, 60, 120]) {
      const part = keys.splice(0, 40);
      const key = `accept-${wait}-and-fall`;
      const before = await sql`select count(*)::int as lines from line`;
      const cut = call(key, { keys: part }).catch(() => null);
      await new Promise((done) => setTimeout(done, wait));
      await stack.killAndRestart();
      await cut;
      const again = await call(key, { keys: part });
      expect(again.status).toBe(200);
      const { lines } = (await again.json()) as { lines: number };
      const after = await sql`select count(*)::int as lines from line`;
      expect(after[0]!.lines - before[0]!.lines).toBe(lines);
      const once = await call(key, { keys: part });
      expect(await once.json()).toMatchObject({ lines });
      expect(await sql`select count(*)::int as lines from line`).toEqual([...after]);
    }
    expect(await sql`select 1 from answered_call where status is null`).toHaveLength(0);
    await sql`update answered_call set made_at = now() - interval '49 hours'`;
    await stack.killAndRestart();
    await expect.poll(() => sql`select 1 from answered_call`).toHaveLength(0);
  } finally {
    await sql.end();
    await stack.stop();
  }
});
