import { once } from 'node:events';
import type { Transaction } from '../db/connection.ts';

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

/** Copies pieces of text, each of whole lines, into a table; waits when Postgres is slower than we are. */
export async function copyInto(tx: Transaction, table: string, pieces: Iterable<string>): Promise<void> {
  const stream = await tx`copy ${tx(table)} from stdin`.writable();
  for (const piece of pieces) if (!stream.write(piece)) await once(stream, 'drain');
  const finished = once(stream, 'finish');
  stream.end();
  await finished;
}
