import type { Scenario } from '../scenario.ts';
import { categoryBrowse, productPages, type Candidate, type Matcher, type Structure } from './account.ts';
import { DayBudgets, runs, type Purse, type Spent } from './budgets.ts';
import type { Catalogue } from './catalogue.ts';
import { combinationsOf, drawn, type Combination } from './creatives.ts';
import { runAuction, searchAuction, type Slot } from './auction.ts';
import { organicDay } from './organic.ts';
import { keepPlace, rankDay, watched } from './ranks.ts';
import { normal, pick, stream, streamFrom, type Random } from './random.ts';
import {
  delayOf,
  hourShares,
  hourTotal,
  poisson,
  round2,
  hourConversion,
  weekdayConversion,
  weekdayDemand,
} from './rhythm.ts';
import { hourOfWeek } from './schedule.ts';
import type { Demand, Page, Query } from './shoppers.ts';
import { emptyTally, Rows, type DayResult, type Tally } from './sums.ts';

/** What the world remembers from one day to the next, beside the structure. */
export interface Memory extends Purse {
  stock: number[];
  /** Stock as the marketplace believes it: counted anew only every second Monday. */
  listed: boolean[];
  rivalDrift: number[];
  /** Organic standing 0 to 1 by "product:query", for the queries of the head. */
  organic: Record<string, number>;
}

/** A day that has not come to its end, as it is kept: with its memory, all that the hours to come need. */
export interface HalfDay {
  day: string;
  /** Hours that have been lived, 1 to 23. */
  hours: number;
  /** The last number drawn: the stream goes on from it. */
  drawn: number;
  volume: number;
  spent: Spent;
  /** Minute of the day at which a campaign's money ran out, by its id. */
  outSince: Record<string, number>;
  tally: Tally;
}

/** What a day is lived in: the market and the settings as they stand. */
export interface Setting {
  scenario: Scenario;
  demand: Demand;
  structure: Structure;
  matcher: Matcher;
  catalogue: Catalogue;
}

/** The day's own numbers, drawn before its first hour. */
function morning({ scenario }: Setting, memory: Memory, day: string, random: Random): HalfDay {
  const date = new Date(`${day}T00:00:00Z`);
  const weekday = date.getUTCDay();
  const ordinal = Math.round((date.getTime() - Date.parse(`${scenario.account.firstDay}T00:00:00Z`)) / 864e5);
  const season = 1 + 0.12 * Math.sin(((ordinal + 10) / 60) * Math.PI);
  const volume = season * weekdayDemand[weekday]! * Math.exp(0.05 * normal(random));
  if (weekday === 1 && Math.floor(ordinal / 7) % 2 === 0) {
    memory.listed = memory.stock.map((left) => left > 0);
  }
  memory.rivalDrift = memory.rivalDrift.map((drift) => 0.985 * drift + 0.02 * normal(random));
  return {
    day,
    hours: 0,
    drawn: 0,
    volume,
    spent: { campaigns: {}, groups: {} },
    outSince: {},
    tally: emptyTally(scenario.products.length),
  };
}

/**
 * A day while it is lived, hour after hour. Deterministic from the seed, the day, the settings and the memory; lived
 * in one go or in pieces it comes to the same. Changes the memory and, while it lasts, the half day it was given.
 */
export class LivingDay {
  private readonly random: Random;
  private last = 0;
  private readonly half: HalfDay;
  private readonly rows: Rows;
  private readonly budgets: DayBudgets;
  private readonly weekday: number;
  private readonly combinations: Map<string, Combination[]>;
  /** The same searches come again and again: what of their candidates may show stays until a budget is spent. */
  private readonly shown = new Map<Candidate[], Candidate[]>();
  private readonly watched: ReadonlyMap<string, unknown>;
  private hour = 0;

  private constructor(
    private readonly setting: Setting,
    private readonly memory: Memory,
    start: { random: Random; half: HalfDay } | { day: string },
  ) {
    const day = 'day' in start ? start.day : start.half.day;
    const raw = 'random' in start ? start.random : stream(setting.scenario.seed, `day ${day}`);
    this.random = () => (this.last = raw());
    this.half = 'half' in start ? start.half : morning(setting, memory, day, this.random);
    this.weekday = new Date(`${day}T00:00:00Z`).getUTCDay();
    // A day that was begun before positions were told has none so far.
    this.half.tally.places ??= {};
    this.watched = watched(setting.demand, setting.scenario.products.length);
    this.rows = new Rows(this.half.tally);
    this.budgets = new DayBudgets(
      setting.structure,
      memory,
      day,
      hourShares,
      this.half.hours,
      this.half.spent,
    );
    this.combinations = combinationsOf(setting.structure);
    // What was raised meanwhile shows again.
    for (const { id } of this.budgets.open) delete this.half.outSince[id];
  }

  static begin(setting: Setting, memory: Memory, day: string): LivingDay {
    return new LivingDay(setting, memory, { day });
  }

  /** Goes on with a day; settings may have changed meanwhile. */
  static resume(setting: Setting, memory: Memory, half: HalfDay): LivingDay {
    return new LivingDay(setting, memory, { random: streamFrom(half.drawn), half });
  }

  get day(): string {
    return this.half.day;
  }

  get hours(): number {
    return this.half.hours;
  }

  private mayShow = ({ campaign, adGroup, product }: Candidate): boolean =>
    this.memory.listed[product]! && this.budgets.open.has(campaign) && runs(adGroup, this.half.day);

  private showable(candidates: Candidate[]): Candidate[] {
    let known = this.shown.get(candidates);
    if (!known) this.shown.set(candidates, (known = candidates.filter(this.mayShow)));
    return known;
  }

  /** Whether a visitor buys; what of the day moves a product's conversion among these visitors is in it. */
  private sells = (query: Query | Page, product: number, factor: number): boolean => {
    const { catalogue } = this.setting;
    if (this.memory.stock[product]! <= 0) return false;
    const moved = (): number =>
      'own' in query ? catalogue.factor(query, product) : catalogue.ratingFactor(product);
    return this.random() < query.conversion[product]! * factor * (catalogue.isMoving ? moved() : 1);
  };

  private show(query: Query, slot: Slot, minute: number): void {
    const { random, rows, budgets, half, hour, memory } = this;
    const { products } = this.setting.scenario;
    const { candidate, placement } = slot;
    const { target, campaign, product } = candidate;
    const list = this.combinations.get(target.adGroupId);
    const pair = list && drawn(list, random);
    const creative = pair && rows.creative(target.adGroupId, pair.picture, pair.title);
    const sum = rows.ad(query.text, candidate, placement);
    const hourly = rows.hour(campaign.id, hour);
    const watch = `${product}:${query.text}`;
    if (this.watched.has(watch)) keepPlace(half.tally, watch, placement, slot.position);
    sum.impressions++;
    hourly.impressions++;
    if (creative) creative.impressions++;
    const seen = [1, 0.7, 0.55, 0.45, 0.38, 0.33][slot.position]! * [1, 0.55, 0.5, 0.6][placement]!;
    if (random() >= query.click[product]! * seen * (pair?.appeal ?? 1)) return;
    sum.clicks++;
    sum.spend += slot.cpc;
    hourly.clicks++;
    hourly.spend += slot.cpc;
    if (creative) {
      creative.clicks++;
      creative.spend += slot.cpc;
    }
    const closed = budgets.spend(campaign, slot.cpc);
    if (closed.length > 0) this.shown.clear();
    for (const { id } of closed) half.outSince[id] = hour * 60 + minute;
    half.tally.sessions[product]!++;
    const item = products[product]!;
    const placed = item.placementConversion[['top', 'rest', 'pages', 'browse'][placement]!] ?? 1;
    const timed = weekdayConversion[this.weekday]! * hourConversion(hour);
    if (!this.sells(query, product, placed * timed)) return;
    const other = random() < 0.08 ? products[Math.floor(random() * products.length)]! : item;
    const units = random() < 0.1 ? 2 : 1;
    memory.stock[products.indexOf(other)]! -= units;
    half.tally.orders.push({
      hour,
      targetId: target.id,
      term: query.text,
      placement,
      sku: other.sku,
      units,
      sales: round2(other.price * units),
      delay: delayOf(random),
      shown: pair ? { adGroupId: target.adGroupId, picture: pair.picture, title: pair.title } : null,
    });
    half.tally.wonFrom[watch] = (half.tally.wonFrom[watch] ?? 0) + 1;
  }

  private search(count: number, when: number): void {
    const { random, setting, memory } = this;
    const { scenario, demand, matcher } = setting;
    for (let i = 0; i < count; i++) {
      const query = random() < 0.1 ? demand.fresh(random) : demand.queries[pick(demand.cumulative, random)]!;
      const candidates = this.showable(matcher.forQuery(query));
      if (candidates.length === 0) continue;
      const level = scenario.concepts[query.concept]!.rivalBid * Math.exp(memory.rivalDrift[query.concept]!);
      const likelihood = (product: number) =>
        (query.conversion[product]! / scenario.products[product]!.conversion) *
        Math.exp(0.3 * normal(random));
      for (const slot of searchAuction(candidates, query.click, likelihood, level, when, random))
        this.show(query, slot, (i / count) * 60);
    }
  }

  private visit(count: number, when: number): void {
    const { random, setting, memory } = this;
    const { scenario, demand, matcher } = setting;
    const browsing =
      scenario.categoryVisitsPerDay / (scenario.pageVisitsPerDay + scenario.categoryVisitsPerDay);
    for (let i = 0; i < count; i++) {
      const page = demand.pages[pick(demand.pageCumulative, random)]!;
      const browse = random() < browsing;
      const candidates = this.showable(browse ? matcher.forCategory(page) : matcher.forPage(page));
      if (candidates.length === 0) continue;
      const level =
        scenario.concepts[page.concept]!.rivalBid * 0.5 * Math.exp(memory.rivalDrift[page.concept]!);
      const placement = browse ? categoryBrowse : productPages;
      const market = { rivals: 7, level, hourOfWeek: when };
      const slots = runAuction(candidates, placement, 4, page.click, () => 1, market, random);
      for (const slot of slots) this.show(page, slot, (i / count) * 60);
    }
  }

  /** Lives the next hour. */
  liveHour(): void {
    const { random, half, budgets, setting } = this;
    const { scenario, structure } = setting;
    const hour = (this.hour = half.hours);
    const when = hourOfWeek(this.weekday, hour);
    const again = budgets.startHour(hour);
    for (const { id } of again) delete half.outSince[id];
    if (again.length > 0) this.shown.clear();
    const share = (half.volume * hourShares[hour]!) / hourTotal;
    this.search(poisson(scenario.searchesPerDay * share, random), when);
    this.visit(poisson((scenario.pageVisitsPerDay + scenario.categoryVisitsPerDay) * share, random), when);
    for (const campaign of structure.campaigns.values()) {
      if (campaign.status !== 'enabled' || !runs(campaign, half.day)) continue;
      const out = half.outSince[campaign.id];
      const minutes = out === undefined ? 60 : Math.min(60, Math.max(0, Math.round(out - hour * 60)));
      this.rows.hour(campaign.id, hour).minutes = minutes;
    }
    half.hours++;
  }

  private reported(products: DayResult['products'], ranks: DayResult['ranks']): DayResult {
    const { ads, orders, hours, creatives, sessions } = this.half.tally;
    const rounded = <T extends { spend: number }>(list: T[]): T[] =>
      list.map((sum) => ({ ...sum, spend: round2(sum.spend) }));
    return {
      ads: rounded(ads),
      orders,
      hours: rounded(hours),
      creatives: rounded(creatives),
      products: products.map((sum, p) => ({
        ...sum,
        sessions: sum.sessions + sessions[p]!,
        organicSales: round2(sum.organicSales),
      })),
      ranks,
    };
  }

  /** Stops before the day is over: what has happened so far, and what goes on from it. */
  pause(): { half: HalfDay; result: DayResult } {
    this.half.drawn = this.last;
    this.half.spent = this.budgets.pause();
    const none = { sessions: 0, organicOrders: 0, organicUnits: 0, organicSales: 0 };
    const products = this.setting.scenario.products.map(({ sku }) => ({ sku, ...none }));
    return { half: this.half, result: this.reported(products, []) };
  }

  /** Ends the day: organic visitors, who are counted over the whole of it, and the money that is gone. */
  close(): DayResult {
    const { setting, memory, random, half, weekday, sells } = this;
    const factor = weekdayConversion[weekday]! * 0.9;
    const buys = (query: Query, product: number) => sells(query, product, factor);
    const organic = organicDay(setting, memory, half.volume, half.tally.wonFrom, buys, random);
    const ranks = rankDay(setting.scenario, setting.demand, memory, half.tally, half);
    this.budgets.close();
    return this.reported(organic, ranks);
  }
}

/** Lives a whole day in one go. */
export function liveDay(setting: Setting, memory: Memory, day: string): DayResult {
  const living = LivingDay.begin(setting, memory, day);
  while (living.hours < 24) living.liveHour();
  return living.close();
}
