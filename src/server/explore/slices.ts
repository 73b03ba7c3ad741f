import { shippedSlices, type Slice, type SliceBody } from '../../core/explore/slices.ts';
import { compile, ConditionError } from '../../core/explore/conditions.ts';
import { readColumn } from '../../core/explore/columns.ts';
import { db, type Database } from '../db/connection.ts';
import { notFound, ServiceError } from '../errors.ts';

/** Slices of the account: shipped ones first, saved ones by name. All who work in the account share them. */
export async function slicesOf(accountId: number): Promise<Slice[]> {
  const saved = await db()<{ slice_id: number; name: string; body: SliceBody }[]>`
    select slice_id, name, body from slice where account_id = ${accountId} order by lower(name)`;
  return [
    ...shippedSlices,
    ...saved.map(({ slice_id, name, body }) => ({ id: String(slice_id), name, shipped: false, body })),
  ];
}

/** Saves a slice under a name; an older one of that name is replaced, a shipped one never. */
export async function saveSlice(accountId: number, name: string, body: SliceBody): Promise<{ id: string }> {
  const lower = name.toLowerCase();
  if (shippedSlices.some((slice) => slice.name.toLowerCase() === lower)) {
    throw new ServiceError(409, 'shipped', `“${name}” comes with Mowing. Choose another name.`, {
      field: 'name',
    });
  }
  const unknown = body.columns.find((ref) => !readColumn(ref, body.level));
  if (unknown)
    throw new ServiceError(422, 'no_column', `There is no column "${unknown}".`, { field: 'columns' });
  try {
    if (body.where) compile(body.where, body.level, () => () => null);
  } catch (error) {
    if (!(error instanceof ConditionError)) throw error;
    throw new ServiceError(422, 'bad_condition', error.message, { field: `where.${error.path}` });
  }
  return { id: String(await upsert(db(), accountId, name, body)) };
}

async function upsert(sql: Database, accountId: number, name: string, body: SliceBody): Promise<number> {
  const [row] = await sql<{ slice_id: number }[]>`
    insert into slice (account_id, name, body, updated_at)
    values (${accountId}, ${name}, ${sql.json(body as never)}, now())
    on conflict (account_id, lower(name)) do update
      set name = excluded.name, body = excluded.body, updated_at = now()
    returning slice_id`;
  return row!.slice_id;
}

export async function removeSlice(accountId: number, id: string): Promise<void> {
  const rows = await db()`
    delete from slice where account_id = ${accountId} and slice_id::text = ${id} returning 1`;
  if (rows.length === 0) throw notFound(`saved slice ${id}`);
}
