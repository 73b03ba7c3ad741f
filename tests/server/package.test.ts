import { randomUUID } from 'node:crypto';
import { createWriteStream, readFileSync } from 'node:fs';
import { writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { dsvFormat } from 'd3';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import yazl from 'yazl';
import { callApi, filesAccount, waitForJob } from '../../scripts/lib/processes.ts';
import { openArchive } from '../../src/server/imports/files/archive.ts';
import { connect, type Database } from '../../src/server/db/connection.ts';
import { readAll } from '../support/reading.ts';
import { startStack, type Stack } from '../support/stack.ts';
import { shippedRecipes } from '../../src/core/kits/recipe.ts';
import { kitBody } from '../support/kits.ts';
import { openSheetOf } from '../support/sheets.ts';

let full: Stack;
let empty: Stack;
let [from, to]: Database[] = [];
beforeAll(async () => {
  [full, empty] = await Promise.all([startStack(true), startStack(false)]);
  [from, to] = [connect(full.databaseUrl, 2), connect(empty.databaseUrl, 2)];
});
afterAll(async () => {
  await Promise.all([from?.end(), to?.end()]);
  await Promise.all([full.stop(), empty.stop()]);
});

const upload = async (url: string, name: string, body: BodyInit) => {
  const response = await fetch(`${url}/api/1/files?name=${name}`, { method: 'POST', body });
  return (await response.json()) as {
    format: string;
    uploadId: string;
    detail?: string;
    resources: { name: string }[];
  };
};

const figures = `sum(impressions)::float8 as impressions, sum(clicks)::float8 as clicks, sum(spend)::float8 as spend,
  sum(orders)::float8 as orders, sum(units)::float8 as units, sum(sales)::float8 as sales, count(*)::int as rows`;
const path = `join target t using (account_id, target_id) join ad_group g using (account_id, ad_group_id)
  join campaign c using (account_id, campaign_id)`;

/** Everything that sums can be asked of, in words that do not depend on our own numbers. */
const questions: Record<string, string> = {
  targets: `select day, c.name as campaign, g.name as ad_group, t.kind, t.match_type, t.expression, ${figures}
    from target_day ${path} group by 1, 2, 3, 4, 5, 6`,
  terms: `select day, c.name as campaign, t.expression, t.match_type, m.text, ${figures}
    from term_day ${path} join term m using (account_id, term_id) group by 1, 2, 3, 4, 5`,
  placements: `select day, c.name as campaign, placement, ${figures}
    from placement_day join campaign c using (account_id, campaign_id) group by 1, 2, 3`,
  hours: `select day, hour, c.name as campaign, sum(minutes_in_budget)::int as minutes, ${figures}
    from campaign_hour join campaign c using (account_id, campaign_id) group by 1, 2, 3`,
  products: `select day, sku, sessions, total_orders, total_units, total_sales::float8 as total_sales from product_day`,
  ranks: `select day, sku, keyword, organic_rank, sponsored_rank, search_volume from rank_day`,
  sold: `select day, g.ext_id, sku, d.orders, d.units, d.sales::float8 as sales from sold_day d
    join ad_group g using (account_id, ad_group_id)`,
  summaries: `select s.kind, first_day, last_day, t.expression, ${figures} from summary s
    left join target t using (account_id, target_id) group by 1, 2, 3, 4`,
  stock: `select sku, item_code, title, brand, category, price, unit_cost, fee_rate, fee_fixed, shipping, refund_rate,
    rating, stock from product`,
  campaigns: `select ext_id, name, kind, daily_budget, strategy, start_date, end_date, status, budget_group from campaign`,
  groups: `select ext_id, name, daily_budget from budget_group`,
  modifiers: `select c.ext_id, placement, modifier from placement_modifier join campaign c using (account_id, campaign_id)`,
  adGroups: `select g.ext_id, c.ext_id as campaign, g.name, default_bid, g.status
    from ad_group g join campaign c using (account_id, campaign_id)`,
  ads: `select g.ext_id, sku, a.status from product_ad a join ad_group g using (account_id, ad_group_id)`,
  bids: `select t.ext_id, g.ext_id as ad_group, t.kind, match_type, expression, bid, t.status
    from target t join ad_group g using (account_id, ad_group_id)`,
  negatives: `select n.ext_id, c.ext_id as campaign, g.ext_id as ad_group, match_type, expression, n.status
    from negative n join campaign c using (account_id, campaign_id) left join ad_group g using (account_id, ad_group_id)`,
  goals: `select o.scope, coalesce(c.ext_id, o.key) as key, target_acos, bid_floor, bid_ceiling
    from goal o left join campaign c on o.scope = 'campaign' and c.campaign_id::text = o.key`,
  lines: `select s.state as sheet, s.sent_on, l.action, l.entity, l.field, l.old_value, l.new_value, l.match_type,
    l.expression, l.reason, l.proposed_by, l.state, l.message
    from line l join sheet s using (account_id, sheet_id) where l.state <> 'removed'`,
};

const answers = async (sql: Database, question: string): Promise<string[]> =>
  (await sql.unsafe(question)).map((row) => JSON.stringify(row)).sort();

/** All rows of every table that carries an account, without its number; jobs, uploads and what facts make stay apart. */
const notOfState = ['account', 'connection', 'job', 'upload', 'answered_call', 'day_block'];
async function allOf(sql: Database, accountId: number): Promise<Record<string, string[]>> {
  const tables = await sql<{ name: string }[]>`
    select c.table_name as name from information_schema.columns c join information_schema.tables t using (table_name)
    where c.column_name = 'account_id' and c.table_schema = 'public' and t.table_type = 'BASE TABLE'
      and not exists (select 1 from pg_inherits i where i.inhrelid = to_regclass(c.table_name))
      and not c.table_name = any(${notOfState}) order by 1`;
  const all: Record<string, string[]> = {};
  for (const { name } of tables) {
    const rows = await sql<{ row: string }[]>`
      select (to_jsonb(x) - 'account_id' - 'written')::text as row from ${sql(name)} x where account_id = ${accountId}`;
    all[name] = rows.map(({ row }) => row).sort();
  }
  const about = await sql<{ row: string }[]>`
    select (to_jsonb(x) - 'account_id' - 'name' - 'created_at' - 'data_version')::text as row
    from account x where account_id = ${accountId}`;
  all.account = about.map(({ row }) => row);
  return all;
}

const loadPackage = async (url: string, accountId: number, zip: Blob) => {
  const sent = await fetch(`${url}/api/${accountId}/files?name=account.zip`, { method: 'POST', body: zip });
  const preview = (await sent.json()) as { uploadId: string; resources: unknown[] };
  expect(preview.resources).toHaveLength(15);
  const { jobId } = await callApi<{ jobId: string }>(url, 'POST', `/api/${accountId}/imports/package`, {
    uploadId: preview.uploadId,
  });
  return waitForJob(url, jobId, undefined, accountId);
};
const packageOf = async (url: string, accountId = 1) =>
  (await fetch(`${url}/api/${accountId}/package`)).blob();

async function fileOf(blob: Blob): Promise<string> {
  const path = join(tmpdir(), `package-${crypto.randomUUID()}.zip`);
  await writeFile(path, Buffer.from(await blob.arrayBuffer()));
  return path;
}

/** Something of every kind that the demo has not by itself. */
async function liveALittle(url: string): Promise<void> {
  const call = <T>(method: string, at: string, body?: unknown) =>
    callApi<T>(url, method, `/api/1/${at}`, body);
  const done = async (at: string, body: unknown) =>
    waitForJob(url, (await call<{ jobId: string }>('POST', at, body)).jobId);
  const window = { from: '2026-10-18', to: '2026-11-16' };
  const { findings } = await call<{ findings: { key: string; proposal: { kind: string } }[] }>(
    'GET',
    'round',
  );
  const keys = (kind: string) =>
    findings.filter(({ proposal }) => proposal.kind === kind).map(({ key }) => key);
  await call('POST', 'round/accept', {
    ...window,
    keys: [...keys('negative').slice(0, 8), ...keys('harvest').slice(0, 4)],
  });
  await done('sheet/send', {});
  await call('POST', 'round/decide', { keys: keys('harvest').slice(6, 9), decision: 'later', days: 9 });
  await done('advance', { days: 7 });
  await call('POST', 'explore/edit', {
    level: 'targets',
    where: { column: 'clicks', is: 'at_least', value: 60 },
    edit: { field: 'bid', how: 'percent', value: -0.1 },
  });
  const [campaign] = await from!`select campaign_id::text as key from campaign order by 1 limit 1`;
  const goal = {
    scope: 'campaign',
    key: campaign!.key as string,
    targetAcos: 0.22,
    bidFloor: 100_000,
    bidCeiling: null,
  };
  await call('PUT', 'goals', goal);
  await call('PUT', 'terms/words', { words: ['lid'], relevant: true });
  await call('POST', 'terms/lists', {
    name: 'never',
    entries: [{ matchType: 'negative_phrase', expression: 'free' }],
    campaignIds: [campaign!.key],
  });
  const body = { level: 'terms', columns: ['name', 'clicks'], where: null, sort: 'clicks', descending: true };
  await call('POST', 'explore/slices', { name: 'mine', body });
  await call('PUT', 'kits/recipes', { ...shippedRecipes[0]!, name: 'Mine' });
  const kit = { kitId: randomUUID(), body: kitBody() };
  await call('POST', 'kits', kit);
  await call('POST', `kits/${kit.kitId}/sheet`, { version: 1 });
  const { lanes } = await call<{ lanes: { lane: object }[] }>('GET', 'lanes');
  expect(lanes.length).toBeGreaterThan(0);
  for (const text of [
    'date,sku,keyword,organic_rank,sponsored_rank,search_volume\n2026-11-03,AL-4,airlock lids,7,,900\n',
    'start_date,end_date,campaign,ad_group,target,match_type,impressions,clicks,spend,orders,sales\n2026-06-01,2026-06-30,=Old,Old,lid set,exact,900,60,30.25,3,56.70\n',
  ]) {
    const { uploadId } = await upload(url, 'more.csv', text);
    await done('imports', { uploadId, kind: text.startsWith('date') ? 'ranks-daily' : 'targets-daily' });
  }
}

describe('a data package', () => {
  test('of a whole account makes an empty one the same, in every table', async () => {
    await liveALittle(full.url);
    // Its score comes weeks later: as if they had passed.
    await from!`
      insert into forecast select account_id, line_id, 'bid', '2026-11-22', '2026-11-28', 1, '{"spend": 1}', '{"spend": 2}',
        '{"spend": 3}', true, '2026-11-28' from line limit 3`;
    const zip = await packageOf(full.url);
    const wanted = await allOf(from!, 1);
    for (const name of [
      'forecast',
      'theta',
      'decision',
      'slice',
      'negative_list_entry',
      'batch',
      'summary',
      'rank_day',
    ])
      expect(wanted[name]!.length, name).toBeGreaterThan(0);
    await loadPackage(empty.url, 1, zip);
    const got = await allOf(to!, 1);
    for (const [name, rows] of Object.entries(wanted)) expect(got[name], name).toEqual(rows);
    for (const [name, question] of Object.entries(questions))
      expect(await answers(to!, question), name).toEqual(await answers(from!, question));
    const ask = (url: string) =>
      callApi<{ totals: unknown }>(url, 'POST', '/api/1/explore/table', {
        level: 'terms',
        columns: ['clicks', 'spend', 'orders', 'sales', 'acos', 'verdict'],
        window: { from: '2026-09-20', to: '2026-11-10' },
      });
    expect((await ask(empty.url)).totals).toEqual((await ask(full.url)).totals);
  }, 300_000);

  test('beside the account itself, with the same numbers of everything, both live apart', async () => {
    const copy = await filesAccount(full.url, 'The copy');
    await loadPackage(full.url, copy, await packageOf(full.url));
    const original = await allOf(from!, 1);
    expect(await allOf(from!, copy)).toEqual(original);
    const [theirs, ours] = [await readAll(full.url, 1), await readAll(full.url, copy)];
    expect(Object.keys(theirs).length).toBeGreaterThan(40);
    for (const [name, answer] of Object.entries(theirs)) expect(ours[name], name).toEqual(answer);

    // What is done in the copy leaves the original alone.
    const open = await openSheetOf<{ lines: { line_id: number }[] }>(full.url, copy);
    await callApi(full.url, 'POST', `/api/${copy}/sheet/lines/${open.lines[0]!.line_id}`, {
      newValue: '910000',
    });
    await callApi(full.url, 'POST', `/api/${copy}/sheet/carried`, {
      lineIds: open.lines.slice(0, 2).map((line) => line.line_id),
    });
    await callApi(full.url, 'POST', `/api/${copy}/ledger/1/revert`, {});
    await callApi(full.url, 'PUT', `/api/${copy}/lanes`, { lanes: [] });
    const text =
      'date,campaign,ad_group,target,match_type,term,impressions,clicks,spend,orders,sales\n2026-11-05,C,G,t,broad,fine,50,2,0.90,1,18.90\n';
    const sent = await fetch(`${full.url}/api/${copy}/files?name=t.csv`, { method: 'POST', body: text });
    const { uploadId } = (await sent.json()) as { uploadId: string };
    const { jobId } = await callApi<{ jobId: string }>(full.url, 'POST', `/api/${copy}/imports`, {
      uploadId,
      kind: 'terms-daily',
    });
    await waitForJob(full.url, jobId, undefined, copy);
    expect(await allOf(from!, 1)).toEqual(original);
    const [day] =
      await from!`select sum(clicks)::int as clicks from term_day where account_id = ${copy} and day = '2026-11-05'`;
    expect(day!.clicks).toBe(2);
  }, 300_000);

  test('loaded into the account it came from adds nothing', async () => {
    const before = await allOf(to!, 1);
    const zip = await packageOf(empty.url);
    await loadPackage(empty.url, 1, zip);
    const after = await allOf(to!, 1);
    for (const name of [
      'line',
      'sheet',
      'batch',
      'target_day',
      'term_day',
      'lane',
      'negative_list',
      'slice',
      'decision',
      'product_day',
    ])
      expect(after[name], name).toEqual(before[name]);
  });

  test('loaded into another account that holds something, twice, tells the ledger once', async () => {
    const other = await filesAccount(empty.url, 'Another');
    const row =
      'date,campaign,ad_group,target,match_type,term,impressions,clicks,spend,orders,sales\n2026-05-05,C,G,t,broad,fine,50,2,0.90,1,18.90\n';
    const sent = await fetch(`${empty.url}/api/${other}/files?name=t.csv`, { method: 'POST', body: row });
    const { uploadId } = (await sent.json()) as { uploadId: string };
    const { jobId } = await callApi<{ jobId: string }>(empty.url, 'POST', `/api/${other}/imports`, {
      uploadId,
      kind: 'terms-daily',
    });
    await waitForJob(empty.url, jobId, undefined, other);
    const zip = await packageOf(full.url);
    const lines = () => to!`
      select s.state as sheet, l.action, l.entity, l.field, l.new_value, l.expression, l.state, count(*)::int as n
      from line l join sheet s using (account_id, sheet_id) where account_id = ${other} group by 1, 2, 3, 4, 5, 6, 7 order by 1, 2, 3, 4, 5, 6, 7`;
    await loadPackage(empty.url, other, zip);
    const once = await lines();
    expect(once.length).toBeGreaterThan(10);
    await loadPackage(empty.url, other, zip);
    expect(await lines()).toEqual([...once]);
    const facts = await to!`select sum(clicks)::int as clicks from term_day where account_id = ${other}`;
    const [wanted] = await from!`select sum(clicks)::int + 2 as clicks from term_day where account_id = 1`;
    expect(facts).toEqual([wanted]);
  });

  test('whose part was changed on its way is refused, and nothing of it is loaded', async () => {
    const { entries, close, open } = await openArchive(await fileOf(await packageOf(full.url)));
    const zip = new yazl.ZipFile();
    for (const [name, entry] of entries) {
      const parts: Buffer[] = [];
      for await (const part of await open(entry)) parts.push(part as Buffer);
      const whole = Buffer.concat(parts);
      zip.addBuffer(
        name === 'goals.csv' ? Buffer.from(whole.toString().replace('0.22', '0.99')) : whole,
        name,
      );
    }
    close();
    zip.end();
    const path = join(tmpdir(), `changed-${crypto.randomUUID()}.zip`);
    await pipeline(zip.outputStream, createWriteStream(path));
    const other = await filesAccount(empty.url, 'Changed');
    await expect(loadPackage(empty.url, other, new Blob([readFileSync(path)]))).rejects.toThrow(
      'goals.csv is not what was exported',
    );
    expect(await to!`select 1 from campaign where account_id = ${other}`).toHaveLength(0);
  });

  test('its tables hold nothing that a spreadsheet would take for a formula', async () => {
    const { entries, close, open } = await openArchive(await fileOf(await packageOf(full.url)));
    let escaped = 0;
    const harmful: string[] = [];
    for (const [name, entry] of entries) {
      if (!name.endsWith('.csv')) continue;
      const parts: Buffer[] = [];
      for await (const part of await open(entry)) parts.push(part as Buffer);
      for (const cells of dsvFormat(',').parseRows(Buffer.concat(parts).toString()))
        for (const cell of cells) {
          if (cell.startsWith("'=")) escaped++;
          else if (/^[=+@-]/.test(cell) && !/^-?[\d.]+(e-?\d+)?$/.test(cell)) harmful.push(cell);
        }
    }
    close();
    expect(harmful).toEqual([]);
    expect(escaped).toBeGreaterThan(0);
  });

  test('whoever leaves in the middle of it leaves nothing behind', async () => {
    for (let i = 0; i < 12; i++) {
      const leaving = new AbortController();
      const answer = await fetch(`${full.url}/api/1/package`, { signal: leaving.signal });
      await answer.body!.getReader().read();
      leaving.abort();
    }
    const held = () => from!`
      select 1 from pg_stat_activity where datname = current_database() and pid <> pg_backend_pid()
        and (state like 'idle in%' or (state = 'active' and query ilike 'copy%'))`;
    await expect.poll(async () => (await held()).length, { timeout: 60_000 }).toBe(0);
    expect((await fetch(`${full.url}/api/1/season`)).status).toBe(200);
  });

  test('a zip that is none is told', async () => {
    const answer = await upload(empty.url, 'x.zip', 'PK\u0003\u0004 nothing of the kind');
    expect(answer.detail).toContain('is it whole?');
  });
});
