import { LRUCache } from 'lru-cache';
import type { DeskAnswer, GroundsAnswer } from '../../answers/kits.ts';
import { noSuggestions, type KitLimits, type ProductGrounds, type Suggestions } from '../../core/kits/kit.ts';
import {
  partKinds,
  recipeProblems,
  shippedRecipes,
  type PartKind,
  type Recipe,
} from '../../core/kits/recipe.ts';
import { micros } from '../../core/metrics/money.ts';
import type { CataloguePage } from '../../core/kits/pages.ts';
import { getAccount, marginOf } from '../account/account.ts';
import { fieldLimitsOf, limitsOf } from '../account/limits.ts';
import { productsOf, type Account } from '../account/queries.ts';
import { takenNames } from '../changes/planned.queries.ts';
import { db } from '../db/connection.ts';
import { editionOf, noFigures } from '../engine/edition.ts';
import type { AccountGrounds } from '../engine/kits.ts';
import { kitsOf } from '../engine/link.ts';
import { notFound, ServiceError } from '../errors.ts';
import { seasonsOf } from '../facts/seasons.ts';
import { marketplaceOf } from '../marketplace/connection.ts';
import type {
  Marketplace,
  MarketplaceItem,
  MarketplaceRange,
  MarketplaceSuggestions,
} from '../marketplace/connector.ts';
import { connectionOf } from '../marketplace/queries.ts';
import { deleteRecipe, negativeLists, recipesOf, shownCreatives, upsertRecipe } from './queries.ts';

/** What kits start from: products, recipes, limits; and what is known of each product. */

/** The placement in which a kind is shown cheapest. */
const cheapest: Record<PartKind, string> = {
  automatic: 'product_pages',
  broad: 'rest_of_search',
  phrase: 'rest_of_search',
  exact: 'rest_of_search',
  items: 'product_pages',
  category: 'category_browse',
};

export function kitLimitsOf(account: Account): KitLimits {
  const limits = account.limits as Record<string, number | Record<string, number> | undefined>;
  const { guards, characters, words, pattern, itemCode } = limitsOf(account);
  const least = (limits.minimum_cpc ?? {}) as Record<string, number | undefined>;
  const count = (name: string, usual: number) => Number(limits[name] ?? usual);
  return {
    characters,
    words,
    pattern,
    itemCode,
    minimumBudget: {
      daily: fieldLimitsOf(account).minimumBudget,
      lifetime: fieldLimitsOf(account).minimumLifetimeBudget,
    },
    minimumBid: guards.minimumBid,
    maximumBid: guards.maximumBid,
    bidStep: guards.step,
    leastCpc: Object.fromEntries(
      partKinds.map((kind) => [kind, micros(least[cheapest[kind]] ?? 0)]),
    ) as KitLimits['leastCpc'],
    targetsPerAdGroup: count('targets_per_ad_group', 1000),
    negativesPerAdGroup: count('negatives_per_ad_group', 1000),
    nameCharacters: count('name_characters', 120),
    creatives: {
      pictures: count('pictures_per_ad_group', 0),
      pixels: count('picture_pixels', 0),
      bytes: count('picture_bytes', 0),
      titles: count('titles_per_ad_group', 0),
      titleCharacters: count('title_characters', 0),
    },
  };
}

export async function deskOf(accountId: number): Promise<DeskAnswer> {
  const account = await getAccount(db(), accountId);
  const [products, own, taken, lists, codes] = await Promise.all([
    productsOf(db(), accountId),
    recipesOf(db(), accountId),
    takenNames(db(), accountId),
    negativeLists(db(), accountId),
    kitsOf().codes(await editionOf(accountId)),
  ]);
  const habit = new Map(codes ?? []);
  return {
    today: account.today,
    currency: account.currency,
    products: products.map((row) => {
      const { sku, item_code: itemCode, title, price, stock } = row;
      const margin = marginOf(row);
      return {
        sku,
        itemCode,
        title,
        price,
        stock,
        code: habit.get(sku) ?? sku,
        profit: margin === null ? null : margin * price,
      };
    }),
    recipes: [
      ...shippedRecipes.map((recipe) => ({ recipe, own: false })),
      ...own.map((recipe) => ({ recipe, own: true })),
    ],
    limits: kitLimitsOf(account),
    taken,
    lists,
  };
}

/** Keeps a recipe under its name; one that comes with Mowing keeps its name to itself. */
export async function saveRecipe(accountId: number, recipe: Recipe): Promise<void> {
  const [wrong] = recipeProblems(recipe);
  if (wrong !== undefined) throw new ServiceError(422, 'bad_recipe', wrong, { field: 'recipe' });
  if (shippedRecipes.some(({ name }) => name.toLowerCase() === recipe.name.toLowerCase()))
    throw new ServiceError(409, 'shipped', `“${recipe.name}” comes with Mowing. Choose another name.`, {
      field: 'name',
    });
  await upsertRecipe(db(), accountId, recipe);
}

export async function dropRecipe(accountId: number, name: string): Promise<void> {
  if (!(await deleteRecipe(db(), accountId, name))) throw notFound(`recipe “${name}”`);
}

/** What the account knows of these products; those that it does not have are left out. */
export async function groundsOf(accountId: number, skus: readonly string[]): Promise<ProductGrounds[]> {
  const known = await kitsOf().grounds(await editionOf(accountId), [...skus]);
  if (!known) throw noFigures();
  const products = new Map((await productsOf(db(), accountId)).map((row) => [row.sku, row]));
  const { today } = await getAccount(db(), accountId);
  const seasons = await seasonsOf(db(), accountId, today, skus);
  const grounds = known as AccountGrounds[];
  const adGroupIds = grounds.flatMap(({ running }) => running.map(({ adGroupId }) => adGroupId));
  const shown = await shownCreatives(db(), accountId, adGroupIds);
  return grounds.flatMap((one) => {
    const product = products.get(one.sku);
    if (!product) return [];
    const { item_code: itemCode, category, price, rating } = product;
    const shows: ProductGrounds['shows'] = {};
    for (const { adGroupId } of one.running) {
      const own = shown.filter((row) => row.adGroupId === adGroupId);
      if (own.length > 0) shows[adGroupId] = own.map(({ kind, value }) => ({ kind, value }));
    }
    const season = seasons.get(one.sku) ?? null;
    return [{ ...one, itemCode, page: { category, price, rating }, shows, season }];
  });
}

const most = { keywords: 300, items: 100 };

/** Pages of items that are looked at, of what a product aims at. */
const mostPages = 500;

const rangeOf = ({ low, middle, high }: MarketplaceRange) => ({
  low: micros(low),
  middle: micros(middle),
  high: micros(high),
});

const readSuggestions = (
  { keywords, items }: MarketplaceSuggestions,
  pages: readonly MarketplaceItem[],
): Suggestions => ({
  pages: pages.map(readPage),
  keywords: keywords.map(({ keyword, monthly_searches: monthlySearches, bid }) => ({
    text: keyword,
    monthlySearches,
    range: rangeOf(bid),
  })),
  items: items.map(
    ({ item_code: itemCode, title, brand, price, rating, monthly_visits: monthlyVisits, bid }) => ({
      itemCode,
      title,
      brand,
      price: micros(price),
      rating,
      monthlyVisits,
      range: rangeOf(bid),
    }),
  ),
});

export const readPage = ({
  item_code: itemCode,
  price,
  title,
  brand,
  category,
  rating,
  stock,
}: MarketplaceItem): CataloguePage => ({
  itemCode,
  title,
  brand,
  category,
  price: micros(price),
  rating,
  stock,
});

/** Codes of items that a product aims at, so that their pages are looked at. */
const itemsOf = ({ running }: Pick<ProductGrounds, 'running'>): string[] => [
  ...new Set(
    running.flatMap(({ targets }) =>
      targets.flatMap(({ kind, expression }) => (kind === 'item' ? [expression.toUpperCase()] : [])),
    ),
  ),
];

/** What was suggested lately: what goes onto the sheet rests on what its maker saw. */
const suggested = new LRUCache<string, Promise<Suggestions>>({ max: 500, ttl: 10 * 60_000 });

/** Asks the marketplace, or knows what it said of this product on the account's day. */
async function askSuggestions(
  accountId: number,
  { sku, running }: Pick<ProductGrounds, 'sku' | 'running'>,
  shop: Marketplace,
): Promise<Suggestions> {
  const { origin, today } = await getAccount(db(), accountId);
  const codes = itemsOf({ running }).slice(0, mostPages);
  const key = JSON.stringify([accountId, origin, today, sku, codes]);
  let pending = suggested.get(key);
  if (!pending) {
    const asked = shop.suggestions?.(sku, most) ?? { keywords: [], items: [] };
    const looked = codes.length > 0 ? (shop.catalogue?.({ item_codes: codes }, mostPages) ?? []) : [];
    pending = Promise.all([asked, looked]).then(([said, pages]) => readSuggestions(said, pages));
    suggested.set(key, pending);
    pending.catch(() => suggested.delete(key));
  }
  return pending;
}

/** What the marketplace suggests, or why it suggests nothing: a kit can be made without. */
export async function suggestionsOf(
  accountId: number,
  grounds: Pick<ProductGrounds, 'sku' | 'running'>,
): Promise<{ suggestions: Suggestions; problem: string | null }> {
  const nothing = (problem: string | null) => ({ suggestions: noSuggestions, problem });
  if (!(await connectionOf(db(), accountId)))
    return nothing('No marketplace is connected: nothing is suggested.');
  try {
    const shop = await marketplaceOf(accountId);
    if (!shop.suggestions) return nothing(`${shop.name} suggests nothing.`);
    return { suggestions: await askSuggestions(accountId, grounds, shop), problem: null };
  } catch (error) {
    return nothing(`Nothing is suggested: ${(error as Error).message}`);
  }
}

export async function groundsAnswer(accountId: number, sku: string): Promise<GroundsAnswer> {
  const [grounds] = await groundsOf(accountId, [sku]);
  if (!grounds) throw notFound(`product ${sku}`);
  return { grounds, ...(await suggestionsOf(accountId, grounds)) };
}
