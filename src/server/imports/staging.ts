import { once } from 'node:events';
import type { Writable } from 'node:stream';
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

/** Writes rows to COPY in large pieces, waiting when Postgres is slower than we are. */
export class CopyWriter {
  private buffer = '';

  private constructor(private readonly stream: Writable) {}

  static async open(tx: Transaction, table: string): Promise<CopyWriter> {
    return new CopyWriter(await tx`copy ${tx(table)} from stdin`.writable());
  }

  /** A promise only when the caller should wait. */
  write(line: string): Promise<void> | void {
    this.buffer += line;
    if (this.buffer.length < 128 * 1024) return;
    const piece = this.buffer;
    this.buffer = '';
    if (!this.stream.write(piece)) return once(this.stream, 'drain').then(() => undefined);
  }

  async close(): Promise<void> {
    const finished = once(this.stream, 'finish');
    this.stream.end(this.buffer);
    await finished;
  }

  abort(error: Error): void {
    this.stream.destroy(error);
  }
}
