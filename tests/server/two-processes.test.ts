import { randomUUID } from 'node:crypto';
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { callApi, root, startApplication, waitForJob, type Running } from '../../scripts/lib/processes.ts';
import { plain } from '../support/reading.ts';
import { openSheetOf } from '../support/sheets.ts';
import { startStack, type Stack } from '../support/stack.ts';

/** Two processes of the application on one database: what one is told the other knows, and no work is done twice. */

let stack: Stack;
let second: Running;
const window = { from: '2026-10-18', to: '2026-11-16' };
const span = `from=${window.from}&to=${window.to}`;

beforeAll(async () => {
  stack = await startStack(true);
  const files = join(root, '.data/test-files', randomUUID());
  mkdirSync(files, { recursive: true });
  second = await startApplication({
    MOWING_DATABASE_URL: stack.databaseUrl,
    MOWING_DATA_DIR: files,
    QUAYSIDE_URL: stack.quayside,
    MOWING_DEMO: '1',
  });
});
afterAll(async () => {
  await second.stop();
  await stack.stop();
});

interface Findings {
  findings: { key: string; targetAcos: number; proposal: { kind: string } }[];
  onSheet: number;
}
const round = (url: string) => callApi<Findings>(url, 'GET', `/api/1/round/queue?${span}`);
const clicks = async (url: string): Promise<number> => {
  const { totals } = await callApi<{ totals: number[] }>(url, 'POST', '/api/1/explore/table', {
    level: 'targets',
    columns: ['clicks'],
    window: { from: window.from, to: '2026-12-31' },
  });
  return totals[0]!;
};

describe('two processes on one database', () => {
  test('both tell the same; what one accepts has left the queue of the other and stands on its sheet', async () => {
    const [one, other] = await Promise.all([round(stack.url), round(second.url)]);
    expect(plain(other)).toEqual(plain(one));
    const keys = one.findings.filter(({ proposal }) => proposal.kind === 'bid').slice(0, 5);
    await callApi(stack.url, 'POST', '/api/1/round/accept', { ...window, keys: keys.map(({ key }) => key) });
    const seen = await round(second.url);
    expect(seen.onSheet).toBe(5);
    for (const { key } of keys) expect(seen.findings.map((row) => row.key)).not.toContain(key);
    const sheets = await Promise.all([openSheetOf(stack.url), openSheetOf(second.url)]);
    expect(sheets[1]).toEqual(sheets[0]);
  });

  test('a goal that one sets is what the other judges by', async () => {
    const goal = (targetAcos: number, url: string) =>
      callApi(url, 'PUT', '/api/1/goals', {
        scope: 'account',
        key: '',
        targetAcos,
        bidFloor: null,
        bidCeiling: null,
        stance: 'even',
      });
    await round(stack.url);
    await goal(0.11, second.url);
    const judged = await round(stack.url);
    expect(judged.findings.some((row) => row.targetAcos === 0.11)).toBe(true);
    await goal(0.26, stack.url);
    const again = await round(second.url);
    expect(again.findings.some((row) => row.targetAcos === 0.11)).toBe(false);
  });

  test('of two hands that accept the same at once, one line comes of it', async () => {
    const { findings } = await round(stack.url);
    const keys = findings
      .filter(({ proposal }) => proposal.kind === 'bid')
      .slice(0, 8)
      .map(({ key }) => key);
    const before = (await openSheetOf<{ lines: unknown[] }>(stack.url)).lines.length;
    await Promise.allSettled(
      [stack.url, second.url].map((url) => callApi(url, 'POST', '/api/1/round/accept', { ...window, keys })),
    );
    const { lines } = await openSheetOf<{ lines: { object_id?: string; field: string }[] }>(second.url);
    expect(lines.length - before).toBe(8);
  });

  test('a sheet that one sends arrives once, and the other tells of it', async () => {
    const { lines } = await openSheetOf<{ lines: unknown[] }>(stack.url);
    const sent = await callApi<{ jobId: string; sheetId: number }>(
      second.url,
      'POST',
      '/api/1/sheet/send',
      {},
    );
    const job = await waitForJob(stack.url, sent.jobId);
    expect(job.state).toBe('done');
    const detail = await callApi<{ counts: { lines: number; applied: number; refused: number } }>(
      stack.url,
      'GET',
      `/api/1/ledger/${sent.sheetId}`,
    );
    expect(detail.counts.applied + detail.counts.refused).toBe(lines.length);
    expect((await openSheetOf<{ lines: unknown[] }>(second.url)).lines).toEqual([]);
  });

  test('days that one fetches are added up by both, each once', async () => {
    const before = await clicks(second.url);
    const { jobId } = await callApi<{ jobId: string }>(stack.url, 'POST', '/api/1/advance', { days: 2 });
    await waitForJob(second.url, jobId);
    const [one, other] = [await clicks(stack.url), await clicks(second.url)];
    expect(one).toBeGreaterThan(before);
    expect(other).toBe(one);
  });
});
