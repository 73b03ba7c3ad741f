import normal from '@stdlib/stats-base-dists-normal-quantile';
import { ownSpread } from '../effect/forecast.ts';
import { elasticityOver, respond, responseAt, type Response } from '../effect/response.ts';
import type { MoveOutcome } from '../effect/types.ts';
import { worthOfBid } from '../effect/worth.ts';
import { clamp } from '../metrics/clamp.ts';
import { daysBetween, type Day } from '../metrics/days.ts';
import type { Micros } from '../metrics/money.ts';
import type { PlacementFactor } from './beliefs.ts';
import type { StreamName } from './streams.ts';

/** Modifiers and a factor on the bids, together (domain, section 8): the same money where it sells more. */

/** A placement of a campaign as it stands. Money in micros. */
export interface PlacementNow extends PlacementFactor {
  /** Per cent. */
  modifier: number;
  /** The stream that it belongs to; its share is that of the stream's clicks. */
  stream: StreamName;
  /** Of a week. */
  clicks: number;
  /** Null without a click. */
  cpc: Micros | null;
  /** As counted over the days of evidence. */
  seenClicks: number;
  seenOrders: number;
}

/** What the targets of one stream bid and sell on the mean of their clicks. */
export interface Stream {
  name: StreamName;
  /** Micros. */
  bid: Micros;
  /** What a click is expected to sell, micros, and how many orders. */
  earns: Micros;
  perClick: number;
}

export interface PlacedCampaign {
  streams: readonly Stream[];
  theta: number;
  response: Response;
  placements: readonly PlacementNow[];
  /** The last day on which one of its modifiers was changed. */
  changedOn: Day | null;
}

export interface PlacementGuards {
  /** Largest step of a modifier, in points. */
  step: number;
  /** What the marketplace allows, per cent. */
  maximumModifier: number;
  cooldownDays: number;
  /** Clicks of a placement before it may set the base. */
  leastClicks: number;
}

export const placementGuards: Omit<PlacementGuards, 'maximumModifier'> = {
  step: 100,
  cooldownDays: 7,
  leastClicks: 20,
};

export type PlacementGuard = 'largest step' | 'highest modifier' | 'cooldown';

export interface ModifierChange {
  placement: string;
  /** Per cent; `wanted`: before steps and limits. */
  from: number;
  to: number;
  wanted: number;
}

/** A factor on the bids of one stream: M / M', and the placement that sets the base: the lowest worth having. */
export interface BidFactor {
  stream: StreamName;
  beta: number;
  base: string;
}

export interface PlacementProposal extends MoveOutcome {
  /** Streams whose bids move. */
  bids: BidFactor[];
  modifiers: ModifierChange[];
  held: PlacementGuard[];
}

/** A campaign's placement is worth having from this share of its clicks on. */
const leastShare = 0.02;
/** Bids in placements that move by less than this share are not worth a line. */
const leastMove = 0.05;
const draws = 64;
const unit = 1_000_000;

/**
 * Points that fill a space evenly (additive recurrence on powers of the root of x^(d+1) = x + 1), as normals: what is
 * not known of factors is carried through the worth without chance.
 */
function normals(dimensions: number): number[][] {
  let root = 1.5;
  for (let i = 0; i < 40; i++) root = (1 + root) ** (1 / (dimensions + 1));
  return Array.from({ length: draws }, (_, i) =>
    Array.from({ length: dimensions }, (_unused, d) =>
      normal((0.5 + (i + 1) / root ** (d + 1)) % 1 || 0.5, 0, 1),
    ),
  );
}
const points = new Map<number, number[][]>();
const pointsOf = (dimensions: number): number[][] => {
  let known = points.get(dimensions);
  if (!known) points.set(dimensions, (known = normals(dimensions)));
  return known;
};

/** Click-weighted mean of 1 + modifier. */
const meanRaise = (
  placements: readonly Pick<PlacementNow, 'share'>[],
  modifiers: readonly number[],
): number => placements.reduce((sum, { share }, p) => sum + share * (1 + modifiers[p]! / 100), 0);

/**
 * What a campaign's modifiers and bids should be so that a click may cost in each placement what it sells there: 1 + m =
 * r / (the lowest r worth having), bids times beta = M / M', so that what is bid on the mean stays; in each stream by
 * itself. Null where placements tell too little, or nothing would move. A change within the cooldown is told as held, with
 * what it would be.
 */
export function proposePlacements(
  campaign: PlacedCampaign,
  guards: PlacementGuards,
  today: Day,
): PlacementProposal | null {
  const { placements, streams, changedOn } = campaign;
  const held = new Set<PlacementGuard>();
  const bids: BidFactor[] = [];
  const modifiers = placements.map(({ placement, modifier }) => ({
    placement,
    from: modifier,
    to: modifier,
    wanted: modifier,
  }));
  for (const { name, bid, earns } of streams) {
    const places = placements.flatMap((one, p) => (one.stream === name ? [p] : []));
    const able = places.filter(
      (p) => placements[p]!.share >= leastShare && placements[p]!.seenClicks >= guards.leastClicks,
    );
    if (able.length < 2 || bid <= 0 || earns <= 0) continue;
    const base = placements[able.reduce((a, b) => (placements[b]!.own < placements[a]!.own ? b : a))]!;
    const moved = places.map((p): ModifierChange => {
      const { placement, own, modifier: from } = placements[p]!;
      const wanted = Math.max(0, Math.round((own / base.own - 1) * 100));
      const stepped = clamp(wanted, from - guards.step, from + guards.step);
      const to = clamp(Math.round(stepped), 0, guards.maximumModifier);
      return { placement, from, to, wanted };
    });
    const here = places.map((p) => placements[p]!);
    const mean = (at: 'from' | 'to') =>
      meanRaise(
        here,
        moved.map((one) => one[at]),
      );
    const beta = mean('from') / mean('to');
    if (moved.every(({ from, to }) => Math.abs((beta * (100 + to)) / (100 + from) - 1) < leastMove)) continue;
    bids.push({ stream: name, beta, base: base.placement });
    places.forEach((p, at) => (modifiers[p] = moved[at]!));
    for (const { from, to, wanted } of moved)
      if (to !== wanted)
        held.add(Math.abs(wanted - from) > guards.step ? 'largest step' : 'highest modifier');
  }
  if (bids.length === 0) return null;
  if (changedOn !== null && daysBetween(changedOn, today) < guards.cooldownDays) held.add('cooldown');
  return { bids, modifiers, held: [...held], ...outcome(campaign, modifiers, bids) };
}

/** Factor on the bids that are made in a placement. */
export const betaIn = (bids: readonly BidFactor[], stream: StreamName): number =>
  bids.find((one) => one.stream === stream)?.beta ?? 1;

/** What modifiers and factors on bids bring a week, with what is not known of the placements' own factors. */
function outcome(
  { streams, theta, response, placements }: PlacedCampaign,
  modifiers: readonly ModifierChange[],
  bids: readonly BidFactor[],
): MoveOutcome {
  const moved = placements.map(({ clicks, cpc, stream }, p) => {
    const { bid, earns, perClick } = streams.find(({ name }) => name === stream)!;
    const { from: was, to } = modifiers[p]!;
    const ratio = (betaIn(bids, stream) * (100 + to)) / (100 + was);
    const from = bid * (1 + was / 100);
    const own = responseAt(response, cpc === null || from <= 0 ? null : cpc / from);
    const after = respond({ clicks, spend: clicks * (cpc ?? 0) }, ratio, own);
    const elasticity = elasticityOver(own, ratio);
    // Worth is linear in what a click sells.
    const [idle, some] = [0, unit].map((revenue) =>
      worthOfBid(clicks, from, from * ratio, revenue, theta, elasticity),
    ) as [number, number];
    return {
      clicks: after.clicks - clicks,
      spend: after.spend - clicks * (cpc ?? 0),
      clicksSpread: after.clicks * Math.abs(Math.log(ratio)) * ownSpread.clicks,
      spendSpread: after.spend * Math.abs(Math.log(ratio)) * Math.hypot(ownSpread.clicks, ownSpread.cpc),
      idle,
      // What a factor of 1 brings.
      worth: ((some - idle) * earns) / unit,
      sales: (after.clicks - clicks) * earns,
      orders: (after.clicks - clicks) * perClick,
    };
  });
  const at = (name: 'worth' | 'sales' | 'orders', factors: readonly number[]): number =>
    factors.reduce((all, factor, p) => all + moved[p]![name] * factor, 0);
  const idle = moved.reduce((all, one) => all + one.idle, 0);
  const own = placements.map((one) => one.own);
  const streamAt = placements.map(({ stream }) => streams.findIndex(({ name }) => name === stream));
  const [worths, sales] = [new Float64Array(draws), new Float64Array(draws)];
  pointsOf(placements.length).forEach((point, draw) => {
    const factors = placements.map(
      (one, p) => one.own * Math.exp(one.ownSpread * point[p]! - one.ownSpread ** 2 / 2),
    );
    // The mean of a stream stays what its targets sell.
    const means = streams.map(() => 0);
    placements.forEach(({ share }, p) => (means[streamAt[p]!]! += share * factors[p]!));
    factors.forEach((factor, p) => (factors[p] = factor / means[streamAt[p]!]!));
    worths[draw] = idle + at('worth', factors);
    sales[draw] = at('sales', factors);
  });
  worths.sort();
  sales.sort();
  const tenth = Math.floor(draws / 10);
  const sum = (name: 'clicks' | 'spend') => moved.reduce((all, one) => all + one[name], 0);
  return {
    worth: idle + at('worth', own),
    worthLow: worths[tenth]!,
    worthHigh: worths[draws - 1 - tenth]!,
    chance: worths.filter((worth) => worth > 0).length / draws,
    effect: {
      clicks: sum('clicks'),
      orders: at('orders', own),
      spend: sum('spend'),
      sales: at('sales', own),
      low: sales[tenth]!,
      high: sales[draws - 1 - tenth]!,
      clicksSpread: Math.hypot(...moved.map((one) => one.clicksSpread)),
      spendSpread: Math.hypot(...moved.map((one) => one.spendSpread)),
    },
  };
}
