import { mixesNow } from '../account/sold.queries.ts';
import type { SeasonDay } from '../../answers/account.ts';
import { LRUCache } from 'lru-cache';
import type { PastForce } from '../../core/account/as-of.ts';
import { Places } from '../../core/account/places.ts';
import { termPlaces } from '../../core/account/term-places.ts';
import {
  emptySums,
  sumNames,
  SumsColumns,
  type SumsRows,
  type EvidenceColumns,
  type FrameSums,
  type FreshColumns,
  type Objects,
  type Pairs,
  type PresentColumns,
} from '../../core/account/store.ts';
import { windowEnding, type Day, type Window } from '../../core/metrics/days.ts';
import { settling } from '../account/account.ts';
import { accountById, productsOf } from '../account/queries.ts';
import { marginOf } from '../account/account.ts';
import type { Database } from '../db/connection.ts';
import { bidsInForce } from '../facts/evidence-days.queries.ts';
import { outOfStock, presentWeights, type OutOfStock } from '../facts/evidence-days.ts';
import { scheduledMeans } from '../facts/schedules.ts';
import { summariesIn } from '../facts/summaries.queries.ts';
import type { Response } from '../../core/effect/response.ts';
import { dayWeights, evidenceDays } from '../../core/metrics/weights.ts';
import { modifiersByCampaign, type LaneColumns } from '../../core/account/rows.ts';
import { blockedSums, type BlockedSums } from '../facts/blocked.queries.ts';
import { addWeighted, leaveOut, raiseCpc, raiseCpcTo, takePart } from './day-loops.ts';
import { AccountDays, type BlockSumsOf, type DayRows } from './days.ts';
import { readFresh, readLaneCounts, readPresent, type LaneSpan } from './present.ts';
import {
  adGroupRows,
  budgetGroupRows,
  campaignRows,
  negativeRows,
  placementEvidence,
  placementRows,
  placementSums,
  targetObjects,
  termTexts,
  totalSales,
  type SumsOf,
} from './queries.ts';

/** Sums and evidence of windows, per account. */
const mostWindowBytes = 512 * 1024 * 1024;

/** What an account is seen through as it was known on an earlier day. */
export interface Past {
  /** Share of the orders of a day that are known by now which were known then. */
  known: (day: Day) => number;
  forces: readonly PastForce[];
  /** When fields were changed last by then, by `changeName`. */
  changedOn: ReadonlyMap<string, Day>;
  /** What words told of terms by then, natural logs by word. */
  words: ReadonlyMap<string, number>;
}

/** The account in memory, made for one version of its figures; sums and terms come when they are first asked for. */
export class LoadedAccount {
  /** Place by id, -1 where there is none. */
  private readonly targetAt: Places;
  private readonly days: AccountDays;
  private readonly placementAt: Map<string, number>;
  private readonly campaignAt: Map<string, number>;
  private readonly skuAt: Map<string, number>;
  /** What was read of windows; the longest unasked go when there is too much of it. */
  private readonly windows = new LRUCache<string, Promise<unknown>>({ maxSize: mostWindowBytes });
  private readingPairs: Promise<void> | null = null;
  private loadedPairs: Pairs | null = null;

  private constructor(
    private readonly sql: Database,
    private readonly accountId: number,
    readonly today: Day,
    readonly settledTo: Day | null,
    private readonly curve: readonly number[],
    readonly objects: Objects,
    /** The account as it was known on an earlier day; null: as it is. */
    readonly past: Past | null = null,
    days: AccountDays | null = null,
  ) {
    this.targetAt = new Places(objects.targets.map(({ id }) => Number(id)));
    this.days = days ?? new AccountDays(sql, accountId, today, this.targetAt);
    this.skuAt = new Map(objects.products.map(({ sku }, i) => [sku, i]));
    this.campaignAt = new Map(objects.campaigns.map(({ id }, i) => [id, i]));
    this.placementAt = new Map(
      objects.placements.map(({ campaign, placement }, i) => [
        `${objects.campaigns[campaign]!.id}\t${placement}`,
        i,
      ]),
    );
  }

  /**
   * Reads the objects; null while the account has no day.
   *
   * @param withTerms Terms will be asked for: their texts are read meanwhile.
   */
  static async open(sql: Database, accountId: number, withTerms = false): Promise<LoadedAccount | null> {
    const account = await accountById(sql, accountId);
    if (!account?.today) return null;
    const texts = withTerms ? termTexts(sql, accountId) : null;
    texts?.catch(() => undefined);
    const [campaigns, adGroups] = await Promise.all([
      campaignRows(sql, accountId),
      adGroupRows(sql, accountId),
    ]);
    const campaignAt = new Map(campaigns.map(({ id }, i) => [id, i]));
    const adGroupAt = new Map(adGroups.map(({ id }, i) => [id, i]));
    const [mixes, budgetGroups, targets, placements, negatives, products, settled] = await Promise.all([
      mixesNow(sql, accountId, account.today),
      budgetGroupRows(sql, accountId),
      targetObjects(sql, accountId, adGroupAt),
      placementRows(sql, accountId),
      negativeRows(sql, accountId),
      productsOf(sql, accountId),
      settling(sql, account),
    ]);
    const objects: Objects = {
      budgetGroups,
      campaigns,
      products: products.map((row) => ({
        sku: row.sku,
        title: row.title,
        price: row.price,
        margin: marginOf(row),
        stock: row.stock,
      })),
      adGroups: adGroups.map(({ campaignId, ...row }) => ({ ...row, campaign: campaignAt.get(campaignId)! })),
      mixes,
      targets,
      placements: placements.map(({ campaignId, ...row }) => ({
        ...row,
        campaign: campaignAt.get(campaignId)!,
      })),
      negatives: negatives.map(({ campaignId, adGroupId, ...row }) => ({
        ...row,
        campaign: campaignAt.get(campaignId)!,
        adGroup: adGroupId === null ? null : (adGroupAt.get(adGroupId) ?? null),
      })),
    };
    const { settledTo, curve } = settled;
    const loaded = new LoadedAccount(sql, accountId, account.today, settledTo, curve, objects);
    if (texts) void loaded.needPairs(texts);
    await loaded.noteSeen();
    return loaded;
  }

  /** The account as it was known on an earlier day: days until then, with the orders that were known by then. */
  asOf(day: Day, settledTo: Day, objects: Objects, past: Past): LoadedAccount {
    const made = new LoadedAccount(
      this.sql,
      this.accountId,
      day,
      settledTo,
      this.curve,
      objects,
      past,
      this.days,
    );
    made.loadedPairs = this.loadedPairs;
    made.readingPairs = this.readingPairs;
    return made;
  }

  /** Bids that were in force since a day, for targets whose present bid is another. */
  async bidsSince(from: Day): ReturnType<typeof bidsInForce> {
    return (
      this.past?.forces.map(({ targetId, ...force }) => ({ targetId: Number(targetId), ...force })) ??
      bidsInForce(this.sql, this.accountId, from)
    );
  }

  get pairs(): Pairs | null {
    return this.loadedPairs;
  }

  /** One reading for one window; whoever asks meanwhile waits for the same. `rows` of so many numbers are kept. */
  private once<T>(name: string, rows: number, numbers: number, read: () => Promise<T>): Promise<T> {
    let pending = this.windows.get(name) as Promise<T> | undefined;
    if (!pending) {
      pending = read();
      this.windows.set(name, pending, { size: 1 + Math.min(mostWindowBytes - 1, rows * numbers * 8) });
      pending.catch(() => this.windows.delete(name));
    }
    return pending;
  }

  /** About how much memory the account takes beside its windows. */
  get bytes(): number {
    const { targets, adGroups, negatives } = this.objects;
    const pairs = this.loadedPairs;
    const ofObjects = (targets.length + adGroups.length + negatives.length) * 400;
    return 1 + ofObjects + this.days.bytes + (pairs ? pairs.target.length * 56 + pairs.texts.length * 80 : 0);
  }

  /** Reads the pairs, which takes longest: whoever will need them asks before all else. */
  needPairs(texts?: ReturnType<typeof termTexts>): Promise<void> {
    this.readingPairs ??= this.readPairs(texts ?? termTexts(this.sql, this.accountId));
    this.readingPairs.catch(() => (this.readingPairs = null));
    return this.readingPairs;
  }

  private async readPairs(reading: ReturnType<typeof termTexts>): Promise<void> {
    const [{ termIds, texts }, { target, term: ids, firstSeen, lastSeen }] = await Promise.all([
      reading,
      this.days.meetPairs(),
    ]);
    const termAt = new Places(termIds);
    const term = ids.map((id) => {
      const at = termAt.at(id);
      // A term that came while its text was read: the next version of the account knows it.
      return at >= 0 ? at : texts.push('') - 1;
    });
    while (termIds.length < texts.length) termIds.push(0);
    const places = termPlaces(this.objects, { target, term });
    this.loadedPairs = { target, term, texts, termIds, places, firstSeen, lastSeen };
  }

  /** The days of a window, and where their rows belong. Pairs are there once they were read. */
  rows(of: BlockSumsOf, window: Window): AsyncGenerator<DayRows> {
    return this.days.rows(of, window);
  }

  /** Notes on every target the first and the last day on which it was seen. */
  private async noteSeen(): Promise<void> {
    const { targets } = this.objects;
    const [first, last] = await this.days.seenTargets(targets.length);
    targets.forEach((target, place) => {
      target.firstSeen = first[place] ?? null;
      target.lastSeen = last[place] ?? null;
    });
  }

  /** Where a target, a campaign or a placement of one stands in its list, by its ids. */
  placeOf(of: 'targets' | 'placements' | 'campaigns', ids: string[]): number | undefined {
    if (of === 'campaigns') return this.campaignAt.get(ids[0]!);
    if (of === 'placements') return this.placementAt.get(`${ids[0]}\t${ids[1]}`);
    const place = this.targetAt.at(Number(ids[0]));
    return place < 0 ? undefined : place;
  }

  /** Hands on the summaries that count within a window, with the places they belong to. */
  async summaries(
    of: SumsOf,
    window: Window,
    visit: (place: number, day: Day, figures: readonly number[]) => void,
  ): Promise<void> {
    await summariesIn(this.sql, this.accountId, of, window, (ids, day, figures) => {
      const place =
        of === 'pairs' ? this.days.pairOf(Number(ids[0]), Number(ids[1])) : (this.placeOf(of, ids) ?? -1);
      if (place >= 0) visit(place, day, figures);
    });
  }

  countOf(of: SumsOf): number {
    return of === 'targets'
      ? this.objects.targets.length
      : of === 'placements'
        ? this.objects.placements.length
        : this.loadedPairs!.target.length;
  }

  /** Sums over a window, of targets always, of terms or placements when asked for. */
  async frame(window: Window, also: SumsOf | null): Promise<FrameSums> {
    const name = `${window.from}|${window.to}`;
    const { targets: rows } = this.objects;
    const sums = await this.once(`targets ${name}`, rows.length, sumNames.length + 1, async () => {
      const highest = new Float64Array(this.objects.targets.length);
      const targets = await this.readSums('targets', window, highest);
      const totals = new Float64Array(this.objects.products.length);
      for (const { sku, total_sales } of await totalSales(this.sql, this.accountId, window)) {
        const at = this.skuAt.get(sku);
        if (at !== undefined) totals[at] = total_sales;
      }
      const made: FrameSums = {
        targets,
        highestCpc: highest,
        pairs: null,
        pairsHighestCpc: null,
        placements: null,
        totalSales: totals,
      };
      return made;
    });
    if (also === 'pairs') {
      await this.needPairs();
      const count = this.countOf('pairs');
      const read = await this.once(`pairs ${name}`, count, sumNames.length + 1, async () => {
        const highest = new Float64Array(count);
        return { sums: await this.readSums('pairs', window, highest), highest };
      });
      sums.pairs = read.sums;
      sums.pairsHighestCpc = read.highest;
    } else if (also === 'placements') {
      sums.placements = await this.once(
        `placements ${name}`,
        this.countOf('placements'),
        sumNames.length,
        () => this.readSums('placements', window, null),
      );
    }
    return sums;
  }

  private async readSums(of: SumsOf, window: Window, highest: Float64Array | null): Promise<SumsColumns> {
    const sums = new SumsColumns(this.countOf(of));
    await this.summaries(of, window, (place, _, figures) => {
      sums.addTo(place, figures);
      if (highest) raiseCpcTo(highest, place, figures[1]!, figures[2]!);
    });
    if (of === 'placements') {
      await placementSums(this.sql, this.accountId, window, (ids, figures) => {
        const at = this.placeOf(of, ids);
        if (at !== undefined) sums.addTo(at, figures);
      });
      return sums;
    }
    for await (const { block, places } of this.rows(of, window)) {
      sums.addGrouped(block, places);
      this.takeUnknown(sums, block, places);
      if (highest) raiseCpc(highest, places, block);
    }
    return sums;
  }

  /** Of an earlier day: takes out the orders that came in later. */
  private takeUnknown(sums: SumsColumns, block: SumsRows & { day: Day }, places: Int32Array): void {
    const unknown = this.past ? 1 - this.past.known(block.day) : 0;
    if (unknown !== 0) takePart(sums, block, places, unknown);
  }

  /** Sums by day of the targets or pairs that are marked by their place. */
  async daySums(of: BlockSumsOf, window: Window, marked: Uint8Array): Promise<SeasonDay[]> {
    const sums: SeasonDay[] = [];
    for await (const { block, places } of this.rows(of, window)) {
      const one = new SumsColumns(1);
      one.addGrouped(
        block,
        places.map((place) => (place >= 0 && marked[place] === 1 ? 0 : -1)),
      );
      sums.push({ day: block.day, ...one.read(0, emptySums()) });
    }
    return sums.sort((a, b) => (a.day < b.day ? -1 : 1));
  }

  private unsold(days: Window): Promise<OutOfStock[]> {
    return this.once(`unsold ${days.from} ${days.to}`, 0, 0, () =>
      outOfStock(this.sql, this.accountId, days),
    );
  }

  /** Days on which what a target advertises was out of stock: 1 by the place of the target. */
  private outOfStock(days: Window): Promise<Map<Day, Uint8Array>> {
    const name = `out of stock ${days.from} ${days.to}`;
    return this.once(name, this.objects.targets.length, 12, async () => {
      const byDay = new Map<Day, Set<string>>();
      for (const { ad_group_id, day } of await this.unsold(days))
        byDay.set(day, (byDay.get(day) ?? new Set()).add(ad_group_id));
      const { targets, adGroups } = this.objects;
      return new Map(
        [...byDay].map(([day, out]) => [
          day,
          Uint8Array.from(targets, ({ adGroup }) => (out.has(adGroups[adGroup]!.id) ? 1 : 0)),
        ]),
      );
    });
  }

  /** What a negative keeps away by now: of the evidence that ends on a day, and of the present. */
  private blocked(to: Day): Promise<BlockedSums[]> {
    return this.once(`blocked ${to}`, 0, 0, async () => {
      const days = windowEnding(to, evidenceDays);
      const weights = dayWeights(days, days, this.today, this.curve);
      const present = await presentWeights(this.sql, this.accountId, this.today);
      const out = await this.unsold({ from: days.from, to: this.today });
      return blockedSums(this.sql, this.accountId, weights, present, out, this.today);
    });
  }

  /** Figures of a window without what a negative keeps away by now: what the same targets would have shown without it. */
  async withoutBlocked(frame: FrameSums, window: Window): Promise<SumsColumns> {
    const whole = dayWeights(window, window, this.today, [1]).map((weight) => ({ ...weight, n: 1, y: 1 }));
    const sums = new SumsColumns(this.objects.targets.length);
    for (const name of sumNames) sums[name].set(frame.targets[name]);
    for (const one of await blockedSums(this.sql, this.accountId, whole, [], [], window.to)) {
      const at = this.targetAt.at(Number(one.targetId));
      if (at < 0) continue;
      sums.clicks[at] = Math.max(0, sums.clicks[at]! - one.clicks);
      sums.orders[at] = Math.max(0, sums.orders[at]! - one.orders);
      sums.spend[at] = Math.max(0, sums.spend[at]! - one.spend);
      sums.sales[at] = Math.max(0, sums.sales[at]! - one.sales);
    }
    return sums;
  }

  /** Takes what a negative keeps away by now out of the evidence of targets. */
  private async leaveOutBlocked(made: EvidenceColumns, to: Day): Promise<void> {
    for (const one of await this.blocked(to)) {
      const at = this.targetAt.at(Number(one.targetId));
      if (at < 0) continue;
      const less = (column: Float64Array, by: number) => (column[at] = Math.max(0, column[at]! - by));
      less(made.n, one.n);
      less(made.y, one.y);
      less(made.seen.clicks, one.clicks);
      less(made.seen.orders, one.orders);
      less(made.seen.spend, one.spend);
      less(made.seen.sales, one.sales);
    }
  }

  /** What targets do at their present bids; what a negative keeps away by now left out. */
  present(response: Response, window: Window): Promise<PresentColumns> {
    const to = this.settledIn(window);
    const name = `present ${to} ${response.clicks} ${response.fade} ${response.cpc}`;
    return this.once(name, this.objects.targets.length, 4, async () => {
      const made = await readPresent(this, this.sql, this.accountId, response);
      for (const one of await this.blocked(to)) {
        const at = this.targetAt.at(Number(one.targetId));
        if (at < 0 || made.clicks[at] === 0) continue;
        const left = Math.max(0, made.clicks[at]! - one.presentClicks) / made.clicks[at]!;
        made.clicks[at]! *= left;
        made.priced[at]! *= left;
        made.spend[at] = Math.max(0, made.spend[at]! - one.presentSpend);
      }
      return made;
    });
  }

  /** The same with what placements make of a bid: click-weighted, over the settled days of the window. */
  async presentAt(
    response: Response,
    window: Window,
  ): Promise<{ columns: PresentColumns; modifiers: Float64Array }> {
    return {
      columns: await this.present(response, window),
      modifiers: await this.modifiers({ ...window, to: this.settledIn(window) }),
    };
  }

  /** What placements and schedules make of a bid by campaign; see `modifiersByCampaign`. */
  async modifiers(window: Window): Promise<Float64Array> {
    const { placements } = await this.frame(window, 'placements');
    const scheduled = await scheduledMeans(this.sql, this.accountId, window, this.objects.campaigns);
    return modifiersByCampaign(this.objects, placements!, scheduled);
  }

  /** What targets did since their bid was changed, for those changed within the cooldown. */
  fresh(cooldownDays: number): Promise<FreshColumns> {
    return this.once(`fresh ${cooldownDays}`, this.objects.targets.length, 4, () =>
      readFresh(this, this.curve, cooldownDays),
    );
  }

  /** Clicks and orders of terms over the days that lanes count. */
  async laneCounts(window: Window, spans: readonly LaneSpan[]): Promise<LaneColumns> {
    await this.needPairs();
    const days = windowEnding(this.settledIn(window), evidenceDays);
    return readLaneCounts(this, days, spans);
  }

  /** The last settled day of a window. */
  private settledIn({ to }: Window): Day {
    return this.settledTo !== null && this.settledTo < to ? this.settledTo : to;
  }

  /** Evidence of targets always, of terms or placements when asked for: the 90 days before the window's end. */
  async evidenceFor(window: Window, also: SumsOf | null) {
    const to = this.settledIn(window);
    if (also === 'pairs') await this.needPairs();
    const of = (name: SumsOf) =>
      this.once(`evidence ${name} ${to}`, this.countOf(name), sumNames.length + 2, () =>
        this.readEvidence(name, to),
      );
    return {
      targets: await of('targets'),
      pairs: also === 'pairs' ? await of('pairs') : null,
      placements: also === 'placements' ? await of('placements') : null,
    };
  }

  private async readEvidence(of: SumsOf, to: Day): Promise<EvidenceColumns> {
    const days = windowEnding(to, evidenceDays);
    const count = this.countOf(of);
    const made = { n: new Float64Array(count), y: new Float64Array(count), seen: new SumsColumns(count) };
    const weights = dayWeights(days, days, this.today, this.curve);
    const byDay = new Map(weights.map((weight) => [weight.day, weight]));
    await this.summaries(of, days, (place, day, figures) => {
      const { n, y } = byDay.get(day)!;
      made.seen.addTo(place, figures);
      made.n[place]! += figures[1]! * n;
      made.y[place]! += figures[3]! * y;
    });
    if (of === 'placements') {
      await placementEvidence(this.sql, this.accountId, weights, (ids, figures) => {
        const at = this.placeOf(of, ids);
        if (at === undefined) return;
        made.seen.addTo(at, figures);
        made.n[at]! += figures[6]!;
        made.y[at]! += figures[7]!;
      });
      return made;
    }
    const out = await this.outOfStock(days);
    const targetOf = of === 'pairs' ? this.loadedPairs!.target : null;
    for await (const { block, places: all } of this.rows(of, days)) {
      const unsold = out.get(block.day);
      // What could not be sold is no evidence about what asked for it.
      const places = unsold ? leaveOut(all, targetOf, unsold) : all;
      const { n, y } = byDay.get(block.day)!;
      made.seen.addGrouped(block, places);
      this.takeUnknown(made.seen, block, places);
      addWeighted(made.n, places, block.clicks, n);
      addWeighted(made.y, places, block.orders, y * (this.past?.known(block.day) ?? 1));
    }
    if (of === 'targets') await this.leaveOutBlocked(made, to);
    return made;
  }
}
