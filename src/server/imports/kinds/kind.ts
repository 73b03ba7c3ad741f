import type { Column } from '../../../answers/imports.ts';
import type { Transaction } from '../../db/connection.ts';
import type { Loader, Months } from '../staging/loader.ts';

/** The load that a file is a part of. */
export interface Loading {
  tx: Transaction;
  accountId: number;
  months: Months;
  /** The account's day on which the file was made; null where nobody says. */
  asOf: string | null;
  /** A structure that is the whole account archives what it does not name. */
  whole: boolean;
}

/** One kind of file: its columns, what its rows must keep to beyond them, and how they come into the account. */
export interface Kind {
  columns: readonly Column[];
  /** Takes the rows of one load; they are checked by the loader's own check. */
  open: (loading: Loading) => Promise<Loader> | Loader;
  /** Takes rows that tell sums of spans of days instead of days. */
  openSummary?: (loading: Loading) => Promise<Loader>;
  /** It tells no figures and no objects: what was made of these stays as it is. */
  leavesFigures?: boolean;
  /** Tables of which the planner is told after a load; `own`: the account's part of a table of facts. */
  analysed?: (own: (fact: string) => string) => string[];
}
