import type { Scenario } from '../scenario.ts';
import { categoryBrowse, productPages, type Candidate, type Matcher, type Structure } from './account.ts';
import { DayBudgets, runs, type Purse } from './budgets.ts';
import type { Catalogue } from './catalogue.ts';
import { combinationsOf, drawn } from './creatives.ts';
import { runAuction, searchAuction, type Slot } from './auction.ts';
import { hourOfWeek } from './schedule.ts';
import { normal, pick, stream, type Random } from './random.ts';
import type { Demand, Page, Query } from './shoppers.ts';

/** What the world remembers from one day to the next, beside the structure. */
export interface Memory extends Purse {
  stock: number[];
  /** Stock as the marketplace believes it: counted anew only every second Monday. */
  listed: boolean[];
  rivalDrift: number[];
  /** Organic standing 0 to 1 by "product:query", for the queries of the head. */
  organic: Record<string, number>;
}

export interface AdSum {
  targetId: string;
  term: string;
  placement: number;
  impressions: number;
  clicks: number;
  spend: number;
}

export interface Order {
  hour: number;
  targetId: string;
  term: string;
  placement: number;
  sku: string;
  units: number;
  sales: number;
  delay: number;
  /** The picture and title that were clicked, where the ad group has some. */
  shown: CreativeSum | null;
}

export interface CreativeSum {
  adGroupId: string;
  picture: string;
  title: string;
  impressions: number;
  clicks: number;
  spend: number;
}

export interface HourSum {
  campaignId: string;
  hour: number;
  impressions: number;
  clicks: number;
  spend: number;
  minutes: number;
}

export interface DayResult {
  ads: AdSum[];
  orders: Order[];
  hours: HourSum[];
  creatives: CreativeSum[];
  products: {
    sku: string;
    sessions: number;
    organicOrders: number;
    organicUnits: number;
    organicSales: number;
  }[];
}

const hourShares = [
  14, 9, 6, 4, 4, 6, 14, 26, 38, 46, 50, 52, 54, 52, 50, 50, 54, 58, 66, 76, 82, 74, 52, 30,
];
const hourTotal = hourShares.reduce((a, b) => a + b);
/** Sunday first. On Sundays people look and do not buy. */
const weekdayDemand = [1.08, 1.02, 0.98, 0.97, 0.96, 0.94, 1.05];
const weekdayConversion = [0.62, 1.04, 1.08, 1.08, 1.06, 1, 1.05];
/** Share of orders that arrive 0, 1, 2 ... 13 days after the click. */
const delays = [0.45, 0.25, 0.12, 0.07, 0.04, 0.03, 0.018, 0.008, 0.005, 0.003, 0.002, 0.002, 0.001, 0.001];

const round2 = (value: number) => Math.round(value * 100) / 100;

function poisson(mean: number, random: Random): number {
  if (mean > 40) return Math.max(0, Math.round(mean + Math.sqrt(mean) * normal(random)));
  const floor = Math.exp(-mean);
  let k = 0;
  for (let p = random(); p > floor; p *= random()) k++;
  return k;
}

function delayOf(random: Random): number {
  let left = random();
  for (let day = 0; day < delays.length; day++) {
    left -= delays[day]!;
    if (left < 0) return day;
  }
  return delays.length - 1;
}

/** Lives one day of the account. Deterministic from the seed, the day, the structure and the memory. */
export function liveDay(
  scenario: Scenario,
  demand: Demand,
  structure: Structure,
  matcher: Matcher,
  memory: Memory,
  catalogue: Catalogue,
  day: string,
): DayResult {
  const random = stream(scenario.seed, `day ${day}`);
  const date = new Date(`${day}T00:00:00Z`);
  const weekday = date.getUTCDay();
  const ordinal = Math.round((date.getTime() - Date.parse(`${scenario.account.firstDay}T00:00:00Z`)) / 864e5);
  const { products, concepts } = scenario;
  const season = 1 + 0.12 * Math.sin(((ordinal + 10) / 60) * Math.PI);
  const volume = season * weekdayDemand[weekday]! * Math.exp(0.05 * normal(random));

  if (weekday === 1 && Math.floor(ordinal / 7) % 2 === 0) {
    memory.listed = memory.stock.map((left) => left > 0);
  }
  memory.rivalDrift = memory.rivalDrift.map((drift) => 0.985 * drift + 0.02 * normal(random));

  const budgets = new DayBudgets(structure, memory, day, hourShares);
  const { open } = budgets;
  const outSince = new Map<string, number>();
  const mayShow = ({ campaign, adGroup, product }: Candidate): boolean =>
    memory.listed[product]! && open.has(campaign) && runs(adGroup, day);
  /** The same searches come again and again: what of their candidates may show stays until a budget is spent. */
  const shown = new Map<Candidate[], Candidate[]>();
  const showable = (candidates: Candidate[]): Candidate[] => {
    let known = shown.get(candidates);
    if (!known) shown.set(candidates, (known = candidates.filter(mayShow)));
    return known;
  };
  const ads: AdSum[] = [];
  /** The sums by what was searched, target and placement. */
  const adsOf = new Map<string, Map<Candidate['target'], (AdSum | undefined)[]>>();
  const sumOf = (term: string, { target }: Candidate, placement: number): AdSum => {
    let ofTerm = adsOf.get(term);
    if (!ofTerm) adsOf.set(term, (ofTerm = new Map()));
    let sums = ofTerm.get(target);
    if (!sums) ofTerm.set(target, (sums = []));
    let sum = sums[placement];
    if (!sum) {
      sum = { targetId: target.id, term, placement, impressions: 0, clicks: 0, spend: 0 };
      sums[placement] = sum;
      ads.push(sum);
    }
    return sum;
  };
  const hours = new Map<string, HourSum>();
  const orders: Order[] = [];
  const sessions = new Float64Array(products.length);
  const wonFrom = new Map<string, number>();

  const hourOf = (campaignId: string, hour: number): HourSum => {
    const key = `${campaignId}:${hour}`;
    const known = hours.get(key);
    if (known) return known;
    const sum = { campaignId, hour, impressions: 0, clicks: 0, spend: 0, minutes: 60 };
    hours.set(key, sum);
    return sum;
  };

  /** What of the day moves a product's conversion among these visitors. */
  const moved = (query: Query | Page, product: number): number =>
    'own' in query ? catalogue.factor(query, product) : catalogue.ratingFactor(product);
  const sell = (query: Query | Page, product: number, factor: number): boolean =>
    memory.stock[product]! > 0 &&
    random() < query.conversion[product]! * factor * (catalogue.isMoving ? moved(query, product) : 1);

  const combinations = combinationsOf(structure);
  const creatives = new Map<string, CreativeSum>();
  /** The pair that is shown of an ad group's pictures and titles, with what it makes of the click-through. */
  const pairOf = (adGroupId: string): { sum: CreativeSum; appeal: number } | null => {
    const list = combinations.get(adGroupId);
    if (!list) return null;
    const { picture, title, appeal } = drawn(list, random);
    const key = `${adGroupId}\t${picture}\t${title}`;
    let sum = creatives.get(key);
    if (!sum) {
      sum = { adGroupId, picture, title, impressions: 0, clicks: 0, spend: 0 };
      creatives.set(key, sum);
    }
    return { sum, appeal };
  };

  const show = (query: Query, slot: Slot, hour: number, minute: number) => {
    const { candidate, placement } = slot;
    const { target, campaign, product } = candidate;
    const pair = pairOf(target.adGroupId);
    const sum = sumOf(query.text, candidate, placement);
    const hourly = hourOf(campaign.id, hour);
    sum.impressions++;
    hourly.impressions++;
    if (pair) pair.sum.impressions++;
    const seen = [1, 0.7, 0.55, 0.45, 0.38, 0.33][slot.position]! * [1, 0.55, 0.5, 0.6][placement]!;
    if (random() >= query.click[product]! * seen * (pair?.appeal ?? 1)) return;
    sum.clicks++;
    sum.spend += slot.cpc;
    hourly.clicks++;
    hourly.spend += slot.cpc;
    if (pair) {
      pair.sum.clicks++;
      pair.sum.spend += slot.cpc;
    }
    if (budgets.spend(campaign, slot.cpc)) shown.clear();
    if (!open.has(campaign) && !outSince.has(campaign.id)) outSince.set(campaign.id, hour * 60 + minute);
    sessions[product]!++;
    const item = products[product]!;
    const placed = item.placementConversion[['top', 'rest', 'pages', 'browse'][placement]!] ?? 1;
    const evening = hour >= 18 && hour <= 22 ? 1.08 : hour < 7 ? 0.8 : 1;
    if (!sell(query, product, placed * weekdayConversion[weekday]! * evening)) return;
    const other = random() < 0.08 ? products[Math.floor(random() * products.length)]! : item;
    const units = random() < 0.1 ? 2 : 1;
    memory.stock[products.indexOf(other)]! -= units;
    orders.push({
      hour,
      targetId: target.id,
      term: query.text,
      placement,
      sku: other.sku,
      units,
      sales: round2(other.price * units),
      delay: delayOf(random),
      shown: pair?.sum ?? null,
    });
    const standing = `${product}:${query.text}`;
    wonFrom.set(standing, (wonFrom.get(standing) ?? 0) + 1);
  };

  let current: Query;
  const likelihood = (product: number) =>
    (current.conversion[product]! / products[product]!.conversion) * Math.exp(0.3 * normal(random));
  const indifferent = () => 1;
  for (let hour = 0; hour < 24; hour++) {
    const when = hourOfWeek(weekday, hour);
    const again = budgets.startHour(hour);
    for (const { id } of again) outSince.delete(id);
    if (again.length > 0) shown.clear();
    const share = (volume * hourShares[hour]!) / hourTotal;
    const searches = poisson(scenario.searchesPerDay * share, random);
    for (let i = 0; i < searches; i++) {
      const query = random() < 0.1 ? demand.fresh(random) : demand.queries[pick(demand.cumulative, random)]!;
      const candidates = showable(matcher.forQuery(query));
      if (candidates.length === 0) continue;
      const level = concepts[query.concept]!.rivalBid * Math.exp(memory.rivalDrift[query.concept]!);
      current = query;
      for (const slot of searchAuction(candidates, query.click, likelihood, level, when, random)) {
        show(query, slot, hour, (i / searches) * 60);
      }
    }
    const visits = poisson((scenario.pageVisitsPerDay + scenario.categoryVisitsPerDay) * share, random);
    const browsing =
      scenario.categoryVisitsPerDay / (scenario.pageVisitsPerDay + scenario.categoryVisitsPerDay);
    for (let i = 0; i < visits; i++) {
      const page = demand.pages[pick(demand.pageCumulative, random)]!;
      const browse = random() < browsing;
      const candidates = showable(browse ? matcher.forCategory(page) : matcher.forPage(page));
      if (candidates.length === 0) continue;
      const level = concepts[page.concept]!.rivalBid * 0.5 * Math.exp(memory.rivalDrift[page.concept]!);
      const placement = browse ? categoryBrowse : productPages;
      const market = { rivals: 7, level, hourOfWeek: when };
      const slots = runAuction(candidates, placement, 4, page.click, indifferent, market, random);
      for (const slot of slots) show(page, slot, hour, (i / visits) * 60);
    }
    for (const campaign of structure.campaigns.values()) {
      if (campaign.status !== 'enabled' || !runs(campaign, day)) continue;
      const out = outSince.get(campaign.id);
      const minutes = out === undefined ? 60 : Math.min(60, Math.max(0, Math.round(out - hour * 60)));
      hourOf(campaign.id, hour).minutes = minutes;
    }
  }

  const organic = products.map(({ sku }) => ({
    sku,
    sessions: 0,
    organicOrders: 0,
    organicUnits: 0,
    organicSales: 0,
  }));
  const head = demand.queries.slice(0, 600);
  const total = demand.cumulative[demand.cumulative.length - 1]!;
  for (const query of head) {
    const searched = (scenario.searchesPerDay * volume * query.popularity) / total;
    for (let p = 0; p < products.length; p++) {
      if (query.click[p]! < 0.004) continue;
      const key = `${p}:${query.text}`;
      const before = memory.organic[key] ?? 0.15;
      const visitors = poisson(searched * 0.3 * before ** 1.2, random);
      const out = organic[p]!;
      out.sessions += visitors;
      for (let v = 0; v < visitors; v++) {
        if (!sell(query, p, weekdayConversion[weekday]! * 0.9)) continue;
        memory.stock[p]!--;
        out.organicOrders++;
        out.organicUnits++;
        out.organicSales += products[p]!.price;
        wonFrom.set(key, (wonFrom.get(key) ?? 0) + 0.5);
      }
      const won = wonFrom.get(key) ?? 0;
      memory.organic[key] = Math.round((0.97 * before + 0.03 * Math.min(1, 0.1 + won)) * 1e4) / 1e4;
    }
  }
  organic.forEach((sum, p) => {
    sum.sessions += sessions[p]!;
    sum.organicSales = round2(sum.organicSales);
  });
  for (const sum of ads) sum.spend = round2(sum.spend);
  for (const sum of hours.values()) sum.spend = round2(sum.spend);
  for (const sum of creatives.values()) sum.spend = round2(sum.spend);
  budgets.close();
  return { ads, orders, hours: [...hours.values()], creatives: [...creatives.values()], products: organic };
}
