import postgres from 'postgres';
import type { Measure } from './measure.ts';
import type { Running } from '../lib/processes.ts';

const campaigns = 2000;
const span = 'from=2026-10-18&to=2026-11-16';

/** 90 days of four placements of 2,000 campaigns. */
export async function placementDays(sql: postgres.Sql): Promise<void> {
  await sql`select setseed(0.5)`;
  await sql`select ensure_month('placement_day', 1, m::date) from generate_series('2026-08-01', '2026-11-01', interval '1 month') m`;
  await sql`insert into placement_day
    select 1, d::date, c, p.name, 200, n.clicks, n.clicks * 450000, n.orders, n.orders, n.orders * 25000000
    from generate_series(1, ${campaigns}) c
    cross join generate_series('2026-08-19'::date, '2026-11-16'::date, '1 day') d
    cross join (values ('top_of_search', 0.12), ('rest_of_search', 0.08), ('product_pages', 0.05), ('category_browse', 0.05)) p (name, rate)
    cross join lateral (select (random() * 12 + 0 * c)::int as clicks) k
    cross join lateral (select k.clicks, (random() * p.rate * k.clicks + random())::int as orders) n`;
  await sql`analyze placement_day`;
}

/** What an address answers, and after how many seconds. */
export async function get(url: string): Promise<{ text: string; seconds: number }> {
  const began = performance.now();
  const answer = await fetch(url);
  const text = await answer.text();
  if (!answer.ok) throw new Error(`${url}: ${answer.status} ${text}`);
  return { text, seconds: (performance.now() - began) / 1000 };
}

/** 2,000 campaigns judged by placement on the account of 200,000 targets, its figures being in memory. */
export async function placementsOfLarge(app: Running & { databaseUrl: string }): Promise<Measure[]> {
  const sql = postgres(app.databaseUrl, { max: 1, onnotice: () => undefined });
  await placementDays(sql);
  const start = performance.now();
  await sql`select campaign_id, placement, sum(clicks), sum(spend), sum(orders), sum(sales) from placement_day
    where account_id = 1 and day > '2026-08-18' group by 1, 2`;
  const sums = (performance.now() - start) / 1000;
  await sql.end();
  // Whoever compares methods, or drags a goal, has the account's rows in memory.
  const read = await get(`${app.url}/api/1/goals/methods?${span}&offset=0&limit=1&sort=between&text=`);
  const first = await get(`${app.url}/api/1/spend/placements?${span}`);
  const again = await get(`${app.url}/api/1/spend/placements?${span}`);
  const found = JSON.parse(first.text) as { campaigns: { isFinding: boolean }[] };
  if (found.campaigns.length !== campaigns)
    throw new Error(`${found.campaigns.length} campaigns were judged by placement, not ${campaigns}.`);
  const reference = `Postgres's sums of their ${campaigns * 4 * 90} placement days (${sums.toFixed(2)} s)`;
  const many = found.campaigns.filter(({ isFinding }) => isFinding).length;
  return [
    {
      name: 'placements-2000-campaigns',
      value: first.seconds,
      unit: `s (${many} findings; the account's rows were read before, in ${read.seconds.toFixed(1)} s)`,
      reference,
      ratio: first.seconds / sums,
      aim: 'under 1 s',
    },
    {
      name: 'placements-2000-campaigns-again',
      value: again.seconds,
      unit: 's',
      reference,
      ratio: again.seconds / sums,
      aim: 'none named',
    },
  ];
}
