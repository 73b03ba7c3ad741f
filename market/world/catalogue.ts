import type { Scenario } from '../scenario.ts';
import { hash, stream, trait } from './random.ts';
import { preference, type Demand, type Page } from './shoppers.ts';

/** An item of any seller as its page tells it on a day. */
export interface CatalogueItem {
  itemCode: string;
  /** Null for another seller's. */
  sku: string | null;
  title: string;
  brand: string;
  category: string;
  /** What it costs today, in the account's currency; `discount` per cent below its list price. */
  price: number;
  listPrice: number;
  discount: number;
  rating: number;
  stock: number;
}

const heads = 'Bram Fen Hol Kel Mor Osk Pell Quen Tarn Ven Wick Yar'.split(' ');
const tails = 'bury dell ford garth low mere ness rick stow thorpe wold wyn'.split(' ');
const dayNumber = (day: string): number => Math.round(Date.parse(`${day}T00:00:00Z`) / 864e5);
const roundTo = (value: number, step: number) => Math.round(value / step) / Math.round(1 / step);
const capital = (text: string) => text.replace(/(^|\s)\p{L}/gu, (letter) => letter.toUpperCase());

/** A number in [0, 1) out of a text. */
const share = (text: string): number => hash(text) / 2 ** 32;

/** Slow wandering of a standard normal kind: the value of a text between two of its marks, `every` days apart. */
function wander(text: string, number: number, every: number): number {
  const at = number / every + share(`${text} phase`);
  const from = Math.floor(at);
  const part = at - from;
  return (1 - part) * trait(`${text} ${from}`) + part * trait(`${text} ${from + 1}`);
}

/** The span that a text's cycle of about `every` days holds on this day: how far it is along, with its number. */
function cycle(text: string, number: number, every: number): { round: number; day: number } {
  const at = number + Math.floor(share(`${text} phase`) * every);
  return { round: Math.floor(at / every), day: at % every };
}

/** Per cent that an item is reduced by on a day: promotions of 5 to 14 days, now and then. */
function promotion(code: string, number: number): number {
  const { round, day } = cycle(`${code} promotion`, number, 45);
  const name = `${code} promotion ${round}`;
  if (share(name) > 0.45) return 0;
  const start = Math.floor(share(`${name} start`) * 30);
  const length = 5 + Math.floor(share(`${name} length`) * 10);
  return day >= start && day < start + length ? 5 * (2 + Math.floor(share(`${name} depth`) * 5)) : 0;
}

/** Whether another seller's item is sold out on a day. */
function isSoldOut(code: string, number: number): boolean {
  const { round, day } = cycle(`${code} stock`, number, 60);
  const name = `${code} stock ${round}`;
  return share(name) < 0.3 && day < 3 + Math.floor(share(`${name} length`) * 8);
}

const seasoned = (price: number, discount: number): number =>
  Math.max(0.5, roundTo(price * (1 - discount / 100), 0.01));

/** What stands on the pages of a world, day by day. Until `scenario.movesFrom` nothing of it moves. */
export class Catalogue {
  private readonly fixed: { page: Page; title: string; brand: string }[];
  private day = '';
  private number = 0;
  private items: CatalogueItem[] = [];
  private readonly byCode = new Map<string, CatalogueItem>();
  private factors = new Map<Page, Float64Array>();

  constructor(
    private readonly scenario: Scenario,
    private readonly demand: Demand,
  ) {
    this.fixed = demand.pages.map((page) => this.named(page));
  }

  private named(page: Page) {
    const { products, concepts, account } = this.scenario;
    if (page.own >= 0) return { page, title: products[page.own]!.title, brand: account.name };
    const random = stream(hash(page.text), 'title');
    const some = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]!;
    const brand = `${some(heads)}${some(tails)}`;
    const { kinds, before, after } = concepts[page.concept]!;
    const words = [
      before.length > 0 ? some(before) : '',
      some(kinds).text,
      after.length > 0 ? some(after) : '',
    ];
    return { page, title: `${brand} ${capital(words.filter((word) => word !== '').join(' '))}`, brand };
  }

  /** Turns to a day; `stock` of the seller's own products, in the order of the scenario. */
  turnTo(day: string, stock: readonly number[]): void {
    const moves = this.scenario.movesFrom !== undefined && day >= this.scenario.movesFrom;
    this.day = day;
    this.number = dayNumber(day);
    this.factors = new Map();
    this.items = this.fixed.map(({ page, title, brand }) => {
      const { text: itemCode, own } = page;
      const base = { itemCode, title, brand, category: page.category };
      const level = moves && own < 0 ? Math.exp(0.05 * wander(`${itemCode} price`, this.number, 60)) : 1;
      const listPrice = roundTo(page.price * level, 0.01);
      const discount = moves && own < 0 ? promotion(itemCode, this.number) : 0;
      const drift = moves ? 0.18 * wander(`${itemCode} rating`, this.number, 30) : 0;
      const stars = own < 0 ? page.rating : this.scenario.products[own]!.rating;
      return {
        ...base,
        sku: own < 0 ? null : this.scenario.products[own]!.sku,
        price: seasoned(listPrice, discount),
        listPrice,
        discount,
        rating: Math.min(5, Math.max(1, roundTo(stars + drift, 0.1))),
        stock:
          own >= 0
            ? Math.max(0, stock[own]!)
            : moves && isSoldOut(itemCode, this.number)
              ? 0
              : 20 + (hash(`${itemCode} ${this.number}`) % 400),
      };
    });
    this.byCode.clear();
    for (const item of this.items) this.byCode.set(item.itemCode, item);
  }

  get all(): readonly CatalogueItem[] {
    return this.items;
  }

  item(code: string): CatalogueItem | undefined {
    return this.byCode.get(code);
  }

  get isMoving(): boolean {
    return this.scenario.movesFrom !== undefined && this.day >= this.scenario.movesFrom;
  }

  /**
   * What today's prices, ratings and stock make of the conversion that a page's visitors had when the world was made,
   * by product: a factor.
   */
  factor(page: Page, product: number): number {
    if (!this.isMoving) return 1;
    let list = this.factors.get(page);
    if (!list) {
      list = new Float64Array(this.scenario.products.length).fill(-1);
      this.factors.set(page, list);
    }
    if (list[product]! < 0) {
      const now = this.byCode.get(page.text)!;
      const own = this.scenario.products[product]!;
      const rating = this.byCode.get(own.itemCode)!.rating;
      const before = { price: own.price, rating: own.rating };
      list[product] =
        (preference({ ...before, rating }, now) /
          preference(before, { price: page.price, rating: page.rating })) *
        (now.stock === 0 ? 1.5 : 1);
    }
    return list[product]!;
  }

  /** What today's rating makes of a product's conversion among searches: a factor. */
  ratingFactor(product: number): number {
    if (!this.isMoving) return 1;
    const { itemCode, rating } = this.scenario.products[product]!;
    return Math.exp(0.3 * (this.byCode.get(itemCode)!.rating - rating));
  }

  /** Categories whose products go with each other: neighbours of a category, without itself. */
  neighbours(category: string): ReadonlySet<string> {
    const fits = (name: string) =>
      new Set(
        this.scenario.concepts
          .filter((concept) => concept.category === name)
          .flatMap(({ fit }) => Object.keys(fit).filter((sku) => fit[sku]! > 0.1)),
      );
    const here = fits(category);
    return new Set(
      this.scenario.concepts
        .map((concept) => concept.category)
        .filter((other) => other !== category && [...fits(other)].some((sku) => here.has(sku))),
    );
  }

  get categories(): ReadonlySet<string> {
    return new Set(this.demand.pages.map(({ category }) => category));
  }
}
