import type { NegativeType } from '../../core/account/store.ts';
import { nowValue, placeNames, withObjects } from './fields.queries.ts';
import type { LineDraft } from '../../core/changes/lines.ts';
import type { Effect } from '../../core/effect/types.ts';
import type { KeptTest } from '../../core/testing/plan.ts';
import type { Database, Transaction } from '../db/connection.ts';
import { byHashing } from '../db/setwise.ts';
import { copyInto, copyText, inPieces } from '../db/copy.ts';

/** Lines of sheets. */

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
  /** Of a bid that is tried to know; null for all others. */
  test: KeptTest | null;
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

/** Negatives that open lines would make: what is settled once the sheet has left. */
export async function openNegatives(
  sql: Database,
  accountId: number,
): Promise<{ place: string; matchType: NegativeType; expression: string }[]> {
  return sql`
    select coalesce(l.ad_group_id, l.campaign_id) as place, l.match_type as "matchType", l.expression
    from line l join sheet s using (account_id, sheet_id)
    where l.account_id = ${accountId} and s.state in ('open', 'held', 'sending') and l.state in ('open', 'sending')
      and l.entity = 'negative' and l.action = 'create'`;
}

/** Campaigns with lines on the open sheet that move their modifiers, and with others that move their bids. */
export async function openBids(
  sql: Database,
  accountId: number,
): Promise<Record<'placements' | 'budgets' | 'hours' | 'bids', Set<string>>> {
  const rows = await sql<{ campaign_id: string; placements: boolean; budgets: boolean; hours: boolean }[]>`
    select l.campaign_id, bool_or(l.entity = 'placement_modifier') as placements,
      bool_or(coalesce(l.finding_key, '') like 'budget:%') as budgets,
      bool_or(coalesce(l.finding_key, '') like 'hours:%') as hours
    from line l join sheet s using (account_id, sheet_id)
    where l.account_id = ${accountId} and s.state in ('open', 'held', 'sending') and l.state in ('open', 'sending')
      and (l.entity = 'placement_modifier' or (l.action = 'update' and l.field in ('bid', 'default_bid')))
    group by l.campaign_id`;
  const of = (isOne: (row: (typeof rows)[number]) => boolean) =>
    new Set(rows.flatMap((row) => (isOne(row) ? [row.campaign_id] : [])));
  return {
    placements: of(({ placements }) => placements),
    budgets: of(({ budgets }) => budgets),
    hours: of(({ hours }) => hours),
    bids: of(({ placements, budgets, hours }) => !placements && !budgets && !hours),
  };
}

/** Campaigns whose strategies are changed by sheets that have not left. */
export async function openStrategies(sql: Database, accountId: number): Promise<string[]> {
  const rows = await sql<{ campaign_id: string }[]>`
    select distinct l.campaign_id from line l join sheet s using (account_id, sheet_id)
    where l.account_id = ${accountId} and s.state in ('open', 'held', 'sending') and l.state in ('open', 'sending')
      and l.entity = 'campaign' and l.field = 'strategy' and l.action = 'update'`;
  return rows.map((row) => row.campaign_id);
}

/** Findings on sheets that have not left. `held`: on those of routines too, which wait by themselves. */
export async function openFindingKeys(sql: Database, accountId: number, held = true): Promise<string[]> {
  const rows = await sql<{ finding_key: string }[]>`
    select distinct l.finding_key from line l join sheet s using (account_id, sheet_id)
    where l.account_id = ${accountId} and s.state in ('open', 'sending', ${held ? 'held' : 'open'}) and l.state in ('open', 'sending')
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

/** Puts lines onto their sheets, any number of them; their numbers in their order. */
export async function insertLines(tx: Transaction, accountId: number, lines: NewLine[]): Promise<number[]> {
  if (lines.length === 0) return [];
  // Numbers are drawn first: COPY tells none, and writes tens of thousands of lines in a second.
  const [drawn] = await tx<{ ids: string }[]>`
    with numbers as materialized (select pg_get_serial_sequence('line', 'line_id')::regclass as own)
    select string_agg(nextval(own)::text, ',') as ids from numbers, generate_series(1, ${lines.length}::int)`;
  const ids = drawn!.ids.split(',').map(Number);
  const now = new Date().toISOString();
  const texts = lines.map((line, i) => {
    const json = (value: unknown) => (value === null ? null : JSON.stringify(value));
    const values = [
      accountId,
      ids[i]!,
      now,
      json(line.effect),
      json(line.test),
      ...lineColumns.map((name) => line[name]),
    ];
    return `${values.map(copyText).join('\t')}\n`;
  });
  const columns = ['account_id', 'line_id', 'created_at', 'effect', 'test', ...lineColumns];
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

/** Gives new lines the state in which they were told. */
export async function settleLines(
  tx: Transaction,
  accountId: number,
  lines: { line_id: number; state: string; message: string | null }[],
): Promise<void> {
  await byHashing(tx, async () => {
    await tx`
      update line l set state = s.state, message = s.message
      from jsonb_to_recordset(${tx.json(lines as never)}) as s (line_id bigint, state text, message text)
      where l.account_id = ${accountId} and l.line_id = s.line_id`;
  });
  await tx`
    update sheet set version = version + 1 where account_id = ${accountId} and sheet_id in (
      select sheet_id from line where account_id = ${accountId} and line_id = any(${lines.map(({ line_id }) => line_id)}::bigint[]))`;
}

/** What is told of a line; where it stands among the others is the server's own business. */
const lineFields = (sql: Database | Transaction) => sql`
  l.line_id, l.sheet_id, l.group_key, l.finding_key, l.action, l.entity, l.object_id, l.campaign_id, l.ad_group_id,
  l.field, l.old_value, l.new_value, l.target_kind, l.match_type, l.expression, l.harvest, l.reason, l.proposed_by, l.effect, l.test,
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
    select ${lineFields(sql)}, ${placeNames(sql)}, c.ext_id as campaign_ext, g.ext_id as ad_group_ext,
      case l.entity when 'target' then t.ext_id when 'negative' then n.ext_id when 'ad_group' then g.ext_id
        else c.ext_id end as object_ext,
      ${nowValue(sql)} as now_value
    from line l ${withObjects(sql)}
    where l.account_id = ${accountId} and l.sheet_id = ${sheetId} and l.state <> 'removed'
      ${state === undefined ? sql`` : sql`and l.state = ${state}`}
      ${lineIds === undefined ? sql`` : sql`and l.line_id = any(${lineIds as number[]}::bigint[])`}
    order by campaign, ad_group nulls first, l.entity, l.expression, l.line_id`;
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

/** Lines of one sheet of which `p` makes what `l` stands in. */
const standsOn = (sql: Database | Transaction) => sql`
  p.account_id = l.account_id and p.sheet_id = l.sheet_id and p.action = 'create'
  and (p.entity = 'campaign' and p.campaign_id = l.campaign_id
    or p.entity = 'ad_group' and p.ad_group_id = l.ad_group_id)`;

/** These lines with those that make what they stand in. */
export async function withPlaces(tx: Transaction, accountId: number, lineIds: number[]): Promise<number[]> {
  const rows = await tx<{ line_id: number }[]>`
    select p.line_id from line l join line p on ${standsOn(tx)}
    where l.account_id = ${accountId} and l.line_id = any(${lineIds}::bigint[])
    union select unnest(${lineIds}::bigint[])`;
  return rows.map(({ line_id }) => line_id);
}

/**
 * These lines, and with each line of a harvest all of it: the created target and the negatives that isolate it. With
 * what makes a campaign or ad group goes all that stands in it (`below`), or comes what it stands in (`above`).
 */
export async function wholeHarvests(
  sql: Database | Transaction,
  accountId: number,
  lineIds: number[],
  kin: 'below' | 'above' | null = null,
): Promise<number[]> {
  const among = sql`account_id = ${accountId} and line_id = any(${lineIds}::bigint[])`;
  const rows = await sql<{ line_id: number }[]>`
    select l.line_id from line l
    join (select distinct sheet_id, harvest from line where ${among} and harvest is not null) h
      on l.sheet_id = h.sheet_id and l.harvest = h.harvest
    where l.account_id = ${accountId}
    ${
      kin === 'below'
        ? sql`union select l.line_id from (select * from line where ${among} and action = 'create'
            and entity in ('campaign', 'ad_group')) p join line l on ${standsOn(sql)}`
        : sql``
    }
    ${
      kin === 'above'
        ? sql`union select p.line_id from (select * from line where ${among}) l join line p on ${standsOn(sql)}`
        : sql``
    }
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

/** What an edit changes of a line. */
export interface LineValues {
  old_value?: string | null;
  new_value?: string | null;
  /** The name of what it makes. */
  expression?: string;
  effect?: Effect | null;
}

export async function changeLine(
  sql: Transaction,
  accountId: number,
  lineId: number,
  { effect, ...values }: LineValues,
): Promise<boolean> {
  const set = { ...values, ...(effect === undefined ? {} : { effect: effect && sql.json(effect as never) }) };
  const rows = await sql`
    update line l set ${sql(set as never)}, version = l.version + 1 from sheet s
    where l.account_id = ${accountId} and s.account_id = l.account_id and s.sheet_id = l.sheet_id
      and s.state = 'open' and l.state = 'open' and l.line_id = ${lineId} returning 1`;
  return rows.length > 0;
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
