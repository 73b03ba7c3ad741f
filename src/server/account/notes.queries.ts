import type { Note } from '../../answers/today.ts';
import type { Window } from '../../core/metrics/days.ts';
import type { Database, Transaction } from '../db/connection.ts';

const noteColumns = (sql: Database) => sql`
  n.note_id as "noteId", n.day, n.to_day as "toDay", n.scope, n.object, n.body,
  coalesce(p.title, c.name, '') as name`;

/** Notes that touch a window, and hold these words; the newest first. */
export async function notesOf(
  sql: Database,
  accountId: number,
  { from, to }: Window,
  text = '',
): Promise<Note[]> {
  return sql<Note[]>`
    select ${noteColumns(sql)} from note n
    left join product p on n.scope = 'product' and p.account_id = n.account_id and p.sku = n.object
    left join campaign c on n.scope = 'campaign' and c.account_id = n.account_id and c.campaign_id::text = n.object
    where n.account_id = ${accountId} and n.removed_at is null and n.day <= ${to} and n.to_day >= ${from}
      and (${text} = '' or strpos(lower(n.body || ' ' || coalesce(p.title, c.name, '')), lower(${text})) > 0)
    order by n.day desc, n.note_id desc limit 500`;
}

export type NoteRow = Omit<Note, 'noteId' | 'name'>;

export async function addNote(
  tx: Transaction,
  accountId: number,
  { day, toDay, scope, object, body }: NoteRow,
): Promise<number> {
  const [row] = await tx<{ note_id: number }[]>`
    insert into note (account_id, day, to_day, scope, object, body)
    values (${accountId}, ${day}, ${toDay}, ${scope}, ${object}, ${body}) returning note_id`;
  return row!.note_id;
}

/** Changes a note, and brings one back that was removed; how many there are of it. */
export async function putNote(
  tx: Transaction,
  accountId: number,
  noteId: number,
  row: NoteRow,
): Promise<number> {
  const { day, toDay, scope, object, body } = row;
  const { count } = await tx`
    update note set day = ${day}, to_day = ${toDay}, scope = ${scope}, object = ${object}, body = ${body},
      removed_at = null
    where account_id = ${accountId} and note_id = ${noteId}`;
  return count;
}

export async function removeNote(tx: Transaction, accountId: number, noteId: number): Promise<number> {
  const { count } = await tx`
    update note set removed_at = now()
    where account_id = ${accountId} and note_id = ${noteId} and removed_at is null`;
  return count;
}

export async function isCampaign(sql: Database, accountId: number, campaignId: string): Promise<boolean> {
  const [row] = await sql`
    select 1 from campaign where account_id = ${accountId} and campaign_id::text = ${campaignId}`;
  return row !== undefined;
}
