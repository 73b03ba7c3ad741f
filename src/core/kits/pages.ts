import { money, percent } from '../metrics/format.ts';
import type { Micros } from '../metrics/money.ts';
import type { RunningTarget } from './running.ts';
import type { KitCategory, KitPage, StaleTarget } from './types.ts';

/** A page of the marketplace's catalogue as it stands. */
export interface CataloguePage {
  itemCode: string;
  title: string;
  brand: string;
  category: string;
  /** Micros. */
  price: Micros;
  /** 1 to 5 stars; null while nobody rated it. */
  rating: number | null;
  stock: number | null;
}

/** How a page stands against the product's own. */
export interface PageStanding {
  /** Its price over ours, less 1. */
  dearer: number;
  /** Stars it has less than ours. */
  worse: number;
  /** Why its visitors are won, or are not, as a sentence with its numbers. */
  why: string;
}

/** A difference in stars below this is none. */
const starStep = 0.05;
/** A price this near is the same. */
const priceStep = 0.02;

/**
 * How another page stands against ours: dearer or worse rated ones convert best (domain, section 15).
 * @example standingOf({ price: 50_000_000, rating: 4 }, { price: 40_000_000, rating: 4.5 }).why // '25 % dearer than ours, rated 4.0 against 4.5'
 */
export function standingOf(
  page: Pick<CataloguePage, 'price' | 'rating'>,
  ours: Pick<KitPage, 'price' | 'rating'>,
): PageStanding {
  const dearer = ours.price > 0 ? page.price / ours.price - 1 : 0;
  const worse = page.rating !== null && ours.rating !== null ? ours.rating - page.rating : 0;
  const said: string[] = [];
  if (Math.abs(dearer) < priceStep) said.push('at our price');
  else said.push(`${percent(Math.abs(dearer))} ${dearer > 0 ? 'dearer' : 'cheaper'} than ours`);
  if (page.rating !== null && ours.rating !== null)
    said.push(
      Math.abs(worse) < starStep
        ? 'rated alike'
        : `rated ${page.rating.toFixed(1)} against ${ours.rating.toFixed(1)}`,
    );
  return { dearer, worse, why: said.join(', ') };
}

/** Pages whose visitors are won most easily first: half a star counts as much as a price a tenth higher. */
export const byStanding = (a: PageStanding, b: PageStanding): number =>
  b.dearer + b.worse / 5 - (a.dearer + a.worse / 5);

/** Whether a visitor of this page has no reason to change to ours: it costs less and is rated as well or better. */
const isLost = ({ dearer, worse }: PageStanding): boolean => dearer < -priceStep && worse < starStep;

/** Item targets whose pages do not fit ours any more, or are gone. Those that sold are kept, whatever their page says. */
export function staleItems(
  targets: readonly RunningTarget[],
  ours: KitPage,
  pages: ReadonlyMap<string, CataloguePage>,
  ownPages: ReadonlySet<string>,
): StaleTarget[] {
  return targets.flatMap((target): StaleTarget[] => {
    const code = target.expression.toUpperCase();
    const page = pages.get(code);
    if (target.kind !== 'item' || target.orders > 0 || ownPages.has(code) || !page) return [];
    if (page.stock === 0)
      return [{ target, why: `${page.title} is out of stock: nobody looks at its page to buy.` }];
    const standing = standingOf(page, ours);
    return isLost(standing)
      ? [{ target, why: `${page.title} costs ${money(page.price)} by now, ${standing.why}.` }]
      : [];
  });
}

/** A category target in words: the category, then what it is narrowed by. */
export interface NarrowedCategory {
  category: string;
  priceFrom: number | null;
  ratingTo: number | null;
  brand: string | null;
}

/**
 * Reads a category target as it is written.
 * @example readCategoryTarget('crocks, price 44.00-, rating -4.2') // { category: 'crocks', priceFrom: 44, ratingTo: 4.2, brand: null }
 */
export function readCategoryTarget(expression: string): NarrowedCategory {
  const [category = '', ...parts] = expression.split(/,\s*/);
  const read: NarrowedCategory = { category: category.trim(), priceFrom: null, ratingTo: null, brand: null };
  for (const part of parts) {
    const from = /^price\s+([\d.]+)\s*-/.exec(part);
    const to = /^rating\s+[\d.]*\s*-\s*([\d.]+)/.exec(part);
    const brand = /^brand\s+(.+)$/.exec(part);
    if (from) read.priceFrom = Number(from[1]);
    if (to) read.ratingTo = Number(to[1]);
    if (brand) read.brand = brand[1]!.trim();
  }
  return read;
}

/**
 * A category target for a product's own page: from its price upward, and rated up to it (domain, section 15). Null
 * where no category is named.
 * @example categoryTarget({ category: 'crocks', fromOwnPrice: true, toOwnRating: true, brand: null }, { category: null, price: 44_000_000, rating: 4.2 }) // 'crocks, price 44.00-, rating -4.2'
 */
export function categoryTarget(
  { category, fromOwnPrice, toOwnRating, brand }: KitCategory,
  { price, rating }: KitPage,
): string | null {
  if (category === '') return null;
  const narrowed = [category];
  if (fromOwnPrice && price > 0) narrowed.push(`price ${money(price).replaceAll(',', '')}-`);
  if (toOwnRating && rating !== null) narrowed.push(`rating -${rating.toFixed(1)}`);
  if (brand !== null) narrowed.push(`brand ${brand}`);
  return narrowed.join(', ');
}

/** The category of a product, narrowed by its own page. */
export const ownCategory = ({ category }: KitPage): KitCategory[] =>
  category === null || category === ''
    ? []
    : [{ category, fromOwnPrice: true, toOwnRating: true, brand: null }];

/** Category targets that are narrowed by a price or a rating which ours has left. */
export function staleCategories(
  targets: readonly RunningTarget[],
  { price, rating }: KitPage,
): StaleTarget[] {
  return targets.flatMap((target): StaleTarget[] => {
    if (target.kind !== 'category') return [];
    const { priceFrom, ratingTo } = readCategoryTarget(target.expression);
    const ours = price / 1e6;
    const said: string[] = [];
    if (priceFrom !== null && price > 0 && Math.abs(priceFrom / ours - 1) >= priceStep)
      said.push(`Our price is ${money(price)}, it begins at ${money(priceFrom * 1e6)}.`);
    if (ratingTo !== null && rating !== null && Math.abs(ratingTo - rating) >= starStep)
      said.push(`We are rated ${rating.toFixed(1)}, it ends at ${ratingTo.toFixed(1)}.`);
    return said.length > 0 ? [{ target, why: said.join(' ') }] : [];
  });
}
