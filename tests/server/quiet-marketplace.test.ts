import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { demoScenario } from '../../demo/scenario.ts';
import {
  callApi,
  demoAccount,
  startApplication,
  startQuayside,
  waitForJob,
  type Running,
} from '../../scripts/lib/processes.ts';
import { makeDatabase } from '../support/stack.ts';

/** A marketplace on which nothing happens: its reports have headers and no rows, and that is no error. */

let folder: string;
let quayside: Running;
let application: Running;
beforeAll(async () => {
  folder = mkdtempSync(join(tmpdir(), 'mowing-quiet-'));
  const scenario = join(folder, 'scenario.json');
  const quiet = { searchesPerDay: 1e-6, pageVisitsPerDay: 1e-6, categoryVisitsPerDay: 1e-6, queryCount: 10 };
  writeFileSync(scenario, JSON.stringify({ ...demoScenario(), ...quiet }));
  quayside = await startQuayside({ databaseUrl: await makeDatabase(), scenario, days: 2 });
  application = await startApplication({
    MOWING_DATABASE_URL: await makeDatabase(),
    MOWING_DATA_DIR: join(folder, 'files'),
    QUAYSIDE_URL: quayside.url,
  });
  await demoAccount(application.url);
});
afterAll(async () => {
  await application.stop();
  await quayside.stop();
  rmSync(folder, { recursive: true, force: true });
});

test('it is fetched all the same: structure is there, figures are none, nothing failed', async () => {
  const { jobId } = await callApi<{ jobId: string }>(application.url, 'POST', '/api/1/fetch', {});
  const job = await waitForJob(application.url, jobId);
  const { steps } = job.result as { steps: { name: string; rowsLoaded: number; rowsRejected: number }[] };
  const rows = Object.fromEntries(steps.map(({ name, rowsLoaded }) => [name, rowsLoaded]));
  expect(rows).toMatchObject({ 'targets-daily': 0, 'terms-daily': 0 });
  expect(rows.structure).toBeGreaterThan(300);
  expect(steps.every(({ rowsRejected }) => rowsRejected === 0)).toBe(true);
});
