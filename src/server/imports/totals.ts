import type { Column } from './kinds.ts';
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
  private readonly sums = new Map<string, number>();
  private readonly identity: Reader[];
  private readonly figures: Reader[];

  constructor(readers: readonly Reader[], columns: readonly Column[]) {
    const typeOf = new Map(columns.map(({ name, type }) => [name, type]));
    this.identity = readers.filter(({ name }) => ['text', 'date'].includes(typeOf.get(name) ?? ''));
    this.figures = readers.filter(({ name }) => ['count', 'money'].includes(typeOf.get(name) ?? ''));
  }

  /** Adds the figures of a row that is none. */
  add(values: Values): void {
    for (const { name } of this.figures) {
      const value = values[name];
      if (typeof value === 'number') this.sums.set(name, (this.sums.get(name) ?? 0) + value);
    }
  }

  holds(cells: readonly string[]): boolean {
    const at = cells.findIndex((cell) => cell !== '');
    const first = cells[at] ?? '';
    // Only words can begin a total: dates and numbers need no closer look.
    if (first.charCodeAt(0) <= 57 && !first.startsWith(' ')) return false;
    if (!isTotal(first)) return false;
    const others = this.identity.filter((reader) => reader.at !== at);
    if (others.length > 0 && others.every((reader) => (cells[reader.at] ?? '').trim() === '')) return true;
    return this.sumsUp(cells);
  }

  private sumsUp(cells: readonly string[]): boolean {
    const told = this.figures.filter(({ at }) => (cells[at] ?? '').trim() !== '');
    return (
      told.length > 0 &&
      told.every(({ name, at, read }) => {
        let value: string | number | null;
        try {
          value = read(cells[at]!);
        } catch {
          return false;
        }
        const sum = this.sums.get(name) ?? 0;
        return typeof value === 'number' && sum > 0 && Math.abs(value - sum) <= closeEnough * sum;
      })
    );
  }
}
