import type { PlanMonth, PlanRow } from '../../answers/goals.ts';
import type { Day } from '../../core/metrics/days.ts';
import { getAccount } from '../account/account.ts';
import { productsOf } from '../account/queries.ts';
import { db, type Transaction } from '../db/connection.ts';
import { notFound, ServiceError } from '../errors.ts';
import { monthsDone, planRows, putPlan } from './queries.ts';

/** Months that are shown before and after the present one. */
const shown = { before: 2, after: 6 };

const monthOf = (day: Day): Day => `${day.slice(0, 7)}-01`;

/** The first day of the month so many months on. */
function monthsOn(month: Day, count: number): Day {
  const [year, number] = month.split('-').map(Number) as [number, number];
  return new Date(Date.UTC(year, number - 1 + count, 1)).toISOString().slice(0, 10);
}

/** The plan of the months about the present one, of the account and of products that have one, beside what they brought. */
export async function planOf(accountId: number): Promise<PlanMonth[]> {
  const { today } = await getAccount(db(), accountId);
  if (today === null) return [];
  const present = monthOf(today);
  const months = Array.from({ length: shown.before + shown.after + 1 }, (_, at) =>
    monthsOn(present, at - shown.before),
  );
  const planned = await planRows(db(), accountId);
  const done = await monthsDone(db(), accountId, months[0]!, today);
  const skus = ['', ...new Set(planned.map(({ sku }) => sku).filter((sku) => sku !== ''))];
  return months.flatMap((month) =>
    skus.map((sku): PlanMonth => {
      const row = planned.find((one) => one.month === month && one.sku === sku);
      const brought = done.find((one) => one.month === month && one.sku === sku);
      return {
        month,
        sku,
        spend: row?.spend ?? null,
        sales: row?.sales ?? null,
        revenue: row?.revenue ?? null,
        done: {
          spend: brought?.spend ?? 0,
          sales: brought?.sales ?? 0,
          revenue: brought?.revenue ?? null,
        },
      };
    }),
  );
}

/** Why a month cannot be planned any more, as a sentence; null when it can. */
export const monthProblem = (month: Day, today: Day | null): string | null =>
  today !== null && month < monthOf(today)
    ? `${month.slice(0, 7)} is over: its plan stands as it was. Plan ${monthOf(today).slice(0, 7)} or later.`
    : null;

/** Keeps what months shall bring, all or none; a month that is over is not planned any more. */
export async function setPlans(accountId: number, rows: readonly PlanRow[]): Promise<void> {
  const { today } = await getAccount(db(), accountId);
  const skus = new Set((await productsOf(db(), accountId)).map(({ sku }) => sku));
  for (const { month, sku } of rows) {
    const problem = monthProblem(monthOf(month), today);
    if (problem !== null) throw new ServiceError(422, 'month_over', problem, { field: 'month' });
    if (sku !== '' && !skus.has(sku)) throw notFound(`product ${sku}`);
  }
  await db().begin(async (tx) => {
    for (const row of rows)
      await putPlan(tx as unknown as Transaction, accountId, { ...row, month: monthOf(row.month) });
  });
}
