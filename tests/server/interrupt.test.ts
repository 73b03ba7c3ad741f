import { createWriteStream, readFileSync } from 'node:fs';
import { mkdtemp } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import postgres from 'postgres';
import { expect, test } from 'vitest';
import { callApi, waitForJob } from '../../scripts/lib/processes.ts';
import { startStack } from '../support/stack.ts';

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

test('a server killed in the middle of a load leaves nothing half-loaded, and goes on after its start', async () => {
  const path = await writeTerms();
  const stack = await startStack(false);
  const sql = postgres(stack.databaseUrl, { max: 1 });
  try {
    const sent = await fetch(`${stack.url}/api/files?name=terms.csv`, {
      method: 'POST',
      body: readFileSync(path),
    });
    const preview = (await sent.json()) as { uploadId: string; kind: string };
    expect(preview.kind).toBe('terms-daily');
    const { jobId } = await callApi<{ jobId: string }>(stack.url, 'POST', '/api/imports', {
      uploadId: preview.uploadId,
      kind: preview.kind,
    });
    for (;;) {
      const job = await callApi<{ state: string; progress: { bytes?: number } }>(
        stack.url,
        'GET',
        `/api/jobs/${jobId}`,
      );
      expect(job.state).not.toBe('done');
      if ((job.progress.bytes ?? 0) > 0) break;
    }
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
  } finally {
    await sql.end();
    await stack.stop();
  }
});
