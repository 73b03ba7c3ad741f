import type { Day, Window } from '../../core/metrics/days.ts';
import type { Micros } from '../../core/metrics/money.ts';
import type { KeptTest } from '../../core/testing/plan.ts';
import { testDays } from '../../core/testing/plan.ts';
import type { Database, Transaction } from '../db/connection.ts';

/** Tests as their lines were applied; the newest first. */
const applied = (sql: Database | Transaction, accountId: number) => sql`
  select l.line_id, l.object_id::bigint as target_id, l.old_value::bigint as old_bid, l.new_value::bigint as new_bid, l.test,
    s.sent_on, s.sent_on + 1 as since, coalesce((
      select min(b.day) from target_bid b
      where b.account_id = l.account_id and b.target_id = l.object_id::bigint and b.bid <> l.new_value::bigint
        and b.day > s.sent_on and b.day <= s.sent_on + ${testDays}::int) - 1, s.sent_on + ${testDays}::int) as until
  from line l join sheet s using (account_id, sheet_id)
  where l.account_id = ${accountId} and l.test is not null and l.state = 'applied' and s.sent_on is not null`;

/** Tests that are not over on a day, by target, with what they have spent on so many days. */
export async function runningTests(
  sql: Database | Transaction,
  accountId: number,
  today: Day,
): Promise<{ target_id: string; until: Day; test: KeptTest; spent: Micros; days: number }[]> {
  return sql<{ target_id: string; until: Day; test: KeptTest; spent: Micros; days: number }[]>`
    with running as materialized (
      select target_id, max(until) as until, max(since) as since, (array_agg(test order by line_id desc))[1] as test
      from (${applied(sql, accountId)} and s.sent_on + ${testDays}::int >= ${today}::date) t
      where until >= ${today}::date group by target_id)
    select r.target_id::text, r.until, r.test, ${today}::date - r.since + 1 as days, coalesce((
      select sum(d.spend) from target_day d
      where d.account_id = ${accountId} and d.target_id = r.target_id and d.day >= r.since), 0)::bigint as spent
    from running r`;
}

export interface TestLine {
  line_id: number;
  target_id: string;
  expression: string;
  match_type: string | null;
  kind: string;
  ad_group: string;
  campaign: string;
  sku: string | null;
  old_bid: Micros;
  new_bid: Micros;
  test: KeptTest;
  sent_on: Day;
  since: Day;
  until: Day;
  clicks: number;
  orders: number;
  spend: Micros;
  sales: Micros;
}

/** Every test with what it brought in its days, the newest first. */
export async function testLines(sql: Database, accountId: number, most: number): Promise<TestLine[]> {
  return sql<TestLine[]>`
    with tests as materialized (${applied(sql, accountId)} order by s.sent_on desc, l.line_id desc limit ${most})
    select x.line_id, x.target_id::text, t.expression, t.match_type, t.kind, g.name as ad_group, c.name as campaign,
      (select min(a.sku) from product_ad a where a.account_id = g.account_id and a.ad_group_id = g.ad_group_id) as sku,
      x.old_bid, x.new_bid, x.test, x.sent_on, x.since, x.until,
      coalesce(sum(d.clicks), 0)::int as clicks, coalesce(sum(d.orders), 0)::int as orders,
      coalesce(sum(d.spend), 0)::bigint as spend, coalesce(sum(d.sales), 0)::bigint as sales
    from tests x join target t on t.account_id = ${accountId} and t.target_id = x.target_id
    join ad_group g on g.account_id = t.account_id and g.ad_group_id = t.ad_group_id
    join campaign c on c.account_id = g.account_id and c.campaign_id = g.campaign_id
    left join target_day d on d.account_id = t.account_id and d.target_id = t.target_id
      and d.day between x.since and x.until
    group by x.line_id, x.target_id, t.expression, t.match_type, t.kind, g.account_id, g.ad_group_id, g.name, c.name,
      x.old_bid, x.new_bid, x.test, x.sent_on, x.since, x.until
    order by x.sent_on desc, x.line_id desc`;
}

/** What all targets spent over some days, micros. */
export async function spendOf(sql: Database, accountId: number, { from, to }: Window): Promise<Micros> {
  const [row] = await sql<{ spend: Micros }[]>`
    select coalesce(sum(spend), 0)::bigint as spend from target_day
    where account_id = ${accountId} and day between ${from} and ${to}`;
  return row!.spend;
}

export async function setShare(tx: Transaction, accountId: number, share: number): Promise<void> {
  await tx`
    update account set testing_share = ${share}, goals_version = goals_version + 1 where account_id = ${accountId}`;
}
