import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import postgres from 'postgres';
import { callApi } from '../../scripts/lib/processes.ts';
import type { QueueAnswer } from '../../src/answers/round.ts';
import type {
  MovedAnswer,
  Note,
  PaceAnswer,
  QueueStanding,
  TodayAnswer,
  VerdictCounts,
} from '../../src/answers/today.ts';
import { micros } from '../../src/core/metrics/money.ts';
import { addDays } from '../../src/core/metrics/days.ts';
import { startStack, type Stack } from '../support/stack.ts';

/** Today, the pace and notes: every figure recomputed from raw days. */

let stack: Stack;
let sql: postgres.Sql;
let window: { from: string; to: string };
let compare: { from: string; to: string };
let today: string;
beforeAll(async () => {
  stack = await startStack(true);
  sql = postgres(stack.databaseUrl, { max: 1 });
  const round = await call<QueueAnswer>('GET', 'round/queue');
  window = round.window!;
  today = round.today;
  compare = { from: addDays(window.from, -30), to: addDays(window.from, -1) };
});
afterAll(async () => {
  await sql.end();
  await stack.stop();
});

const call = <T>(method: string, path: string, body?: unknown) =>
  callApi<T>(stack.url, method, `/api/1/${path}`, body);
const span = () => `from=${window.from}&to=${window.to}`;
const problemOf = (work: Promise<unknown>): Promise<string> =>
  work.then(
    () => 'it was taken',
    (error: Error) => error.message,
  );

/** Sums of targets over days, by what they belong to. */
const sumsBy = async (by: 'all' | 'campaign', { from, to }: { from: string; to: string }) =>
  sql<{ key: string; clicks: number; spend: number; orders: number; sales: number }[]>`
    select ${by === 'all' ? sql`''` : sql`g.campaign_id::text`} as key, sum(clicks)::float8 as clicks,
      sum(spend)::float8 as spend, sum(orders)::float8 as orders, sum(sales)::float8 as sales
    from target_day d join target t using (account_id, target_id) join ad_group g using (account_id, ad_group_id)
    where d.account_id = 1 and d.day between ${from} and ${to} group by 1`;

describe('Today', () => {
  test('stands as its raw days say, organic in, against the period before', async () => {
    const answer = await call<TodayAnswer>('GET', `today?${span()}`);
    expect(answer.compare).toEqual(compare);
    for (const [standing, days] of [
      [answer.now, window],
      [answer.before, compare],
    ] as const) {
      const [sums] = await sumsBy('all', days);
      expect(standing).toMatchObject({
        clicks: sums!.clicks,
        spend: sums!.spend,
        orders: sums!.orders,
        sales: sums!.sales,
      });
      const [all] = await sql<{ sales: number; orders: number }[]>`
        select sum(total_sales)::float8 as sales, sum(total_orders)::float8 as orders from product_day
        where account_id = 1 and day between ${days.from} and ${days.to}`;
      expect([standing.totalSales, standing.totalOrders]).toEqual([all!.sales, all!.orders]);
    }
    expect(answer.days).toHaveLength(90);
    expect(answer.reports.map(({ kind }) => kind)).toContain('targets-daily');
    // The demo's kombucha jars are gone.
    expect(answer.stock[0]).toMatchObject({ sku: 'TT-KMB4' });
  });

  test('what moved is split without a rest, by members whose changes are those of raw days', async () => {
    const [after, before] = [await sumsBy('campaign', window), await sumsBy('campaign', compare)];
    for (const figure of ['sales', 'spend'] as const) {
      const moved = await call<MovedAnswer>('GET', `today/moved?figure=${figure}&by=campaign&${span()}`);
      const sum = Object.values(moved.parts).reduce((total, part) => total + part, 0);
      expect(sum).toBeCloseTo(moved.after! - moved.before!, 3);
      for (const { key, change } of moved.members) {
        const of = (rows: typeof after) => rows.find((row) => row.key === key)?.[figure] ?? 0;
        expect(change).toBeCloseTo(of(after) - of(before), 3);
      }
    }
    // By hand: the clicks' part of one campaign's sales is L(v1, v0) ln(clicks1 / clicks0).
    const sales = await call<MovedAnswer>('GET', `today/moved?figure=sales&by=campaign&${span()}`);
    const { key, parts } = sales.members[0]!;
    const [one, was] = [after.find((row) => row.key === key)!, before.find((row) => row.key === key)!];
    const mean = (one.sales - was.sales) / Math.log(one.sales / was.sales);
    expect(parts.clicks).toBeCloseTo(mean * Math.log(one.clicks / was.clicks), 2);
    expect(parts.cvr).toBeCloseTo(mean * Math.log(one.orders / one.clicks / (was.orders / was.clicks)), 2);
    const acos = await call<MovedAnswer>('GET', `today/moved?figure=acos&by=product&${span()}`);
    const [now] = await sumsBy('all', window);
    expect(acos.after).toBeCloseTo(now!.spend / now!.sales, 9);
    expect(Object.values(acos.parts).reduce((total, part) => total + part, 0)).toBeCloseTo(
      acos.after! - acos.before!,
      9,
    );
  });

  test('a member opens into its campaigns, and these into their targets: parts of the same change', async () => {
    const products = await call<MovedAnswer>('GET', `today/moved?figure=sales&by=product&${span()}`);
    const { key: sku, change } = products.members[0]!;
    const campaigns = await call<MovedAnswer>(
      'GET',
      `today/moved?figure=sales&by=campaign&sku=${sku}&${span()}`,
    );
    expect(campaigns.after! - campaigns.before!).toBeCloseTo(change, 3);
    const first = campaigns.members[0]!;
    const targets = await call<MovedAnswer>(
      'GET',
      `today/moved?figure=sales&by=target&campaign=${first.key}&${span()}`,
    );
    expect(targets.after! - targets.before!).toBeCloseTo(first.change, 3);
    expect(await problemOf(call('GET', `today/moved?figure=luck&${span()}`))).toMatch(/sales, spend, acos/);
  });

  test('targets and terms by what is known of them, with all of the spend', async () => {
    const counts = await call<VerdictCounts>('GET', `today/verdicts?${span()}`);
    const [sums] = await sumsBy('all', window);
    const { under, over, undecided } = counts.targets;
    expect(under.spend + over.spend + undecided.spend).toBeCloseTo(sums!.spend, 3);
    expect(under.count).toBeGreaterThan(10);
    expect(counts.terms.undecided.count).toBeGreaterThan(counts.terms.under.count);
  });

  test('queues in a line each: what the round has', async () => {
    const queues = await call<QueueStanding[]>('GET', `today/queues?${span()}`);
    const { findings } = await call<QueueAnswer>('GET', `round/queue?${span()}`);
    const terms = findings.filter(({ queue, proposal }) => queue === 'terms' && proposal.kind !== 'wait');
    const found = queues.find(({ id }) => id === 'terms')!;
    expect(found.count).toBe(terms.length);
    expect(found.top!.worth).toBe(Math.max(...terms.map(({ worth }) => worth)));
    expect(queues.find(({ id }) => id === 'budgets')!.count).toBeGreaterThan(0);
  });
});

describe('the pace of the month', () => {
  test('so far is what its days brought; a plan stands beside where it lands', async () => {
    const month = `${today.slice(0, 7)}-01`;
    await call('PUT', 'goals/plan', {
      rows: [
        { month, sku: '', spend: micros(6000), sales: micros(25_000), revenue: null },
        { month, sku: 'TT-LID4', spend: micros(900), sales: null, revenue: null },
      ],
    });
    const pace = await call<PaceAnswer>('GET', 'spend/pace');
    const [account] = pace.lines;
    const [done] = await sumsBy('all', { from: month, to: today });
    expect(account!.spend.done).toBeCloseTo(done!.spend, -3);
    expect(account!.spend).toMatchObject({ plan: micros(6000), left: 30 - Number(pace.knownTo.slice(8)) });
    expect(account!.spend.low).toBeLessThanOrEqual(account!.spend.middle);
    // Settling days have sold more than is told yet.
    expect(account!.sales.done).toBeGreaterThan(done!.sales);
    expect(account!.revenue!.plan).toBeNull();
    const lids = pace.lines.find(({ sku }) => sku === 'TT-LID4')!;
    expect(lids.spend.plan).toBe(micros(900));
    expect(pace.lines.slice(1).reduce((sum, { spend }) => sum + spend.done, 0)).toBeCloseTo(
      account!.spend.done,
      -3,
    );
    const last = `${addDays(month, -1).slice(0, 7)}-01`;
    expect(
      await problemOf(
        call('PUT', 'goals/plan', {
          rows: [{ month: last, sku: '', spend: 1e6, sales: null, revenue: null }],
        }),
      ),
    ).toMatch(/is over/);
  });
});

describe('notes', () => {
  const note = (body: string, more: object = {}) =>
    call<{ noteId: number }>('POST', 'notes', { day: today, body, ...more });
  const notes = (text = '') =>
    call<Note[]>('GET', `notes?from=2026-01-01&to=${today}&q=${encodeURIComponent(text)}`);

  test('are kept, found by their words or by what they are about, changed, removed and brought back', async () => {
    const { noteId } = await note('Price up', { scope: 'product', object: 'TT-LID4' });
    await note('Promotion of the week', { day: addDays(today, -6), toDay: addDays(today, -1) });
    expect((await notes()).map(({ body }) => body)).toEqual(['Price up', 'Promotion of the week']);
    expect((await notes('AIRLOCK')).map(({ body }) => body)).toEqual(['Price up']);
    expect((await call<TodayAnswer>('GET', `today?${span()}`)).notes).toHaveLength(2);
    expect((await call<{ notes: { body: string }[] }>('GET', 'season')).notes).toHaveLength(2);
    const row = { day: today, toDay: today, scope: 'product', object: 'TT-LID4', body: 'Price down' };
    await call('PUT', `notes/${noteId}`, row);
    await call('DELETE', `notes/${noteId}`, {});
    expect(await notes('price')).toEqual([]);
    await call('PUT', `notes/${noteId}`, row);
    expect((await notes('price')).map(({ body, name }) => [body, name])).toEqual([
      ['Price down', 'Airlock lids for wide jars, 4 pack'],
    ]);
  });

  test('what cannot be noted is said', async () => {
    expect(await problemOf(note(''))).toMatch(/body/);
    expect(await problemOf(note('x', { scope: 'product', object: 'none' }))).toMatch(/product none/);
    expect(await problemOf(note('x', { toDay: addDays(today, -3) }))).toMatch(/cannot end/);
    expect(await problemOf(call('DELETE', 'notes/999999', {}))).toMatch(/note 999999/);
  });
});
