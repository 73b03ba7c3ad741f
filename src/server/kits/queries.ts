import type { KitRow } from '../../answers/kits.ts';
import type { KitBody } from '../../core/kits/kit.ts';
import type { Recipe } from '../../core/kits/recipe.ts';
import type { Database, Transaction } from '../db/connection.ts';

/** Recipes of accounts, and their kits. */

export async function recipesOf(sql: Database, accountId: number): Promise<Recipe[]> {
  const rows = await sql<{ body: Recipe }[]>`
    select body from recipe where account_id = ${accountId} order by lower(name)`;
  return rows.map(({ body }) => body);
}

export async function upsertRecipe(sql: Database, accountId: number, recipe: Recipe): Promise<void> {
  await sql`
    insert into recipe (account_id, name, body) values (${accountId}, ${recipe.name}, ${sql.json(recipe as never)})
    on conflict (account_id, name) do update set body = excluded.body`;
}

export async function deleteRecipe(sql: Database, accountId: number, name: string): Promise<boolean> {
  const rows = await sql`delete from recipe where account_id = ${accountId} and name = ${name} returning 1`;
  return rows.length > 0;
}

/** Kits, the one changed last first. */
export async function kitRows(sql: Database, accountId: number): Promise<KitRow[]> {
  return sql<KitRow[]>`
    select kit_id as "kitId", body ->> 'name' as name, jsonb_array_length(body -> 'skus') as products,
      group_key is not null as "onSheet", to_json(changed_at) #>> '{}' as "changedAt"
    from kit where account_id = ${accountId} order by changed_at desc, kit_id`;
}

export interface KitState {
  kitId: string;
  version: number;
  groupKey: string | null;
  body: KitBody;
}

export async function kitById(
  sql: Database | Transaction,
  accountId: number,
  kitId: string,
): Promise<KitState | undefined> {
  const [row] = await sql<KitState[]>`
    select kit_id as "kitId", version, group_key as "groupKey", body from kit
    where account_id = ${accountId} and kit_id = ${kitId}`;
  return row;
}

export async function insertKit(
  sql: Database,
  accountId: number,
  kitId: string,
  body: KitBody,
): Promise<void> {
  await sql`
    insert into kit (account_id, kit_id, body) values (${accountId}, ${kitId}, ${sql.json(body as never)})`;
}

/** Keeps an edit of the version that its editor saw; null when somebody else was there first. */
export async function updateKit(
  sql: Database,
  accountId: number,
  kitId: string,
  version: number,
  body: KitBody,
): Promise<number | null> {
  const [row] = await sql<{ version: number }[]>`
    update kit set body = ${sql.json(body as never)}, version = version + 1, changed_at = now()
    where account_id = ${accountId} and kit_id = ${kitId} and version = ${version} returning version`;
  return row?.version ?? null;
}

/** Notes that a kit's lines stand on a sheet. */
export async function groupKit(
  tx: Transaction,
  accountId: number,
  kitId: string,
  group: string,
): Promise<void> {
  await tx`update kit set group_key = ${group} where account_id = ${accountId} and kit_id = ${kitId}`;
}

export async function deleteKit(sql: Database, accountId: number, kitId: string): Promise<boolean> {
  const rows = await sql`delete from kit where account_id = ${accountId} and kit_id = ${kitId} returning 1`;
  return rows.length > 0;
}

/** Whether lines of a group are on the open sheet, or on their way. */
export async function isGroupOpen(tx: Transaction, accountId: number, group: string): Promise<boolean> {
  const [row] = await tx<{ open: boolean }[]>`
    select exists (
      select 1 from line where account_id = ${accountId} and group_key = ${group} and state in ('open', 'sending')) as open`;
  return row!.open;
}
