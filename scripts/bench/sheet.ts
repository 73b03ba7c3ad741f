import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import postgres from 'postgres';
import { demoScenario } from '../../demo/scenario.ts';
import type { LinePage, OpenSheet } from '../../src/answers/changes.ts';
import { callApi, waitForJob, type Running } from '../lib/processes.ts';
import type { Measure } from './measure.ts';

const campaigns = 4000;
const perCampaign = 50;
const lines = 50_000;

/** The demo's world with 200,000 keywords in 4,000 campaigns; hardly anybody searches in it. */
export function largeScenario(home: string): string {
  const demo = demoScenario();
  const firstDay = demo.account.firstDay;
  const scenario = {
    ...demo,
    searchesPerDay: 50,
    pageVisitsPerDay: 10,
    categoryVisitsPerDay: 10,
    queryCount: 500,
    budgetGroups: [],
    campaigns: Array.from({ length: campaigns }, (_, c) => ({
      id: `c${c}`,
      name: `Campaign ${c} ${c % 2 === 0 ? 'exact' : 'research'}`,
      kind: 'manual',
      dailyBudget: 5,
      strategy: 'fixed',
      startDate: firstDay,
      status: 'enabled',
      modifiers: {},
      adGroups: [
        {
          id: `g${c}`,
          name: `Group ${c}`,
          defaultBid: 0.4,
          skus: [demo.products[c % demo.products.length]!.sku],
          targets: Array.from({ length: perCampaign }, (_, t) => ({
            kind: 'keyword',
            matchType: c % 2 === 0 ? 'exact' : 'broad',
            expression: `keyword ${c * perCampaign + t}`,
            bid: (30 + (t % 30)) / 100,
          })),
          negatives: [],
        },
      ],
    })),
  };
  const file = join(home, 'large-scenario.json');
  writeFileSync(file, JSON.stringify(scenario));
  return file;
}

/** Fetches the large account and gives every target a day on which it was clicked often. */
async function fillAccount(app: Running & { databaseUrl: string }): Promise<void> {
  const { jobId } = await callApi<{ jobId: string }>(app.url, 'POST', '/api/1/fetch', {});
  await waitForJob(app.url, jobId);
  const sql = postgres(app.databaseUrl, { max: 1, onnotice: () => undefined });
  const [account] = await sql<{ day: string }[]>`select (today - 20)::text as day from account`;
  await sql`select ensure_month('target_day', 1, ${account!.day}::date)`;
  await sql`delete from target_day`;
  await sql`
    insert into target_day
    select 1, ${account!.day}::date, t.target_id, 800, c, c * 450000, o, o, o * 25000000 from target t
    cross join lateral (select (random() * 40 + 0 * t.target_id)::int as c) a
    cross join lateral (select (random() * random() * c * 0.25)::int as o) b where t.account_id = 1`;
  await sql`
    insert into report_day select 1, 'targets-daily', ${account!.day}::date, ${account!.day}::date, now(), 1
    on conflict do nothing`;
  await sql`update account set data_version = data_version + 1`;
  await sql`analyze`;
  await sql.end();
}

const seconds = async (act: () => Promise<unknown>): Promise<number> => {
  const began = performance.now();
  await act();
  return (performance.now() - began) / 1000;
};

const middle = (times: number[]): number => times.sort((a, b) => a - b)[Math.floor(times.length / 2)]!;

/** A sheet of 50,000 lines against 200,000 targets: accepted, looked at, changed and sent. */
export async function* largeSheet(
  app: Running & { databaseUrl: string },
): AsyncGenerator<Measure, void, undefined> {
  await fillAccount(app);
  const bare = await bareInsert(app.databaseUrl);
  const edit = {
    window: { from: '2026-06-01', to: '2026-11-30' },
    level: 'targets',
    columns: [],
    // A quarter of them: figures are drawn evenly from 0 to 40 clicks.
    where: { all: [{ column: 'clicks', is: 'at_least', value: 30 }] },
    edit: { field: 'bid', how: 'percent', value: -0.1 },
  };
  await callApi(app.url, 'POST', '/api/1/explore/preview', edit);
  let made = { lines: 0 };
  const accepted = await seconds(async () => {
    made = await callApi(app.url, 'POST', '/api/1/explore/edit', edit);
  });
  yield {
    name: 'sheet-accept-50k',
    value: accepted,
    unit: `s (${made.lines} lines by one edit)`,
    reference: `inserting as many rows from a select (${bare.toFixed(2)} s)`,
    ratio: accepted / bare,
    aim: 'under 5 s',
  };
  const summary = () => callApi<OpenSheet>(app.url, 'GET', '/api/1/sheet');
  const page = (from = 0) => callApi<LinePage>(app.url, 'GET', `/api/1/sheet/lines?from=${from}&count=200`);
  const begun = await seconds(summary);
  const firstPage = await seconds(page);
  yield {
    name: 'sheet-first-reading',
    value: begun * 1000,
    unit: 'ms',
    reference: 'none',
    ratio: null,
    aim: 'known once, then kept',
  };
  yield {
    name: 'sheet-first-page',
    value: firstPage * 1000,
    unit: 'ms',
    reference: '200 ms',
    ratio: firstPage / 0.2,
    aim: 'under 200 ms',
  };
  const times: Record<'edit' | 'summary' | 'page', number[]> = { edit: [], summary: [], page: [] };
  for (let round = 0; round < 15; round++) {
    const { entries } = await page(round * 3000);
    const line = entries.flatMap((entry) => ('line' in entry ? [entry.line] : []))[0]!;
    const newValue = String(Number(line.new_value) + 10_000);
    times.edit.push(
      await seconds(() => callApi(app.url, 'POST', `/api/1/sheet/lines/${line.line_id}`, { newValue })),
    );
    times.summary.push(await seconds(summary));
    times.page.push(await seconds(page));
  }
  for (const [name, aim] of [
    ['edit', 50],
    ['summary', 50],
    ['page', 200],
  ] as const) {
    const value = middle(times[name]) * 1000;
    yield {
      name: `sheet-${name}-after-a-change`,
      value,
      unit: 'ms',
      reference: `${aim} ms`,
      ratio: value / aim,
      aim: `under ${aim} ms`,
    };
  }
  const { lines: count } = await summary();
  const sent = await seconds(async () => {
    const { jobId } = await callApi<{ jobId: string }>(app.url, 'POST', '/api/1/sheet/send', {
      lines: count,
      clicksMeant: true,
    });
    const job = await waitForJob(app.url, jobId);
    const { applied } = job.result as { applied: number };
    if (applied !== count) throw new Error(`${applied} of ${count} lines applied`);
  });
  yield {
    name: 'sheet-send-50k',
    value: sent,
    unit: 's',
    reference: '180 s',
    ratio: sent / 180,
    aim: 'under 180 s',
  };
  const { sheets } = await callApi<{ sheets: { sheet_id: number; state: string }[] }>(
    app.url,
    'GET',
    '/api/1/ledger',
  );
  const ledger = `/api/1/ledger/${sheets.find(({ state }) => state === 'sent')!.sheet_id}`;
  const opened = await seconds(async () => {
    await callApi(app.url, 'GET', ledger);
    await callApi(app.url, 'GET', `${ledger}/lines?count=200`);
  });
  yield {
    name: 'ledger-open-50k',
    value: opened * 1000,
    unit: 'ms',
    reference: 'none',
    ratio: null,
    aim: 'seconds at most',
  };
}

/** Seconds in which Postgres itself writes as many lines into a table of its own. */
async function bareInsert(databaseUrl: string): Promise<number> {
  const sql = postgres(databaseUrl, { max: 1, onnotice: () => undefined });
  await sql`create temporary table bare (like line including all)`;
  const took = await seconds(
    () => sql`
      insert into bare (account_id, sheet_id, group_key, action, entity, object_id, campaign_id, field, old_value,
        new_value, reason, proposed_by, effect, conflict_key, created_at)
      select 1, 1, gen_random_uuid()::text, 'update', 'target', n::text, '1', 'bid', '300000', '310000', repeat('why ', 40),
        'Mowing', '{"clicks": 1.5, "spend": 500000, "orders": 0.1, "sales": 2500000}'::jsonb, 'target:' || n, now()
      from generate_series(1, ${lines}) n`,
  );
  await sql.end();
  return took;
}
