import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { callApi } from '../../scripts/lib/processes.ts';
import type { IdleAnswer, ToleranceRow } from '../../src/answers/idle.ts';
import type { QueueAnswer } from '../../src/answers/round.ts';
import { addDays } from '../../src/core/metrics/days.ts';
import { connect, type Database } from '../../src/server/db/connection.ts';
import { startStack, type Stack } from '../support/stack.ts';

/** What costs and sells nothing, and losses that are borne on purpose, held against plain SQL. */

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
const tolerate = (entries: object[]) => callApi(stack.url, 'PUT', '/api/1/idle/tolerances', { entries });
const queue = () => get<QueueAnswer>('round/queue');

describe('without orders', () => {
  test.each([14, 30, 60])('targets over %i settled days are those of the raw days', async (span) => {
    const { settledTo } = await queue();
    const answer = await get<IdleAnswer>(`idle?span=${span}&limit=5000`);
    const raw = await sql<{ id: string; clicks: number; spend: number }[]>`
      select d.target_id::text as id, sum(d.clicks)::int as clicks, sum(d.spend)::bigint as spend
      from target_day d join target t using (account_id, target_id) join ad_group g using (account_id, ad_group_id)
      join campaign c using (account_id, campaign_id), (select today from account where account_id = 1) a
      where d.account_id = 1 and d.day > ${settledTo!}::date - ${span}::int and d.day <= ${settledTo}
        and t.status = 'enabled' and g.status = 'enabled' and c.status = 'enabled'
        and coalesce(c.end_date, a.today) >= a.today and coalesce(c.start_date, a.today) <= a.today
      group by 1 having sum(d.clicks) > 0 and sum(d.orders) = 0 order by 3 desc, 1`;
    expect(answer.count).toBe(raw.length);
    expect(answer.spend).toBe(raw.reduce((sum, { spend }) => sum + spend, 0));
    expect(new Map(answer.rows.map(({ key, clicks, spend }) => [key, [clicks, spend]]))).toEqual(
      new Map(raw.map(({ id, clicks, spend }) => [id, [clicks, spend]])),
    );
    for (const { sold, clicks } of answer.rows) {
      expect(sold).toBeGreaterThan(0);
      expect(sold).toBeLessThan(1);
      if (clicks > 100) expect(sold).toBeGreaterThan(0.5);
    }
  });

  test('since its last change: only days after it count', async () => {
    const [target] = await sql<{ id: string; day: string }[]>`
      select d.target_id::text as id, max(d.day) as day from target_day d join target t using (account_id, target_id)
      where d.account_id = 1 and t.status = 'enabled' and d.orders > 0 and d.day < (select max(day) - 12 from target_day)
      group by d.target_id, t.bid_changed_on having sum(d.clicks) > 0 limit 1`;
    const [before] = await sql<{ changed: string | null }[]>`
      select bid_changed_on as changed from target where target_id = ${target!.id}`;
    await sql`update target set bid_changed_on = ${target!.day} where account_id = 1 and target_id = ${target!.id}`;
    await sql`update account set data_version = data_version + 1`;
    const [raw] = await sql<{ clicks: number; orders: number }[]>`
      select coalesce(sum(clicks), 0)::int as clicks, coalesce(sum(orders), 0)::int as orders from target_day
      where account_id = 1 and target_id = ${target!.id} and day > ${target!.day}`;
    const { rows } = await get<IdleAnswer>('idle?span=change&limit=5000');
    const row = rows.find(({ key }) => key === target!.id);
    if (raw!.clicks > 0 && raw!.orders === 0) expect(row!.clicks).toBe(raw!.clicks);
    else expect(row).toBeUndefined();
    await sql`update target set bid_changed_on = ${before!.changed} where target_id = ${target!.id}`;
    await sql`update account set data_version = data_version + 1`;
  });

  test('terms: found by text, none that a negative blocks; what is no span is refused', async () => {
    const all = await get<IdleAnswer>('idle?level=terms&span=60');
    expect(all.count).toBeGreaterThan(100);
    const canning = await get<IdleAnswer>('idle?level=terms&span=60&text=canning');
    expect(canning.count).toBeGreaterThan(0);
    expect(canning.rows.every(({ name }) => name.includes('canning'))).toBe(true);
    await expect(get('idle?span=15')).rejects.toThrow();
  });
});

describe('tolerated losses', () => {
  const cut = async () => {
    const { findings } = await queue();
    return findings.find(
      ({ queue: of, proposal, sums, targetAcos }) =>
        of === 'targets' &&
        proposal.kind === 'bid' &&
        proposal.to < proposal.from &&
        sums !== null &&
        sums.spend > targetAcos * sums.sales + 20_000_000,
    )!;
  };

  test('are out of the queue and in the total, and back when the loss is greater or the time is over', async () => {
    const before = await queue();
    const { key, sums, targetAcos } = await cut();
    await tolerate([{ findingKey: key, tolerance: { amount: null, reason: 'holds its rank', until: null } }]);
    const [row] = await get<ToleranceRow[]>('idle/tolerances');
    // Thirty settled days are the window of the round: its own figures say what it loses.
    const loss = Math.round(((sums!.spend - targetAcos * sums!.sales) / 30) * 7);
    expect(row).toMatchObject({ findingKey: key, reason: 'holds its rank', back: null });
    expect(Math.abs(row!.loss - loss)).toBeLessThanOrEqual(1);
    expect(row!.amount).toBe(Math.ceil((row!.loss * 1.2) / 10_000) * 10_000);
    const held = await queue();
    expect(held.findings.some((finding) => finding.key === key)).toBe(false);
    expect(held.left).toBe(before.left - 1);
    expect(held.tolerated).toEqual({ count: 1, loss: row!.loss });

    // Less is tolerated than it loses: it is back.
    await tolerate([{ findingKey: key, tolerance: { amount: 10_000, reason: 'less', until: null } }]);
    expect((await get<ToleranceRow[]>('idle/tolerances'))[0]).toMatchObject({
      back: 'beyond',
      amount: 10_000,
    });
    expect((await queue()).findings.some((finding) => finding.key === key)).toBe(true);

    // Its time is over: the account's day goes past it.
    const until = before.today;
    await tolerate([{ findingKey: key, tolerance: { amount: 900_000_000, reason: 'until today', until } }]);
    expect((await queue()).findings.some((finding) => finding.key === key)).toBe(false);
    await sql`update tolerance set until = ${addDays(until, -1)}`;
    await sql`update account set data_version = data_version + 1`;
    expect((await get<ToleranceRow[]>('idle/tolerances'))[0]).toMatchObject({ back: 'over' });
    expect((await queue()).findings.some((finding) => finding.key === key)).toBe(true);

    await tolerate([{ findingKey: key, tolerance: null }]);
    expect(await get<ToleranceRow[]>('idle/tolerances')).toEqual([]);
    expect((await queue()).left).toBe(before.left);
  });

  test('a term is borne in its ad group; a raise is shown whatever is tolerated', async () => {
    const { findings } = await queue();
    const raise = findings.find(
      ({ queue: of, proposal }) => of === 'targets' && proposal.kind === 'bid' && proposal.to > proposal.from,
    )!;
    const negative = findings.find(({ proposal }) => proposal.kind === 'negative')!;
    const tolerance = { amount: 900_000_000, reason: 'wanted', until: null };
    await tolerate([raise.key, negative.key].map((findingKey) => ({ findingKey, tolerance })));
    const keys = (await queue()).findings.map(({ key }) => key);
    expect(keys).toContain(raise.key);
    expect(keys).not.toContain(negative.key);
    const rows = await get<ToleranceRow[]>('idle/tolerances');
    expect(rows.find(({ findingKey }) => findingKey === negative.key)).toMatchObject({
      name: negative.subject,
    });
    await tolerate([raise.key, negative.key].map((findingKey) => ({ findingKey, tolerance: null })));
  });

  test('what is not there, a day that is over, no reason: nothing is kept', async () => {
    const { key } = await cut();
    const tolerance = { amount: 1_000_000, reason: 'x', until: null };
    await expect(
      tolerate([
        { findingKey: key, tolerance },
        { findingKey: 'target:999999:bid', tolerance },
      ]),
    ).rejects.toThrow('not there any more');
    await expect(
      tolerate([{ findingKey: key, tolerance: { ...tolerance, until: '2020-01-01' } }]),
    ).rejects.toThrow('is over');
    await expect(tolerate([{ findingKey: key, tolerance: { ...tolerance, reason: ' ' } }])).rejects.toThrow();
    expect(await get<ToleranceRow[]>('idle/tolerances')).toEqual([]);
  });
});
