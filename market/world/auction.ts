import { limits, placements, restOfSearch, topOfSearch, type Candidate } from './account.ts';
import { normal, type Random } from './random.ts';

export interface Slot {
  candidate: Candidate;
  placement: number;
  position: number;
  cpc: number;
}

/**
 * Who bids in one auction: a candidate, or a rival (null), with bid, relative click-through and rank. Side by side in
 * arrays that serve one auction after the other: a day has tens of thousands.
 */
const bidders = {
  who: [] as (Candidate | null)[],
  bid: [] as number[],
  draw: [] as number[],
  rank: [] as number[],
};

function enter(at: number, who: Candidate | null, bid: number, draw: number): void {
  bidders.who[at] = who;
  bidders.bid[at] = bid;
  bidders.draw[at] = draw;
  bidders.rank[at] = bid * draw;
}

const rivalBid = (level: number, random: Random): number => level * Math.exp(0.55 * normal(random));
const rivalDraw = (random: Random): number => Math.exp(0.45 * normal(random));

/** A rival's bid x click-through, drawn the way every auction draws it. */
export const rivalRank = (level: number, random: Random): number =>
  rivalBid(level, random) * rivalDraw(random);

/** The place of the highest rank that is left; -1 when none is. */
function highest(count: number): number {
  let best = -1;
  for (let i = 0; i < count; i++)
    if (bidders.rank[i]! >= 0 && (best < 0 || bidders.rank[i]! > bidders.rank[best]!)) best = i;
  return best;
}

const minimumCpc = placements.map((name) => limits.minimum_cpc[name]);

/** Who else bids, and when: rivals, the level of their bids, the hour of the week (schedule.ts). */
export interface Market {
  rivals: number;
  level: number;
  hourOfWeek: number;
}

/** What a target bids in a placement: bid x (1 + modifier) x schedule x strategy. */
export function effectiveBid(
  candidate: Candidate,
  placement: number,
  hourOfWeek: number,
  likelihood: number,
): number {
  const { campaign, target, schedule } = candidate;
  const scheduled = schedule ? schedule[hourOfWeek]! : 1;
  const base = target.bid * (1 + campaign.modifiers[placement]! / 100) * scheduled;
  if (campaign.strategy === 'down_only') return base * Math.min(1, likelihood);
  if (campaign.strategy === 'up_and_down') {
    return base * Math.min(placement === topOfSearch ? 1.8 : 1.4, likelihood);
  }
  return base;
}

/**
 * A generalised second-price auction for `slots` places: rank by effective bid x expected click-through, pay what
 * the next one would have needed, plus one step. One ad per product; a bid below the placement's minimum CPC is
 * never shown.
 */
export function runAuction(
  candidates: Candidate[],
  placement: number,
  slots: number,
  click: Float64Array,
  likelihood: (product: number) => number,
  market: Market,
  random: Random,
): Slot[] {
  // One bidder a product. They are few: looking through them is quicker than hashing.
  let count = 0;
  for (const candidate of candidates) {
    const bid = effectiveBid(candidate, placement, market.hourOfWeek, likelihood(candidate.product));
    if (bid < minimumCpc[placement]!) continue;
    const draw = (click[candidate.product]! / 0.02) * Math.exp(0.15 * normal(random));
    let known = 0;
    while (known < count && bidders.who[known]!.product !== candidate.product) known++;
    if (known === count) enter(count++, candidate, bid, draw);
    else if (bid * draw > bidders.rank[known]!) enter(known, candidate, bid, draw);
  }
  if (count === 0) return [];
  for (let i = 0; i < market.rivals; i++) {
    const bid = rivalBid(market.level, random);
    enter(count++, null, bid, rivalDraw(random));
  }
  const shown: Slot[] = [];
  let at = highest(count);
  for (let position = 0; position < slots && at >= 0; position++) {
    const candidate = bidders.who[at]!;
    bidders.rank[at] = -1;
    const next = highest(count);
    if (candidate) {
      const needed = (next < 0 ? 0 : bidders.rank[next]!) / bidders.draw[at]! + limits.bid_step;
      const cpc = Math.min(bidders.bid[at]!, Math.max(needed, minimumCpc[placement]!));
      shown.push({ candidate, placement, position, cpc: Math.round(cpc * 100) / 100 });
    }
    at = next;
  }
  return shown;
}

/** Places at the top of search, before those of the rest begin. */
export const topSlots = 4;

/** The two auctions of one search: the top, then the rest for whoever is not in it. */
export function searchAuction(
  candidates: Candidate[],
  click: Float64Array,
  likelihood: (product: number) => number,
  level: number,
  hourOfWeek: number,
  random: Random,
): Slot[] {
  const above = { rivals: 9, level, hourOfWeek };
  const top = runAuction(candidates, topOfSearch, topSlots, click, likelihood, above, random);
  const taken = new Set(top.map((slot) => slot.candidate.product));
  const left = taken.size === 0 ? candidates : candidates.filter(({ product }) => !taken.has(product));
  const below = { rivals: 8, level: level * 0.6, hourOfWeek };
  const rest = runAuction(left, restOfSearch, 6, click, likelihood, below, random);
  return [...top, ...rest];
}
