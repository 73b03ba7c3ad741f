import { limits, placements, restOfSearch, topOfSearch, type Candidate } from './account.ts';
import { normal, type Random } from './random.ts';

export interface Slot {
  candidate: Candidate;
  placement: number;
  position: number;
  cpc: number;
}

interface Bidder {
  candidate: Candidate | null;
  bid: number;
  /** Expected click-through, relative. */
  draw: number;
  rank: number;
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
  const bidders: Bidder[] = [];
  for (const candidate of candidates) {
    const bid = effectiveBid(candidate, placement, market.hourOfWeek, likelihood(candidate.product));
    if (bid < minimumCpc[placement]!) continue;
    const draw = (click[candidate.product]! / 0.02) * Math.exp(0.15 * normal(random));
    const rank = bid * draw;
    const known = bidders.findIndex((one) => one.candidate!.product === candidate.product);
    if (known < 0) bidders.push({ candidate, bid, draw, rank });
    else if (rank > bidders[known]!.rank) bidders[known] = { candidate, bid, draw, rank };
  }
  if (bidders.length === 0) return [];
  for (let i = 0; i < market.rivals; i++) {
    const bid = market.level * Math.exp(0.55 * normal(random));
    const draw = Math.exp(0.45 * normal(random));
    bidders.push({ candidate: null, bid, draw, rank: bid * draw });
  }
  bidders.sort((a, b) => b.rank - a.rank);
  const shown: Slot[] = [];
  for (let i = 0; i < Math.min(slots, bidders.length); i++) {
    const { candidate, bid, draw } = bidders[i]!;
    if (!candidate) continue;
    const needed = (bidders[i + 1]?.rank ?? 0) / draw + limits.bid_step;
    const cpc = Math.min(bid, Math.max(needed, minimumCpc[placement]!));
    shown.push({ candidate, placement, position: i, cpc: Math.round(cpc * 100) / 100 });
  }
  return shown;
}

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
  const top = runAuction(candidates, topOfSearch, 4, click, likelihood, above, random);
  const taken = new Set(top.map((slot) => slot.candidate.product));
  const left = taken.size === 0 ? candidates : candidates.filter(({ product }) => !taken.has(product));
  const below = { rivals: 8, level: level * 0.6, hourOfWeek };
  const rest = runAuction(left, restOfSearch, 6, click, likelihood, below, random);
  return [...top, ...rest];
}
