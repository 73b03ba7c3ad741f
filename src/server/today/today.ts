import type {
  MovedAnswer,
  ProductDay,
  Standing,
  TodayAnswer,
  TodayDay,
  VerdictCounts,
} from '../../answers/today.ts';
import { withComparison } from '../../core/explore/columns.ts';
import { addDays, windowEnding, type Day, type Window } from '../../core/metrics/days.ts';
import { runsDry } from '../../core/pace/landing.ts';
import { notesOf } from '../account/notes.queries.ts';
import { getAccount, settling } from '../account/account.ts';
import { productsOf } from '../account/queries.ts';
import { listOutside } from '../changes/index.ts';
import { db } from '../db/connection.ts';
import { editionOf, noFigures } from '../engine/edition.ts';
import { todayOf } from '../engine/link.ts';
import type { MovedOrder } from '../engine/today.ts';
import { goalRows } from '../goals/queries.ts';
import { productDays } from './pace.ts';
import { endedCampaigns, objectNames, priceMoves, reportsTold, sheetGrades, stockPace } from './queries.ts';

/** Days of what is new or gone, of stock's pace, and sheets that are looked back on. */
const newDays = 14;
const stockDays = 28;
const shownSheets = 5;
const shownOutside = 6;
const shownMembers = 40;
const seasonDays = 90;

/** The account in one look: how it stands against the period before, and what happened. */
export async function todayAnswer(accountId: number, window: Window): Promise<TodayAnswer> {
  const account = await getAccount(db(), accountId);
  const { settledTo } = await settling(db(), account);
  const { today } = account;
  if (today === null || settledTo === null) throw noFigures();
  const { comparison: compare } = withComparison(window);
  const season = addDays(today, 1 - seasonDays);
  const from = compare.from < season ? compare.from : season;
  const sql = db();
  const [rows, began, goals, sheets, outside, stock, reports, notes, ended, prices] = await Promise.all([
    productDays(accountId, from),
    todayOf().began(await editionOf(accountId), addDays(today, -newDays)),
    goalRows(sql, accountId),
    sheetGrades(sql, accountId, shownSheets),
    listOutside(accountId),
    stockPace(sql, accountId, windowEnding(addDays(today, -1), stockDays)),
    reportsTold(sql, accountId),
    notesOf(sql, accountId, { from: season, to: today }),
    endedCampaigns(sql, accountId, addDays(today, -newDays), today),
    priceMoves(sql, accountId, addDays(today, -newDays)),
  ]);
  return {
    today,
    settledTo,
    window,
    compare,
    goal: { targetAcos: goals.find(({ scope }) => scope === 'account')?.target_acos ?? 0 },
    now: standingOf(rows, window),
    before: standingOf(rows, compare),
    days: daysOf(rows, season),
    sheets,
    outside: { count: outside.count, changes: outside.changes.slice(0, shownOutside) },
    campaigns: [
      ...(began ?? []).map(({ name, day }) => ({ name, what: 'began' as const, day })),
      ...ended.map(({ name, day }) => ({ name, what: 'ended' as const, day })),
    ],
    prices,
    stock: stock
      .map((row) => ({ ...row, runsOutOn: runsDry(row.stock, row.aDay, today) }))
      .sort((a, b) => ((a.runsOutOn ?? '9') < (b.runsOutOn ?? '9') ? -1 : 1)),
    reports,
    notes,
  };
}

const empty = { impressions: 0, clicks: 0, spend: 0, orders: 0, units: 0, sales: 0 };

function standingOf(rows: readonly ProductDay[], { from, to }: Window): Standing {
  const sums: Standing = { ...empty, totalSales: null, totalOrders: null };
  for (const row of rows) {
    if (row.day < from || row.day > to) continue;
    for (const name of Object.keys(empty) as (keyof typeof empty)[]) sums[name] += row[name];
    if (row.totalSales !== null) sums.totalSales = (sums.totalSales ?? 0) + row.totalSales;
    if (row.totalOrders !== null) sums.totalOrders = (sums.totalOrders ?? 0) + row.totalOrders;
  }
  return sums;
}

function daysOf(rows: readonly ProductDay[], from: Day): TodayDay[] {
  const days = new Map<Day, TodayDay>();
  for (const { day, spend, sales, orders, totalSales } of rows) {
    if (day < from) continue;
    const known = days.get(day) ?? { day, spend: 0, sales: 0, orders: 0, totalSales: null };
    days.set(day, {
      day,
      spend: known.spend + spend,
      sales: known.sales + sales,
      orders: known.orders + orders,
      totalSales: totalSales === null ? known.totalSales : (known.totalSales ?? 0) + totalSales,
    });
  }
  return [...days.values()].sort((a, b) => (a.day < b.day ? -1 : 1));
}

/** Targets and terms by what is known of them. */
export async function verdictsOf(accountId: number, window: Window): Promise<VerdictCounts> {
  const found = await todayOf().verdicts(await editionOf(accountId), window);
  if (!found) throw noFigures();
  return found;
}

/** What moved a figure between the window and the period before, split exactly, with the members that moved it most. */
export async function movedOf(
  accountId: number,
  order: Omit<MovedOrder, 'compare'> & { compare?: Window },
): Promise<MovedAnswer> {
  const compare = order.compare ?? withComparison(order.window).comparison;
  const moved = await todayOf().moved(await editionOf(accountId), { ...order, compare });
  if (!moved) throw noFigures();
  const { members, ...whole } = moved;
  const shown = members.slice(0, shownMembers);
  const names =
    order.by === 'product'
      ? new Map(
          (await productsOf(db(), accountId)).map(({ sku, title }) => [sku, { name: title, below: sku }]),
        )
      : await objectNames(
          db(),
          accountId,
          order.by,
          shown.map(({ key }) => key),
        );
  return {
    ...whole,
    by: order.by,
    count: members.length,
    members: shown.map((member) => ({
      ...member,
      name: names.get(member.key)?.name ?? (member.key === '' ? 'without a product' : member.key),
      below: names.get(member.key)?.below ?? '',
    })),
  };
}
