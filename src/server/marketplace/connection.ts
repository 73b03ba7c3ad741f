import { config } from '../config.ts';
import { db } from '../db/connection.ts';
import { ServiceError } from '../errors.ts';
import type { Marketplace } from './connector.ts';
import { Quayside } from './quayside.ts';
import { connectionOf, type ConnectionRow } from './queries.ts';

/** The marketplaces that accounts can be connected to. */

export const marketplaceNames = { quayside: 'Quayside' } as const;
export type MarketplaceKind = keyof typeof marketplaceNames;

const open = new Map<string, Marketplace>();

/** The marketplace of a connection; what the connection leaves out is the installation's own. */
export function marketplaceAt({ address, secret }: ConnectionRow): Marketplace {
  const at = address ?? config.quaysideUrl;
  const word = secret ?? config.quaysideSecret;
  if (at === '') {
    const message = 'No address of the marketplace is known. Give one, or set QUAYSIDE_URL.';
    throw new ServiceError(409, 'no_marketplace', message);
  }
  const key = `${at}|${word}`;
  const known = open.get(key) ?? new Quayside(at, word);
  open.set(key, known);
  return known;
}

/** The account's marketplace; an error that says what to do when it has none. */
export async function marketplaceOf(accountId: number): Promise<Marketplace> {
  const connection = await connectionOf(db(), accountId);
  if (connection) return marketplaceAt(connection);
  const message =
    'No marketplace is connected to this account. Load files, and carry the sheet over as a file instead.';
  throw new ServiceError(409, 'no_marketplace', message);
}

/** Whether the installation's own marketplace answers. */
export async function marketplaceState(): Promise<'up' | 'none'> {
  if (config.quaysideUrl === '') return 'none';
  await marketplaceAt({ marketplace: 'quayside', address: null, secret: null }).reachable();
  return 'up';
}
