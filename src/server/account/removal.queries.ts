import type { Database } from '../db/connection.ts';

/** Gone for everybody from now on. */
export async function markRemoved(sql: Database, accountId: number): Promise<void> {
  await sql`update account set removed_at = now() where account_id = ${accountId}`;
}

/** Accounts that are gone and still have rows. */
export async function removedAccounts(sql: Database): Promise<number[]> {
  const rows = await sql<
    { account_id: number }[]
  >`select account_id from account where removed_at is not null`;
  return rows.map(({ account_id }) => account_id);
}

const facts = [
  'target_day',
  'term_day',
  'placement_day',
  'product_day',
  'campaign_hour',
  'rank_day',
  'sold_day',
];

/**
 * Deletes everything of an account. Its facts are detached beside whoever reads or loads others, then dropped; cut
 * anywhere, it can be done again.
 */
export async function deleteAccount(sql: Database, accountId: number): Promise<void> {
  for (const fact of facts) {
    const part = `${fact}_${accountId}`;
    const [state] = await sql<{ pending: boolean }[]>`
      select i.inhdetachpending as pending from pg_inherits i
      where i.inhrelid = to_regclass(${part}) and i.inhparent = to_regclass(${fact})`;
    if (state) {
      const how = state.pending ? sql`finalize` : sql`concurrently`;
      await sql`alter table ${sql(fact)} detach partition ${sql(part)} ${how}`;
    }
    await sql`drop table if exists ${sql(part)}`;
  }
  await sql.begin(async (tx) => {
    const tables = await tx<{ name: string }[]>`
      select c.table_name as name from information_schema.columns c join information_schema.tables t using (table_name)
      where c.column_name = 'account_id' and c.table_schema = 'public' and t.table_schema = 'public'
        and t.table_type = 'BASE TABLE' and c.table_name <> 'account' and not c.table_name = any(${facts})
        and not exists (select 1 from pg_inherits i where i.inhrelid = to_regclass(c.table_name))`;
    // What others refer to goes after them: a table whose turn comes too early is tried again.
    let left = tables.map(({ name }) => name);
    while (left.length > 0) {
      const later: string[] = [];
      for (const name of left) {
        await tx
          .savepoint((inner) => inner`delete from ${inner(name)} where account_id = ${accountId}`)
          .catch((error: { code?: string }) => {
            if (error.code !== '23503') throw error;
            later.push(name);
          });
      }
      if (later.length === left.length) throw new Error(`Tables refer to each other: ${left.join(', ')}`);
      left = later;
    }
    await tx`delete from account where account_id = ${accountId}`;
  });
}
