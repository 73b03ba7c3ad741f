import type { Readable } from 'node:stream';
import type { Database, Transaction } from '../db/connection.ts';

/**
 * Everything of an account but its facts, row by row as it is kept: what the files of a package cannot say (lanes, lists,
 * slices, decisions, theta, what was learned, what came of every line). One JSON object a line: {"t": table, "r": row}.
 */

/** What a reader needs first, first. Secrets, jobs, uploads and what is made from facts stay where they are. */
const objects = [
  'budget_group',
  'product',
  'campaign',
  'placement_modifier',
  'ad_group',
  'product_ad',
  'creative',
  'picture',
  'collection_change',
  'target',
  'target_bid',
  'negative',
  'outside_change',
  'term',
  'product_stock',
] as const;
const works = [
  'goal',
  'theta',
  'plan',
  'tolerance',
  'budget_rule',
  'budget_limit',
  'placement_condition',
  'trial',
  'routine',
  'routine_run',
  'routine_item',
  'campaign_stage',
  'note',
  'report',
  'decision',
  'mapping',
  'slice',
  'lane',
  'negative_list',
  'negative_list_entry',
  'negative_list_campaign',
  'relevant_words',
  'model',
  'word_effect',
  'sheet',
  'batch',
  'planned',
  'line',
  'forecast',
  'recipe',
  'kit',
] as const;
/** What loading facts writes by itself: restored once more after it. */
const told = ['import', 'report_day', 'day_sight'] as const;

export const stateTables: readonly string[] = [...objects, ...works, ...told];
export const toldTables: readonly string[] = told;

/** Of the account itself: what is not its name here. */
const ofAccount = [
  'currency',
  'time_zone',
  'source',
  'today',
  'limits',
  'structure_version',
  'data_version',
  'goals_version',
  'lanes_version',
  'lanes_saved',
  'testing_share',
  'routines_stopped',
  'origin',
] as const;

/** The account is another one there, and so is the order in which its lines are written. */
const notTold = `- 'account_id' - 'written'`;

/** The rows as JSON Lines. */
export function stateOf(tx: Transaction, accountId: number): Promise<Readable> {
  const account = String(Number(accountId));
  const parts = stateTables.map(
    (table) =>
      `select json_build_object('t', '${table}', 'r', to_jsonb(x) ${notTold})::text from ${table} x where account_id = ${account}`,
  );
  parts.unshift(
    `select json_build_object('t', 'account', 'r', to_jsonb(x) - 'account_id')::text
     from (select ${ofAccount.join(', ')} from account where account_id = ${account}) x`,
  );
  // Signs that JSON never holds stand for quote and delimiter: each line is the JSON and nothing else.
  return tx`copy (${tx.unsafe(parts.join(' union all '))}) to stdout (format csv, quote e'\\x01', delimiter e'\\x02')`.readable();
}

/** A table to put the lines of a state into, for as long as the transaction. */
export async function stageState(tx: Transaction): Promise<void> {
  await tx`create temporary table staged_state (line jsonb not null) on commit drop`;
}

export const stateWriter = (tx: Transaction) =>
  tx`copy staged_state from stdin (format csv, quote e'\\x01', delimiter e'\\x02')`.writable();

/** No account is larger; beyond it, numbers would not fit what counts on with them. */
const largestId = 1_000_000_000;

/** The largest number of an object that the staged rows name. */
export async function strangeIds(tx: Transaction): Promise<boolean> {
  const [row] = await tx<{ strange: boolean }[]>`
    select exists (
      select 1 from staged_state s, jsonb_each_text(s.line -> 'r') e
      where e.key like '%\_id' and e.value ~ '^-?[0-9]+$' and e.value::numeric not between 0 and ${largestId}) as strange`;
  return row!.strange;
}

/** Puts staged rows in the place of what the account has in these tables. */
export async function restoreState(
  tx: Transaction,
  accountId: number,
  tables: readonly string[],
): Promise<void> {
  for (const table of [...tables].reverse())
    await tx`delete from ${tx(table)} where account_id = ${accountId}`;
  for (const table of tables) {
    // Named with its schema: "line" alone is a type of geometry.
    const columns = await tx<{ name: string; identity: boolean }[]>`
      select column_name as name, is_identity = 'YES' as identity from information_schema.columns
      where table_schema = 'public' and table_name = ${table} order by ordinal_position`;
    const names = columns.map(({ name }) => name);
    await tx`
      insert into ${tx(table)} (${tx(names)}) overriding system value
      select ${tx(names.map((name) => `x.${name}`))}
      from staged_state s,
        jsonb_populate_record(null::${tx(`public.${table}`)}, (s.line -> 'r') || jsonb_build_object('account_id', ${accountId}::bigint)) x
      where s.line ->> 't' = ${table}`;
    for (const { name, identity } of columns) {
      if (!identity) continue;
      await tx`
        select setval(pg_get_serial_sequence(${table}, ${name}), greatest(
          (select coalesce(max(${tx(name)}), 1) from ${tx(table)} where account_id = ${accountId}),
          nextval(pg_get_serial_sequence(${table}, ${name}))))`;
    }
  }
  // What acts by itself does so in one place only: a copy of it waits until somebody turns it on.
  if (tables.includes('routine')) {
    await tx`update routine set is_on = false, on_since = null where account_id = ${accountId}`;
    await tx`update sheet set state = 'stopped' where account_id = ${accountId} and state = 'held'`;
  }
  // What is only planned has its number too.
  if (tables.includes('planned'))
    for (const table of ['campaign', 'ad_group'])
      await tx`
        select setval(pg_get_serial_sequence(${table}, ${`${table}_id`}), greatest(
          (select coalesce(max(object_id), 1) from planned where account_id = ${accountId} and entity = ${table}),
          nextval(pg_get_serial_sequence(${table}, ${`${table}_id`}))))`;
  const set = tx.unsafe(ofAccount.map((name) => `${name} = x.${name}`).join(', '));
  await tx`
    update account a set ${set}
    from staged_state s, jsonb_populate_record(null::account, s.line -> 'r') x
    where s.line ->> 't' = 'account' and a.account_id = ${accountId}`;
}

/** True while nothing was ever loaded, accepted or named in the account. */
export async function isUntouched(sql: Database | Transaction, accountId: number): Promise<boolean> {
  const [row] = await sql<{ untouched: boolean }[]>`
    select not exists (select 1 from campaign where account_id = ${accountId})
      and not exists (select 1 from product where account_id = ${accountId})
      and not exists (select 1 from line where account_id = ${accountId})
      and not exists (select 1 from import where account_id = ${accountId}) as untouched`;
  return row!.untouched;
}
