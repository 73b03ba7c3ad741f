import { cellFactors, type CellFactor } from '../evidence/factors.ts';

/** How much better a click sells in one placement than in another (domain, section 8). */

/** What a campaign was counted to have in one placement over the days of evidence. */
export interface PlacementCounts {
  placement: string;
  /** Weighted clicks and orders (domain, section 5). */
  n: number;
  y: number;
  /** As counted. */
  seenClicks: number;
  seenOrders: number;
}

export interface CampaignCounts {
  /** Of a campaign, or of a stream of one (streams.ts). */
  campaignId: string;
  /** Empty where it advertises nothing by itself. */
  sku: string;
  placements: readonly PlacementCounts[];
}

/** A placement of a campaign beside the campaign as a whole. */
export interface PlacementFactor {
  placement: string;
  /** r of the domain: its orders per click over the campaign's; 1 on the mean of the campaign's clicks. */
  factor: number;
  /** Standard deviation of its natural logarithm. */
  spread: number;
  /** Of the campaign's clicks. */
  share: number;
  /** What it would be without its own counts: what the product's other campaigns tell. */
  pooled: number;
  /** What of the factor counts as the placement's own, and its standard deviation: see `ownPart`. */
  own: number;
  ownSpread: number;
}

/**
 * How much of a factor, in logarithms, counts as the placement's own. Which targets and terms are clicked where is not
 * told, and better ones stand at the top: at the stand-in, clicks in the rest of search sell 0.6 of those at the top where
 * the placement itself makes 0.85 of them. So much of it, give or take half of that, is what moves with a bid (decision 023).
 */
export const ownPart = 0.7;

/** Before an account has told: campaigns of one product differ by 22 %, products by 32 %. */
const usual = { rows: 20, levels: 10 };

/**
 * Factors of every campaign's placements (`evidence/factors`), and what of each counts as the placement's own.
 */
export function placementFactors(campaigns: readonly CampaignCounts[]): Map<string, PlacementFactor[]> {
  const units = campaigns.map(({ campaignId, sku, placements }) => ({
    id: campaignId,
    sku,
    cells: placements.map(({ placement, ...counts }) => ({ cell: placement, ...counts })),
  }));
  return new Map([...cellFactors(units, usual)].map(([id, cells]) => [id, withOwn(cells)]));
}

/** Of a campaign's factors, in logarithms, what is the placements' own. */
function withOwn(cells: readonly CellFactor[]): PlacementFactor[] {
  const parts = cells.map(({ factor }) => factor ** ownPart);
  const meanPart = cells.reduce((sum, { share }, p) => sum + share * parts[p]!, 0) || 1;
  return cells.map(({ cell, factor, spread, share, pooled }, p) => ({
    placement: cell,
    factor,
    spread,
    share,
    pooled,
    own: parts[p]! / meanPart,
    ownSpread: ownPart * Math.hypot(spread, 0.5 * Math.log(factor)),
  }));
}
