import type { DayCount } from './fact-load.ts';
import type { RowCheck, Values } from '../files/read.ts';
import type { Subjects } from '../files/subjects.ts';

/** What a load put into the account. */
export interface Merged {
  /** Days that the file told, in their order; empty for kinds without days. */
  days: DayCount[];
  /** First and last day told, of days or of summaries. */
  firstDay: string | null;
  lastDay: string | null;
  /** What stood before and after, as JSON, of files that can be taken back. */
  changed?: unknown;
}

export const noDays: Merged = { days: [], firstDay: null, lastDay: null };

export const ofDays = (days: DayCount[]): Merged => ({
  days,
  firstDay: days[0]?.day ?? null,
  lastDay: days[days.length - 1]?.day ?? null,
});

/** Takes the rows of one kind of file, within the transaction of a load. */
export interface Loader {
  check: RowCheck | null;
  /** Where it wants the number of what a row is about; the row's `subject`. */
  subjects?: Subjects;
  /** One row; a promise when the reader should wait. */
  add: (values: Values) => Promise<void> | void;
  finish: () => Promise<Merged>;
  /** After a failure: what goes on behind is waited for. */
  abandon?: () => Promise<void>;
}

/** Makes the months of an account's fact stand that days fall into. */
export type Months = (fact: string, days: readonly string[]) => Promise<void>;

const rowsOfAPiece = 5000;

/** A loader that hands rows on by the thousand. */
export function inBatches(
  check: RowCheck | null,
  put: (rows: Values[]) => Promise<void>,
  finish: () => Promise<Merged>,
): Loader {
  let rows: Values[] = [];
  const flush = async () => {
    const full = rows;
    rows = [];
    if (full.length > 0) await put(full);
  };
  return {
    check,
    add: (values) => {
      rows.push(values);
      return rows.length >= rowsOfAPiece ? flush() : undefined;
    },
    finish: async () => {
      await flush();
      return finish();
    },
  };
}
