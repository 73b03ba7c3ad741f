import type { CategoriesAnswer, CollectionRow, PagesAnswer } from '../../answers/kits.ts';
import { db } from '../db/connection.ts';
import { marketplaceOf } from '../marketplace/connection.ts';
import type { CatalogueAsked, Marketplace } from '../marketplace/connector.ts';
import { connectionOf } from '../marketplace/queries.ts';
import { readPage } from './desk.ts';
import { collectionRows } from './queries.ts';

/** What the marketplace sells, to choose pages and categories from. */

/** Pages that are looked through; of more, the first. */
const mostPages = 2000;

/** Collections of products, with who joined and left. */
export const collectionsOf = (accountId: number): Promise<CollectionRow[]> => collectionRows(db(), accountId);

/** Asks the marketplace, or says why there is nothing to choose from. */
async function asking<T>(
  accountId: number,
  ask: (shop: Marketplace) => Promise<T> | undefined,
): Promise<{ found: T | null; problem: string | null }> {
  if (!(await connectionOf(db(), accountId)))
    return { found: null, problem: 'No marketplace is connected: there is no catalogue to choose from.' };
  try {
    const shop = await marketplaceOf(accountId);
    const found = await ask(shop);
    return found === undefined
      ? { found: null, problem: `${shop.name} shows no catalogue.` }
      : { found, problem: null };
  } catch (error) {
    return { found: null, problem: `The catalogue does not answer: ${(error as Error).message}` };
  }
}

export async function pagesOf(accountId: number, asked: CatalogueAsked): Promise<PagesAnswer> {
  const { found, problem } = await asking(accountId, (shop) => shop.catalogue?.(asked, mostPages));
  return { pages: (found ?? []).map(readPage), problem };
}

export async function categoriesOf(accountId: number): Promise<CategoriesAnswer> {
  const { found, problem } = await asking(accountId, (shop) => shop.categories?.());
  return { categories: (found ?? []).map(({ category, items }) => ({ category, items })), problem };
}
