import postgres from 'postgres';
import { memoryOf, type Measure } from './measure.ts';
import type { Running } from '../lib/processes.ts';

/** Makes 500 products, 4,000 campaigns, 200,000 targets and 1,000,000 terms straight in the tables. */
export async function bigObjects(sql: postgres.Sql): Promise<void> {
  await sql`update account set today = '2026-11-21', name = 'Big account'`;
  await sql`select setseed(0.5)`;
  await sql`insert into product (account_id, sku, item_code, title, price, unit_cost, fee_rate, fee_fixed, shipping, refund_rate)
    select 1, 'P' || p, 'QY' || lpad(p::text, 6, '0'), 'Product ' || p, 25000000, 8000000, 0.14, 300000, 3000000, 0.03
    from generate_series(1, 500) p`;
  await sql`insert into campaign (account_id, ext_id, name, kind)
    select 1, 'c' || c, 'Campaign ' || c || case when c % 2 = 0 then ' exact' else ' research' end, 'manual'
    from generate_series(1, 4000) c`;
  await sql`insert into ad_group (account_id, campaign_id, ext_id, name) select 1, campaign_id, 'g' || campaign_id, name from campaign`;
  await sql`insert into product_ad select 1, ad_group_id, 'P' || (1 + ((ad_group_id - 1) / 2) % 500) from ad_group`;
  await sql`insert into target (account_id, ad_group_id, ext_id, kind, match_type, expression, bid)
    select 1, 1 + t % 4000, 't' || t, 'keyword', case when (1 + t % 4000) % 2 = 0 then 'exact' else 'broad' end,
      'keyword ' || t, 300000 + (t % 60) * 10000
    from generate_series(0, 199999) t`;
  await sql`insert into term (account_id, text) select 1, 'some shopper term ' || t from generate_series(1, 1000000) t`;
}

/** The account with a day of figures for every target and term. */
export async function bigAccount(databaseUrl: string): Promise<void> {
  const sql = postgres(databaseUrl, { max: 1, onnotice: () => undefined });
  await bigObjects(sql);
  await sql`select ensure_month('target_day', 1, '2026-10-01'), ensure_month('target_day', 1, '2026-11-01'),
    ensure_month('term_day', 1, '2026-10-01'), ensure_month('term_day', 1, '2026-11-01')`;
  // Each chance names its row: a subquery that does not would be drawn once for all.
  await sql`insert into target_day
    select 1, d, t.target_id, 800, c, c * 450000, o, o, o * 25000000 from target t
    cross join lateral (select '2026-10-20'::date + (random() * 24 + 0 * t.target_id)::int as d,
      (random() * 40 + 0 * t.target_id)::int as c) a
    cross join lateral (select (random() * random() * c * 0.25)::int as o) b`;
  await sql`insert into term_day
    select 1, d, 1 + (m.term_id * 7919) % 200000, m.term_id, 60, c, c * 450000, o, o, o * 25000000 from term m
    cross join lateral (select '2026-10-20'::date + (random() * 24 + 0 * m.term_id)::int as d,
      1 + (random() * random() * 20 + 0 * m.term_id)::int as c) a
    cross join lateral (select (random() * random() * c * 0.5)::int as o) b`;
  // Campaigns in which match types are mixed: something to find in how the account is built. It is told of those with a budget.
  await sql`update campaign set daily_budget = 500000000 where campaign_id % 100 = 1`;
  await sql`update target set match_type = 'phrase' where ad_group_id % 100 = 1 and target_id % 8000 < 4000`;
  for (const kind of ['targets-daily', 'terms-daily']) {
    await sql`insert into report_day select 1, ${kind}, d::date, d::date, now(), 1
      from generate_series('2026-10-20'::date, '2026-11-13'::date, '1 day') d`;
  }
  await sql`analyze`;
  await sql.end();
}

interface Answer {
  targets: number;
  terms: number;
  left: number;
  milliseconds: { read: number; judge: number };
}

/** All findings of the big account through the application, figures read from Postgres included. */
export async function judgeBig(app: Running & { databaseUrl: string }): Promise<Measure[]> {
  const sql = postgres(app.databaseUrl, { max: 1 });
  const start = performance.now();
  await sql`select count(*) from (select target_id, term_id, sum(clicks), sum(spend), sum(orders), sum(sales) from term_day group by 1, 2) s`;
  const sums = (performance.now() - start) / 1000;
  await sql.end();
  let most = 0;
  const watch = setInterval(() => (most = Math.max(most, memoryOf(app.child.pid!))), 100);
  // While it judges, the server goes on answering: the longest answer of a small call tells.
  let slowest = 0;
  let judging = true;
  const probe = (async () => {
    while (judging) {
      const asked = performance.now();
      await fetch(`${app.url}/api/health`).then((answer) => answer.text());
      slowest = Math.max(slowest, performance.now() - asked);
      await new Promise((done) => setTimeout(done, 50));
    }
  })();
  const began = performance.now();
  const response = await fetch(`${app.url}/api/1/round/queue?from=2026-10-18&to=2026-11-16`);
  const answer = (await response.json()) as Answer;
  // Days that nobody told are not read: quick, and measured nothing.
  if (answer.terms < 900_000) throw new Error(`Only ${answer.terms} terms were judged.`);
  const seconds = (performance.now() - began) / 1000;
  judging = false;
  await probe;
  clearInterval(watch);
  const { read, judge } = answer.milliseconds;
  // What stands beside terms and targets is asked for once they are shown: words, conflicts, structure.
  const asked = performance.now();
  const wider = await fetch(`${app.url}/api/1/round/wider?from=2026-10-18&to=2026-11-16`);
  const { findings } = (await wider.json()) as { findings: { queue: string }[] };
  const widerSeconds = (performance.now() - asked) / 1000;
  const structure = findings.filter(({ queue }) => queue === 'structure').length;
  return [
    {
      name: 'findings-200k-targets-1M-terms',
      value: seconds,
      unit: `s (${answer.left} findings; read ${(read / 1000).toFixed(1)} s, judge ${(judge / 1000).toFixed(1)} s)`,
      reference: `the sums of its terms in Postgres (${sums.toFixed(1)} s)`,
      ratio: seconds / sums,
      aim: 'under 10 s, at most 5 times',
    },
    {
      name: 'wider-200k-targets-1M-terms',
      value: widerSeconds,
      unit: `s (${findings.length} of words, conflicts and structure; ${structure} of structure)`,
      reference: `the sums of its terms in Postgres (${sums.toFixed(1)} s)`,
      ratio: widerSeconds / sums,
      aim: 'none named',
    },
    {
      name: 'findings-memory',
      value: most,
      unit: 'MiB',
      reference: '2 GiB',
      ratio: most / 2048,
      aim: 'under 2 GiB',
    },
    {
      name: 'answer-while-judging',
      value: slowest,
      unit: 'ms, longest',
      reference: 'none',
      ratio: null,
      aim: 'no long stop',
    },
  ];
}
