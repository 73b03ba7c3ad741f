import fc from 'fast-check';
import { afterAll, beforeAll, expect, test } from 'vitest';
import type { Database } from '../../src/server/db/connection.ts';
import { blocksOf } from '../../src/server/facts/blocks.ts';
import { makeBlocks } from '../../src/server/facts/blocks.queries.ts';
import { startImporter, type Importer } from '../support/importing.ts';

let sql: Database;
let load: Importer['load'];
beforeAll(async () => {
  ({ sql, load } = await startImporter());
});
afterAll(() => sql.end());

const ever = { from: '2026-01-01', to: '2026-12-31' };
const facts = ['target_day', 'term_day'] as const;

/** Every row of every day, by the raw facts. */
async function rawRows(fact: (typeof facts)[number]): Promise<string[]> {
  const rows = await sql<{ row: string }[]>`
    select concat_ws('|', day, target_id, ${fact === 'term_day' ? sql`term_id` : sql`0`}, impressions, clicks, orders,
      units, spend, sales) as row from ${sql(fact)} where account_id = 1`;
  return rows.map(({ row }) => row).sort();
}

/** The same, by the blocks. */
async function blockRows(fact: (typeof facts)[number]): Promise<string[]> {
  const rows: string[] = [];
  for await (const block of blocksOf(sql, 1, fact, ever)) {
    for (let i = 0; i < block.rows; i++) {
      const ids = [block.day, block.targetId[i], fact === 'term_day' ? block.termId[i] : 0];
      const counts = [block.impressions[i], block.clicks[i], block.orders[i], block.units[i]];
      rows.push([...ids, ...counts, block.spend[i], block.sales[i]].join('|'));
    }
  }
  return rows.sort();
}

interface Row {
  day: number;
  target: number;
  term: number;
  clicks: number;
  orders: number;
}
const row = fc.record<Row>({
  day: fc.integer({ min: 28, max: 34 }),
  target: fc.integer({ min: 1, max: 4 }),
  term: fc.integer({ min: 1, max: 6 }),
  clicks: fc.integer({ min: 0, max: 40_000 }),
  orders: fc.integer({ min: 0, max: 9 }),
});
const dayOf = (day: number) => (day <= 31 ? `2026-10-${day}` : `2026-11-0${day - 31}`);
const termFile = (rows: Row[]) =>
  [
    'date,campaign,ad_group,target,match_type,term,impressions,clicks,spend,orders,sales',
    ...rows.map(
      ({ day, target, term, clicks, orders }) =>
        `${dayOf(day)},Lids,Core,lid ${target},broad,term ${term},${clicks * 9},${clicks},${(clicks * 0.37).toFixed(2)},${orders},${orders * 1890.55}`,
    ),
  ].join('\n');
const targetFile = (rows: Row[]) =>
  termFile(rows)
    .split('\n')
    .map((line) =>
      line
        .split(',')
        .filter((_, i) => i !== 5)
        .join(','),
    )
    .join('\n');

test('blocks hold every raw row of every day, after any imports and restatements in any order', async () => {
  const step = fc.record({
    rows: fc.array(row, { minLength: 1, maxLength: 40 }),
    terms: fc.boolean(),
    look: fc.boolean(),
  });
  await fc.assert(
    fc.asyncProperty(fc.array(step, { minLength: 1, maxLength: 5 }), async (steps) => {
      for (const { rows, terms, look } of steps) {
        await load(terms ? termFile(rows) : targetFile(rows));
        // Blocks made before a restatement are the ones that could be left behind.
        if (look) for (const fact of facts) await makeBlocks(sql, 1, fact, ever);
      }
      for (const fact of facts) expect(await blockRows(fact)).toEqual(await rawRows(fact));
    }),
    { numRuns: 8 },
  );
});

test('a load that comes while blocks are made, or fails after it took days away, leaves them right', async () => {
  const rows = (clicks: number): Row[] =>
    Array.from({ length: 2000 }, (_, i) => ({
      day: 28 + (i % 7),
      target: 1 + (i % 4),
      term: i,
      clicks,
      orders: 1,
    }));
  await load(termFile(rows(1)));
  await Promise.all([
    load(termFile(rows(2))),
    makeBlocks(sql, 1, 'term_day', ever),
    load(termFile(rows(3))),
    makeBlocks(sql, 1, 'term_day', ever),
  ]);
  expect(await blockRows('term_day')).toEqual(await rawRows('term_day'));
  const before = await blockRows('term_day');
  await expect(load(termFile(rows(4)).replaceAll(',Lids,', ',,'))).rejects.toThrow('No row could be loaded');
  expect(await blockRows('term_day')).toEqual(before);
});

test('whoever reads only some blocks leaves the connection free', async () => {
  for (let i = 0; i < 20; i++) {
    for await (const { rows } of blocksOf(sql, 1, 'term_day', ever)) {
      expect(rows).toBeGreaterThan(0);
      break;
    }
  }
  expect(await blockRows('term_day')).toEqual(await rawRows('term_day'));
});

test('a load under way locks no months: they stand by themselves, and others may plan with them', async () => {
  const file =
    'date,campaign,ad_group,target,match_type,term,impressions,clicks,spend,orders,sales\n' +
    '2025-03-30,Lids,Core,lid 1,broad,old term,9,1,0.30,0,0\n2025-04-02,Lids,Core,lid 1,broad,old term,9,1,0.30,0,0\n';
  let loading: Promise<unknown> = Promise.resolve();
  await sql.begin(async (tx) => {
    // The load comes to the last of its steps and waits there.
    await tx`select 1 from account where account_id = 1 for update`;
    loading = load(file);
    await expect
      .poll(
        () =>
          sql`select 1 from pg_stat_activity where datname = current_database() and wait_event_type = 'Lock'`,
      )
      .toHaveLength(1);
    await tx`set local lock_timeout = '5s'`;
    await tx`lock table term_day_1 in share update exclusive mode`;
  });
  await loading;
  const days = await sql`select day from term_day where account_id = 1 and day < '2025-05-01' order by day`;
  expect(days.map(({ day }) => day as string)).toEqual(['2025-03-30', '2025-04-02']);
});
