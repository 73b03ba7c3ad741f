import type { Column } from '../../../answers/imports.ts';
import type { Values } from './read.ts';
import { isTotal } from './values.ts';

interface Reader {
  name: string;
  at: number;
  read: (text: string) => string | number | null;
}

/** Totals are rounded by whoever wrote them. */
const closeEnough = 0.005;

/**
 * Tells the totals of a file from its rows. A row is a total when a word for it begins the row and nothing else says
 * what the row is about, or its figures are the sums of the rows above: a product may well be named "Total".
 */
export class Totals {
  private readonly sums: Float64Array;
  private readonly identity: Reader[];
  private readonly figures: Reader[];

  constructor(readers: readonly Reader[], columns: readonly Column[]) {
    const typeOf = new Map(columns.map(({ name, type }) => [name, type]));
    this.identity = readers.filter(({ name }) => ['text', 'date'].includes(typeOf.get(name) ?? ''));
    this.figures = readers.filter(({ name }) => ['count', 'money'].includes(typeOf.get(name) ?? ''));
    this.sums = new Float64Array(this.figures.length);
  }

  /** Adds the figures of a row that is none. */
  add(values: Values): void {
    const { figures, sums } = this;
    for (let i = 0; i < figures.length; i++) {
      const value = values[figures[i]!.name];
      if (typeof value === 'number') sums[i]! += value;
    }
  }

  holds(cells: readonly string[]): boolean {
    const at = cells[0] === '' ? cells.findIndex((cell) => cell !== '') : 0;
    const first = cells[at] ?? '';
    // Only words can begin a total: dates and numbers need no closer look.
    if (first.charCodeAt(0) <= 57 && !first.startsWith(' ')) return false;
    if (!isTotal(first)) return false;
    const others = this.identity.filter((reader) => reader.at !== at);
    if (others.length > 0 && others.every((reader) => (cells[reader.at] ?? '').trim() === '')) return true;
    return this.sumsUp(cells);
  }

  private sumsUp(cells: readonly string[]): boolean {
    const told = this.figures
      .map(({ at, read }, i) => ({ text: (cells[at] ?? '').trim(), read, sum: this.sums[i]! }))
      .filter(({ text }) => text !== '');
    return (
      told.length > 0 &&
      told.every(({ text, read, sum }) => {
        let value: string | number | null;
        try {
          value = read(text);
        } catch {
          return false;
        }
        return typeof value === 'number' && sum > 0 && Math.abs(value - sum) <= closeEnough * sum;
      })
    );
  }
}
