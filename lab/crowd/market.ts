import { makeCrowd, type Crowd } from './auction.ts';
import type { Family } from './families.ts';
import { Chance } from '../random.ts';

/** One target with what nobody outside may see. Money in currency units. */
export interface HiddenTarget {
  id: number;
  adGroup: number;
  campaign: number;
  product: number;
  /** Click opportunities a day on an average day. */
  opportunities: number;
  /** Orders per click before drift and season. */
  conversion: number;
  /** Median of its rivals' values. */
  rivals: number;
  bid: number;
  /** Where it is shown: one place, or its campaign's placements. */
  places: Place[];
}

/** One placement of a target. */
export interface Place {
  /** Of its opportunities. */
  share: number;
  /** Rivals' values there over their usual ones. */
  dear: number;
  /** Orders per click there over its usual ones. */
  sells: number;
}

const onePlace: Place[] = [{ share: 1, dear: 1, sells: 1 }];
/** Top of search, rest of search, product pages: usual shares, how dear they are, and what they sell. */
const usualPlaces: readonly Place[] = [
  { share: 0.45, dear: 1.5, sells: 1.15 },
  { share: 0.35, dear: 0.9, sells: 0.95 },
  { share: 0.2, dear: 0.6, sells: 0.65 },
];
/** How much better targets are found at the top more often than others: nobody is told which. */
const topForBetter = 0.35;

export interface Order {
  target: number;
  place: number;
  day: number;
  knownOn: number;
  value: number;
}

/** What one day was, per target: final at once. Orders arrive later. */
export interface DayFacts {
  impressions: Int32Array;
  clicks: Int32Array;
  spend: Float64Array;
  bids: Float64Array;
  /** Clicks and spend by campaign and place, as `campaign * places + place`. */
  placeClicks: Int32Array;
  placeSpend: Float64Array;
}

export interface ProductFacts {
  sessions: number;
  orders: number;
}

const weekday = [1.08, 1.05, 1, 0.98, 0.95, 0.9, 1.04];
const buying = [1, 1.02, 1.03, 1, 0.98, 0.93, 0.96];
const clickShare = 0.03;
/** An order's mean value over its product's price: some take two, some a cheaper item; and
 * buying over the week, 0.989 by its clicks. */
const meanBasket = 1.1 * 0.94 * 0.989;

/** A market with a crowd of rivals at every target. Lives a day at a time; knows the truth of every moment. */
export class Market {
  readonly targets: HiddenTarget[] = [];
  readonly prices: number[] = [];
  readonly targetAcos: number;
  readonly days: DayFacts[] = [];
  readonly orders: Order[] = [];
  readonly productDays: ProductFacts[][] = [];
  readonly minimumBid = 0.03;
  /** Places a campaign has, and what is added to bids there, as shares. */
  readonly placeCount: number;
  readonly modifiers: Float64Array;
  readonly crowd: Crowd;
  private readonly chance: Chance;
  /** Of its own, so that the same things happen whatever is bid. */
  private readonly fate: Chance;
  private readonly delay: number;
  private rivalLevel = 0;
  private readonly rivalDrift: Float64Array;
  private readonly conversionDrift: Float64Array;
  private readonly outUntil: number[];

  constructor(
    readonly family: Family,
    seed: number,
  ) {
    const chance = (this.chance = new Chance(seed));
    this.fate = new Chance(seed + 0.5);
    const range = ([low, high]: [number, number]) => chance.between(low, high);
    this.targetAcos = Math.round(range(family.targetAcos) * 100) / 100;
    this.delay = range(family.delay);
    const rivals = 2 + Math.round(range(family.rivals));
    this.crowd = makeCrowd(rivals, range(family.rivalSpread), this.minimumBid);
    const conversion = range(family.conversion);
    const spread = range(family.lawSpread);
    const dearness = range(family.dearness);
    const startLevel = range(family.startLevel);
    const middle = range(family.opportunities);
    this.placeCount = family.placed ? usualPlaces.length : 1;
    this.modifiers = new Float64Array(family.products * 3 * this.placeCount);
    // Of its own, so that markets without placements stay what they were.
    const placing = new Chance(seed + 0.25);
    let [adGroup, campaign] = [0, 0];
    for (let product = 0; product < family.products; product++) {
      const price = Math.round(Math.exp(chance.between(Math.log(12), Math.log(70))) * 100) / 100;
      this.prices.push(price);
      const ofProduct = conversion * Math.exp(0.25 * chance.normal());
      const ofPlaces = usualPlaces.map(({ sells }) => sells * Math.exp(0.3 * placing.normal()));
      for (let c = 0; c < 3; c++, campaign++) {
        const places = usualPlaces.map(({ share, dear }, at): Place => ({
          share,
          dear: dear * Math.exp(0.15 * placing.normal()),
          sells: ofPlaces[at]! * Math.exp(0.1 * placing.normal()),
        }));
        const ofCampaign = ofProduct * Math.exp(0.25 * chance.normal());
        for (let g = 0; g < 2; g++, adGroup++) {
          const ofAdGroup = ofCampaign * Math.exp(0.2 * chance.normal());
          const members = Math.ceil(family.targets / (family.products * 6));
          for (let i = 0; i < members; i++) {
            const law = this.lawOf(spread);
            const own = chance.unit() < family.junk ? 0.03 : law;
            const revenue = ofProduct * price;
            this.targets.push({
              places: family.placed ? placed(places, Math.log(Math.max(0.2, own)), placing) : onePlace,
              id: this.targets.length,
              adGroup,
              campaign,
              product,
              opportunities: middle * Math.exp(family.opportunitySpread * chance.normal()),
              conversion: Math.min(0.5, ofAdGroup * own),
              rivals: Math.max(
                0.02,
                dearness * revenue * Math.exp(0.45 * chance.normal() + 0.25 * Math.log(Math.max(0.3, law))),
              ),
              bid: this.rounded(
                1.3 * this.targetAcos * startLevel * revenue * Math.exp(family.startSpread * chance.normal()),
              ),
            });
          }
        }
      }
    }
    this.rivalDrift = new Float64Array(this.targets.length);
    this.conversionDrift = new Float64Array(this.targets.length);
    this.outUntil = this.prices.map(() => -1);
    for (let day = 0; day < family.historyDays; day++) this.live();
  }

  private lawOf(spread: number): number {
    switch (this.family.law) {
      case 'gamma':
        return this.chance.gamma(spread);
      case 'lognormal':
        return Math.exp(spread * this.chance.normal() - spread ** 2 / 2);
      case 'two groups':
        return this.chance.unit() < spread ? 2.4 : 0.4;
    }
  }

  rounded(bid: number): number {
    return Math.min(60, Math.max(this.minimumBid, Math.round(bid * 100) / 100));
  }

  /** Days lived. */
  get today(): number {
    return this.days.length - 1;
  }

  private medianOf({ id, rivals }: HiddenTarget): number {
    return rivals * Math.exp(this.rivalLevel + this.rivalDrift[id]!);
  }

  /** The truth of the present: orders per click of an average day, in stock. */
  conversionOf({ id, conversion }: HiddenTarget): number {
    return Math.min(0.6, conversion * Math.exp(this.conversionDrift[id]!));
  }

  /** Revenue per click where a place sells as usual. */
  revenueAt(target: HiddenTarget): number {
    return this.conversionOf(target) * this.prices[target.product]! * meanBasket;
  }

  /** Revenue per click as things stand, at the present bid. */
  revenueOf(target: HiddenTarget): number {
    return this.revenueAt(target) * this.mixOf(target);
  }

  /** What places make of its orders per click: the mean by its clicks. */
  private mixOf(target: HiddenTarget): number {
    if (target.places.length === 1) return 1;
    const { clicks, sold } = this.week(target, target.bid);
    if (clicks > 0) return sold / clicks;
    return target.places.reduce((sum, { share, sells }) => sum + share * sells, 0);
  }

  /** What is bid in a place. */
  placeBid({ campaign }: HiddenTarget, bid: number, place: number): number {
    return bid * (1 + this.modifiers[campaign * this.placeCount + place]!);
  }

  /** Clicks and spend to be expected of a week at a bid, as things stand; `sold`: clicks by what they sell there. */
  week(target: HiddenTarget, bid: number): { clicks: number; spend: number; sold: number } {
    const median = this.medianOf(target);
    const week = { clicks: 0, spend: 0, sold: 0 };
    target.places.forEach(({ share, dear, sells }, place) => {
      const here = this.placeBid(target, bid, place);
      const clicks = 7 * target.opportunities * share * this.crowd.wins(here, median * dear);
      week.clicks += clicks;
      week.spend += clicks * this.crowd.price(here, median * dear);
      week.sold += clicks * sells;
    });
    return week;
  }

  /** What a click costs on average at the present bid. */
  priceOf(target: HiddenTarget): number {
    const { clicks, spend } = this.week(target, target.bid);
    return target.places.length === 1 ? this.crowd.price(target.bid, this.medianOf(target)) : spend / clicks;
  }

  live(): void {
    const { chance, fate, family } = this;
    const day = this.days.length;
    const count = this.targets.length;
    const perDay = 1 / Math.sqrt(7);
    this.rivalLevel += family.rivalDrift * 0.5 * perDay * fate.normal();
    this.prices.forEach((_, product) => {
      if (day > this.outUntil[product]! && fate.unit() < family.runsOut / 7)
        this.outUntil[product] = day + 3 + fate.whole(6);
    });
    const facts: DayFacts = {
      impressions: new Int32Array(count),
      clicks: new Int32Array(count),
      spend: new Float64Array(count),
      bids: Float64Array.from(this.targets, ({ bid }) => bid),
      placeClicks: new Int32Array(this.modifiers.length),
      placeSpend: new Float64Array(this.modifiers.length),
    };
    const products = this.prices.map(() => ({ sessions: 0, orders: 0 }));
    for (const target of this.targets) {
      const { id, bid, opportunities, product } = target;
      this.rivalDrift[id]! += family.rivalDrift * perDay * fate.normal();
      this.conversionDrift[id]! += family.conversionDrift * perDay * fate.normal();
      const median = this.medianOf(target);
      const sells = this.outUntil[product]! < day;
      const rate = this.conversionOf(target) * buying[day % 7]!;
      target.places.forEach((at, place) => {
        const here = this.placeBid(target, bid, place);
        const won = this.crowd.wins(here, median * at.dear);
        const expected = opportunities * at.share * weekday[day % 7]! * won;
        const clicks = chance.poisson(expected * chance.gamma(12));
        facts.impressions[id]! += clicks + chance.poisson(expected * (1 / clickShare - 1));
        facts.clicks[id]! += clicks;
        const row = target.campaign * this.placeCount + place;
        facts.placeClicks[row]! += clicks;
        for (let i = 0; i < clicks; i++) {
          const cost = this.crowd.draw(here, median * at.dear, chance.unit());
          facts.spend[id]! += cost;
          facts.placeSpend[row]! += cost;
          if (!sells || chance.unit() >= rate * at.sells) continue;
          const late = Math.min(14, Math.floor(this.delay * chance.wait()));
          const value =
            this.prices[product]! * (chance.unit() < 0.1 ? 2 : 1) * (chance.unit() < 0.15 ? 0.6 : 1);
          this.orders.push({ target: id, place, day, knownOn: day + late, value });
          products[product]!.orders++;
        }
        products[product]!.sessions += clicks;
      });
      facts.spend[id] = Math.round(facts.spend[id]! * 100) / 100;
    }
    products.forEach((sum, product) => {
      const visits = chance.poisson(40);
      sum.sessions += visits;
      if (this.outUntil[product]! < day) sum.orders += chance.poisson(visits * 0.08);
    });
    this.productDays.push(products);
    this.days.push(facts);
  }
}

/** A target's places: shares of its own, better targets more often at the top. `quality`: ln of its orders per click over its like. */
function placed(places: readonly Place[], quality: number, chance: Chance): Place[] {
  const weights = places.map(
    ({ share }, at) => share * Math.exp(0.3 * chance.normal() + (at === 0 ? topForBetter * quality : 0)),
  );
  const all = weights.reduce((sum, weight) => sum + weight, 0);
  return places.map((place, at) => ({ ...place, share: weights[at]! / all }));
}
