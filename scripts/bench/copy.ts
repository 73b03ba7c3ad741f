import { createWriteStream } from 'node:fs';
import { pipeline } from 'node:stream/promises';
import postgres from 'postgres';

/** Writes what a select gives to a CSV file, by COPY. */
export async function copyToFile(databaseUrl: string, select: string, file: string): Promise<void> {
  const sql = postgres(databaseUrl, { max: 1 });
  const rows = await sql.unsafe(`copy (${select}) to stdout (format csv)`).readable();
  await pipeline(rows, createWriteStream(file));
  await sql.end();
}
