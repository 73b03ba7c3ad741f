import type { CollectionRow, KitRow } from '../../answers/kits.ts';
import { usualKit, type KitBody } from '../../core/kits/kit.ts';
import type { NegativeList, ShownCreative } from '../../core/kits/types.ts';
import type { Recipe } from '../../core/kits/recipe.ts';
import type { Database, Transaction } from '../db/connection.ts';

/** Recipes of accounts, their kits, and what these rest on. */

/** Of a collection, as many changes are told. */
const mostChanges = 200;

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
  // Kits that were kept before something could be said of them are as usual in it.
  return row && { ...row, body: { ...usualKit, ...row.body } };
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

/** Lists of negatives of the account, with what is on them. */
export async function negativeLists(sql: Database, accountId: number): Promise<NegativeList[]> {
  return sql<NegativeList[]>`
    select l.list_id::int as "listId", l.name, coalesce(
      jsonb_agg(jsonb_build_object('matchType', e.match_type, 'expression', e.expression) order by e.expression)
        filter (where e.expression is not null), '[]') as entries
    from negative_list l left join negative_list_entry e using (account_id, list_id)
    where l.account_id = ${accountId} group by l.list_id, l.name order by lower(l.name)`;
}

/** Notes that campaigns are kept out of what is on these lists. */
export async function attachLists(
  tx: Transaction,
  accountId: number,
  listIds: readonly number[],
  campaignIds: readonly string[],
): Promise<void> {
  await tx`
    insert into negative_list_campaign (account_id, list_id, campaign_id)
    select ${accountId}::bigint, l.list_id, c.id::bigint
    from negative_list l cross join unnest(${[...campaignIds]}::text[]) c (id)
    where l.account_id = ${accountId} and l.list_id = any(${[...listIds]}::bigint[])
    on conflict do nothing`;
}

/** Ad groups whose rules choose their products, with who joined and left, the last first. */
export async function collectionRows(sql: Database, accountId: number): Promise<CollectionRow[]> {
  return sql<CollectionRow[]>`
    select g.ad_group_id::text as "adGroupId", g.name as "adGroup", c.name as campaign, g.rule,
      coalesce((select jsonb_agg(jsonb_build_object('sku', a.sku, 'title', coalesce(p.title, a.sku)) order by a.sku)
        from product_ad a left join product p on p.account_id = a.account_id and p.sku = a.sku
        where a.account_id = g.account_id and a.ad_group_id = g.ad_group_id and a.status = 'enabled'), '[]') as members,
      coalesce((select jsonb_agg(jsonb_build_object('day', h.day, 'sku', h.sku, 'joined', h.joined)
          order by h.day desc, h.sku)
        from (select * from collection_change h where h.account_id = g.account_id and h.ad_group_id = g.ad_group_id
          order by h.day desc, h.sku limit ${mostChanges}) h), '[]') as changes
    from ad_group g join campaign c using (account_id, campaign_id)
    where g.account_id = ${accountId} and g.rule is not null and 'archived' not in (g.status, c.status)
    order by c.name, g.name`;
}

export interface PictureRow {
  pictureId: string;
  name: string;
  type: string;
}

/** Keeps a picture's file under what it holds; the same file is there once. */
export async function insertPicture(
  sql: Database,
  accountId: number,
  { pictureId, name, type }: PictureRow,
  bytes: Uint8Array,
): Promise<void> {
  await sql`
    insert into picture (account_id, picture_id, name, type, bytes)
    values (${accountId}, ${pictureId}, ${name}, ${type}, ${bytes}) on conflict (account_id, picture_id) do nothing`;
}

export async function pictureById(
  sql: Database,
  accountId: number,
  pictureId: string,
): Promise<{ type: string; bytes: Uint8Array } | undefined> {
  const [row] = await sql<{ type: string; bytes: Uint8Array }[]>`
    select type, bytes from picture where account_id = ${accountId} and picture_id = ${pictureId}`;
  return row;
}

/**
 * What ad groups show, a picture by the number of its file where Mowing sent it, else as the marketplace calls it; pairs
 * that are left out alike (`pairOf`).
 */
export async function shownCreatives(
  sql: Database,
  accountId: number,
  adGroupIds: readonly string[],
): Promise<{ adGroupId: string; kind: ShownCreative['kind']; value: string }[]> {
  return sql<{ adGroupId: string; kind: ShownCreative['kind']; value: string }[]>`
    select c.ad_group_id::text as "adGroupId", c.kind,
      case when p.picture_id is null then c.value
        else p.picture_id || substr(c.value, length(p.ext_id) + 1) end as value
    from creative c
    left join picture p on p.account_id = c.account_id and c.kind <> 'title'
      and p.ext_id = split_part(c.value, ' ', 1)
    where c.account_id = ${accountId} and c.status = 'enabled' and c.ad_group_id = any(${[...adGroupIds]}::bigint[])
    order by c.creative_id`;
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
