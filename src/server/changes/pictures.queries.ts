import type { Database } from '../db/connection.ts';

/** Files of pictures on their way to the marketplace. */

export async function pictureToSend(
  sql: Database,
  accountId: number,
  pictureId: string,
): Promise<{ type: string; bytes: Uint8Array; extId: string | null } | undefined> {
  const [row] = await sql<{ type: string; bytes: Uint8Array; extId: string | null }[]>`
    select type, bytes, ext_id as "extId" from picture where account_id = ${accountId} and picture_id = ${pictureId}`;
  return row;
}

/** What the marketplace calls a picture: it is sent once. */
export async function keepPictureName(
  sql: Database,
  accountId: number,
  pictureId: string,
  extId: string,
): Promise<void> {
  await sql`
    update picture set ext_id = ${extId} where account_id = ${accountId} and picture_id = ${pictureId}`;
}
