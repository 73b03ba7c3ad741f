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

/** What a target bids in a placement: bid x modifier x strategy. */
export function effectiveBid(candidate: Candidate, placement: number, likelihood: number): number {
  const { campaign, target } = candidate;
  const base = target.bid * (1 + campaign.modifiers[placement]! / 100);
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
  rivals: { count: number; level: number },
  random: Random,
): Slot[] {
  const best = new Map<number, Bidder>();
  for (const candidate of candidates) {
    const bid = effectiveBid(candidate, placement, likelihood(candidate.product));
    if (bid < minimumCpc[placement]!) continue;
    const draw = (click[candidate.product]! / 0.02) * Math.exp(0.15 * normal(random));
    const rank = bid * draw;
    const known = best.get(candidate.product);
    if (!known || rank > known.rank) best.set(candidate.product, { candidate, bid, draw, rank });
  }
  if (best.size === 0) return [];
  const bidders = [...best.values()];
  for (let i = 0; i < rivals.count; i++) {
    const bid = rivals.level * Math.exp(0.55 * normal(random));
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
  random: Random,
): Slot[] {
  const top = runAuction(candidates, topOfSearch, 4, click, likelihood, { count: 9, level }, random);
  const taken = new Set(top.map((slot) => slot.candidate.product));
  const left = taken.size === 0 ? candidates : candidates.filter(({ product }) => !taken.has(product));
  const rest = runAuction(left, restOfSearch, 6, click, likelihood, { count: 8, level: level * 0.6 }, random);
  return [...top, ...rest];
}
