import { type Model, emptyModel } from '../../core/effect/model.ts';
import type { BidChange } from '../../core/effect/learn-response.ts';
import { noMoves, othersMove, type ProductMoves } from '../../core/effect/substitution.ts';
import type { Day } from '../../core/metrics/days.ts';
import type { Database, Transaction } from '../db/connection.ts';
import { setwise } from '../db/setwise.ts';

/** What the account is learned from: its own bid changes, its products' days. */

/** A bid change, and of which product and day it is. */
export interface KnownChange extends Omit<BidChange, 'untouched' | 'overlap'> {
  day: Day;
  campaignId: string;
  sku: string | null;
}

/** Bid changes with a whole week before and after in which nothing else was changed on the target. */
export async function bidChanges(
  sql: Database,
  accountId: number,
  from: Day,
  today: Day,
): Promise<{ changes: KnownChange[]; movesOn: (day: Day) => MovesByProduct | undefined }> {
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
  const products = await campaignProducts(sql, accountId);
  const moves = await productMoves(
    sql,
    accountId,
    [...new Set(rows.map(({ day }) => day))].map(weekAround),
    products,
  );
  const changes = rows.map((row) => {
    const sku = products.get(row.campaign_id) ?? null;
    const own = { clicks: Number(row.clicks_before), move: Math.log(row.ratio) };
    return {
      day: row.day,
      campaignId: row.campaign_id,
      sku,
      ratio: row.ratio,
      paid: row.clicks_before > 0 ? row.spend_before / row.clicks_before / row.old : null,
      before: { days: 7, clicks: row.clicks_before, spend: row.spend_before },
      after: { days: 7, clicks: row.clicks_after, spend: row.spend_after },
      others: othersMove(moves.get(movesKey(weekAround(row.day)))?.get(sku) ?? noMoves, own),
    };
  });
  return { changes, movesOn: (day: Day) => moves.get(movesKey(weekAround(day))) };
}

const weekAround = (on: Day) => ({ on, days: 7 });

export type MovesByProduct = Map<string | null, ProductMoves>;

/** Under which the moves of some days before and after a day are kept. */
export const movesKey = ({ on, days }: { on: Day; days: number }): string => `${on}|${days}`;

/** The moves of one campaign around one day. */
interface MovesRow {
  on: Day;
  days: number;
  campaign_id: string;
  clicks: number;
  moved: number;
  before: number;
  after: number;
}

/**
 * What was done to the bids of every product on some days, with its clicks in so many days before; and the clicks,
 * before and after, of targets whose bids stayed as they were all the while.
 */
export async function productMoves(
  sql: Database,
  accountId: number,
  spans: readonly { on: Day; days: number }[],
  products: ReadonlyMap<string, string>,
): Promise<Map<string, MovesByProduct>> {
  if (spans.length === 0) return new Map<string, MovesByProduct>();
  const rows = await setwise(
    sql,
    (tx) => tx<MovesRow[]>`
    with span as (
      select s.on_day, s.days, s.on_day - s.days as first, s.on_day + s.days as last
      from unnest(${spans.map(({ on }) => on)}::date[], ${spans.map(({ days }) => days)}::int[]) as s (on_day, days)),
    step as (
      select target_id, day, bid::float8 as bid, lag(bid) over (partition by target_id order by day)::float8 as old
      from target_bid where account_id = ${accountId}),
    -- The first bid that is known of a target is no change of it.
    change as (select target_id, day, ln(bid / old) as move from step where old > 0 and bid > 0),
    touched as (
      select distinct s.on_day, s.days, c.target_id from span s join change c on c.day between s.first and s.last),
    part as (
      select s.on_day, s.days, d.target_id, sum(d.clicks) filter (where d.day < s.on_day)::float8 as before,
        sum(d.clicks) filter (where d.day > s.on_day)::float8 as after
      from span s join target_day d on d.account_id = ${accountId} and d.day between s.first and s.last
      group by s.on_day, s.days, d.target_id)
    select p.on_day::text as on, p.days, g.campaign_id::text, coalesce(sum(p.before), 0) as clicks,
      coalesce(sum(p.before * c.move), 0) as moved,
      coalesce(sum(p.before) filter (where u.target_id is null), 0) as before,
      coalesce(sum(p.after) filter (where u.target_id is null), 0) as after
    from part p
    join target t on t.account_id = ${accountId} and t.target_id = p.target_id
    join ad_group g on g.account_id = t.account_id and g.ad_group_id = t.ad_group_id
    left join change c on c.target_id = p.target_id and c.day = p.on_day
    left join touched u on u.on_day = p.on_day and u.days = p.days and u.target_id = p.target_id
    group by p.on_day, p.days, g.campaign_id`,
  );
  const made = new Map<string, MovesByProduct>();
  for (const { on, days, campaign_id, clicks, moved, before, after } of rows) {
    const sku = products.get(campaign_id) ?? null;
    const key = movesKey({ on, days });
    let day = made.get(key);
    if (!day) made.set(key, (day = new Map<string | null, ProductMoves>()));
    let product = day.get(sku);
    if (!product) day.set(sku, (product = { clicks: 0, moved: 0, untouched: { before: 0, after: 0 } }));
    product.clicks += clicks;
    product.moved += moved;
    product.untouched.before += before;
    product.untouched.after += after;
  }
  return made;
}

/** Keeps the stock of every product as it stands on a day. */
export async function keepStock(sql: Database | Transaction, accountId: number, day: Day): Promise<void> {
  await sql`
    insert into product_stock (account_id, sku, day, stock, price)
    select account_id, sku, ${day}::date, stock, price from product
    where account_id = ${accountId} and stock is not null
    on conflict (account_id, sku, day) do update set stock = excluded.stock, price = excluded.price`;
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
  until: Day | null = null,
): Promise<{ day: Day; body: Record<string, unknown> } | undefined> {
  const [row] = await sql<{ day: Day; body: Record<string, unknown> }[]>`
    select day::text as day, body from model
    where account_id = ${accountId} and (${until}::date is null or day <= ${until}) order by day desc limit 1`;
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

/** What was learned of the account last, or until a day; what is usual before. */
export async function modelOf(sql: Database, accountId: number, until: Day | null = null): Promise<Model> {
  const newest = await newestModel(sql, accountId, until);
  return { ...emptyModel, ...(newest?.body as Partial<Model> | undefined) };
}

/** The day on which the bid of each ad group was changed last, by a sheet or elsewhere. */
export async function defaultBidChanges(sql: Database, accountId: number): Promise<Map<string, Day>> {
  const rows = await sql<{ ad_group_id: string; day: Day }[]>`
    select ad_group_id, max(day) as day from (
      select l.object_id as ad_group_id, s.sent_on as day from line l join sheet s using (account_id, sheet_id)
      where l.account_id = ${accountId} and l.entity = 'ad_group' and l.field = 'default_bid' and l.action = 'update'
        and l.state = 'applied' and s.sent_on is not null
      union all
      select object_id::text, day from outside_change
      where account_id = ${accountId} and entity = 'ad_group' and field = 'default_bid') c
    group by ad_group_id`;
  return new Map(rows.map(({ ad_group_id: id, day }) => [id, day]));
}
