import type { LineDraft } from '../changes/lines.ts';
import type { Micros } from '../metrics/money.ts';

/** Findings about how campaigns are built (domain, section 15), and the repairs that leave by the sheet. */

export const structureKinds = {
  mixed_match_types: 'Match types share a campaign',
  starved_ad_group: 'Ad groups starve each other',
  unseen_keywords: 'More keywords than are shown',
  modes_together: 'Automatic modes differ',
  starved_best: 'Its best keyword is starved',
  no_end_date: 'No end after the season',
  small_budget: 'A budget too small to judge by',
  off_pattern: 'A name off the pattern',
  unlike_products: 'Products that earn unlike an order',
  collection: 'A collection takes in what cannot earn',
} as const;
export type StructureKind = keyof typeof structureKinds;

/** A campaign that a repair makes, with one ad group; lines call both by its reference. */
export interface NewCampaign {
  /** `new:1`, wherever lines name its campaign or ad group. */
  reference: string;
  name: string;
  kind: 'automatic' | 'manual';
  strategy: string;
  /** Per cent by placement. */
  modifiers: Readonly<Record<string, number>>;
}

export interface StructureFinding {
  /** Stable over runs: decisions are kept under it. */
  key: string;
  kind: StructureKind;
  campaignId: string;
  /** The campaign. */
  subject: string;
  sku: string | null;
  /** What is found, with its numbers. */
  sentence: string;
  /** What it costs a week, micros: what its repair is worth. */
  worth: Micros;
  /** Null where only the specialist can mend it. */
  repair: string | null;
  /** What is lost by it. */
  loses: string;
  campaigns: NewCampaign[];
  /** Without reasons: the sentence is the reason of each. */
  drafts: LineDraft[];
}
