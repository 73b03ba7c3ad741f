import { mkdirSync, mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import postgres from 'postgres';
import { afterAll, expect, test } from 'vitest';
import { freePort, refuseIfUsed, startCluster, type Cluster } from '../../scripts/lib/cluster.ts';
import {
  callApi,
  filesAccount,
  root,
  spawnApplication,
  waitForJob,
  type Running,
} from '../../scripts/lib/processes.ts';

/** A database of its own that comes late, goes, and comes back, below a server that stays up. */

const home = mkdtempSync(join(tmpdir(), 'mowing-away-'));
const files = join(root, '.data/test-files/away');
const stops: (() => Promise<void>)[] = [];
afterAll(async () => {
  for (const stop of stops.reverse()) await stop();
});

async function begin(port: number): Promise<Cluster> {
  const cluster = await startCluster(home, port);
  stops.push(() => cluster.stop());
  return cluster;
}

const healthOf = async (app: Running) => {
  const answer = await fetch(`${app.url}/api/health`);
  return { status: answer.status, ...((await answer.json()) as { ok: boolean; database: string }) };
};

async function until(app: Running, ok: boolean): Promise<void> {
  for (;;) {
    const health = await healthOf(app).catch(() => null);
    if (health?.ok === ok) return;
  }
}

test('the server waits for its database, says which part is missing, and works when it is back', async () => {
  mkdirSync(files, { recursive: true });
  const port = await freePort();
  const databaseUrl = `postgres://mowing@127.0.0.1:${port}/mowing`;
  const app = await spawnApplication({
    MOWING_DATABASE_URL: databaseUrl,
    MOWING_DATA_DIR: files,
    QUAYSIDE_URL: '',
  });
  stops.push(() => app.stop());
  await expect
    .poll(() => healthOf(app).catch(() => null), { timeout: 20_000 })
    .toMatchObject({
      status: 503,
      database: 'out of reach',
      marketplace: 'none',
    });
  const refused = await fetch(`${app.url}/api/1/season`);
  expect(refused.status).toBe(503);
  expect(await refused.json()).toMatchObject({ code: 'database_unreachable' });
  expect(refused.headers.get('retry-after')).toBe('2');

  let cluster = await begin(port);
  expect(() => refuseIfUsed(home)).not.toThrow();
  await cluster.database('mowing');
  await until(app, true);
  await filesAccount(app.url);

  const header = 'date,campaign,ad_group,target,match_type,term,impressions,clicks,spend,orders,sales\n';
  const body =
    header +
    Array.from(
      { length: 120_000 },
      (_, i) => `2026-10-0${1 + (i % 9)},C${i % 20},G,t${i % 500},broad,term ${i},50,2,0.90,1,18.90\n`,
    ).join('');
  const sent = await fetch(`${app.url}/api/1/files?name=terms.csv`, { method: 'POST', body });
  const { uploadId, kind } = (await sent.json()) as { uploadId: string; kind: string };
  const { jobId } = await callApi<{ jobId: string }>(app.url, 'POST', '/api/1/imports', { uploadId, kind });
  for (;;) {
    const job = await callApi<{ progress: { bytes?: number } }>(app.url, 'GET', `/api/1/jobs/${jobId}`);
    if ((job.progress.bytes ?? 0) > 0) break;
  }
  // Away in the middle of a load, and back: the job that was begun comes to its end, once.
  await cluster.stop();
  await until(app, false);
  cluster = await begin(port);
  await until(app, true);
  const job = await waitForJob(app.url, jobId);
  expect(job.result).toMatchObject({ rowsLoaded: 120_000 });
  const sql = postgres(databaseUrl, { max: 1 });
  expect(await sql`select count(*)::int as imports from import`).toEqual([{ imports: 1 }]);
  expect(await sql`select sum(clicks)::int as clicks from term_day`).toEqual([{ clicks: 240_000 }]);
  await sql.end();
});

test('while all connections of its database are taken, a load waits for one', async () => {
  const port = await freePort();
  const cluster = await startCluster(mkdtempSync(join(tmpdir(), 'mowing-full-')), port);
  stops.push(() => cluster.stop());
  const databaseUrl = await cluster.database('mowing');
  const app = await spawnApplication({
    MOWING_DATABASE_URL: databaseUrl,
    MOWING_DATA_DIR: files,
    QUAYSIDE_URL: '',
  });
  stops.push(() => app.stop());
  await until(app, true);
  await filesAccount(app.url);
  const body =
    'date,campaign,ad_group,target,match_type,term,impressions,clicks,spend,orders,sales\n' +
    '2026-10-01,C,G,jar,broad,my jar,50,2,0.90,1,18.90\n';
  const sent = await fetch(`${app.url}/api/1/files?name=terms.csv`, { method: 'POST', body });
  const { uploadId, kind } = (await sent.json()) as { uploadId: string; kind: string };

  const taken: postgres.Sql[] = [];
  for (;;) {
    const one = postgres(databaseUrl, { max: 1 });
    taken.push(one);
    const code = await one`select 1`.then(
      () => null,
      (error: { code?: string }) => error.code,
    );
    if (code === null) continue;
    expect(code).toBe('53300');
    break;
  }
  let jobId = '';
  while (jobId === '') {
    const answer = await fetch(`${app.url}/api/1/imports`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ uploadId, kind }),
    });
    const said = (await answer.json()) as { jobId?: string; code?: string };
    if (!answer.ok) expect([answer.status, said.code]).toEqual([503, 'database_unreachable']);
    jobId = said.jobId ?? '';
  }
  const jobOf = () =>
    fetch(`${app.url}/api/1/jobs/${jobId}`).then(async (answer) => ({
      status: answer.status,
      ...((await answer.json()) as { state?: string }),
    }));
  // Begun, and put off: neither done nor failed.
  for (let look = 0; look < 10; look++) {
    const job = await jobOf();
    if (job.status === 200) expect(['waiting', 'running']).toContain(job.state);
  }
  await Promise.all(taken.map((one) => one.end()));
  const job = await waitForJob(app.url, jobId);
  expect(job.result).toMatchObject({ rowsLoaded: 1, rowsRejected: 0 });
});
