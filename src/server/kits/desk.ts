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
import { getAccount } from '../account/account.ts';
import { fieldLimitsOf, limitsOf } from '../account/limits.ts';
import { productsOf, type Account } from '../account/queries.ts';
import { takenNames } from '../changes/planned.queries.ts';
import { db } from '../db/connection.ts';
import { editionOf, noFigures } from '../engine/edition.ts';
import type { AccountGrounds } from '../engine/kits.ts';
import { kitsOf } from '../engine/link.ts';
import { notFound, ServiceError } from '../errors.ts';
import { marketplaceOf } from '../marketplace/connection.ts';
import type { Marketplace, MarketplaceRange, MarketplaceSuggestions } from '../marketplace/connector.ts';
import { connectionOf } from '../marketplace/queries.ts';
import { deleteRecipe, recipesOf, upsertRecipe } from './queries.ts';

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
    minimumBudget: fieldLimitsOf(account).minimumBudget,
    minimumBid: guards.minimumBid,
    maximumBid: guards.maximumBid,
    bidStep: guards.step,
    leastCpc: Object.fromEntries(
      partKinds.map((kind) => [kind, micros(least[cheapest[kind]] ?? 0)]),
    ) as KitLimits['leastCpc'],
    targetsPerAdGroup: count('targets_per_ad_group', 1000),
    negativesPerAdGroup: count('negatives_per_ad_group', 1000),
    nameCharacters: count('name_characters', 120),
  };
}

export async function deskOf(accountId: number): Promise<DeskAnswer> {
  const account = await getAccount(db(), accountId);
  const [products, own, taken, codes] = await Promise.all([
    productsOf(db(), accountId),
    recipesOf(db(), accountId),
    takenNames(db(), accountId),
    kitsOf().codes(await editionOf(accountId)),
  ]);
  const habit = new Map(codes ?? []);
  return {
    today: account.today,
    currency: account.currency,
    products: products.map(({ sku, item_code: itemCode, title, price, stock }) => ({
      sku,
      itemCode,
      title,
      price,
      stock,
      code: habit.get(sku) ?? sku,
    })),
    recipes: [
      ...shippedRecipes.map((recipe) => ({ recipe, own: false })),
      ...own.map((recipe) => ({ recipe, own: true })),
    ],
    limits: kitLimitsOf(account),
    taken,
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
  return (known as AccountGrounds[]).flatMap((one) => {
    const product = products.get(one.sku);
    if (!product) return [];
    const { item_code: itemCode, category, price, rating } = product;
    return [{ ...one, itemCode, page: { category, price, rating } }];
  });
}

const most = { keywords: 300, items: 100 };

const rangeOf = ({ low, middle, high }: MarketplaceRange) => ({
  low: micros(low),
  middle: micros(middle),
  high: micros(high),
});

const readSuggestions = ({ keywords, items }: MarketplaceSuggestions): Suggestions => ({
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

/** What was suggested lately: what goes onto the sheet rests on what its maker saw. */
const suggested = new LRUCache<string, Promise<Suggestions>>({ max: 500, ttl: 10 * 60_000 });

/** Asks the marketplace, or knows what it said of this product on the account's day. */
async function askSuggestions(
  accountId: number,
  sku: string,
  ask: NonNullable<Marketplace['suggestions']>,
): Promise<Suggestions> {
  const { origin, today } = await getAccount(db(), accountId);
  const key = JSON.stringify([accountId, origin, today, sku]);
  let pending = suggested.get(key);
  if (!pending) {
    pending = ask(sku, most).then(readSuggestions);
    suggested.set(key, pending);
    pending.catch(() => suggested.delete(key));
  }
  return pending;
}

/** What the marketplace suggests, or why it suggests nothing: a kit can be made without. */
export async function suggestionsOf(
  accountId: number,
  sku: string,
): Promise<{ suggestions: Suggestions; problem: string | null }> {
  const nothing = (problem: string | null) => ({ suggestions: noSuggestions, problem });
  if (!(await connectionOf(db(), accountId)))
    return nothing('No marketplace is connected: nothing is suggested.');
  try {
    const shop = await marketplaceOf(accountId);
    if (!shop.suggestions) return nothing(`${shop.name} suggests nothing.`);
    return { suggestions: await askSuggestions(accountId, sku, shop.suggestions), problem: null };
  } catch (error) {
    return nothing(`Nothing is suggested: ${(error as Error).message}`);
  }
}

export async function groundsAnswer(accountId: number, sku: string): Promise<GroundsAnswer> {
  const [[grounds], suggested] = await Promise.all([
    groundsOf(accountId, [sku]),
    suggestionsOf(accountId, sku),
  ]);
  if (!grounds) throw notFound(`product ${sku}`);
  return { grounds, ...suggested };
}
