import type { NegativeType } from '../../core/account/store.ts';
import { applyFields, nowValue, withObjects } from './fields.queries.ts';
import type { LineDraft } from '../../core/changes/lines.ts';
import type { Effect } from '../../core/effect/types.ts';
import type { Database, Transaction } from '../db/connection.ts';
import { copyInto, copyText, inPieces } from '../db/copy.ts';

export interface LineRow {
  line_id: number;
  sheet_id: number;
  group_key: string;
  finding_key: string | null;
  action: LineDraft['action'];
  entity: LineDraft['entity'];
  object_id: string | null;
  campaign_id: string;
  ad_group_id: string | null;
  field: string;
  old_value: string | null;
  new_value: string | null;
  target_kind: string | null;
  match_type: string | null;
  expression: string | null;
  /** Of the harvest that it is a part of; null for all others. */
  harvest: string | null;
  reason: string;
  proposed_by: string;
  effect: Effect | null;
  conflict_key: string;
  state: 'open' | 'removed' | 'sending' | 'applied' | 'refused';
  code: string | null;
  message: string | null;
  live_value: string | null;
  /** Counts the edits: an edit names the one that it saw. */
  version: number;
  batch_id: string | null;
  reverts: number | null;
  created_at: Date;
}

/** A line with the names of what it changes and the live value of its field. */
export interface NamedLine extends LineRow {
  campaign: string;
  ad_group: string | null;
  /** Ids of the marketplace. */
  campaign_ext: string | null;
  ad_group_ext: string | null;
  object_ext: string | null;
  now_value: string | null;
}

export async function openSheetId(sql: Database | Transaction, accountId: number): Promise<number> {
  const [known] = await sql<{ sheet_id: number }[]>`
    select sheet_id from sheet where account_id = ${accountId} and state = 'open'`;
  if (known) return known.sheet_id;
  const [made] = await sql<{ sheet_id: number }[]>`
    insert into sheet (account_id, state, created_at) values (${accountId}, 'open', now())
    on conflict do nothing returning sheet_id`;
  return made ? made.sheet_id : openSheetId(sql, accountId);
}

/**
 * The open sheet, locked until the transaction ends: whoever changes its lines and whoever sends it take turns, so
 * that no line is added to a sheet that has left, and none leaves that was taken off.
 */
export async function lockOpenSheet(tx: Transaction, accountId: number): Promise<number> {
  for (;;) {
    const [known] = await tx<{ sheet_id: number }[]>`
      update sheet set version = version + 1 where account_id = ${accountId} and state = 'open' returning sheet_id`;
    if (known) return known.sheet_id;
    await tx`
      insert into sheet (account_id, state, created_at) values (${accountId}, 'open', now()) on conflict do nothing`;
  }
}

/** Negatives that open lines would make: what is settled once the sheet has left. */
export async function openNegatives(
  sql: Database,
  accountId: number,
): Promise<{ place: string; matchType: NegativeType; expression: string }[]> {
  return sql`
    select coalesce(l.ad_group_id, l.campaign_id) as place, l.match_type as "matchType", l.expression
    from line l join sheet s using (account_id, sheet_id)
    where l.account_id = ${accountId} and s.state in ('open', 'sending') and l.state in ('open', 'sending')
      and l.entity = 'negative' and l.action = 'create'`;
}

export async function openFindingKeys(sql: Database, accountId: number): Promise<string[]> {
  const rows = await sql<{ finding_key: string }[]>`
    select distinct l.finding_key from line l join sheet s using (account_id, sheet_id)
    where l.account_id = ${accountId} and s.state in ('open', 'sending') and l.state in ('open', 'sending')
      and l.finding_key is not null`;
  return rows.map((row) => row.finding_key);
}

/** Open lines under these conflict keys. */
export async function linesUnder(
  tx: Transaction,
  accountId: number,
  sheetId: number,
  keys: string[],
): Promise<{ line_id: number; conflict_key: string; new_value: string | null; action: string }[]> {
  return tx`
    select line_id, conflict_key, new_value, action from line
    where account_id = ${accountId} and sheet_id = ${sheetId} and state = 'open'
      and conflict_key = any(${keys}::text[])`;
}

export type NewLine = Omit<
  LineRow,
  'line_id' | 'state' | 'code' | 'message' | 'live_value' | 'version' | 'batch_id' | 'created_at'
>;

const lineColumns = [
  'sheet_id',
  'group_key',
  'finding_key',
  'action',
  'entity',
  'object_id',
  'campaign_id',
  'ad_group_id',
  'field',
  'old_value',
  'new_value',
  'target_kind',
  'match_type',
  'expression',
  'harvest',
  'reason',
  'proposed_by',
  'conflict_key',
  'reverts',
] as const satisfies (keyof NewLine)[];

/** From so many lines on they are written by COPY; a few are a statement like any other. */
const worthCopying = 1000;

/** Puts lines onto their sheets, any number of them; their numbers in their order. */
export const insertLines = (tx: Transaction, accountId: number, lines: NewLine[]): Promise<number[]> =>
  lines.length < worthCopying ? insertFew(tx, accountId, lines) : copyMany(tx, accountId, lines);

async function insertFew(tx: Transaction, accountId: number, lines: NewLine[]): Promise<number[]> {
  if (lines.length === 0) return [];
  const now = new Date();
  const rows = lines.map((line) => ({
    account_id: accountId,
    ...line,
    effect: line.effect === null ? null : tx.json(line.effect as never),
    created_at: now,
  }));
  const made = await tx<{ line_id: number }[]>`insert into line ${tx(rows as never[])} returning line_id`;
  return made.map(({ line_id }) => line_id);
}

async function copyMany(tx: Transaction, accountId: number, lines: NewLine[]): Promise<number[]> {
  // Numbers are drawn first: COPY tells none, and writes tens of thousands of lines in a second.
  const [drawn] = await tx<{ ids: string }[]>`
    with numbers as materialized (select pg_get_serial_sequence('line', 'line_id')::regclass as own)
    select string_agg(nextval(own)::text, ',') as ids from numbers, generate_series(1, ${lines.length}::int)`;
  const ids = drawn!.ids.split(',').map(Number);
  const now = new Date().toISOString();
  const texts = lines.map((line, i) => {
    const effect = line.effect === null ? null : JSON.stringify(line.effect);
    const values = [accountId, ids[i]!, now, effect, ...lineColumns.map((name) => line[name])];
    return `${values.map(copyText).join('\t')}\n`;
  });
  const columns = ['account_id', 'line_id', 'created_at', 'effect', ...lineColumns];
  await copyInto(tx, 'line', inPieces(texts), columns);
  return ids;
}

/** Lines by their numbers, wherever they stand. */
export async function knownLines(tx: Transaction, accountId: number, lineIds: number[]): Promise<LineRow[]> {
  return tx<LineRow[]>`
    select * from line where account_id = ${accountId} and line_id = any(${lineIds}::bigint[])
      and state <> 'removed'`;
}

/** What lines of these sheets do, whatever came of them. */
export async function linesOn(
  tx: Transaction,
  accountId: number,
  sheetIds: number[],
): Promise<Pick<LineRow, 'sheet_id' | 'conflict_key' | 'action' | 'new_value'>[]> {
  return tx`
    select sheet_id, conflict_key, action, new_value from line
    where account_id = ${accountId} and sheet_id = any(${sheetIds}::bigint[]) and state <> 'removed'`;
}

/** A sheet that was sent elsewhere or before, to hold its lines; the same one again when it is known already. */
export async function insertSentSheet(
  tx: Transaction,
  accountId: number,
  sentOn: string | null,
  name: string,
): Promise<number> {
  const [known] = await tx<{ sheet_id: number }[]>`
    select sheet_id from sheet where account_id = ${accountId} and loaded_as = ${name} and state = 'sent'`;
  if (known) return known.sheet_id;
  const [made] = await tx<{ sheet_id: number }[]>`
    insert into sheet (account_id, state, created_at, sent_at, sent_on, loaded_as)
    values (${accountId}, 'sent', now(), ${sentOn}::date, ${sentOn}::date, ${name}) returning sheet_id`;
  return made!.sheet_id;
}

/** Gives new lines the state in which they were told. */
export async function settleLines(
  tx: Transaction,
  accountId: number,
  lines: { line_id: number; state: string; message: string | null }[],
): Promise<void> {
  await tx`
    update line l set state = s.state, message = s.message
    from jsonb_to_recordset(${tx.json(lines as never)}) as s (line_id bigint, state text, message text)
    where l.account_id = ${accountId} and l.line_id = s.line_id`;
  await tx`
    update sheet set version = version + 1 where account_id = ${accountId} and sheet_id in (
      select sheet_id from line where account_id = ${accountId} and line_id = any(${lines.map(({ line_id }) => line_id)}::bigint[]))`;
}

/** What is told of a line; where it stands among the others is the server's own business. */
const lineFields = (sql: Database | Transaction) => sql`
  l.line_id, l.sheet_id, l.group_key, l.finding_key, l.action, l.entity, l.object_id, l.campaign_id, l.ad_group_id,
  l.field, l.old_value, l.new_value, l.target_kind, l.match_type, l.expression, l.harvest, l.reason, l.proposed_by, l.effect,
  l.conflict_key, l.state, l.code, l.message, l.live_value, l.version, l.batch_id, l.reverts, l.created_at`;

/** Which lines of a sheet are read: by their numbers, or all in some state; left out, all. */
export interface LinesWanted {
  lineIds?: readonly number[];
  state?: LineRow['state'];
}

/** Lines of a sheet with names and live values, in the order in which files tell them. */
export async function linesOfSheet(
  sql: Database | Transaction,
  accountId: number,
  sheetId: number,
  { lineIds, state }: LinesWanted = {},
): Promise<NamedLine[]> {
  return sql<NamedLine[]>`
    select ${lineFields(sql)}, c.name as campaign, g.name as ad_group, c.ext_id as campaign_ext, g.ext_id as ad_group_ext,
      case l.entity when 'target' then t.ext_id when 'negative' then n.ext_id when 'ad_group' then g.ext_id
        else c.ext_id end as object_ext,
      ${nowValue(sql)} as now_value
    from line l ${withObjects(sql)}
    where l.account_id = ${accountId} and l.sheet_id = ${sheetId} and l.state <> 'removed'
      ${state === undefined ? sql`` : sql`and l.state = ${state}`}
      ${lineIds === undefined ? sql`` : sql`and l.line_id = any(${lineIds as number[]}::bigint[])`}
    order by c.name, g.name nulls first, l.entity, l.expression, l.line_id`;
}

export async function setLineState(
  sql: Transaction,
  accountId: number,
  groupKeys: string[],
  from: 'open' | 'removed',
  to: 'open' | 'removed',
): Promise<number> {
  const rows = await sql`
    update line l set state = ${to} from sheet s
    where l.account_id = ${accountId} and s.account_id = l.account_id and s.sheet_id = l.sheet_id
      and s.state = 'open' and l.state = ${from} and l.group_key = any(${groupKeys}::text[]) returning 1`;
  return rows.length;
}

/** These lines, and with each line of a harvest all of it: the created target and the negatives that isolate it. */
export async function wholeHarvests(
  sql: Database | Transaction,
  accountId: number,
  lineIds: number[],
): Promise<number[]> {
  const rows = await sql<{ line_id: number }[]>`
    select l.line_id from line l
    join (select distinct sheet_id, harvest from line
      where account_id = ${accountId} and line_id = any(${lineIds}::bigint[]) and harvest is not null) h
      on l.sheet_id = h.sheet_id and l.harvest = h.harvest
    where l.account_id = ${accountId}
    union select unnest(${lineIds}::bigint[])`;
  return rows.map(({ line_id }) => line_id);
}

export async function removeLines(sql: Transaction, accountId: number, lineIds: number[]): Promise<number> {
  const rows = await sql`
    update line l set state = 'removed' from sheet s
    where l.account_id = ${accountId} and s.account_id = l.account_id and s.sheet_id = l.sheet_id
      and s.state = 'open' and l.state = 'open' and l.line_id = any(${lineIds}::bigint[]) returning 1`;
  return rows.length;
}

export async function restoreLines(sql: Transaction, accountId: number, lineIds: number[]): Promise<number> {
  const rows = await sql`
    update line l set state = 'open' from sheet s
    where l.account_id = ${accountId} and s.account_id = l.account_id and s.sheet_id = l.sheet_id
      and s.state = 'open' and l.state = 'removed' and l.line_id = any(${lineIds}::bigint[]) returning 1`;
  return rows.length;
}

export async function changeLine(
  sql: Transaction,
  accountId: number,
  lineId: number,
  { effect, ...values }: { old_value?: string | null; new_value?: string | null; effect?: Effect | null },
): Promise<boolean> {
  const set = { ...values, ...(effect === undefined ? {} : { effect: effect && sql.json(effect as never) }) };
  const rows = await sql`
    update line l set ${sql(set as never)}, version = l.version + 1 from sheet s
    where l.account_id = ${accountId} and s.account_id = l.account_id and s.sheet_id = l.sheet_id
      and s.state = 'open' and l.state = 'open' and l.line_id = ${lineId} returning 1`;
  return rows.length > 0;
}

/** Ids of objects at the marketplace for our own ids. */
export async function marketplaceIds(
  sql: Database | Transaction,
  accountId: number,
): Promise<Map<string, string>> {
  const rows = await sql<{ key: string; ext_id: string }[]>`
    select 'campaign:' || campaign_id as key, ext_id from campaign where account_id = ${accountId} and ext_id is not null
    union all select 'ad_group:' || ad_group_id, ext_id from ad_group where account_id = ${accountId} and ext_id is not null
    union all select 'target:' || target_id, ext_id from target where account_id = ${accountId} and ext_id is not null
    union all select 'negative:' || negative_id, ext_id from negative where account_id = ${accountId} and ext_id is not null`;
  return new Map(rows.map((row) => [row.key, row.ext_id]));
}

export interface SheetRow {
  sheet_id: number;
  state: 'open' | 'sending' | 'sent';
  created_at: Date;
  sent_at: Date | null;
  sent_on: string | null;
  reverts: number | null;
  /** Counts the changes of the sheet and its lines. */
  version: number;
}

export async function sheetById(
  sql: Database | Transaction,
  accountId: number,
  sheetId: number,
): Promise<SheetRow | undefined> {
  const [row] = await sql<SheetRow[]>`
    select * from sheet where account_id = ${accountId} and sheet_id = ${sheetId}`;
  return row;
}

export async function sheetsOf(
  sql: Database,
  accountId: number,
): Promise<(SheetRow & { lines: number; applied: number; refused: number })[]> {
  return sql`
    select s.*, count(l.line_id) filter (where l.state <> 'removed')::int as lines,
      count(*) filter (where l.state = 'applied')::int as applied,
      count(*) filter (where l.state = 'refused')::int as refused
    from sheet s left join line l on l.account_id = s.account_id and l.sheet_id = s.sheet_id
    where s.account_id = ${accountId} group by s.account_id, s.sheet_id order by s.sheet_id desc`;
}

export async function setSheetState(
  tx: Transaction | Database,
  accountId: number,
  sheetId: number,
  state: SheetRow['state'],
  sentOn: string | null = null,
): Promise<void> {
  await tx`
    update sheet set state = ${state}, version = version + 1, sent_on = coalesce(${sentOn}::date, sent_on),
      sent_at = case when ${state} = 'sent' then now() else sent_at end
    where account_id = ${accountId} and sheet_id = ${sheetId}`;
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
  await tx`
    update line l set state = a.state, code = a.code, message = a.message, live_value = a.live_value
    from jsonb_to_recordset(${list}) as a (line_id text, state text, code text, message text, live_value text)
    where l.account_id = ${accountId} and l.batch_id = ${batchId} and l.line_id = a.line_id::bigint`;
  await applyFields(tx, accountId, batchId, today);
  await tx`
    insert into negative (account_id, campaign_id, ad_group_id, ext_id, match_type, expression)
    select ${accountId}, l.campaign_id::bigint, l.ad_group_id::bigint, a.id, l.match_type, l.expression
    from jsonb_to_recordset(${list}) as a (line_id text, state text, id text)
    join line l on l.account_id = ${accountId} and l.batch_id = ${batchId} and l.line_id = a.line_id::bigint
    where a.state = 'applied' and l.entity = 'negative' and l.action = 'create'
    on conflict (account_id, ext_id) do nothing`;
  await tx`
    with made as (
      insert into target (account_id, ad_group_id, ext_id, kind, match_type, expression, bid)
      select ${accountId}, l.ad_group_id::bigint, a.id, l.target_kind, l.match_type, l.expression, l.new_value::bigint
      from jsonb_to_recordset(${list}) as a (line_id text, state text, id text)
      join line l on l.account_id = ${accountId} and l.batch_id = ${batchId} and l.line_id = a.line_id::bigint
      where a.state = 'applied' and l.entity = 'target' and l.action = 'create'
      on conflict (account_id, ext_id) do nothing returning target_id, bid)
    insert into target_bid select ${accountId}, target_id, ${today}::date, bid from made on conflict do nothing`;
  // A created object's own id, so that its line can be reverted and its effect read.
  await tx`
    update line l set object_id = coalesce(
      (select t.target_id::text from target t where l.entity = 'target' and t.account_id = l.account_id and t.ext_id = a.id),
      (select n.negative_id::text from negative n where l.entity = 'negative' and n.account_id = l.account_id and n.ext_id = a.id))
    from jsonb_to_recordset(${list}) as a (line_id text, state text, id text)
    where l.account_id = ${accountId} and l.batch_id = ${batchId} and l.line_id = a.line_id::bigint
      and a.state = 'applied' and l.action = 'create'`;
  await tx`
    with answered as (
      update batch set answered_at = now() where account_id = ${accountId} and batch_id = ${batchId} returning sheet_id)
    update sheet s set version = version + 1 from answered a where s.account_id = ${accountId} and s.sheet_id = a.sheet_id`;
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
        and n.expression = l.expression and n.match_type = l.match_type))
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

/** Numbers of the open lines of a sheet: those among these, or all. */
export async function openLineIds(
  tx: Transaction,
  accountId: number,
  sheetId: number,
  lineIds: readonly number[] | null,
): Promise<number[]> {
  const rows = await tx<{ line_id: number }[]>`
    select line_id from line where account_id = ${accountId} and sheet_id = ${sheetId} and state = 'open'
      ${lineIds === null ? tx`` : tx`and line_id = any(${lineIds as number[]}::bigint[])`}`;
  return rows.map(({ line_id }) => line_id);
}

export async function sentDays(
  sql: Database,
  accountId: number,
): Promise<{ day: string; sheets: number; lines: number }[]> {
  return sql`
    select s.sent_on as day, count(distinct s.sheet_id)::int as sheets, count(l.line_id)::int as lines
    from sheet s join line l on l.account_id = s.account_id and l.sheet_id = s.sheet_id and l.state = 'applied'
    where s.account_id = ${accountId} and s.state = 'sent' group by s.sent_on order by s.sent_on`;
}
