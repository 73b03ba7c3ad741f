import type { FreshColumns, Objects, PresentColumns } from '../../core/account/store.ts';
import { elasticityOver, type Response } from '../../core/effect/response.ts';
import { addDays, daysBetween, type Day, type Window } from '../../core/metrics/days.ts';
import { maturity } from '../../core/metrics/maturity.ts';
import type { LaneColumns } from '../../core/account/rows.ts';
import type { Database } from '../db/connection.ts';
import type { Block } from '../facts/blocks.ts';
import type { BlockSumsOf, DayRows } from './days.ts';
import { presentWeights } from '../facts/evidence-days.ts';
import type { bidsInForce } from '../facts/evidence-days.queries.ts';

/** What targets do now: sums of the last days with the bids that were in force, out of the account's days. */

/** The days of an account, and where their rows belong; see `LoadedAccount`. */
interface Days {
  today: Day;
  objects: Objects;
  rows: (of: BlockSumsOf, window: Window) => AsyncGenerator<DayRows>;
  summaries: (
    of: 'pairs',
    window: Window,
    visit: (place: number, day: Day, figures: readonly number[]) => void,
  ) => Promise<void>;
  placeOf: (of: 'targets', ids: string[]) => number | undefined;
  bidsSince: (from: Day) => ReturnType<typeof bidsInForce>;
  countOf: (of: 'pairs') => number;
  pairs: { target: Int32Array } | null;
}

/** A bid as it was in force, against the present one, until a day. */
interface Force {
  place: number;
  /** Bid then over bid now. */
  ratio: number;
  after: Day | null;
  until: Day | null;
}

const inForce = ({ after, until }: Force, day: Day): boolean =>
  (after === null || day > after) && (until === null || day <= until);

/** Days, clicks and spend brought to the present bid (domain, sections 5 and 11). */
export async function readPresent(
  account: Days,
  sql: Database,
  accountId: number,
  response: Response,
): Promise<PresentColumns> {
  const count = account.objects.targets.length;
  const made: PresentColumns = {
    days: new Float64Array(count),
    clicks: new Float64Array(count),
    spend: new Float64Array(count),
    priced: new Float64Array(count),
  };
  const present = await presentWeights(sql, accountId, account.today);
  const first = present[0]?.day;
  made.days.fill(present.reduce((sum, { w }) => sum + w, 0));
  if (first === undefined) return made;
  const forces = (await account.bidsSince(first)).flatMap(({ targetId, now, bid, after, until }): Force[] => {
    const place = account.placeOf('targets', [String(targetId)]);
    return place === undefined ? [] : [{ place, ratio: bid / now, after, until }];
  });
  for (const { place } of forces) made.days[place] = 0;
  for (const force of forces) {
    const factor = force.ratio ** elasticityOver(response, 1 / force.ratio);
    for (const { day, w } of present) if (inForce(force, day)) made.days[force.place]! += w * factor;
  }
  const weights = new Map(present.map(({ day, w }) => [day, w]));
  const factors = new Float64Array(count).fill(1);
  for await (const { block, places } of account.rows('targets', { from: first, to: account.today })) {
    const w = weights.get(block.day);
    if (w === undefined) continue;
    for (const { place } of forces) factors[place] = 1;
    for (const force of forces)
      if (inForce(force, block.day)) factors[force.place] = force.ratio ** response.cpc;
    addPresent(made, places, block, w, factors);
  }
  return made;
}

function addPresent(
  { clicks, spend, priced }: PresentColumns,
  places: Int32Array,
  block: Block,
  w: number,
  factors: Float64Array,
): void {
  for (let row = 0; row < places.length; row++) {
    const at = places[row]!;
    if (at < 0 || block.clicks[row] === 0) continue;
    const weighted = block.clicks[row]! * w;
    clicks[at]! += weighted;
    spend[at]! += block.spend[row]! * w;
    priced[at]! += weighted * factors[at]!;
  }
}

/** What came after a change of bid, for targets that were changed within the cooldown. */
export async function readFresh(
  account: Days,
  curve: readonly number[],
  cooldownDays: number,
): Promise<FreshColumns> {
  const { today, objects } = account;
  const count = objects.targets.length;
  const made: FreshColumns = {
    n: new Float64Array(count),
    clicks: new Float64Array(count),
    orders: new Float64Array(count),
    spend: new Float64Array(count),
  };
  const from = addDays(today, -cooldownDays - 1);
  const changedOn = objects.targets.map((target) =>
    target.changedOn !== null && target.changedOn >= from ? target.changedOn : null,
  );
  if (!changedOn.some((day) => day !== null)) return made;
  for await (const { block, places } of account.rows('targets', { from, to: today })) {
    const ripe = maturity(curve, daysBetween(block.day, today));
    places.forEach((at, row) => {
      const since = at < 0 ? null : changedOn[at]!;
      if (since === null || block.day <= since) return;
      made.n[at]! += block.clicks[row]! * ripe;
      made.clicks[at]! += block.clicks[row]!;
      made.orders[at]! += block.orders[row]!;
      made.spend[at]! += block.spend[row]!;
    });
  }
  return made;
}

/** First days from which the lanes of an ad group count, the one for keywords and the one for items. */
export interface LaneSpan {
  ad_group_id: string;
  keyword: Day;
  item: Day;
}

/** Clicks and orders of every pair over the days that the lanes of its ad group count; else over all of `days`. */
export async function readLaneCounts(
  account: Days,
  days: Window,
  spans: readonly LaneSpan[],
): Promise<LaneColumns> {
  const { targets, adGroups } = account.objects;
  const spanOf = new Map(spans.map((span) => [span.ad_group_id, span]));
  const spanOfGroup = adGroups.map(({ id }) => spanOf.get(id) ?? { keyword: days.from, item: days.from });
  const spanAt = Array.from(account.pairs!.target, (target) => spanOfGroup[targets[target]!.adGroup]!);
  const count = account.countOf('pairs');
  const made: LaneColumns = {
    keywordClicks: new Float64Array(count),
    keywordOrders: new Float64Array(count),
    itemClicks: new Float64Array(count),
    itemOrders: new Float64Array(count),
  };
  const add = (at: number, day: Day, clicks: number, orders: number) => {
    const span = spanAt[at]!;
    if (day >= span.keyword) {
      made.keywordClicks[at]! += clicks;
      made.keywordOrders[at]! += orders;
    }
    if (day >= span.item) {
      made.itemClicks[at]! += clicks;
      made.itemOrders[at]! += orders;
    }
  };
  await account.summaries('pairs', days, (at, day, figures) => add(at, day, figures[1]!, figures[3]!));
  for await (const { block, places } of account.rows('pairs', days)) {
    places.forEach((at, row) => {
      if (at >= 0) add(at, block.day, block.clicks[row]!, block.orders[row]!);
    });
  }
  return made;
}
