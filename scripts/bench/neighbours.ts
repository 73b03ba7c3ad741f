import postgres from 'postgres';
import { filesAccount, type Running } from '../lib/processes.ts';
import type { Measure } from './measure.ts';

const neighbours = 20;
const days = 60;
const rounds = 40;

/** Gives an account 2,000 targets in 200 campaigns with 60 days of figures: about what the demo account has. */
async function smallAccount(sql: postgres.Sql, account: number): Promise<void> {
  await sql`update account set today = '2026-11-21' where account_id = ${account}`;
  await sql`insert into campaign (account_id, ext_id, name, kind)
    select ${account}, 'c' || c, 'Campaign ' || c, 'manual' from generate_series(1, 200) c`;
  await sql`insert into ad_group (account_id, campaign_id, ext_id, name)
    select ${account}, campaign_id, 'g' || campaign_id, name from campaign where account_id = ${account}`;
  await sql`insert into target (account_id, ad_group_id, ext_id, kind, match_type, expression, bid)
    select ${account}, ad_group_id, 't' || ad_group_id || '-' || t, 'keyword', 'broad', 'keyword ' || t, 300000
    from ad_group, generate_series(1, 10) t where account_id = ${account}`;
  await sql`insert into term (account_id, text) select ${account}, 'shopper term ' || t from generate_series(1, 4000) t`;
  await sql`select ensure_month(fact, ${account}, month::date)
    from unnest(array['target_day', 'term_day']) fact, unnest(array['2026-09-01', '2026-10-01', '2026-11-01']) month`;
  await sql`insert into target_day
    select ${account}, '2026-11-21'::date - d, target_id, 90, 3, 1200000, (d % 7 = 0)::int, (d % 7 = 0)::int, 25000000 * (d % 7 = 0)::int
    from target, generate_series(1, ${days}) d where account_id = ${account}`;
  await sql`insert into term_day
    select ${account}, '2026-11-21'::date - (m.term_id % ${days})::int - 1, t.target_id, m.term_id, 30, 2, 800000, 0, 0, 0
    from (select term_id, row_number() over () as n from term where account_id = ${account}) m
    join (select target_id, row_number() over () as n from target where account_id = ${account}) t on t.n = 1 + m.n % 2000`;
  await sql`insert into report_day
    select ${account}, kind, '2026-11-21'::date - d, '2026-11-21', now(), 1
    from generate_series(1, ${days}) d, unnest(array['targets-daily', 'terms-daily']) kind`;
  await sql`update account set data_version = data_version + 1 where account_id = ${account}`;
}

/** An answer that is none would be quick, and say nothing. */
async function answered(answer: Response): Promise<void> {
  const text = await answer.text();
  if (!answer.ok) throw new Error(`${answer.url}: ${answer.status} ${text.slice(0, 200)}`);
}

const median = (times: number[]): number => [...times].sort((a, b) => a - b)[times.length >> 1]!;

/** Milliseconds of findings and of a table, each of a window of its own, so that none is answered from memory. */
async function asked(
  url: string,
  account: number,
  pass: number,
): Promise<Record<'findings' | 'table', number>> {
  const times: Record<'findings' | 'table', number[]> = { findings: [], table: [] };
  // The first few warm up.
  for (let i = -5; i < rounds; i++) {
    const day = (back: number) => new Date(Date.UTC(2026, 10, 20 - back)).toISOString().slice(0, 10);
    const window = {
      from: day(50 + 10 * pass - (i % 7)),
      to: day(((i + 5) % 15) + Math.floor((i + 5) / 15)),
    };
    const began = performance.now();
    const { from, to } = window;
    await fetch(`${url}/api/${account}/round?from=${from}&to=${to}&limit=50`).then(answered);
    const then = performance.now();
    await fetch(`${url}/api/${account}/explore/table`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({
        level: 'terms',
        where: null,
        sort: 'spend',
        descending: true,
        columns: ['name', 'clicks', 'spend', 'verdict'],
        window,
        comparison: { from: day(100), to: day(71) },
        offset: 0,
        limit: 100,
      }),
    }).then(answered);
    if (i < 0) continue;
    times.findings.push(then - began);
    times.table.push(performance.now() - then);
  }
  return { findings: median(times.findings), table: median(times.table) };
}

type App = Running & { databaseUrl: string };

/** A small account by itself, in an application of its own; then one of twenty beside a large one. */
export async function manyAccounts(
  app: (database: string) => Promise<App>,
  large: (databaseUrl: string) => Promise<void>,
): Promise<Measure[]> {
  const alone = await app('one-account');
  const crowded = await app('many-accounts');
  await large(crowded.databaseUrl);
  const first = await filled(alone, 1);
  const last = await filled(crowded, neighbours);
  // In turns: whatever else the machine does, it does to both.
  const [one, other] = [await asked(alone.url, first, 0), await asked(crowded.url, last, 0)];
  const [again, otherAgain] = [await asked(alone.url, first, 1), await asked(crowded.url, last, 1)];
  await alone.stop();
  await crowded.stop();
  return (['findings', 'table'] as const).map((what) => {
    const reference = (one[what] + again[what]) / 2;
    const value = (other[what] + otherAgain[what]) / 2;
    return {
      name: `small-account-${what}-beside-${neighbours - 1}-and-a-large-one`,
      value,
      unit: `ms, median of ${rounds} windows`,
      reference: `the same account alone (${reference.toFixed(0)} ms)`,
      ratio: value / reference,
      aim: 'no longer than alone',
    };
  });
}

/** Makes so many small accounts; the number of the last. */
async function filled({ url, databaseUrl }: App, count: number): Promise<number> {
  const sql = postgres(databaseUrl, { max: 1, onnotice: () => undefined });
  let account = 0;
  for (let i = 1; i <= count; i++) await smallAccount(sql, (account = await filesAccount(url, `Small ${i}`)));
  await sql`analyze`;
  await sql.end();
  return account;
}
