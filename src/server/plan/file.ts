import { stringify } from 'csv-stringify/sync';
import type { PlanRow, ReadPlan } from '../../answers/goals.ts';
import { micros, units, type Micros } from '../../core/metrics/money.ts';
import { getAccount } from '../account/account.ts';
import { productsOf } from '../account/queries.ts';
import { db } from '../db/connection.ts';
import { plainRows } from '../imports/files/plain.ts';
import { decimalMarks, readNumber } from '../imports/files/values.ts';
import { monthProblem, planOf } from '../goals/plan.ts';
import { planRows } from '../goals/queries.ts';

/** The plan as CSV: a row a month and product, of the account where no SKU stands. */

const mostRows = 20_000;
const amounts = [
  ['spend', 'spend'],
  ['ad_sales', 'sales'],
  ['revenue', 'revenue'],
] as const;

/** Months that can be planned, with what is planned of them. */
export async function planCsv(accountId: number): Promise<string> {
  const { today } = await getAccount(db(), accountId);
  const lines = (await planOf(accountId))
    .filter(({ month }) => monthProblem(month, today) === null)
    .map((row) => ({
      month: row.month.slice(0, 7),
      sku: row.sku,
      ...Object.fromEntries(
        amounts.map(([column, name]) => [column, row[name] === null ? '' : units(row[name])]),
      ),
    }));
  return stringify(lines, {
    header: true,
    columns: ['month', 'sku', ...amounts.map(([column]) => column)],
    escape_formulas: true,
  });
}

type Column = 'month' | 'sku' | 'spend' | 'ad_sales' | 'revenue';

/**
 * Reads a file of plans: rows that change something, and what is wrong with others. Nothing is kept. An empty cell takes a
 * plan away; a column that the file does not have leaves its plans as they are.
 */
export async function readPlanCsv(accountId: number, bytes: Uint8Array): Promise<ReadPlan> {
  const told = plainRows<Column>(bytes, {
    noun: 'month',
    most: mostRows,
    needs: [['month'], ['spend', 'ad_sales', 'revenue']],
    hint: 'A file of plans has month (2026-12), sku (empty: the account), and spend, ad_sales or revenue.',
  });
  const sql = db();
  const { today } = await getAccount(sql, accountId);
  const skus = new Set((await productsOf(sql, accountId)).map(({ sku }) => sku));
  const planned = new Map((await planRows(sql, accountId)).map((row) => [`${row.month}|${row.sku}`, row]));
  const [mark = '.'] = decimalMarks(
    told.flatMap(({ record }) => amounts.map(([column]) => record[column] ?? '')),
  );
  const found: ReadPlan = { rows: [], problems: [] };
  const seen = new Map<string, number>();
  for (const { record, line } of told) {
    const wrong = (column: Column, message: string) => found.problems.push({ row: line, column, message });
    const [, year, number] = /^(\d{4})-(0[1-9]|1[0-2])(?:-01)?$/.exec(record.month?.trim() ?? '') ?? [];
    if (!year) {
      wrong('month', `“${record.month ?? ''}” is no month: months are written as 2026-12.`);
      continue;
    }
    const month = `${year}-${number}-01`;
    const over = monthProblem(month, today);
    if (over !== null) {
      wrong('month', over);
      continue;
    }
    const sku = record.sku?.trim() ?? '';
    if (sku !== '' && !skus.has(sku)) {
      wrong('sku', `There is no product ${sku} here.`);
      continue;
    }
    const key = `${month}|${sku}`;
    const first = seen.get(key);
    if (first !== undefined) {
      wrong('month', `${record.month} ${sku} stands in line ${first} already: one plan each.`);
      continue;
    }
    seen.set(key, line);
    const before: PlanRow = planned.get(key) ?? { month, sku, spend: null, sales: null, revenue: null };
    const row = { ...before };
    let isRight = true;
    for (const [column, name] of amounts) {
      const text = record[column];
      if (text === undefined) continue;
      const amount: Micros | null = text.trim() === '' ? null : micros(readNumber(text, mark) ?? Number.NaN);
      if (amount !== null && !(amount >= 0)) {
        wrong(column, `“${text}” is no amount.`);
        isRight = false;
      } else row[name] = amount;
    }
    if (isRight && amounts.some(([, name]) => row[name] !== before[name])) found.rows.push({ before, row });
  }
  return found;
}
