import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { callApi, waitForJob } from '../../scripts/lib/processes.ts';
import type { QueueAnswer, WhyAnswer } from '../../src/answers/round.ts';
import { addDays } from '../../src/core/metrics/days.ts';
import { connect, type Database } from '../../src/server/db/connection.ts';
import { callQuayside, startStack, type Stack } from '../support/stack.ts';

/** An ad group that advertises several products: what it really sells is fetched, and its goal and its name follow. */

let stack: Stack;
let sql: Database;
beforeAll(async () => {
  stack = await startStack(true);
  sql = connect(stack.databaseUrl, 2);
});
afterAll(async () => {
  await sql.end();
  await stack.stop();
});
const get = <T>(path: string) => callApi<T>(stack.url, 'GET', `/api/1/${path}`);
const group = { campaign: 'Lids exact' };

/** Why the first finding about a bid of an ad group is proposed. */
async function whyOf(adGroupId: string) {
  const { findings, window } = await get<QueueAnswer>('round/queue');
  const found = findings.find((one) => one.adGroupId === adGroupId && one.queue === 'targets');
  const why = await get<WhyAnswer>(
    `round/why?key=${encodeURIComponent(found!.key)}&from=${window!.from}&to=${window!.to}`,
  );
  return { why, window };
}

describe('what ad groups sell', () => {
  test('is fetched with the other figures: orders and sales of a settled day are those of its targets', async () => {
    const { settledTo } = await get<QueueAnswer>('round/queue');
    const days = [settledTo!, addDays(settledTo!, -20)];
    for (const day of days) {
      const [sold] = await sql`
        select sum(orders)::int as orders, sum(sales)::bigint as sales from sold_day where account_id = 1 and day = ${day}`;
      const [told] = await sql`
        select sum(orders)::int as orders, sum(sales)::bigint as sales from target_day where account_id = 1 and day = ${day}`;
      expect(sold!.orders).toBeGreaterThan(0);
      expect(sold).toEqual(told);
    }
  });

  test('a second product in an ad group: goal by what is sold, told in the working; unlike products are named', async () => {
    const [own] = await sql<{ id: string; ext: string; sku: string; name: string }[]>`
      select g.ad_group_id::text as id, g.ext_id as ext, a.sku, g.name from ad_group g
      join campaign c using (account_id, campaign_id) join product_ad a using (account_id, ad_group_id)
      where c.account_id = 1 and c.name = ${group.campaign}`;
    const profit = sql`price * (1 - coalesce(fee_rate, 0)) - unit_cost - coalesce(fee_fixed, 0) - coalesce(shipping, 0)`;
    const [other] = await sql<{ sku: string }[]>`
      select sku from product p where account_id = 1 and unit_cost is not null and stock > 0 and ${profit} > 2 * (
        select ${profit} from product q where q.account_id = 1 and q.sku = ${own!.sku}) order by ${profit} desc limit 1`;
    const alone = (await whyOf(own!.id)).why.finding.working.targetAcos;
    await callQuayside(stack.quayside, 'POST', '/changes', {
      idempotency_key: 'a second product',
      lines: [
        {
          line_id: '1',
          action: 'create',
          entity: 'product_ad',
          ad_group_id: own!.ext,
          field: 'product_ad',
          expression: other!.sku,
        },
      ],
    });
    await callQuayside(stack.quayside, 'POST', '/clock/advance', { days: 1 });
    const { jobId } = await callApi<{ jobId: string }>(stack.url, 'POST', '/api/1/fetch', {});
    await waitForJob(stack.url, jobId);
    await callApi(stack.url, 'PUT', '/api/1/goals', {
      scope: 'product',
      key: other!.sku,
      objective: 'acos',
      targetAcos: 0.06,
    });

    // The shares, by hand: five orders of an even split beside what was sold.
    const rows = await sql<{ sku: string; price: number; sales: number }[]>`
      select p.sku, p.price, coalesce(sum(d.sales), 0)::float8 as sales from product p
      left join sold_day d on d.account_id = 1 and d.sku = p.sku and d.ad_group_id = ${own!.id}::bigint
        and d.day >= (select today from account where account_id = 1) - 90
      where p.account_id = 1 and p.sku in (${own!.sku}, ${other!.sku}) group by p.sku, p.price`;
    const weights = new Map(rows.map(({ sku, price, sales }) => [sku, sales + 2.5 * price]));
    const all = [...weights.values()].reduce((a, b) => a + b, 0);
    const share = weights.get(other!.sku)! / all;

    const { why, window } = await whyOf(own!.id);
    const { working } = why.finding;
    expect(working.mix).toHaveLength(2);
    expect(working.mix!.find(({ sku }) => sku === other!.sku)!.share).toBeCloseTo(share, 6);
    expect(working.targetAcos).toBeCloseTo(share * 0.06 + (1 - share) * alone, 6);
    expect(why.working.find(({ name }) => name === 'Goal of what it sells')?.formula).toContain(other!.sku);
    // Tables say the same goal.
    const table = await callApi<{ rows: { name: string; target_acos: number }[] }>(
      stack.url,
      'POST',
      '/api/1/explore/table',
      { level: 'ad_groups', columns: ['name', 'target_acos'], sort: 'name', limit: 500, window },
    );
    expect(JSON.stringify(table)).toContain(String(working.targetAcos).slice(0, 8));

    const { findings } = await get<{
      findings: { key: string; proposal: { repair: string | null; sentence: string } }[];
    }>('round/wider');
    const named = findings.find(({ key }) => key.startsWith('structure:unlike_products:'));
    expect(named?.proposal.sentence).toContain(other!.sku);
    expect(named?.proposal.repair).toBeNull();
    await expect(
      callApi(stack.url, 'POST', '/api/1/round/accept', { ...window, keys: [named!.key] }),
    ).rejects.toThrow(/has no repair to accept/);
  });
});
