import type { Transaction } from '../../db/connection.ts';
import {
  clearDays,
  foldRepeated,
  makeStaging,
  mergeObjects,
  mergeTerms,
  type Fact,
} from './facts.queries.ts';
import { ofDays, type Loader, type Merged, type Months } from './loader.ts';
import { Names, targetColumns, targetLine } from './names.ts';
import type { Values } from '../files/read.ts';
import { Repeats } from './repeats.ts';
import { Subjects } from '../files/subjects.ts';
import { BinaryRows, copyRows } from '../../db/binary-copy.ts';
import { copyInto, copyText, inPieces } from '../../db/copy.ts';

/** What a file says of one day. */
export interface DayCount {
  day: string;
  rows: number;
  orders: number;
}

/** More than this many distinct targets or terms in memory, and a new dictionary begins. */
const dictionaryLimit = 250_000;
const rowsOfAPiece = 40_000;
const rowsOfAWrite = 1_000;
const figureColumns = ['int', 'int', 'bigint', 'int', 'int', 'bigint'] as const;
const targetDayColumns = ['bigint', 'day', 'bigint', ...figureColumns] as const;
const termDayColumns = ['bigint', 'day', 'bigint', 'bigint', ...figureColumns] as const;
/** Pieces read ahead: where new terms are many Postgres is slower than the reader, elsewhere it is quicker. */
const mostWaiting = 16;

/** Names with their ids: each gets its number when it is met, and its id when it is merged. */
class Dictionary extends Names {
  readonly ids: number[] = [];

  /** Ids of the names met since the last call, in the order they were met. */
  learn(ids: number[], staged: number): void {
    if (ids.length !== staged) throw new Error(`${staged} names were staged, ${ids.length} came back.`);
    for (const id of ids) this.ids.push(id);
  }
}

/** The numbers of a piece, one memory for one piece after the other: so the heap does not wait to be cleared of them. */
class Columns {
  readonly targetNumbers = new Int32Array(rowsOfAPiece);
  readonly termNumbers = new Int32Array(rowsOfAPiece);
  /** Six to a row: impressions, clicks, spend, orders, units, sales. */
  readonly figures = new Float64Array(rowsOfAPiece * 6);
}

/** A part of a file on its way to the facts: rows by number, and what they name for the first time. */
class Piece {
  readonly days: string[] = [];
  readonly objects: string[] = [];
  readonly names: string[] = [];
  readonly newDays: string[] = [];

  constructor(
    readonly targets: Dictionary,
    readonly terms: Dictionary,
    readonly columns: Columns,
  ) {}

  /** The rows for COPY, with the ids that are known by now, in the order of the table's columns. */
  *rows(accountId: number, fact: Fact): Generator<Buffer> {
    const { days, targets, terms } = this;
    const { targetNumbers, termNumbers, figures } = this.columns;
    const columns = fact === 'term_day' ? termDayColumns : targetDayColumns;
    for (let i = 0; i < days.length; i += rowsOfAWrite) {
      const rows = new BinaryRows(columns, Math.min(rowsOfAWrite, days.length - i));
      for (let row = i; row < Math.min(i + rowsOfAWrite, days.length); row++) {
        rows.begin();
        rows.bigint(accountId);
        rows.day(days[row]!);
        rows.bigint(targets.ids[targetNumbers[row]!]!);
        if (fact === 'term_day') rows.bigint(terms.ids[termNumbers[row]!]!);
        const f = row * 6;
        rows.int(figures[f]!);
        rows.int(figures[f + 1]!);
        rows.bigint(figures[f + 2]!);
        rows.int(figures[f + 3]!);
        rows.int(figures[f + 4]!);
        rows.bigint(figures[f + 5]!);
      }
      yield rows.bytes;
    }
  }
}

/**
 * Takes the rows of a target or term report and merges them piece by piece: while Postgres merges one, the reader
 * fills the next. Holds a few pieces and the dictionaries in memory, whatever the size of the file.
 */
export class FactLoad implements Loader {
  readonly check = null;
  readonly subjects = new Subjects(targetColumns, (values) => this.numberOfTarget(values));

  private readonly days = new Map<string, DayCount>();
  private piece = new Piece(new Dictionary(), new Dictionary(), new Columns());
  private merging: Promise<void> = Promise.resolve();
  private readonly waiting: Promise<void>[] = [];
  private readonly spare: Columns[] = [];
  private readonly repeats = new Repeats();

  private constructor(
    private readonly tx: Transaction,
    private readonly accountId: number,
    private readonly fact: Fact,
    private readonly months: Months,
  ) {}

  static async open(tx: Transaction, accountId: number, fact: Fact, months: Months): Promise<FactLoad> {
    await makeStaging(tx);
    return new FactLoad(tx, accountId, fact, months);
  }

  /** One row; a promise when the reader should wait for Postgres. */
  add(values: Values): Promise<void> | void {
    const { piece } = this;
    const row = piece.days.length;
    const day = values.date as string;
    const orders = (values.orders ?? 0) as number;
    let count = this.days.get(day);
    if (!count) {
      this.days.set(day, (count = { day, rows: 0, orders: 0 }));
      piece.newDays.push(day);
    }
    count.rows++;
    count.orders += orders;
    piece.days.push(day);
    const { targetNumbers, termNumbers, figures } = piece.columns;
    const target = (targetNumbers[row] = values.subject as number);
    const term = (termNumbers[row] = this.fact === 'term_day' ? this.numberOfTerm(values.term as string) : 0);
    this.repeats.watch(day, target, term);
    let f = row * 6;
    figures[f++] = (values.impressions ?? 0) as number;
    figures[f++] = (values.clicks ?? 0) as number;
    figures[f++] = (values.spend ?? 0) as number;
    figures[f++] = orders;
    figures[f++] = (values.units ?? orders) as number;
    figures[f] = (values.sales ?? 0) as number;
    if (row + 1 === rowsOfAPiece) return this.flush();
  }

  /** Merges what is left; the days of the file in their order. */
  async finish(): Promise<Merged> {
    await this.flush();
    await this.merging;
    const days = [...this.days.values()].sort((a, b) => (a.day < b.day ? -1 : 1));
    if (this.repeats.end()) {
      const names = days.map(({ day }) => day);
      await foldRepeated(this.tx, this.accountId, this.fact, names);
    }
    return ofDays(days);
  }

  /** Waits until nothing runs on the connection any more, so that it can be rolled back. */
  async abandon(): Promise<void> {
    await this.merging.catch(() => undefined);
  }

  private numberOfTarget(values: Values): number {
    const { key, line } = targetLine(values);
    const { number, isNew } = this.piece.targets.numberOf(key);
    if (isNew) this.piece.objects.push(`${number}\t${line()}\n`);
    return number;
  }

  private numberOfTerm(term: string): number {
    const { number, isNew } = this.piece.terms.numberOf(term);
    if (isNew) this.piece.names.push(`${number}\t${copyText(term)}\n`);
    return number;
  }

  /** Hands the piece over and begins the next; resolves when few enough wait to be merged. */
  private flush(): Promise<void> {
    const { piece } = this;
    const next = (one: Dictionary) => {
      if (one.size <= dictionaryLimit) return one;
      // The same name gets another number from here on.
      this.repeats.possible = true;
      if (one === piece.targets) this.subjects.forget();
      return new Dictionary();
    };
    this.piece = new Piece(next(piece.targets), next(piece.terms), this.spare.pop() ?? new Columns());
    this.merging = this.merging.then(() => this.merge(piece));
    // Whoever waits next hears of the failure; until then it must not count as unheard.
    this.merging.catch(() => undefined);
    this.waiting.push(this.merging);
    return this.waiting.length > mostWaiting ? this.waiting.shift()! : Promise.resolve();
  }

  private async merge(piece: Piece): Promise<void> {
    const { tx, accountId, fact } = this;
    const { objects, names, newDays } = piece;
    if (piece.days.length === 0) return;
    if (objects.length > 0) {
      await copyInto(tx, 'staged_target', inPieces(objects));
      piece.targets.learn(await mergeObjects(tx, accountId), objects.length);
    }
    if (names.length > 0) {
      await copyInto(tx, 'staged_term', inPieces(names));
      piece.terms.learn(await mergeTerms(tx, accountId), names.length);
    }
    if (newDays.length > 0) {
      await this.months(fact, newDays);
      await clearDays(tx, accountId, fact, newDays);
    }
    await copyRows(tx, fact, piece.rows(accountId, fact));
    this.spare.push(piece.columns);
  }
}
