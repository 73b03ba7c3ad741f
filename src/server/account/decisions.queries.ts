import type { Database } from '../db/connection.ts';

export async function decisionsOf(
  sql: Database,
  accountId: number,
  today: string,
): Promise<{ finding_key: string; decision: 'skipped' | 'later'; until: string | null }[]> {
  return sql`
    select finding_key, decision, until from decision
    where account_id = ${accountId} and (until is null or until > ${today}::date)`;
}

export async function decide(
  sql: Database,
  accountId: number,
  keys: string[],
  decision: 'skipped' | 'later',
  until: string | null,
): Promise<void> {
  await sql`
    insert into decision (account_id, finding_key, decision, until, decided_at)
    select ${accountId}, key, ${decision}, ${until}::date, now() from unnest(${keys}::text[]) as k (key)
    on conflict (account_id, finding_key) do update
      set decision = excluded.decision, until = excluded.until, decided_at = excluded.decided_at`;
}

export async function undecide(sql: Database, accountId: number, keys: string[]): Promise<void> {
  await sql`delete from decision where account_id = ${accountId} and finding_key = any(${keys}::text[])`;
}
