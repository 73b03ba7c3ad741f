import type { Values } from './read.ts';

/** Stands between the texts of a key, and in no text that can be read. */
const between = '\u001f';
const mostKnown = 250_000;
const none = '';

/**
 * Names what rows are about, from some of their columns. Cells that came before are known by their number: what they
 * say is read once.
 */
export class Subjects {
  private known: KnownSubjects | null = null;

  /** The last of `columns` that a file has is the one that tells most; `numberOf` numbers what their values name. */
  constructor(
    readonly columns: readonly string[],
    private readonly numberOf: (values: Values) => number,
  ) {}

  /** The subjects of a file whose columns stand at these places. */
  within(places: readonly { name: string; at: number }[]): KnownSubjects {
    const at = this.columns.flatMap((column) => places.find(({ name }) => name === column)?.at ?? []);
    return (this.known = new KnownSubjects(at, this.numberOf));
  }

  /** Numbers mean other things from here on. */
  forget(): void {
    this.known?.forget();
  }
}

class KnownSubjects {
  private readonly lead: number;
  /** The subject that was met last under the text that tells most, with the texts of all its columns. */
  private readonly byLead = new Map<string, { texts: string[]; number: number }>();
  private readonly byKey = new Map<string, number>();
  /** Parts of a larger text keep all of it in memory: names are copied, once each. */
  private readonly copies = new Map<string, string>();

  constructor(
    private readonly at: readonly number[],
    private readonly numberOf: (values: Values) => number,
  ) {
    this.lead = at[at.length - 1] ?? 0;
  }

  /** The number of what a row's cells name; undefined when they come for the first time. */
  of(cells: readonly string[]): number | undefined {
    const last = this.byLead.get(cells[this.lead] ?? none);
    if (last && this.same(cells, last.texts)) return last.number;
    return this.byKey.get(this.keyOf(cells));
  }

  /** Numbers what the values of these cells name. */
  note(cells: readonly string[], values: Values): number {
    const number = this.numberOf(values);
    if (this.byKey.size >= mostKnown) this.forget();
    this.byKey.set(this.keyOf(cells), number);
    const texts = this.at.map((place) => this.copyOf(cells[place] ?? none));
    this.byLead.set(this.copyOf(cells[this.lead] ?? none), { texts, number });
    return number;
  }

  forget(): void {
    this.byLead.clear();
    this.byKey.clear();
    this.copies.clear();
  }

  private same(cells: readonly string[], texts: readonly string[]): boolean {
    const { at } = this;
    for (let i = 0; i < at.length; i++) if ((cells[at[i]!] ?? none) !== texts[i]) return false;
    return true;
  }

  private keyOf(cells: readonly string[]): string {
    let key = '';
    for (const place of this.at) key += (cells[place] ?? none) + between;
    return key;
  }

  private copyOf(text: string): string {
    let copy = this.copies.get(text);
    if (copy === undefined) {
      copy = Buffer.from(text).toString();
      this.copies.set(copy, copy);
    }
    return copy;
  }
}
