import type { FileKind, Rejected } from '../../../answers/imports.ts';
import { createWriteStream, type WriteStream } from 'node:fs';
import { mkdir, rename, rm } from 'node:fs/promises';
import { once } from 'node:events';
import { join } from 'node:path';
import { stringify } from 'csv-stringify/sync';

/** Rows that could not be loaded, kept as a CSV that can be repaired and loaded again. */
export class RejectFile {
  readonly first: Rejected[] = [];
  private stream: WriteStream | null = null;
  private failure: Error | null = null;
  private readonly path: string;
  private readonly name: string;

  constructor(
    private readonly headers: readonly string[],
    private readonly folder: string,
    jobId: string | null,
    kind: FileKind,
  ) {
    this.name = `rejected-${jobId ?? 'rows'}-${kind}.csv`;
    this.path = join(folder, this.name);
  }

  async add(rejected: Rejected): Promise<void> {
    if (this.first.length < 50) this.first.push(rejected);
    if (!this.stream) {
      await mkdir(this.folder, { recursive: true });
      this.stream = createWriteStream(`${this.path}.part`);
      // A failure is told to whoever adds or closes next; without a listener it would end the process.
      this.stream.on('error', (error) => (this.failure ??= error));
      this.stream.write(stringify([[...this.headers, 'rejected_row', 'rejected_because']]));
    }
    if (this.failure) throw this.failure;
    const cells = this.headers.map((_, i) => rejected.cells[i] ?? '');
    const because = `${rejected.column ? `${rejected.column}: ` : ''}${rejected.reason}`;
    const line = stringify([[...cells, rejected.row, because]], { escape_formulas: true });
    if (!this.stream.write(line)) await once(this.stream, 'drain');
  }

  async close(): Promise<string | null> {
    if (!this.stream) return null;
    if (this.failure) throw this.failure;
    const done = once(this.stream, 'finish');
    this.stream.end();
    await done;
    await rename(`${this.path}.part`, this.path);
    return this.name;
  }

  async drop(): Promise<void> {
    if (this.stream && !this.stream.closed) {
      const closed = once(this.stream, 'close').catch(() => undefined);
      this.stream.destroy();
      await closed;
    }
    await rm(`${this.path}.part`, { force: true });
  }
}
