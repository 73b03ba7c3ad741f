import type { PaceAnswer, PaceLine, PaceMeasure, ProductDay } from '../../answers/today.ts';
import type { PlanRow } from '../../answers/goals.ts';
import { addDays, daysBetween, type Day } from '../../core/metrics/days.ts';
import { maturity } from '../../core/metrics/maturity.ts';
import { micros, type Micros } from '../../core/metrics/money.ts';
import { landing, monthOf, runsDry, type DayValue } from '../../core/pace/landing.ts';
import { getAccount, settling } from '../account/account.ts';
import { productsOf } from '../account/queries.ts';
import { openSheet } from '../changes/index.ts';
import { db } from '../db/connection.ts';
import { editionOf, noFigures } from '../engine/edition.ts';
import { todayOf } from '../engine/link.ts';
import { planRows } from '../goals/queries.ts';
import { endingCampaigns, endlessCampaigns, productSales } from './queries.ts';

/** Days that a forecast rests on. */
const historyDays = 97;
/** Money that is left is spent at the pace of so many days. */
const paceDays = 14;

type Measured = Pick<ProductDay, 'day' | 'spend' | 'sales'> & { totalSales: Micros | null };

/** What ads and products did, by day and product, from a day on. */
export async function productDays(accountId: number, from: Day): Promise<ProductDay[]> {
  const ads = await todayOf().days(await editionOf(accountId), from);
  if (!ads) throw noFigures();
  const sold = await productSales(db(), accountId, from);
  const days = new Map<string, ProductDay>(
    ads.map((row) => [`${row.day}|${row.sku}`, { ...row, totalSales: null, totalOrders: null }]),
  );
  for (const { day, sku, totalSales, totalOrders } of sold) {
    const key = `${day}|${sku}`;
    const known = days.get(key) ?? { day, sku, ...nothing, totalSales: null, totalOrders: null };
    days.set(key, { ...known, totalSales, totalOrders });
  }
  return [...days.values()];
}

const nothing = { impressions: 0, clicks: 0, spend: 0, orders: 0, units: 0, sales: 0 };

/** Where the month lands, of the account and of products that have a plan, and what money ends. */
export async function paceOf(accountId: number): Promise<PaceAnswer> {
  const account = await getAccount(db(), accountId);
  if (account.today === null) throw noFigures();
  const { today } = account;
  const { curve } = await settling(db(), account);
  const rows = await productDays(accountId, addDays(today, 1 - historyDays));
  const told = rows.filter(({ spend, impressions }) => spend > 0 || impressions > 0);
  if (told.length === 0) throw noFigures();
  const knownTo = told.reduce((last, { day }) => (day > last ? day : last), '');
  const month = monthOf(today);
  const plans = (await planRows(db(), accountId)).filter((row) => row.month === month.first);
  const titles = new Map((await productsOf(db(), accountId)).map(({ sku, title }) => [sku, title]));
  const { effect } = await openSheet(accountId);
  const left = Math.max(0, daysBetween(knownTo, month.last));
  const lineOf = (sku: string, own: readonly Measured[]): PaceLine => {
    const plan = plans.find((row) => row.sku === sku);
    const days = byDay(own, knownTo);
    const measure = (
      name: keyof Pick<PlanRow, 'spend' | 'sales' | 'revenue'>,
      of: (day: Measured) => number,
      change: Micros | null,
    ): PaceMeasure => {
      const values = days.map((one): DayValue => {
        const settled = name === 'spend' ? 1 : Math.max(0.2, maturity(curve, daysBetween(one.day, today)));
        // Organic orders are all known at once; the part that ads sold settles.
        const late = name === 'revenue' ? one.sales * (1 / settled - 1) : 0;
        return { day: one.day, value: name === 'revenue' ? of(one) + late : of(one) / settled };
      });
      return {
        ...landing(values, month.first, month.last),
        plan: plan?.[name] ?? null,
        sheet: change === null ? null : (change / 7) * left,
        days: values.filter(({ day }) => day >= month.first).map(({ value }) => Math.round(value)),
      };
    };
    const isAccount = sku === '';
    return {
      sku,
      title: isAccount ? 'The account' : (titles.get(sku) ?? sku),
      spend: measure('spend', ({ spend }) => spend, isAccount ? effect.spend : null),
      sales: measure('sales', ({ sales }) => sales, isAccount ? effect.sales : null),
      revenue: own.some(({ totalSales }) => totalSales !== null)
        ? measure('revenue', ({ totalSales }) => totalSales ?? 0, isAccount ? effect.sales : null)
        : null,
    };
  };
  const skus = [...new Set(rows.map(({ sku }) => sku))].filter((sku) => sku !== '').sort();
  const limits = account.limits as { wallet?: number | null };
  const aDay = (own: readonly Measured[]) =>
    own.filter(({ day }) => day > addDays(knownTo, -paceDays)).reduce((sum, { spend }) => sum + spend, 0) /
    paceDays;
  const balance = typeof limits.wallet === 'number' ? micros(limits.wallet) : null;
  const ends = await endingCampaigns(db(), accountId, addDays(knownTo, 1 - paceDays));
  return {
    today,
    month,
    knownTo,
    lines: [
      lineOf('', rows),
      ...skus.map((sku) =>
        lineOf(
          sku,
          rows.filter((row) => row.sku === sku),
        ),
      ),
    ],
    ends: ends
      .map((row) => {
        const daily = row.recent / paceDays;
        const isLifetime = row.budget !== null;
        return {
          campaignId: row.campaignId,
          name: row.name,
          what: isLifetime
            ? ('lifetime' as const)
            : row.endDate! < today
              ? ('ended' as const)
              : ('ends' as const),
          endDate: row.endDate,
          budget: row.budget,
          spent: isLifetime ? row.spent : null,
          runsDryOn: isLifetime ? runsDry(row.budget! - row.spent, daily, today) : null,
          aDay: daily,
        };
      })
      .sort((a, b) => ((a.runsDryOn ?? a.endDate ?? '9') < (b.runsDryOn ?? b.endDate ?? '9') ? -1 : 1)),
    endless: await endlessCampaigns(db(), accountId),
    wallet: balance === null ? null : { balance, runsDryOn: runsDry(balance, aDay(rows), today) },
  };
}

/** Sums by day, every day from the first that is told to the last. */
function byDay(rows: readonly Measured[], knownTo: Day): Measured[] {
  const sums = new Map<Day, Measured>();
  for (const { day, spend, sales, totalSales } of rows) {
    if (day > knownTo) continue;
    const known = sums.get(day) ?? { day, spend: 0, sales: 0, totalSales: null };
    sums.set(day, {
      day,
      spend: known.spend + spend,
      sales: known.sales + sales,
      totalSales: totalSales === null ? known.totalSales : (known.totalSales ?? 0) + totalSales,
    });
  }
  const first = [...sums.keys()].sort()[0];
  const days: Measured[] = [];
  if (first === undefined) return days;
  for (let day = first; day <= knownTo; day = addDays(day, 1))
    days.push(sums.get(day) ?? { day, spend: 0, sales: 0, totalSales: null });
  return days;
}
