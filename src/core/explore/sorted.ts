import type { Rows } from '../account/levels.ts';
import { quickselect } from 'd3-array';
import type { Value } from './conditions.ts';

/** At least so many rows are put in order at once. */
const fewest = 1000;

/** Compares two rows by where they stand in the list of those found. */
type Compare = (a: number, b: number) => number;

/**
 * Rows that match, in an order that is worked out only as far as somebody looks: a table of a million rows shows some
 * hundred, and picking these costs far less than sorting all.
 */
export class SortedRows {
  private readonly order: Int32Array;
  private sorted = 0;

  constructor(
    /** All that match, as the objects stand. */
    readonly rows: Rows,
    private readonly compare: Compare | null,
  ) {
    this.order = Int32Array.from(rows.keys());
    if (!compare) this.sorted = rows.length;
  }

  get length(): number {
    return this.rows.length;
  }

  /** Rows from one place in the order to another. */
  slice(from: number, to: number): Rows {
    const end = Math.min(to, this.length);
    this.sortTo(end);
    return this.order.slice(from, Math.max(from, end)).map((at) => this.rows[at]!);
  }

  private sortTo(end: number): void {
    const { order, compare, length } = this;
    if (end <= this.sorted || !compare) return;
    let next = Math.max(end * 2, fewest);
    if (next > length / 4) next = length;
    else quickselect(order, next - 1, this.sorted, length - 1, compare as (a: unknown, b: unknown) => number);
    order.subarray(this.sorted, next).sort(compare);
    this.sorted = next;
  }
}

/** Sorts rows by a column. Nothing sorts last in both directions; equal rows stay as the objects stand. */
export function sortRows(rows: Rows, read: (row: number) => Value, descending: boolean): SortedRows {
  const values: Value[] = Array.from(rows, read);
  const sign = descending ? -1 : 1;
  if (values.some((value) => typeof value === 'string')) {
    const collator = new Intl.Collator('en', { numeric: true });
    return new SortedRows(rows, (a, b) => {
      const [x, y] = [values[a]!, values[b]!] as (string | null)[];
      if (x === null || y === null) return x === y ? a - b : x === null ? 1 : -1;
      return sign * collator.compare(x!, y!) || a - b;
    });
  }
  const numbers = Float64Array.from(values, (value) => (value === null ? NaN : (value as number)));
  return new SortedRows(rows, (a, b) => {
    const [x, y] = [numbers[a]!, numbers[b]!];
    if (x < y) return -sign;
    if (x > y) return sign;
    if (x === y) return a - b;
    return Number.isNaN(x) ? (Number.isNaN(y) ? a - b : 1) : -1;
  });
}
