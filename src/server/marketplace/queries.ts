import type { Database } from '../db/connection.ts';

/** Where an account's marketplace is reached. */
export interface ConnectionRow {
  marketplace: string;
  /** Null: those of the installation. */
  address: string | null;
  secret: string | null;
}

export async function connectionOf(sql: Database, accountId: number): Promise<ConnectionRow | undefined> {
  const [row] = await sql<ConnectionRow[]>`
    select marketplace, address, secret from connection where account_id = ${accountId}`;
  return row;
}

export async function putConnection(sql: Database, accountId: number, row: ConnectionRow): Promise<void> {
  await sql`
    insert into connection ${sql({ account_id: accountId, ...row })}
    on conflict (account_id) do update
      set marketplace = excluded.marketplace, address = excluded.address, secret = excluded.secret`;
}
