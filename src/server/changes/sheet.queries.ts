import type { Effect } from '../../core/effect/types.ts';
import type { Database } from '../db/connection.ts';
import { isOvertaken, placeNames, withObjects } from './fields.queries.ts';
import type { BidLine } from '../forecasts/control.ts';

/** What is read of a whole sheet, however many lines it has: their places, and what they do together. */

export interface SheetVersion {
  version: number;
  /** Of the account's figures and objects. */
  data: number;
  state: string;
  /** Which account this is: a package loaded into an empty one makes it another. */
  origin: string;
}

/** Changes of a sheet, and of the account that its lines change; null when there is no such sheet. */
export async function sheetVersion(
  sql: Database,
  accountId: number,
  sheetId: number,
): Promise<SheetVersion | null> {
  const [row] = await sql<SheetVersion[]>`
    select s.version, a.data_version as data, s.state, a.origin from sheet s join account a using (account_id)
    where s.account_id = ${accountId} and s.sheet_id = ${sheetId}`;
  return row ?? null;
}

/** A line as far as a whole sheet is concerned with it. */
export interface KnownRow {
  line_id: number;
  campaign_id: string;
  ad_group_id: string | null;
  campaign: string;
  ad_group: string | null;
  entity: string;
  action: string;
  harvest: string | null;
  expression: string | null;
  object_id: string | null;
  field: string;
  new_value: string | null;
  match_type: string | null;
  conflict_key: string;
  state: string;
  overtaken: boolean;
  effect: Effect | null;
  written: number;
}

/** Lines of a sheet that were written since: removed ones too, so that who knows the sheet can forget them. */
export async function linesSince(
  sql: Database,
  accountId: number,
  sheetId: number,
  since: number,
): Promise<KnownRow[]> {
  // What is said before the first reading is of no use: lines taken off again are many.
  const standing = since < 0 ? sql`and l.state <> 'removed'` : sql``;
  return sql<KnownRow[]>`
    select l.line_id, l.campaign_id, l.ad_group_id, ${placeNames(sql)}, l.entity, l.action, l.harvest,
      l.expression, l.object_id, l.field, l.new_value, l.match_type, l.conflict_key, l.state, l.effect, l.written,
      l.state = 'open' and l.action = 'update' and ${isOvertaken(sql)}
        as overtaken
    from line l ${withObjects(sql)}
    where l.account_id = ${accountId} and l.sheet_id = ${sheetId} and l.written > ${since} ${standing}`;
}

/** Open lines of a sheet whose live value is no longer the old value. */
export async function overtakenLines(sql: Database, accountId: number, sheetId: number): Promise<number[]> {
  const rows = await sql<{ line_id: number }[]>`
    select l.line_id from line l ${withObjects(sql)}
    where l.account_id = ${accountId} and l.sheet_id = ${sheetId} and l.state = 'open' and l.action = 'update'
      and ${isOvertaken(sql)}`;
  return rows.map(({ line_id }) => line_id);
}

/** Lines of the open sheet and how many of them conflict, counted where they are. */
export async function countOpen(
  sql: Database,
  accountId: number,
  sheetId: number,
): Promise<{ lines: number; conflicts: number }> {
  const [row] = await sql<{ lines: number; conflicts: number }[]>`
    select coalesce(sum(n), 0)::int as lines, coalesce(sum(n) filter (where n > 1), 0)::int as conflicts
    from (select count(*) as n from line
      where account_id = ${accountId} and sheet_id = ${sheetId} and state = 'open' group by conflict_key) k`;
  return row!;
}

export interface StateCounts {
  lines: number;
  applied: number;
  refused: number;
}

/** How many lines of a sheet stand in which state. */
export async function stateCounts(sql: Database, accountId: number, sheetId: number): Promise<StateCounts> {
  const [row] = await sql<StateCounts[]>`
    select count(*)::int as lines, count(*) filter (where state = 'applied')::int as applied,
      count(*) filter (where state = 'refused')::int as refused
    from line where account_id = ${accountId} and sheet_id = ${sheetId} and state <> 'removed'`;
  return row!;
}

/** Applied lines of a sheet that touch terms or targets. */
export async function touchedLines(
  sql: Database,
  accountId: number,
  sheetId: number,
): Promise<(BidLine & { line_id: number; ad_group_id: string | null; effect: Effect | null })[]> {
  return sql`
    select line_id, campaign_id, ad_group_id, effect, entity, action, field, old_value, new_value
    from line where account_id = ${accountId} and sheet_id = ${sheetId} and state = 'applied'
      and entity in ('target', 'negative')`;
}
