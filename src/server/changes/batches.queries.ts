import { byHashing } from '../db/setwise.ts';
import { applyFields } from './fields.queries.ts';
import { keepPlanned } from './planned.queries.ts';
import type { Database, Transaction } from '../db/connection.ts';

/** Lines on their way to the marketplace, and what it answered. */

/** Ids of objects at the marketplace for our own ids. */
export async function marketplaceIds(
  sql: Database | Transaction,
  accountId: number,
): Promise<Map<string, string>> {
  const rows = await sql<{ key: string; ext_id: string }[]>`
    select 'campaign:' || campaign_id as key, ext_id from campaign where account_id = ${accountId} and ext_id is not null
    union all select 'ad_group:' || ad_group_id, ext_id from ad_group where account_id = ${accountId} and ext_id is not null
    union all select 'target:' || target_id, ext_id from target where account_id = ${accountId} and ext_id is not null
    union all select 'negative:' || negative_id, ext_id from negative where account_id = ${accountId} and ext_id is not null
    union all select kind || ':' || creative_id, ext_id from creative where account_id = ${accountId}`;
  return new Map(rows.map((row) => [row.key, row.ext_id]));
}

export interface BatchRow {
  batch_id: string;
  position: number;
  body: unknown;
  answered_at: Date | null;
}

export async function insertBatch(
  tx: Transaction,
  accountId: number,
  sheetId: number,
  batchId: string,
  position: number,
  body: unknown,
  lineIds: number[],
): Promise<void> {
  await tx`
    insert into batch (account_id, batch_id, sheet_id, position, body)
    values (${accountId}, ${batchId}, ${sheetId}, ${position}, ${tx.json(body as never)})`;
  await tx`
    update line set state = 'sending', batch_id = ${batchId}
    where account_id = ${accountId} and line_id = any(${lineIds}::bigint[])`;
}

export async function batchesOf(sql: Database, accountId: number, sheetId: number): Promise<BatchRow[]> {
  return sql<BatchRow[]>`
    select batch_id, position, body, answered_at from batch
    where account_id = ${accountId} and sheet_id = ${sheetId} order by position`;
}

/** Keeps what came back for one batch, and brings applied lines into the account as it stands. */
export async function keepAnswers(
  tx: Transaction,
  accountId: number,
  batchId: string,
  today: string,
  answers: {
    line_id: string;
    state: string;
    id?: string;
    code?: string;
    message?: string;
    live_value?: string;
  }[],
): Promise<void> {
  const list = tx.json(answers as never);
  await byHashing(tx, async () => {
    await tx`
    update line l set state = a.state, code = a.code, message = a.message, live_value = a.live_value,
      made_ext = case when a.state = 'applied' and l.action = 'create' then a.id end
    from jsonb_to_recordset(${list})
      as a (line_id text, state text, id text, code text, message text, live_value text)
    where l.account_id = ${accountId} and l.batch_id = ${batchId} and l.line_id = a.line_id::bigint`;
  });
  await keepPlanned(tx, accountId, batchId);
  await applyFields(tx, accountId, batchId, today);
  await byHashing(tx, async () => {
    await keepMade(tx, accountId, batchId, today, list);
  });
  await tx`
    with answered as (
      update batch set answered_at = now() where account_id = ${accountId} and batch_id = ${batchId} returning sheet_id)
    update sheet s set version = version + 1 from answered a where s.account_id = ${accountId} and s.sheet_id = a.sheet_id`;
}

/** Where a line stands is there: what is told of the lines of a kit by hand may leave its campaign out. */
const stands = (tx: Transaction) => tx`
  exists (select 1 from campaign c where c.account_id = l.account_id and c.campaign_id = l.campaign_id::bigint)
  and (l.ad_group_id is null or exists (
    select 1 from ad_group g where g.account_id = l.account_id and g.ad_group_id = l.ad_group_id::bigint))`;

/** Objects that a batch made, with the numbers that the marketplace gave them. */
async function keepMade(
  tx: Transaction,
  accountId: number,
  batchId: string,
  today: string,
  list: ReturnType<Transaction['json']>,
): Promise<void> {
  await tx`
    insert into negative (account_id, campaign_id, ad_group_id, ext_id, match_type, expression)
    select ${accountId}, l.campaign_id::bigint, l.ad_group_id::bigint, a.id, l.match_type, l.expression
    from jsonb_to_recordset(${list}) as a (line_id text, state text, id text)
    join line l on l.account_id = ${accountId} and l.batch_id = ${batchId} and l.line_id = a.line_id::bigint
    where a.state = 'applied' and l.entity = 'negative' and l.action = 'create' and ${stands(tx)}
    on conflict (account_id, ext_id) do nothing`;
  await tx`
    with made as (
      insert into target (account_id, ad_group_id, ext_id, kind, match_type, expression, bid)
      select ${accountId}, l.ad_group_id::bigint, a.id, l.target_kind, l.match_type, l.expression, l.new_value::bigint
      from jsonb_to_recordset(${list}) as a (line_id text, state text, id text)
      join line l on l.account_id = ${accountId} and l.batch_id = ${batchId} and l.line_id = a.line_id::bigint
      where a.state = 'applied' and l.entity = 'target' and l.action = 'create' and ${stands(tx)}
      on conflict (account_id, ext_id) do nothing returning target_id, bid)
    insert into target_bid select ${accountId}, target_id, ${today}::date, bid from made on conflict do nothing`;
  await tx`
    insert into creative (account_id, ad_group_id, ext_id, kind, value)
    select ${accountId}, l.ad_group_id::bigint, a.id, l.entity, l.expression
    from jsonb_to_recordset(${list}) as a (line_id text, state text, id text)
    join line l on l.account_id = ${accountId} and l.batch_id = ${batchId} and l.line_id = a.line_id::bigint
    where a.state = 'applied' and a.id is not null and l.entity in ('picture', 'title', 'left_out')
      and l.action = 'create' and ${stands(tx)}
    on conflict (account_id, ext_id) do nothing`;
  await tx`
    update creative v set status = 'archived' from line l
    where l.account_id = ${accountId} and l.batch_id = ${batchId} and l.state = 'applied' and l.action = 'archive'
      and l.entity in ('picture', 'title', 'left_out') and v.account_id = l.account_id
      and v.creative_id = l.object_id::bigint`;
  // A created object's own id, so that its line can be reverted and its effect read.
  await tx`
    update line l set object_id = coalesce(
      (select t.target_id::text from target t where l.entity = 'target' and t.account_id = l.account_id and t.ext_id = a.id),
      (select n.negative_id::text from negative n where l.entity = 'negative' and n.account_id = l.account_id and n.ext_id = a.id),
      (select v.creative_id::text from creative v where l.entity = v.kind and v.account_id = l.account_id and v.ext_id = a.id),
      case l.entity when 'campaign' then l.campaign_id when 'ad_group' then l.ad_group_id end)
    from jsonb_to_recordset(${list}) as a (line_id text, state text, id text)
    where l.account_id = ${accountId} and l.batch_id = ${batchId} and l.line_id = a.line_id::bigint
      and a.state = 'applied' and l.action = 'create'`;
}

/** Gives lines of a batch that made something the number of what they made, where the marketplace told no id of it. */
export async function nameCreated(tx: Transaction, accountId: number, batchId: string): Promise<void> {
  await tx`
    update line l set object_id = coalesce(
      (select max(t.target_id)::text from target t where l.entity = 'target' and t.account_id = l.account_id
        and t.ad_group_id = l.ad_group_id::bigint and t.expression = l.expression
        and t.match_type is not distinct from l.match_type),
      (select max(n.negative_id)::text from negative n where l.entity = 'negative' and n.account_id = l.account_id
        and n.campaign_id = l.campaign_id::bigint and n.ad_group_id is not distinct from l.ad_group_id::bigint
        and n.expression = l.expression and n.match_type = l.match_type),
      case l.entity when 'campaign' then l.campaign_id when 'ad_group' then l.ad_group_id end)
    where l.account_id = ${accountId} and l.batch_id = ${batchId} and l.state = 'applied' and l.action = 'create'
      and l.object_id is null`;
}

/** Bids of targets by their numbers, for lines that make them anew. */
export async function bidsOf(
  tx: Transaction,
  accountId: number,
  targetIds: readonly string[],
): Promise<Map<string, number | null>> {
  const rows = await tx<{ target_id: string; bid: number | null }[]>`
    select target_id::text as target_id, bid from target
    where account_id = ${accountId} and target_id = any(${targetIds as string[]}::bigint[])`;
  return new Map(rows.map(({ target_id, bid }) => [target_id, bid]));
}
