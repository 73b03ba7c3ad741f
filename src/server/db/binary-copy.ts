import type { Transaction } from './connection.ts';
import { written } from './copy.ts';

/**
 * Rows of numbers and days in COPY's binary format: half the work of writing them as text, on both sides.
 * Source: PostgreSQL's documentation, COPY, "Binary Format".
 */

export type BinaryColumn = 'int' | 'bigint' | 'day';

const widths: Record<BinaryColumn, number> = { int: 4, bigint: 8, day: 4 };
const signature = Buffer.from('PGCOPY\n\xff\r\n\0\0\0\0\0\0\0\0\0', 'latin1');
const trailer = Buffer.from([0xff, 0xff]);

const dayMs = 86_400_000;
/** Postgres counts days from here. */
const firstDay = Date.UTC(2000, 0, 1) / dayMs;
const dayNumbers = new Map<string, number>();

/** Days since 2000-01-01 of a YYYY-MM-DD. */
function dayNumber(day: string): number {
  let number = dayNumbers.get(day);
  if (number === undefined) {
    number = Date.parse(`${day}T00:00:00Z`) / dayMs - firstDay;
    if (dayNumbers.size > 10_000) dayNumbers.clear();
    dayNumbers.set(day, number);
  }
  return number;
}

/** So many rows of one table, filled value by value in the order of its columns. No value is null. */
export class BinaryRows {
  readonly bytes: Buffer;
  private at = 0;

  constructor(columns: readonly BinaryColumn[], rows: number) {
    const width = columns.reduce((sum, column) => sum + 4 + widths[column], 2);
    this.bytes = Buffer.allocUnsafe(width * rows);
    // What all rows have in common, the number of values and their lengths, is written once and doubled.
    let at = this.bytes.writeInt16BE(columns.length, 0);
    for (const column of columns) at = this.bytes.writeInt32BE(widths[column], at) + widths[column];
    for (let filled = width; filled < this.bytes.length; filled *= 2)
      this.bytes.copyWithin(filled, 0, filled);
  }

  begin(): void {
    this.at += 2;
  }

  int(value: number): void {
    this.at = this.bytes.writeInt32BE(value, this.at + 4);
  }

  /** A whole number from 0 to 2^53. */
  bigint(value: number): void {
    const high = Math.floor(value / 2 ** 32);
    const at = this.bytes.writeInt32BE(high, this.at + 4);
    this.at = this.bytes.writeUInt32BE(value - high * 2 ** 32, at);
  }

  day(day: string): void {
    this.int(dayNumber(day));
  }
}

/** Copies filled rows into a table, all of its columns; waits when Postgres is slower. */
export async function copyRows(tx: Transaction, table: string, rows: Iterable<Buffer>): Promise<void> {
  await written(await tx`copy ${tx(table)} from stdin (format binary)`.writable(), framed(rows));
}

function* framed(rows: Iterable<Buffer>): Generator<Buffer> {
  yield signature;
  yield* rows;
  yield trailer;
}
