import {
  SumsColumns,
  type EvidenceColumns,
  type FrameSums,
  type Objects,
  type Pairs,
} from '../../core/explore/store.ts';
import { windowEnding, type Day, type Window } from '../../core/metrics/days.ts';
import { settling } from '../account/index.ts';
import { accountById, productsOf } from '../account/queries.ts';
import { marginOf } from '../account/index.ts';
import type { Database } from '../db/connection.ts';
import { dayWeights } from '../round/input.ts';
import {
  adGroupRows,
  budgetGroupRows,
  campaignRows,
  evidenceSums,
  negativeRows,
  pairRows,
  placementRows,
  targetObjects,
  termTexts,
  totalSales,
  windowSums,
  type SumsOf,
} from './queries.ts';

/** Two ids as one number: both stay far below 2^26. */
const pairKey = (targetAt: number, termId: number): number => targetAt * 2 ** 26 + termId;

/** The account in memory, made for one version of its figures; sums and terms come when they are first asked for. */
export class LoadedAccount {
  private readonly targetAt: Map<string, number>;
  private readonly placementAt: Map<string, number>;
  private readonly skuAt: Map<string, number>;
  private readonly frames = new Map<string, FrameSums>();
  private readonly waiting = new Map<string, Promise<unknown>>();
  private pairAt: Map<number, number> | null = null;
  private loadedPairs: Pairs | null = null;
  private readonly evidence: {
    targets: EvidenceColumns | null;
    pairs: EvidenceColumns | null;
    placements: EvidenceColumns | null;
  } = { targets: null, pairs: null, placements: null };

  private constructor(
    private readonly sql: Database,
    private readonly accountId: number,
    readonly today: Day,
    readonly settledTo: Day | null,
    private readonly curve: readonly number[],
    readonly objects: Objects,
  ) {
    this.targetAt = new Map(objects.targets.map(({ id }, i) => [id, i]));
    this.skuAt = new Map(objects.products.map(({ sku }, i) => [sku, i]));
    this.placementAt = new Map(
      objects.placements.map(({ campaign, placement }, i) => [
        `${objects.campaigns[campaign]!.id}\t${placement}`,
        i,
      ]),
    );
  }

  /** Reads the objects; null while the account has no day. */
  static async open(sql: Database, accountId: number): Promise<LoadedAccount | null> {
    const account = await accountById(sql, accountId);
    if (!account?.today) return null;
    const [budgetGroups, campaigns, adGroups, targets, placements, negatives, products, settled] =
      await Promise.all([
        budgetGroupRows(sql, accountId),
        campaignRows(sql, accountId),
        adGroupRows(sql, accountId),
        targetObjects(sql, accountId),
        placementRows(sql, accountId),
        negativeRows(sql, accountId),
        productsOf(sql, accountId),
        settling(sql, account),
      ]);
    const campaignAt = new Map(campaigns.map(({ id }, i) => [id, i]));
    const adGroupAt = new Map(adGroups.map(({ id }, i) => [id, i]));
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
      targets: targets.map(({ adGroupId, ...row }) => ({ ...row, adGroup: adGroupAt.get(adGroupId)! })),
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
    return new LoadedAccount(sql, accountId, account.today, settled.settledTo, settled.curve, objects);
  }

  get pairs(): Pairs | null {
    return this.loadedPairs;
  }

  /** One reading at a time for one thing; whoever asks meanwhile waits for the same. */
  private once<T>(name: string, read: () => Promise<T>): Promise<T> {
    let pending = this.waiting.get(name) as Promise<T> | undefined;
    if (!pending) {
      pending = read();
      this.waiting.set(name, pending);
      pending.catch(() => this.waiting.delete(name));
    }
    return pending;
  }

  private needPairs(): Promise<void> {
    return this.once('pairs', async () => {
      const texts: string[] = [];
      await termTexts(this.sql, this.accountId, (id, text) => (texts[id] = text));
      const [target, term]: [number[], number[]] = [[], []];
      const [firstSeen, lastSeen]: [Day[], Day[]] = [[], []];
      const at = new Map<number, number>();
      await pairRows(this.sql, this.accountId, (targetId, termId, first, last) => {
        const place = this.targetAt.get(targetId);
        if (place === undefined) return;
        at.set(pairKey(place, termId), target.length);
        target.push(place);
        term.push(termId);
        firstSeen.push(first);
        lastSeen.push(last);
      });
      this.pairAt = at;
      this.loadedPairs = {
        target: Int32Array.from(target),
        term: Int32Array.from(term),
        texts,
        firstSeen,
        lastSeen,
      };
    });
  }

  /** Where an object stands in its list, by its ids. */
  placeOf(of: SumsOf, ids: string[]): number | undefined {
    if (of === 'targets') return this.targetAt.get(ids[0]!);
    if (of === 'placements') return this.placementAt.get(`${ids[0]}\t${ids[1]}`);
    const target = this.targetAt.get(ids[0]!);
    return target === undefined ? undefined : this.pairAt!.get(pairKey(target, Number(ids[1])));
  }

  private countOf(of: SumsOf): number {
    return of === 'targets'
      ? this.objects.targets.length
      : of === 'placements'
        ? this.objects.placements.length
        : this.loadedPairs!.target.length;
  }

  /** Sums over a window, of targets always, of terms or placements when asked for. */
  async frame(window: Window, also: SumsOf | null): Promise<FrameSums> {
    const name = `${window.from}|${window.to}`;
    const sums = await this.once(`targets ${name}`, async () => {
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
        placements: null,
        totalSales: totals,
      };
      this.frames.set(name, made);
      return made;
    });
    if (also === 'pairs') {
      await this.needPairs();
      sums.pairs = await this.once(`pairs ${name}`, () => this.readSums('pairs', window, null));
    } else if (also === 'placements') {
      sums.placements = await this.once(`placements ${name}`, () =>
        this.readSums('placements', window, null),
      );
    }
    return sums;
  }

  private async readSums(of: SumsOf, window: Window, highest: Float64Array | null): Promise<SumsColumns> {
    const sums = new SumsColumns(this.countOf(of));
    await windowSums(this.sql, this.accountId, of, window, (ids, figures) => {
      const at = this.placeOf(of, ids);
      if (at === undefined) return;
      sums.setFrom(at, figures);
      if (highest) highest[at] = figures[6]!;
    });
    return sums;
  }

  /** Evidence of targets always, of terms or placements when asked for: the 90 days before the window's end. */
  async evidenceFor(window: Window, also: SumsOf | null) {
    const to = this.settledTo !== null && this.settledTo < window.to ? this.settledTo : window.to;
    for (const of of ['targets', also] as const) {
      if (of !== null)
        this.evidence[of] = await this.once(`evidence ${of} ${to}`, () => this.readEvidence(of, to));
    }
    const { targets, pairs, placements } = this.evidence;
    return { targets: targets!, pairs, placements };
  }

  private async readEvidence(of: SumsOf, to: Day): Promise<EvidenceColumns> {
    if (of === 'pairs') await this.needPairs();
    const days = windowEnding(to, 90);
    const count = this.countOf(of);
    const made = { n: new Float64Array(count), y: new Float64Array(count), seen: new SumsColumns(count) };
    const weights = dayWeights(days, days, this.today, this.curve);
    await evidenceSums(this.sql, this.accountId, of, weights, (ids, figures) => {
      const at = this.placeOf(of, ids);
      if (at === undefined) return;
      made.seen.setFrom(at, figures);
      made.n[at] = figures[6]!;
      made.y[at] = figures[7]!;
    });
    return made;
  }
}
