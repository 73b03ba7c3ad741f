import { type Model, emptyModel } from '../../core/effect/model.ts';
import { trendOf, type BidChange } from '../../core/effect/response.ts';
import type { Day } from '../../core/metrics/days.ts';
import type { Database, Transaction } from '../db/connection.ts';

/** What the account is learned from: its own bid changes, its products' days. */

/** Bid changes with a whole week before and after in which nothing else was changed on the target. */
export async function bidChanges(
  sql: Database,
  accountId: number,
  from: Day,
  today: Day,
): Promise<(BidChange & { day: Day; campaignId: string })[]> {
  const rows = await sql<
    {
      day: Day;
      campaign_id: string;
      ratio: number;
      old: number;
      clicks_before: number;
      spend_before: number;
      clicks_after: number;
      spend_after: number;
    }[]
  >`
    with steps as (
      select target_id, day, bid, lag(bid) over w as old, lag(day) over w as prev, lag(day, 2) over w as first,
        lead(day) over w as next
      from target_bid where account_id = ${accountId} window w as (partition by target_id order by day)),
    -- What stood first was there before it was first seen.
    c as (
      select target_id, day, bid::float8 / old as ratio, old::float8 as old from steps
      where old > 0 and bid > 0 and bid <> old and (first is null or prev <= day - 7)
        and (next is null or next >= day + 7) and day between ${from}::date and ${today}::date - 7)
    select c.day, g.campaign_id::text, c.ratio, c.old,
      coalesce(sum(d.clicks) filter (where d.day < c.day), 0) as clicks_before,
      coalesce(sum(d.spend) filter (where d.day < c.day), 0)::bigint as spend_before,
      coalesce(sum(d.clicks) filter (where d.day > c.day), 0) as clicks_after,
      coalesce(sum(d.spend) filter (where d.day > c.day), 0)::bigint as spend_after
    from c
    join target t on t.account_id = ${accountId} and t.target_id = c.target_id
    join ad_group g on g.account_id = t.account_id and g.ad_group_id = t.ad_group_id
    join target_day d on d.account_id = t.account_id and d.target_id = c.target_id
      and d.day between c.day - 7 and c.day + 7 and d.day between ${from}::date - 7 and ${today}
    group by c.target_id, c.day, g.campaign_id, c.ratio, c.old
    having sum(d.clicks) > 0`;
  const trends = await untouchedTrends(sql, accountId, [...new Set(rows.map(({ day }) => day))]);
  return rows.map((row) => ({
    day: row.day,
    campaignId: row.campaign_id,
    ratio: row.ratio,
    paid: row.clicks_before > 0 ? row.spend_before / row.clicks_before / row.old : null,
    before: { days: 7, clicks: row.clicks_before, spend: row.spend_before },
    after: { days: 7, clicks: row.clicks_after, spend: row.spend_after },
    trend: trends.get(row.day) ?? 1,
  }));
}

/** Clicks in the week after some days over those in the week before, of targets that nobody changed meanwhile. */
async function untouchedTrends(sql: Database, accountId: number, days: Day[]): Promise<Map<Day, number>> {
  const rows = await sql<{ day: Day; before: number; after: number }[]>`
    select c.day::text as day, coalesce(sum(d.clicks) filter (where d.day < c.day), 0)::float8 as before,
      coalesce(sum(d.clicks) filter (where d.day > c.day), 0)::float8 as after
    from unnest(${days}::date[]) as c (day)
    join target_day d on d.account_id = ${accountId} and d.day between c.day - 7 and c.day + 7
    where not exists (
      select 1 from target_bid b where b.account_id = ${accountId} and b.target_id = d.target_id
        and b.day between c.day - 7 and c.day + 7)
    group by c.day`;
  return new Map(rows.map(({ day, before, after }) => [day, trendOf(before ?? 0, after ?? 0)]));
}

/** Keeps the stock of every product as it stands on a day. */
export async function keepStock(sql: Database | Transaction, accountId: number, day: Day): Promise<void> {
  await sql`
    insert into product_stock select account_id, sku, ${day}::date, stock from product
    where account_id = ${accountId} and stock is not null
    on conflict (account_id, sku, day) do update set stock = excluded.stock`;
}

/** Clicks and spend of each target over some days, with its clicks times the bid in force. */
export async function clicksSince(
  sql: Database,
  accountId: number,
  from: Day,
  to: Day,
): Promise<{ targetId: string; clicks: number; spend: number; bids: number }[]> {
  return sql`
    with force as (
      select target_id, bid,
        case when row_number() over by_day = 1 then '-infinity'::date else day end as after,
        coalesce(lead(day) over by_day, 'infinity'::date) as until
      from target_bid where account_id = ${accountId}
      window by_day as (partition by target_id order by day))
    select d.target_id::text as "targetId", sum(d.clicks)::float8 as clicks, sum(d.spend)::float8 as spend,
      sum(d.clicks * coalesce(force.bid, t.bid, 0))::float8 as bids
    from target_day d join target t on t.account_id = d.account_id and t.target_id = d.target_id
    left join force on force.target_id = d.target_id and d.day > force.after and d.day <= force.until
    where d.account_id = ${accountId} and d.day between ${from} and ${to} and d.clicks > 0
    group by d.target_id`;
}

/** The newest that was learned of the account; undefined before anything was. */
export async function newestModel(
  sql: Database,
  accountId: number,
): Promise<{ day: Day; body: Record<string, unknown> } | undefined> {
  const [row] = await sql<{ day: Day; body: Record<string, unknown> }[]>`
    select day::text as day, body from model where account_id = ${accountId} order by day desc limit 1`;
  return row;
}

export async function modelDays(
  sql: Database,
  accountId: number,
): Promise<{ day: Day; body: Record<string, unknown> }[]> {
  return sql`select day::text as day, body from model where account_id = ${accountId} order by day`;
}

export async function keepModel(
  sql: Database | Transaction,
  accountId: number,
  day: Day,
  body: object,
): Promise<void> {
  await sql`
    insert into model (account_id, day, body) values (${accountId}, ${day}, ${sql.json(body as never)})
    on conflict (account_id, day) do update set body = excluded.body`;
}

export async function wordEffectsOf(sql: Database, accountId: number): Promise<Map<string, number>> {
  const rows = await sql<{ word: string; beta: number }[]>`
    select word, beta from word_effect where account_id = ${accountId}`;
  return new Map(rows.map(({ word, beta }) => [word, beta]));
}

/** Replaces what words tell. */
export async function keepWordEffects(
  tx: Transaction,
  accountId: number,
  effects: [word: string, beta: number][],
): Promise<void> {
  await tx`delete from word_effect where account_id = ${accountId}`;
  await tx`
    insert into word_effect
    select ${accountId}, word, beta from unnest(${effects.map(([word]) => word)}::text[],
      ${effects.map(([, beta]) => beta)}::float8[]) as e (word, beta)`;
}

/** The product that most ad groups of a campaign advertise. */
export async function campaignProducts(sql: Database, accountId: number): Promise<Map<string, string>> {
  const rows = await sql<{ campaign_id: string; sku: string }[]>`
    select g.campaign_id::text, min(p.sku) as sku
    from ad_group g join product_ad p on p.account_id = g.account_id and p.ad_group_id = g.ad_group_id
    where g.account_id = ${accountId} group by g.campaign_id`;
  return new Map(rows.map(({ campaign_id, sku }) => [campaign_id, sku]));
}

/** What was learned of the account last; what is usual before. */
export async function modelOf(sql: Database, accountId: number): Promise<Model> {
  const newest = await newestModel(sql, accountId);
  return { ...emptyModel, ...(newest?.body as Partial<Model> | undefined) };
}
