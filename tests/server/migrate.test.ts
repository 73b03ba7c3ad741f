import { copyFileSync, mkdtempSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from 'vitest';
import { config } from '../../src/server/config.ts';
import { connect } from '../../src/server/db/connection.ts';
import { migrate } from '../../src/server/db/migrate.ts';
import { spawnApplication } from '../../scripts/lib/processes.ts';
import { makeDatabase } from '../support/stack.ts';

test('a database of the first version goes on to the newest with what it holds, once', async () => {
  const folder = mkdtempSync(join(tmpdir(), 'mowing-'));
  copyFileSync(join(config.migrations, '001.do.first.sql'), join(folder, '001.do.first.sql'));
  const url = await makeDatabase();
  await migrate(url, folder);
  const sql = connect(url, 1);
  try {
    await sql`select ensure_month('term_day', '2026-11-01')`;
    await sql`insert into term_day values (1, '2026-11-05', 1, 1, 100, 3, 1500000, 1, 1, 18900000)`;
    // A line that was stranded on a sheet that had left, and one that went with it.
    await sql`insert into sheet (account_id, state, created_at) values (1, 'sent', now())`;
    for (const state of ['open', 'applied'])
      await sql`
        insert into line (account_id, sheet_id, group_key, action, entity, campaign_id, field, reason, proposed_by,
          conflict_key, state, created_at)
        select 1, sheet_id, 'g', 'update', 'target', '1', 'bid', '', 'Mowing', 'k', ${state}, now() from sheet`;
    // Two servers that start at once: the lock lets one migrate, the other finds it done.
    await Promise.all([migrate(url), migrate(url)]);
    const indexes = await sql<{ method: string }[]>`
      select am.amname as method from pg_class c join pg_am am on am.oid = c.relam
      where c.relname in ('term_day_day', 'target_day_day')`;
    expect(indexes.map(({ method }) => method)).toEqual(['brin', 'brin']);
    expect(
      await sql`select s.state as sheet, l.state as line from line l join sheet s using (account_id, sheet_id)
      order by l.state`,
    ).toEqual([
      { sheet: 'sent', line: 'applied' },
      { sheet: 'open', line: 'open' },
    ]);
    expect(await sql`select clicks from term_day`).toMatchObject([{ clicks: 3 }]);
  } finally {
    await sql.end();
  }
});

test('a database of another version is told as that, by health and by every call, and is left as it is', async () => {
  const url = await makeDatabase();
  await migrate(url);
  const sql = connect(url, 1);
  await sql`update migration set md5 = 'another' where version = 7`;
  const application = await spawnApplication({ MOWING_DATABASE_URL: url });
  try {
    const ask = async (path: string) =>
      fetch(`${application.url}${path}`).catch(() => null as Response | null);
    await expect.poll(async () => (await ask('/api/health'))?.status, { timeout: 20_000 }).toBe(503);
    await expect
      .poll(async () => (await (await ask('/api/health'))!.json()) as object)
      .toMatchObject({ ok: false, database: 'up', problem: expect.stringContaining('[7]') as string });
    const answer = (await ask('/api/accounts'))!;
    expect(answer.status).toBe(503);
    expect(await answer.json()).toMatchObject({
      code: 'cannot_start',
      detail: expect.stringContaining('another version') as string,
    });
    expect(await sql`select 1 from migration where md5 = 'another'`).toHaveLength(1);
  } finally {
    await application.stop();
    await sql.end();
  }
});
