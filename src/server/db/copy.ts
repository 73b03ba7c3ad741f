import { once } from 'node:events';
import type { Readable, Writable } from 'node:stream';
import type { Transaction } from './connection.ts';

/**
 * Frees the connection behind an answer of COPY, read to its end or not: what is left is read and dropped. Postgres.js
 * pauses its socket when a chunk is large and may see the end before it is asked for more: asked once more, it goes on.
 */
export async function release(stream: Readable, drain: () => Promise<void>): Promise<void> {
  await drain().catch(() => undefined);
  stream._read(0);
}

/** Escapes one value for COPY's text format. */
export const copyText = (value: string | number | null): string => {
  if (value === null) return '\\N';
  if (typeof value === 'number') return String(value);
  return /[\\\t\n\r]/.test(value)
    ? value.replace(
        /[\\\t\n\r]/g,
        (sign) => `\\${sign === '\t' ? 't' : sign === '\n' ? 'n' : sign === '\r' ? 'r' : '\\'}`,
      )
    : value;
};

/** Lines in pieces of a thousand: one write each would cost more than the line. */
export function* inPieces(lines: readonly string[]): Generator<string> {
  for (let i = 0; i < lines.length; i += 1000) yield lines.slice(i, i + 1000).join('');
}

/** Copies pieces of text, each of whole lines, into a table (some of its columns); waits when Postgres is slower. */
export async function copyInto(
  tx: Transaction,
  table: string,
  pieces: Iterable<string>,
  columns: readonly string[] = [],
): Promise<void> {
  const named = columns.length > 0 ? tx`(${tx(columns as string[])})` : tx``;
  await written(await tx`copy ${tx(table)} ${named} from stdin`.writable(), pieces);
}

/** Writes pieces into a stream and ends it; resolves when it has taken all. */
export async function written(stream: Writable, pieces: Iterable<string | Buffer>): Promise<void> {
  for (const piece of pieces) if (!stream.write(piece)) await once(stream, 'drain');
  const finished = once(stream, 'finish');
  stream.end();
  await finished;
}
