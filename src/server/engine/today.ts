import type { ProductDay, VerdictCounts } from '../../answers/today.ts';
import { addDays, type Day, type Window } from '../../core/metrics/days.ts';
import type { Sums } from '../../core/metrics/figures.ts';
import { splitChange, type Member, type Moved, type SplitFigure } from '../../core/movers/split.ts';
import { emptySums, SumsColumns } from '../../core/account/store.ts';
import type { Verdict } from '../../core/evidence/verdict.ts';
import { windowBefore } from '../../core/metrics/days.ts';
import type { LoadedAccount } from '../memory/load.ts';
import type { Edition } from './edition.ts';
import type { ExploreEngine } from './engine.ts';

/** Sums of every campaign on every day of a span: campaign times days, a column each. */
interface Cube {
  days: Day[];
  at: Map<Day, number>;
  sums: SumsColumns;
}

export type MovedBy = 'product' | 'campaign' | 'target';

/** What is asked of a change: a figure, by which members, and within which product or campaign. */
export interface MovedOrder {
  figure: SplitFigure;
  by: MovedBy;
  window: Window;
  compare: Window;
  sku: string | null;
  campaignId: string | null;
}

/** Days that are read at once: the season strip's, and a week. */
const cubeDays = 97;

/** The account in one look, off the request thread. */
export class TodayEngine {
  private readonly cubes = new WeakMap<LoadedAccount, Map<Day, Promise<Cube>>>();

  constructor(private readonly tables: ExploreEngine) {}

  private cube(account: LoadedAccount, from: Day): Promise<Cube> {
    const known = this.cubes.get(account) ?? new Map<Day, Promise<Cube>>();
    this.cubes.set(account, known);
    const usual = addDays(account.today, 1 - cubeDays);
    const first = from < usual ? from : usual;
    let pending = known.get(first);
    if (!pending) {
      pending = readCube(account, first);
      known.set(first, pending);
      pending.catch(() => known.delete(first));
    }
    return pending;
  }

  /** What ads of each product did, day by day from a day on; null while there are no figures. */
  async days(edition: Edition, from: Day): Promise<Omit<ProductDay, 'totalSales' | 'totalOrders'>[] | null> {
    const account = await this.tables.load(edition);
    if (!account) return null;
    const { days, sums } = await this.cube(account, from);
    const products = productOfCampaigns(account);
    const found = new Map<string, Omit<ProductDay, 'totalSales' | 'totalOrders'>>();
    const one = emptySums();
    products.forEach((sku, campaign) => {
      days.forEach((day, at) => {
        if (day < from) return;
        sums.read(campaign * days.length + at, one);
        if (one.impressions === 0 && one.spend === 0 && one.sales === 0) return;
        const key = `${day}|${sku}`;
        const known = found.get(key) ?? { day, sku, ...emptySums() };
        addSums(known, one);
        found.set(key, known);
      });
    });
    return [...found.values()];
  }

  /** Campaigns that were first shown after a day, though the account was there before; null while there are no figures. */
  async began(edition: Edition, after: Day): Promise<{ name: string; day: Day }[] | null> {
    const account = await this.tables.load(edition);
    if (!account) return null;
    const { days, sums } = await this.cube(account, account.today);
    const found: { name: string; day: Day }[] = [];
    let first = account.today;
    account.objects.campaigns.forEach(({ name }, campaign) => {
      const at = days.findIndex((_, index) => sums.impressions[campaign * days.length + index]! > 0);
      if (at < 0) return;
      if (days[at]! < first) first = days[at]!;
      if (days[at]! > after) found.push({ name, day: days[at]! });
    });
    // Of an account that is as young itself, all of it is new.
    return first > after ? [] : found.sort((a, b) => (a.day < b.day ? 1 : -1));
  }

  /** A change split by its members, those that moved it most first; null while there are no figures. */
  async moved(
    edition: Edition,
    { figure, by, window, compare, sku, campaignId }: MovedOrder,
  ): Promise<Moved | null> {
    const account = await this.tables.load(edition);
    if (!account) return null;
    const { campaigns, adGroups, targets } = account.objects;
    const products = productOfCampaigns(account);
    const isInside = (campaign: number) =>
      (sku === null || products[campaign] === sku) &&
      (campaignId === null || campaigns[campaign]!.id === campaignId);
    if (by === 'target') {
      const [after, before] = [await account.frame(window, null), await account.frame(compare, null)];
      const members = targets.flatMap(({ id, adGroup }, row): Member[] =>
        isInside(adGroups[adGroup]!.campaign)
          ? [
              {
                key: id,
                before: before.targets.read(row, emptySums()),
                after: after.targets.read(row, emptySums()),
              },
            ]
          : [],
      );
      return splitChange(figure, members.filter(isAnything));
    }
    const cube = await this.cube(account, compare.from < window.from ? compare.from : window.from);
    const members = new Map<string, Member<string>>();
    campaigns.forEach(({ id }, campaign) => {
      if (!isInside(campaign)) return;
      const key = by === 'product' ? products[campaign]! : id;
      const known = members.get(key) ?? { key, before: emptySums(), after: emptySums() };
      addSums(known.before as Sums, spanOf(cube, campaign, compare));
      addSums(known.after as Sums, spanOf(cube, campaign, window));
      members.set(key, known);
    });
    return splitChange(figure, [...members.values()].filter(isAnything));
  }

  /** Targets and terms by their verdicts, with their spend; null while there are no figures. */
  async verdicts(edition: Edition, window: Window): Promise<VerdictCounts | null> {
    const made = {} as VerdictCounts;
    for (const level of ['targets', 'terms'] as const) {
      const windows = { window, comparison: windowBefore(window) };
      const open = await this.tables.open(edition, { level, windows }, ['verdict', 'spend']);
      if (!open) return null;
      const counts: Record<Verdict, { count: number; spend: number }> = {
        under: { count: 0, spend: 0 },
        over: { count: 0, spend: 0 },
        undecided: { count: 0, spend: 0 },
      };
      const verdict = open.table.reader(level, 'verdict');
      const frame = open.data.frames.get('')!;
      const sums = (level === 'targets' ? frame.targets : frame.pairs)!;
      for (let row = 0; row < sums.count; row++) {
        // What was not clicked in the window is nobody's question now.
        if (sums.clicks[row] === 0) continue;
        const known = counts[verdict(row) as Verdict];
        known.count++;
        known.spend += sums.spend[row]!;
      }
      made[level] = counts;
    }
    return made;
  }
}

const isAnything = ({ before, after }: Member): boolean =>
  before.clicks + before.spend + before.sales + after.clicks + after.spend + after.sales > 0;

function addSums(into: Sums, from: Sums): void {
  into.impressions += from.impressions;
  into.clicks += from.clicks;
  into.spend += from.spend;
  into.orders += from.orders;
  into.units += from.units;
  into.sales += from.sales;
}

function spanOf({ days, sums }: Cube, campaign: number, { from, to }: Window): Sums {
  const total = emptySums();
  const one = emptySums();
  days.forEach((day, at) => {
    if (day >= from && day <= to) addSums(total, sums.read(campaign * days.length + at, one));
  });
  return total;
}

/** The product of each campaign, by its place: that of its first ad group that has one; empty without. */
function productOfCampaigns({ objects: { campaigns, adGroups } }: LoadedAccount): string[] {
  const found = Array<string>(campaigns.length).fill('');
  for (const { campaign, sku } of adGroups) if (found[campaign] === '' && sku !== null) found[campaign] = sku;
  return found;
}

async function readCube(account: LoadedAccount, first: Day): Promise<Cube> {
  const { campaigns, adGroups, targets } = account.objects;
  const days: Day[] = [];
  for (let day = first; day <= account.today; day = addDays(day, 1)) days.push(day);
  const at = new Map(days.map((day, index) => [day, index]));
  const sums = new SumsColumns(campaigns.length * days.length);
  const campaignOf = Int32Array.from(targets, ({ adGroup }) => adGroups[adGroup]!.campaign);
  for await (const { block, places } of account.rows('targets', { from: first, to: account.today })) {
    const index = at.get(block.day);
    if (index === undefined) continue;
    sums.addGrouped(
      block,
      places.map((place) => (place < 0 ? -1 : campaignOf[place]! * days.length + index)),
    );
  }
  return { days, at, sums };
}
