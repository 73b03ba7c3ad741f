import { estimateMaturity, settledAge } from '../../core/metrics/maturity.ts';
import { margin } from '../../core/metrics/figures.ts';
import { addDays, type Day } from '../../core/metrics/days.ts';
import { db, type Database } from '../db/connection.ts';
import { notFound } from '../errors.ts';
import { accountById, sightsOf, type Account, type ProductRow } from './queries.ts';

export async function getAccount(sql: Database, accountId: number): Promise<Account> {
  const account = await accountById(sql, accountId);
  if (!account) throw notFound(`account ${accountId}`);
  return account;
}

/** The account that an address names, when there is one of that number. */
export async function openedAccount(text = ''): Promise<number> {
  const account = /^\d{1,9}$/.test(text) ? await accountById(db(), Number(text)) : undefined;
  if (!account) throw notFound(`account ${text.slice(0, 40)}`);
  return account.account_id;
}

export interface Settling {
  /** Share of final orders known by age in days. */
  curve: number[];
  /** Days younger than this are settling. */
  age: number;
  /** The last settled day; null without data. */
  settledTo: Day | null;
}

/** The account's maturity curve, from its own restatements where there are enough. */
export async function settling(sql: Database, account: Account): Promise<Settling> {
  const curve = estimateMaturity(await sightsOf(sql, account.account_id));
  const age = settledAge(curve);
  return { curve, age, settledTo: account.today === null ? null : addDays(account.today, -age) };
}

/** Margin before ads as a share; null when price or unit cost are unknown. */
export function marginOf(product: ProductRow): number | null {
  if (product.unit_cost === null) return null;
  return margin({
    price: product.price,
    unitCost: product.unit_cost,
    feeRate: product.fee_rate ?? 0,
    feeFixed: product.fee_fixed ?? 0,
    shipping: product.shipping ?? 0,
    refundRate: product.refund_rate ?? 0,
  });
}
