import type { PlacedRow } from '../core/placements/findings.ts';

/** What endpoints of Spend answer. */

/** Campaigns by placement, those with a finding first. */
export interface PlacementsAnswer {
  /** Per cent. */
  maximumModifier: number;
  /** Campaigns whose modifiers are on the open sheet, and those of which only bids are. */
  onSheet: string[];
  bidsOnSheet: string[];
  campaigns: PlacedRow[];
}
