import postgres from 'postgres';
import type { OrganicAnswer, OrganicFollowing, OrganicProductAnswer } from '../../src/answers/organic.ts';
import type { Measure } from './measure.ts';
import type { Running } from '../lib/processes.ts';
import { get } from './placements.ts';

const keywords = 10;
const span = 'from=2026-10-18&to=2026-11-16';

/** 90 days of ranks of ten keywords a product, which are terms of its ads, and of what all 500 products sold. */
async function ranksOfProducts(sql: postgres.Sql): Promise<void> {
  await sql`select setseed(0.5)`;
  for (const fact of ['rank_day', 'product_day'])
    await sql`select ensure_month(${fact}, 1, m::date) from generate_series('2026-08-01', '2026-11-01', interval '1 month') m`;
  await sql`insert into product_day
    select 1, d::date, sku, 200, 8, 8, (7 + random() * 6)::bigint * 25000000 from product
    cross join generate_series('2026-08-19'::date, '2026-11-16'::date, '1 day') d`;
  await sql`insert into rank_day
    select 1, d::date, k.sku, k.text, 5 + (random() * 40 + 0 * k.term_id)::int, 1 + (random() * 20 + 0 * k.term_id)::int, k.volume
    from (
      select a.sku, m.text, m.term_id, 50 + (random() * 900)::int as volume,
        row_number() over (partition by a.sku order by m.term_id) as number
      from term m
      join target t on t.account_id = 1 and t.target_id = 1 + (m.term_id * 7919) % 200000
      join product_ad a on a.account_id = 1 and a.ad_group_id = t.ad_group_id
      where m.account_id = 1 and m.term_id <= 100000) k
    cross join generate_series('2026-08-19'::date, '2026-11-16'::date, '1 day') d
    where k.number <= ${keywords}`;
  await sql`analyze rank_day, product_day`;
}

/** Organic on the account of 200,000 targets: all products, what followed what over all of them, and one product. */
export async function organicOfLarge(app: Running & { databaseUrl: string }): Promise<Measure[]> {
  const sql = postgres(app.databaseUrl, { max: 1, onnotice: () => undefined });
  await ranksOfProducts(sql);
  const start = performance.now();
  const sums =
    await sql`select sku, keyword, sum(search_volume), min(organic_rank) from rank_day where account_id = 1 group by 1, 2`;
  const seconds = (performance.now() - start) / 1000;
  await sql.end();
  const reference = `Postgres's sums of the ranks of ${sums.length} keywords (${seconds.toFixed(2)} s)`;
  const measure = (name: string, value: number): Measure => ({
    name,
    value,
    unit: 's',
    reference,
    ratio: value / seconds,
    aim: 'none named',
  });
  // The days of the ads are read once, for whichever page asks first.
  await get(`${app.url}/api/1/today?${span}`);
  const all = await get(`${app.url}/api/1/organic?${span}`);
  const { products } = JSON.parse(all.text) as OrganicAnswer;
  const followed = await get(`${app.url}/api/1/organic/following`);
  const { keywords: together } = JSON.parse(followed.text) as OrganicFollowing;
  const one = await get(`${app.url}/api/1/organic/product?sku=P7&${span}`);
  const { keywords: own } = JSON.parse(one.text) as OrganicProductAnswer;
  // A table without its rows would be quick, and measure nothing.
  if (products.length !== 500 || own.length !== keywords || together === 0)
    throw new Error(`${products.length} products, ${own.length} keywords of one, ${together} together.`);
  return [
    measure('organic-500-products', all.seconds),
    measure('organic-following', followed.seconds),
    measure('organic-product', one.seconds),
  ];
}
