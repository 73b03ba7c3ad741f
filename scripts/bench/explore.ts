import { chmodSync, mkdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { DuckDBInstance } from '@duckdb/node-api';
import { chromium, type Page } from '@playwright/test';
import postgres from 'postgres';
import { copyToFile } from './copy.ts';
import { bigObjects } from './big-account.ts';
import { loadFile } from './load-file.ts';
import { memoryOf, type Measure } from './measure.ts';
import { scrollTable } from './scroll.ts';
import { chromiumFlags, chromiumPath } from '../lib/packages.ts';
import { callApi, waitForJob, type Running } from '../lib/processes.ts';

const window = { from: '2026-09-18', to: '2026-11-16' };

/** Fills an account with millions of term-days over 90 days; most terms are rare, some come every day. */
export async function exploreAccount(databaseUrl: string, million: number): Promise<void> {
  const sql = postgres(databaseUrl, { max: 1, onnotice: () => undefined });
  await bigObjects(sql);
  for (const fact of ['target_day', 'term_day']) {
    for (const month of ['2026-08-01', '2026-09-01', '2026-10-01', '2026-11-01'])
      await sql`select ensure_month(${fact}, 1, ${month}::date)`;
  }
  // A term keeps to its target; a power makes few terms frequent. Each chance names its row, or it is drawn once for all.
  await sql`
    insert into term_day
    select 1, '2026-08-19'::date + (i % 90)::int, 1 + (t * 7919) % 200000, t, 40 + c * 9, c, c * 430000, o, o, o * 24000000
    from generate_series(0, ${million * 1_000_000 - 1}) i
    cross join lateral (select 1 + (power(random() + 0 * i, 2.2) * 999999)::bigint as t, (random() * 3 + 0 * i)::int as c) a
    cross join lateral (select case when random() + 0 * i < c * 0.06 then 1 else 0 end as o) b`;
  // Terms drawn twice for one day make one row, as an importer would leave it.
  await sql`create table folded as select account_id, day, target_id, term_id, sum(impressions)::int as impressions,
    sum(clicks)::int as clicks, sum(spend)::bigint as spend, sum(orders)::int as orders, sum(units)::int as units,
    sum(sales)::bigint as sales from term_day group by 1, 2, 3, 4`;
  await sql`truncate term_day`;
  await sql`insert into term_day select * from folded order by day`;
  await sql`drop table folded`;
  await sql`
    insert into target_day
    select 1, day, target_id, sum(impressions), sum(clicks), sum(spend), sum(orders), sum(units), sum(sales)
    from term_day group by day, target_id order by day`;
  for (const kind of ['targets-daily', 'terms-daily']) {
    await sql`insert into report_day select 1, ${kind}, d::date, d::date, now(), 1
      from generate_series('2026-08-19'::date, '2026-11-16'::date, '1 day') d`;
  }
  await sql`analyze`;
  await sql.end();
}

const p95 = (times: number[]): number => times.sort((a, b) => a - b)[Math.floor(times.length * 0.95)]!;
const rounds = 20;

async function timed(run: (round: number) => Promise<unknown>): Promise<number> {
  const times: number[] = [];
  for (let round = 0; round < rounds; round++) {
    const start = performance.now();
    await run(round);
    times.push(performance.now() - start);
  }
  return p95(times);
}

/** The same aggregation over the same raw rows in DuckDB with two threads: a page of rows and the totals. */
async function duckDb(databaseUrl: string, home: string): Promise<Record<'targets' | 'terms', number>> {
  const folder = join(home, 'duck');
  mkdirSync(folder, { recursive: true });
  chmodSync(folder, 0o777);
  const file = join(folder, 'term_day.csv');
  await copyToFile(
    databaseUrl,
    'select day, target_id, term_id, impressions, clicks, spend, orders, units, sales from term_day',
    file,
  );
  const instance = await DuckDBInstance.create(':memory:', { threads: '2' });
  const duck = await instance.connect();
  await duck.run(`create table term_day as select * from read_csv('${file}', header = false, columns = {
    'day': 'DATE', 'target_id': 'INTEGER', 'term_id': 'INTEGER', 'impressions': 'INTEGER', 'clicks': 'INTEGER',
    'spend': 'BIGINT', 'orders': 'INTEGER', 'units': 'INTEGER', 'sales': 'BIGINT'})`);
  rmSync(file);
  const of = (keys: string) =>
    timed(async (round) => {
      const sums = `select ${keys}, sum(impressions) i, sum(clicks) c, sum(spend) s, sum(orders) o, sum(units) u, sum(sales) r
        from term_day where day between '${window.from}' and '${window.to}' group by ${keys}
        having sum(clicks) >= ${2 + round} and sum(spend) > 0.3 * sum(sales)`;
      await duck.runAndReadAll(`${sums} order by s desc limit 200`);
      await duck.runAndReadAll(`select sum(i), sum(c), sum(s), sum(o), sum(u), sum(r) from (${sums})`);
    });
  const times = { targets: await of('target_id'), terms: await of('target_id, term_id') };
  duck.closeSync();
  instance.closeSync();
  return times;
}

/**
 * The last day comes through the importer, as every day does: what the account learns then reads all of them, and lays
 * them out for whoever asks next.
 */
async function lastDay(app: Running, million: number): Promise<Measure> {
  const head =
    'date,campaign,campaign_id,ad_group,ad_group_id,target,target_id,match_type,term,impressions,clicks,spend,orders,units,sales';
  const row =
    '2026-11-17,Campaign 1 research,c1,Campaign 1 research,g1,keyword 4000,t4000,broad,some shopper term 1,40,3,1.27,1,1,18.90';
  const start = performance.now();
  const jobId = await loadFile(app, 'last-day.csv', new Blob([`${head}\n${row}\n`]), 'terms-daily');
  await waitForJob(app.url, jobId);
  return {
    name: `explore-learn-${million}M`,
    value: (performance.now() - start) / 1000,
    unit: 's until the last day is in and all of them are learned from',
    reference: 'none',
    ratio: null,
    aim: 'none',
  };
}

/** Tables of an account through the application; `before` keeps the times of the smaller account. */
export async function* exploreTables(
  app: Running & { databaseUrl: string },
  million: number,
  home: string,
  before: Map<string, number>,
): AsyncGenerator<Measure> {
  const query = (level: string, round: number, more: object = {}) =>
    callApi(app.url, 'POST', '/api/1/explore/table', {
      level,
      window,
      columns: ['name', 'clicks', 'spend', 'orders', 'sales', 'acos'],
      sort: 'spend',
      where: {
        all: [
          { column: 'clicks', is: 'at_least', value: 2 + round },
          { column: 'acos', is: 'above', value: 0.3 },
        ],
      },
      ...more,
    });
  yield await lastDay(app, million);
  const references = million === 10 ? await duckDb(app.databaseUrl, home) : null;
  for (const level of ['targets', 'terms'] as const) {
    const start = performance.now();
    await query(level, 1000);
    const first = performance.now() - start;
    const time = await timed((round) => query(level, round));
    const name = `explore-${level}-${million}M`;
    yield {
      name: `${name}-first`,
      value: first,
      unit: 'ms, first query after loading',
      reference: '3 s',
      ratio: first / 3000,
      aim: 'under 3 s',
    };
    const small = before.get(level);
    before.set(level, time);
    if (!references) continue;
    yield {
      name,
      value: time,
      unit: 'ms, p95',
      reference: `DuckDB, two threads, the same rows (${references[level].toFixed(0)} ms)`,
      ratio: time / references[level],
      aim: 'at most 1',
    };
    yield {
      name: `explore-${level}-growth`,
      value: time,
      unit: 'ms, p95',
      reference: `one tenth of the term-days (${small!.toFixed(0)} ms)`,
      ratio: time / small!,
      aim: 'at most 3',
    };
  }
  if (million < 10) return;
  const edit = { field: 'bid', how: 'percent', value: -0.1 };
  const start = performance.now();
  const preview = await callApi<{ changed: number; unchanged: number }>(
    app.url,
    'POST',
    '/api/1/explore/preview',
    {
      level: 'targets',
      window,
      columns: [],
      where: { column: 'clicks', is: 'at_least', value: 54 },
      edit,
    },
  );
  const cold = performance.now() - start;
  const again = await timed((round) =>
    callApi(app.url, 'POST', '/api/1/explore/preview', {
      level: 'targets',
      window,
      columns: [],
      where: { column: 'clicks', is: 'at_least', value: 54 },
      edit: { ...edit, value: -0.1 - round / 1000 },
    }),
  );
  yield {
    name: 'explore-edit-preview',
    value: again / 1000,
    unit: `s, p95, ${preview.changed + preview.unchanged} rows`,
    reference: `the first of them, evidence read (${(cold / 1000).toFixed(1)} s)`,
    ratio: again / cold,
    aim: 'under 2 s',
  };
  yield {
    name: 'explore-memory',
    value: memoryOf(app.child.pid!),
    unit: 'MiB',
    reference: 'none',
    ratio: null,
    aim: 'none',
  };
  yield* await scrollRows(app);
}

/** Types names to look for, and takes the time from the answer of the server until its rows are painted. */
async function typeConditions(page: Page): Promise<number> {
  await page.evaluate(() => {
    const times = { answered: 0, shown: 0 };
    Object.assign(globalThis, { times });
    const original = globalThis.fetch;
    globalThis.fetch = async (...call) => {
      const answer = await original(...call);
      await answer.clone().text();
      Object.assign(times, { answered: performance.now(), shown: 0 });
      return answer;
    };
    const rows = document.querySelector('[aria-label=Rows] [role=rowgroup]')!.parentElement!.parentElement!;
    new MutationObserver(() => {
      if (times.answered > 0 && times.shown === 0)
        requestAnimationFrame(() => setTimeout(() => (times.shown ||= performance.now())));
    }).observe(rows, { subtree: true, childList: true, characterData: true, attributes: true });
  });
  const field = page.getByLabel('Filter by name');
  const took: number[] = [];
  for (let round = 10; round < 40; round++) {
    await page.evaluate(() =>
      Object.assign((globalThis as never as { times: object }).times, { answered: 0, shown: 0 }),
    );
    await field.fill(`keyword ${round}`);
    await page.locator('[role=row][data-key]').first().getByText(`keyword ${round}`).waitFor();
    const { answered, shown } = await page
      .waitForFunction(() => {
        const { times } = globalThis as never as { times: { answered: number; shown: number } };
        return times.shown > 0 && times;
      })
      .then((handle) => handle.jsonValue() as Promise<{ answered: number; shown: number }>);
    took.push(shown - answered);
  }
  return p95(took);
}

/** Scrolls 100,000 targets in Chromium, and times a typed condition until its rows stand. */
async function scrollRows(app: Running): Promise<Measure[]> {
  const browser = await chromium.launch({ executablePath: chromiumPath(), args: chromiumFlags });
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(`${app.url}/explore?level=targets&from=${window.from}&to=${window.to}`);
    await page.locator('[role=row][data-key]').first().waitFor({ timeout: 120_000 });
    const scrolled = await scrollTable(page, '[aria-label=Rows]', 160);
    const typed = await typeConditions(page);
    return [
      {
        name: 'explore-typed-condition',
        value: typed,
        unit: 'ms from the answer to its rows, p95',
        reference: '100 ms',
        ratio: typed / 100,
        aim: 'under 100 ms',
      },
      {
        name: 'explore-scroll',
        value: scrolled.scrolling,
        unit: `ms a frame, p95, ${scrolled.rows - 2} rows at 160 px a frame`,
        reference: `the page at rest (${scrolled.still.toFixed(1)} ms)`,
        ratio: scrolled.scrolling / scrolled.still,
        aim: '16.7 ms',
      },
    ];
  } finally {
    await browser.close();
  }
}
