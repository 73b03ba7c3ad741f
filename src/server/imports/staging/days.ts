import type { Transaction } from '../../db/connection.ts';
import type { RowCheck } from '../files/read.ts';
import type { DayCount } from './fact-load.ts';
import { inBatches, ofDays, type Loader, type Months } from './loader.ts';
import { makeStaged, stageRows, type StagedColumns } from './tables.ts';

/** Facts by day that come by the thousand: days of a file replace the same days known before. */
export interface DayFact {
  /** The table of the facts. */
  fact: string;
  /** What is staged of a row beside its `date`, in `staged_day`. */
  staged: StagedColumns;
  /** The column that counts orders; null where nothing is ordered. */
  orders: string | null;
  check: RowCheck | null;
  /** Brings the staged rows into the facts: one row for each of their keys. */
  merge: (tx: Transaction, accountId: number) => Promise<unknown>;
}

/** The sums of staged figures `s`, in the order in which facts have them; nobody says units where each order has one. */
export const sumOfFigures = (tx: Transaction) => tx`
  sum(coalesce(s.impressions, 0)), sum(coalesce(s.clicks, 0)), sum(coalesce(s.spend, 0)), sum(coalesce(s.orders, 0)),
  sum(coalesce(s.units, s.orders, 0)), sum(coalesce(s.sales, 0))`;

export async function openDays(
  tx: Transaction,
  accountId: number,
  about: DayFact,
  months: Months,
): Promise<Loader> {
  const columns = { date: 'date', ...about.staged };
  await makeStaged(tx, 'staged_day', columns);
  return inBatches(
    about.check,
    (rows) => stageRows(tx, 'staged_day', columns, rows),
    async () => ofDays(await mergeDays(tx, accountId, about, months)),
  );
}

async function mergeDays(
  tx: Transaction,
  accountId: number,
  { fact, orders, merge }: DayFact,
  months: Months,
): Promise<DayCount[]> {
  await tx`analyze staged_day`;
  const days = await tx<DayCount[]>`
    select date as day, count(*)::int as rows, ${orders ? tx`coalesce(sum(${tx(orders)}), 0)::int` : tx`0`} as orders
    from staged_day group by date order by date`;
  const list = days.map(({ day }) => day);
  await months(fact, list);
  await tx`delete from ${tx(fact)} where account_id = ${accountId} and day = any(${list}::date[])`;
  await merge(tx, accountId);
  return days;
}
