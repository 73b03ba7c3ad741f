import { group } from 'd3-array';
import type {
  OrganicAnswer,
  OrganicFollowing,
  OrganicProductAnswer,
  RankWorth,
} from '../../answers/organic.ts';
import { addDays, daysBetween, type Day, type Window } from '../../core/metrics/days.ts';
import type { Micros } from '../../core/metrics/money.ts';
import { following, pooled, type Series } from '../../core/organic/follow.ts';
import { gained, shareOfRanks, visibility } from '../../core/organic/visibility.ts';
import { getAccount, marginOf } from '../account/account.ts';
import { productsOf } from '../account/queries.ts';
import { db } from '../db/connection.ts';
import { editionOf, noFigures } from '../engine/edition.ts';
import { todayOf } from '../engine/link.ts';
import { ServiceError } from '../errors.ts';
import {
  lastTold,
  mostSearched,
  rankRows,
  searchDays,
  seenOf,
  soldDays,
  type RankRow,
  type SoldDay,
} from './queries.ts';

/** Ranks without ads, and what they have to do with money: ads on one side, sales without ads on the other. */

/** Days on one time axis. */
const axisDays = 90;
/** Keywords that are looked at together. */
const mostFollowed = 400;

/** The days up to the last of which ranks or sales are told, with those of a window before them. */
async function axisOf(accountId: number, window?: Window): Promise<Window> {
  const { today } = await getAccount(db(), accountId);
  if (today === null) throw noFigures();
  const to = (await lastTold(db(), accountId)) ?? today;
  const usual = addDays(to, 1 - axisDays);
  return { from: window && window.from < usual ? window.from : usual, to };
}

const daysOf = ({ from, to }: Window): Day[] =>
  Array.from({ length: daysBetween(from, to) + 1 }, (_, at) => addDays(from, at));

interface AdDay {
  day: Day;
  sku: string;
  spend: Micros;
  sales: Micros;
}

const keyOf = ({ day, sku }: { day: Day; sku: string }): string => `${day}|${sku}`;

/** What was sold without an ad: by what ads sold of the product, else by what its own ads sold. */
const organicOf = (sold: SoldDay, ad: AdDay | undefined): Micros =>
  sold.totalSales - (sold.adSold ?? ad?.sales ?? 0);

async function adDays(accountId: number, from: Day): Promise<AdDay[]> {
  const days = await todayOf().days(await editionOf(accountId), from);
  if (!days) throw noFigures();
  return days;
}

/** Each product over a window: its ads, what it sold without them, and how far its ranks are seen. */
export async function organicProducts(accountId: number, window: Window): Promise<OrganicAnswer> {
  const sql = db();
  const [ads, sold, seen, products] = await Promise.all([
    adDays(accountId, window.from),
    soldDays(sql, accountId, window, null),
    seenOf(sql, accountId, window),
    productsOf(sql, accountId),
  ]);
  const adAt = new Map(ads.filter(({ day }) => day <= window.to).map((ad) => [keyOf(ad), ad]));
  const seenAt = new Map(seen.map(({ sku, ...rest }) => [sku, rest]));
  const sums = new Map<string, { spend: Micros; adSales: Micros; organic: Micros | null }>();
  const sumOf = (sku: string) => {
    const known = sums.get(sku) ?? { spend: 0, adSales: 0, organic: null };
    sums.set(sku, known);
    return known;
  };
  for (const { sku, spend, sales } of adAt.values()) {
    const sum = sumOf(sku);
    sum.spend += spend;
    sum.adSales += sales;
  }
  for (const row of sold) {
    const sum = sumOf(row.sku);
    sum.organic = (sum.organic ?? 0) + organicOf(row, adAt.get(keyOf(row)));
  }
  return {
    window,
    isTold: seen.length > 0,
    products: products
      .filter(({ sku }) => sums.has(sku) || seenAt.has(sku))
      .map(({ sku, title }) => {
        const { spend, adSales, organic } = sumOf(sku);
        const rank = seenAt.get(sku);
        return {
          sku,
          title,
          spend,
          adSales,
          organicSales: organic === null ? null : Math.max(0, organic),
          keywords: rank?.keywords ?? 0,
          seen: rank ? { first: rank.first, last: rank.last } : null,
        };
      })
      .sort((a, b) => b.spend - a.spend || (a.sku < b.sku ? -1 : 1)),
  };
}

interface RankSeries {
  keyword: string;
  organicRank: (number | null)[];
  sponsoredRank: (number | null)[];
  volume: (number | null)[];
}

/** Ranks as series over days, a keyword each; what nobody told is null. */
function seriesOf(rows: readonly RankRow[], first: Day, count: number): RankSeries[] {
  const found = new Map<string, RankSeries>();
  const empty = () => new Array<number | null>(count).fill(null);
  for (const { keyword, day, organic_rank, sponsored_rank, search_volume } of rows) {
    const own = found.get(keyword) ?? {
      keyword,
      organicRank: empty(),
      sponsoredRank: empty(),
      volume: empty(),
    };
    found.set(keyword, own);
    const at = daysBetween(first, day);
    own.organicRank[at] = organic_rank;
    own.sponsoredRank[at] = sponsored_rank;
    own.volume[at] = search_volume;
  }
  return [...found.values()];
}

/** A product's days on the axis, and its keywords' beside them. */
interface Axis {
  spend: Micros[];
  adSales: Series;
  organicSales: Series;
  units: Series;
  keywords: (RankSeries & { spend: Micros[]; orders: number[] })[];
}

/** Products laid out on one axis, by SKU; a product of which nothing is told has empty series. */
async function laidOut(accountId: number, skus: readonly string[], axis: Window): Promise<Map<string, Axis>> {
  const sql = db();
  const days = daysOf(axis);
  const [ads, sold, rows] = await Promise.all([
    adDays(accountId, axis.from),
    soldDays(sql, accountId, axis, skus),
    rankRows(sql, accountId, skus, axis),
  ]);
  const texts = [...new Set(rows.map(({ keyword }) => keyword))];
  const searched = await searchDays(sql, accountId, skus, texts, axis);
  const adAt = new Map(ads.map((ad) => [keyOf(ad), ad]));
  const soldAt = new Map(sold.map((row) => [keyOf(row), row]));
  const searchAt = new Map(searched.map((row) => [`${row.sku}\t${row.keyword}\t${row.day}`, row]));
  const rowsOf = group(rows, ({ sku }) => sku);
  return new Map(
    skus.map((sku): [string, Axis] => {
      const of = (read: (row: SoldDay, ad: AdDay | undefined) => number): (number | null)[] =>
        days.map((day) => {
          const row = soldAt.get(keyOf({ day, sku }));
          return row ? read(row, adAt.get(keyOf(row))) : null;
        });
      const keywords = seriesOf(rowsOf.get(sku) ?? [], axis.from, days.length).map((rank) => {
        const own = days.map((day) => searchAt.get(`${sku}\t${rank.keyword}\t${day}`));
        return {
          ...rank,
          spend: own.map((row) => row?.spend ?? 0),
          orders: own.map((row) => row?.orders ?? 0),
        };
      });
      return [
        sku,
        {
          spend: days.map((day) => adAt.get(keyOf({ day, sku }))?.spend ?? 0),
          adSales: of(({ adSold }, ad) => adSold ?? ad?.sales ?? 0),
          organicSales: of((row, ad) => Math.max(0, organicOf(row, ad))),
          units: of(({ totalUnits }) => totalUnits),
          keywords,
        },
      ];
    }),
  );
}

/** What each keyword's rank sells a week, and its share, over a window; by keyword. */
function worths(
  { organicSales, keywords }: Axis,
  axis: Window,
  window: Window,
  margin: number | null,
): Map<string, { share: number; earns: RankWorth | null }> {
  const [from, to] = [
    Math.max(0, daysBetween(axis.from, window.from)),
    daysBetween(axis.from, window.to) + 1,
  ];
  const known = organicSales.slice(from, to).filter((value) => value !== null);
  const sum = known.reduce((all, value) => all + value, 0);
  const week = known.length === 0 ? null : (sum / (daysBetween(window.from, window.to) + 1)) * 7;
  return new Map(
    [...shareOfRanks(keywords, from, to)].map(([keyword, share]) => [
      keyword,
      {
        share,
        earns:
          week === null
            ? null
            : {
                sales: Math.round(share * week),
                left: margin === null ? null : Math.round(share * week * margin),
              },
      },
    ]),
  );
}

/** A product's ads, ranks and sales on one time axis, and what followed what. */
export async function organicProduct(
  accountId: number,
  sku: string,
  window: Window,
): Promise<OrganicProductAnswer> {
  const product = (await productsOf(db(), accountId)).find((one) => one.sku === sku);
  if (!product) throw new ServiceError(404, 'not_found', `No product has the SKU ${sku}.`, { field: 'sku' });
  const axis = await axisOf(accountId, window);
  const own = (await laidOut(accountId, [sku], axis)).get(sku)!;
  const known = worths(own, axis, window, marginOf(product));
  const seen = visibility(own.keywords);
  const keywords = own.keywords
    .map((keyword) => ({
      ...keyword,
      ...known.get(keyword.keyword)!,
      rankAfterSpend: following(keyword.spend, gained(keyword.organicRank)),
    }))
    .sort((a, b) => b.share - a.share || (a.keyword < b.keyword ? -1 : 1));
  return {
    ...own,
    sku,
    title: product.title,
    window,
    days: daysOf(axis),
    seen,
    keywords,
    rankAfterSpend: pooled(keywords.map(({ rankAfterSpend }) => rankAfterSpend)),
    salesAfterRank: following(seen, own.organicSales),
  };
}

/**
 * What followed what over all products. One keyword's quarter of a year is too short for an effect of a few hundredths;
 * hundreds together show it, with an interval as narrow as they allow.
 */
export async function organicFollowing(accountId: number): Promise<OrganicFollowing> {
  const axis = await axisOf(accountId);
  const pairs = await mostSearched(db(), accountId, axis, mostFollowed);
  const skus = [...new Set(pairs.map(({ sku }) => sku))];
  const chosen = new Set(pairs.map(({ sku, keyword }) => `${sku}\t${keyword}`));
  const products = await laidOut(accountId, skus, axis);
  const ofKeywords = [...products].flatMap(([sku, { keywords }]) =>
    keywords
      .filter(({ keyword }) => chosen.has(`${sku}\t${keyword}`))
      .map(({ spend, organicRank }) => following(spend, gained(organicRank))),
  );
  return {
    keywords: ofKeywords.length,
    products: products.size,
    rankAfterSpend: pooled(ofKeywords),
    salesAfterRank: pooled(
      [...products.values()].map(({ keywords, organicSales }) =>
        following(visibility(keywords), organicSales),
      ),
    ),
  };
}

/** What the ranks of keywords sell a week, by SKU and keyword in small letters. */
export async function rankWorths(
  accountId: number,
  skus: readonly string[],
  window: Window,
): Promise<(sku: string, keyword: string) => RankWorth | null> {
  if (skus.length === 0) return () => null;
  const axis = await axisOf(accountId, window);
  const [products, laid] = await Promise.all([productsOf(db(), accountId), laidOut(accountId, skus, axis)]);
  const found = new Map(
    [...laid].map(([sku, own]) => {
      const product = products.find((one) => one.sku === sku);
      return [sku, worths(own, axis, window, product ? marginOf(product) : null)];
    }),
  );
  return (sku, keyword) => found.get(sku)?.get(keyword.toLowerCase())?.earns ?? null;
}
