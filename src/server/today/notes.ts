import type { Note } from '../../answers/today.ts';
import type { Window } from '../../core/metrics/days.ts';
import { productsOf } from '../account/queries.ts';
import { db, type Transaction } from '../db/connection.ts';
import { notFound, ServiceError } from '../errors.ts';
import { addNote, isCampaign, notesOf, putNote, removeNote, type NoteRow } from '../account/notes.queries.ts';

/** What happened, in the words of who works here. */

export const notesIn = (accountId: number, window: Window, text: string): Promise<Note[]> =>
  notesOf(db(), accountId, window, text);

async function checkNote(accountId: number, { day, toDay, scope, object }: NoteRow): Promise<void> {
  if (toDay < day)
    throw new ServiceError(422, 'ends_before_it_begins', `A note from ${day} cannot end on ${toDay}.`, {
      field: 'toDay',
    });
  if (scope === 'account') return;
  const isThere =
    scope === 'product'
      ? (await productsOf(db(), accountId)).some(({ sku }) => sku === object)
      : await isCampaign(db(), accountId, object);
  if (!isThere) throw notFound(`${scope} ${object}`);
}

export async function makeNote(accountId: number, row: NoteRow): Promise<{ noteId: number }> {
  await checkNote(accountId, row);
  return (await db().begin(async (tx) => ({
    noteId: await addNote(tx as Transaction, accountId, row),
  }))) as { noteId: number };
}

/** Changes a note, puts one back that was removed, or (null) removes it. */
export async function setNote(accountId: number, noteId: number, row: NoteRow | null): Promise<void> {
  if (row) await checkNote(accountId, row);
  await db().begin(async (begun) => {
    const tx = begun as Transaction;
    const found = row ? await putNote(tx, accountId, noteId, row) : await removeNote(tx, accountId, noteId);
    if (found === 0) throw notFound(`note ${noteId}`);
  });
}
