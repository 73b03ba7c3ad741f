import type { SettingsAnswer } from '../../answers/account.ts';
import { rm } from 'node:fs/promises';
import { afterwards, apart, db, type Database } from '../db/connection.ts';
import { ServiceError } from '../errors.ts';
import { log } from '../log.ts';
import { marketplaceAt, marketplaceNames, type MarketplaceKind } from '../marketplace/connection.ts';
import { connectionOf, putConnection } from '../marketplace/queries.ts';
import { filesOf } from './files.ts';
import { getAccount } from './account.ts';
import { accountRows, changeAccount, insertAccount } from './queries.ts';
import { deleteAccount, markRemoved, removedAccounts } from './removal.queries.ts';

/** The accounts of this installation: made, named, connected, removed. */

export interface AccountCall {
  name: string;
  currency: string;
  timeZone: string;
  /** As a share. */
  targetAcos: number;
  /** Null: files only. */
  marketplace: { kind: MarketplaceKind; address: string | null; secret: string | null } | null;
}

export const listAccounts = async () => ({
  accounts: (await accountRows(db())).map(({ account_id, ...row }) => ({ accountId: account_id, ...row })),
});

/** The account that was open last, when it is still there; else the first by name; null when there is none. */
export async function firstAccount(last: string | undefined): Promise<number | null> {
  const { accounts } = await listAccounts();
  const known = accounts.find(({ accountId }) => String(accountId) === last) ?? accounts[0];
  return known?.accountId ?? null;
}

/** Makes an account. A marketplace is asked first: one that does not answer is told before anything is made. */
export async function makeAccount(call: AccountCall): Promise<{ accountId: number }> {
  let { currency, timeZone } = call;
  const { marketplace } = call;
  if (marketplace) {
    const about = await askedOf(marketplace);
    ({ currency, timeZone } = about);
  }
  const source = marketplace ? marketplaceNames[marketplace.kind] : 'files';
  const row = { name: call.name, currency, time_zone: timeZone, source };
  const accountId = await insertAccount(db(), row, call.targetAcos);
  if (marketplace) {
    const { kind, address, secret } = marketplace;
    await putConnection(db(), accountId, { marketplace: kind, address, secret });
  }
  return { accountId };
}

async function askedOf({ kind, address, secret }: NonNullable<AccountCall['marketplace']>) {
  try {
    return await marketplaceAt({ marketplace: kind, address, secret }).account();
  } catch (error) {
    if (!(error instanceof ServiceError)) throw error;
    throw new ServiceError(422, error.code, error.message, { field: 'marketplace' });
  }
}

/** What can be changed of an account, and whether a marketplace is connected. */
export async function accountSettings(accountId: number): Promise<SettingsAnswer> {
  const account = await getAccount(db(), accountId);
  const connection = await connectionOf(db(), accountId);
  return {
    name: account.name,
    currency: account.currency,
    timeZone: account.time_zone,
    source: account.source,
    connected: connection !== undefined,
  };
}

export async function changeSettings(
  accountId: number,
  call: Pick<AccountCall, 'name' | 'currency' | 'timeZone'>,
): Promise<void> {
  const account = await getAccount(db(), accountId);
  if (
    account.source !== 'files' &&
    (call.currency !== account.currency || call.timeZone !== account.time_zone)
  ) {
    const message = `Currency and time zone are those that ${account.source} tells.`;
    throw new ServiceError(422, 'told_by_marketplace', message, { field: 'currency' });
  }
  await changeAccount(db(), accountId, {
    name: call.name,
    currency: call.currency,
    time_zone: call.timeZone,
  });
}

/** Removes an account with everything in it; its name is asked for, so that none goes by a slip. */
export async function removeAccount(accountId: number, name: string): Promise<void> {
  const account = await getAccount(db(), accountId);
  if (name !== account.name) {
    const message = `To remove “${account.name}” with everything in it, write its name.`;
    throw new ServiceError(422, 'other_name', message, { field: 'name' });
  }
  await markRemoved(db(), accountId);
  await afterwards(() => {
    void apart(() => clearRemoved(db())).catch((error: unknown) => {
      log.warn({ error, accountId }, 'removed account still has rows');
    });
  });
}

/** Deletes what is left of accounts that were removed. */
export async function clearRemoved(sql: Database): Promise<void> {
  for (const accountId of await removedAccounts(sql)) {
    await deleteAccount(sql, accountId);
    await rm(filesOf(accountId), { recursive: true, force: true });
  }
}
