import postgres from 'postgres';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import type { Scenario } from '../../market/scenario.ts';
import { makeDemand } from '../../market/world/shoppers.ts';
import type { Memory } from '../../market/world/day.ts';
import { callApi } from '../../scripts/lib/processes.ts';
import type { ToleranceRow } from '../../src/answers/idle.ts';
import type { OrganicAnswer, OrganicFollowing, OrganicProductAnswer } from '../../src/answers/organic.ts';
import type { QueueAnswer } from '../../src/answers/round.ts';
import { startStack, type Stack } from '../support/stack.ts';

/** Ranks and organic sales: as Quayside told them, recomputed from raw days, and against what is true there. */

let stack: Stack;
let sql: postgres.Sql;
let books: postgres.Sql;
let window: { from: string; to: string };
let list: OrganicAnswer;
beforeAll(async () => {
  stack = await startStack(true);
  sql = postgres(stack.databaseUrl, { max: 1 });
  books = postgres(stack.quaysideBooks, { max: 1 });
  window = (await call<QueueAnswer>('GET', 'round/queue')).window!;
  list = await call<OrganicAnswer>('GET', `organic?from=${window.from}&to=${window.to}`);
});
afterAll(async () => {
  await sql.end();
  await books.end();
  await stack.stop();
});

const call = <T>(method: string, path: string, body?: unknown) =>
  callApi<T>(stack.url, method, `/api/1/${path}`, body);
const productOf = (sku: string) =>
  call<OrganicProductAnswer>('GET', `organic/product?sku=${sku}&from=${window.from}&to=${window.to}`);

describe('ranks', () => {
  test('are fetched as Quayside keeps them, day by day', async () => {
    const ours = await sql`
      select day::text, sku, keyword, organic_rank, sponsored_rank, search_volume from rank_day
      order by day, sku, keyword`;
    const theirs = await books`
      select day::text, sku, keyword, organic_rank, sponsored_rank, search_volume from rank_day
      order by day, sku, keyword`;
    expect(ours.length).toBeGreaterThan(8000);
    expect([...ours]).toEqual([...theirs]);
  });

  test('a product that is out of stock is not found, and its ads have no position', async () => {
    const rows = await sql<{ found: number; days: number }[]>`
      select count(organic_rank)::int as found, count(*)::int as days from rank_day
      where sku = 'TT-KMB4' and day > (select max(day) - 3 from rank_day)`;
    expect(rows[0]!.days).toBeGreaterThan(20);
    expect(rows[0]!.found).toBe(0);
  });
});

describe('products', () => {
  test('organic sales are all sales less what ads sold of the product, in whichever ad group', async () => {
    const rows = await sql<{ sku: string; organic: number; spend: number }[]>`
      select p.sku, (sum(p.total_sales) - (select coalesce(sum(s.sales), 0) from sold_day s
          where s.sku = p.sku and s.day between ${window.from} and ${window.to}))::float8 as organic,
        (select sum(d.spend) from target_day d join target t using (account_id, target_id)
          join product_ad a using (account_id, ad_group_id)
          where a.sku = p.sku and d.day between ${window.from} and ${window.to})::float8 as spend
      from product_day p where p.day between ${window.from} and ${window.to} group by p.sku`;
    expect(list.products).toHaveLength(rows.length);
    for (const { sku, organic, spend } of rows) {
      const said = list.products.find((one) => one.sku === sku)!;
      expect(said.organicSales).toBe(organic);
      expect(said.spend).toBe(spend);
    }
    expect(list.isTold).toBe(true);
  });

  test('how far ranks are seen, by hand: usual searches over position, week by week', async () => {
    const [row] = await sql<{ first: number; last: number }[]>`
      with usual as (select keyword, avg(search_volume) as v from rank_day
        where sku = 'TT-KIT1' and day between ${window.from} and ${window.to} group by 1),
      seen as (select day, sum(v / organic_rank) as seen from rank_day join usual using (keyword)
        where sku = 'TT-KIT1' and day between ${window.from} and ${window.to} group by 1)
      select (select avg(seen) from seen where day < ${window.from}::date + 7)::float8 as first,
        (select avg(seen) from seen where day > ${window.to}::date - 7)::float8 as last`;
    const said = list.products.find(({ sku }) => sku === 'TT-KIT1')!.seen!;
    expect(said.first).toBeCloseTo(row!.first, 6);
    expect(said.last).toBeCloseTo(row!.last, 6);
  });

  test('one axis: every series as its raw days', async () => {
    const answer = await productOf('TT-CRK5');
    expect(answer.days).toHaveLength(90);
    const raw = await sql<{ day: string; units: number; sales: number; sold: number }[]>`
      select p.day::text, p.total_units as units, p.total_sales::float8 as sales,
        coalesce((select sum(s.sales) from sold_day s where s.sku = p.sku and s.day = p.day), 0)::float8 as sold
      from product_day p where p.sku = 'TT-CRK5' order by p.day`;
    for (const { day, units, sales, sold } of raw.slice(-90)) {
      const at = answer.days.indexOf(day);
      expect([answer.units[at], answer.adSales[at], answer.organicSales[at]]).toEqual([
        units,
        sold,
        Math.max(0, sales - sold),
      ]);
    }
    const keyword = answer.keywords.find((one) => one.keyword === 'sauerkraut crock')!;
    const spent = await sql<{ day: string; spend: number; orders: number }[]>`
      select d.day::text, sum(d.spend)::float8 as spend, sum(d.orders)::int as orders
      from term_day d join term m using (account_id, term_id) join target t using (account_id, target_id)
      join product_ad a using (account_id, ad_group_id)
      where m.text = 'sauerkraut crock' and a.sku = 'TT-CRK5' group by d.day`;
    expect(spent.length).toBeGreaterThan(60);
    expect(keyword.spend.reduce((sum, value) => sum + value, 0)).toBe(
      spent.reduce((sum, row) => sum + row.spend, 0),
    );
    for (const { day, spend, orders } of spent) {
      const at = answer.days.indexOf(day);
      expect([keyword.spend[at], keyword.orders[at]]).toEqual([spend, orders]);
    }
  });

  test('an unknown product, or none, is said', async () => {
    await expect(call('GET', 'organic/product?sku=XX')).rejects.toThrow('No product has the SKU XX');
    await expect(call('GET', 'organic/product')).rejects.toThrow('Say whose ranks');
  });
});

describe('against what is true at Quayside', () => {
  test('what a keyword’s rank sells is near its true part of organic orders', async () => {
    const [world] = await books<{ scenario: Scenario; memory: Memory }[]>`select scenario, memory from world`;
    const { scenario, memory } = world!;
    const demand = makeDemand(scenario);
    let [wrong, naive] = [0, 0];
    for (const [at, { sku }] of scenario.products.entries()) {
      if (sku === 'TT-KMB4') continue;
      const answer = await call<OrganicProductAnswer>(
        'GET',
        `organic/product?sku=${sku}&from=2026-11-15&to=2026-11-21`,
      );
      const orders = new Map(
        demand.queries
          .slice(0, 600)
          .filter(({ click }) => click[at]! >= 0.004)
          .map(({ text, popularity, conversion }) => [
            text,
            popularity * (memory.organic[`${at}:${text}`] ?? 0.15) ** 1.2 * conversion[at]!,
          ]),
      );
      const all = [...orders.values()].reduce((sum, one) => sum + one, 0);
      const seenOf = ({ volume, organicRank }: OrganicProductAnswer['keywords'][number]) =>
        (volume.at(-1) ?? 0) / (organicRank.at(-1) ?? Infinity);
      const seen = answer.keywords.reduce((sum, one) => sum + seenOf(one), 0);
      expect(answer.keywords.reduce((sum, { share }) => sum + share, 0)).toBeCloseTo(1, 9);
      for (const keyword of answer.keywords) {
        const truth = (orders.get(keyword.keyword) ?? 0) / all;
        wrong += Math.abs(keyword.share - truth) / (scenario.products.length - 1);
        naive += Math.abs(seenOf(keyword) / seen - truth) / (scenario.products.length - 1);
      }
    }
    // In sum over a product's keywords, of 1; by searches and position alone it is over twice that.
    expect(wrong).toBeLessThan(0.2);
    expect(naive).toBeGreaterThan(0.28);
  });

  test('over all keywords rank follows what searches cost on the same day, and nothing else is claimed', async () => {
    const all = await call<OrganicFollowing>('GET', 'organic/following');
    expect(all.keywords).toBe(96);
    // Orders of a day raise the standing of the same evening; Quayside knows no other way.
    expect(all.rankAfterSpend.peak?.lag).toBe(0);
    expect(all.rankAfterSpend.peak!.low).toBeGreaterThan(0);
    expect(all.rankAfterSpend.lags.filter(({ low, high }) => low > 0 || high < 0)).toHaveLength(1);
  });
});

test('a tolerated loss stands beside what its rank sells', async () => {
  const queue = await call<{ findings: { key: string; entityId: string }[] }>(
    'GET',
    `round?from=${window.from}&to=${window.to}`,
  );
  const rows = await sql<{ key: string; sku: string; keyword: string }[]>`
    select 'target:' || t.target_id || ':bid' as key, a.sku, lower(t.expression) as keyword
    from target t join product_ad a using (account_id, ad_group_id)
    join (select distinct sku, keyword from rank_day) r on r.sku = a.sku and r.keyword = lower(t.expression)`;
  const told = rows.find(({ key }) => queue.findings.some((finding) => finding.key === key))!;
  await call('PUT', 'idle/tolerances', {
    entries: [{ findingKey: told.key, tolerance: { amount: null, reason: 'holds its rank', until: null } }],
  });
  const [row] = await call<ToleranceRow[]>('GET', 'idle/tolerances');
  const own = await productOf(told.sku);
  expect(row!.earns).toEqual(own.keywords.find(({ keyword }) => keyword === told.keyword)!.earns);
  expect(row!.earns!.sales).toBeGreaterThan(0);
  expect(row!.earns!.left).toBeLessThan(row!.earns!.sales);
  // A product that is gone takes nothing of the list with it.
  await sql`delete from product where sku = ${told.sku}`;
  await sql`update account set data_version = data_version + 1`;
  const [left] = await call<ToleranceRow[]>('GET', 'idle/tolerances');
  expect(left!.earns!.left).toBeNull();
});
