import {
  negativeLine,
  newAdGroupLine,
  newCampaignLine,
  newTargetLine,
  productAdLine,
  type LineDraft,
} from '../changes/lines.ts';
import type { Plan, PlannedPart } from './plan.ts';

/** The numbers of a part's campaign and ad group, drawn before they are made. */
export interface PartNumbers {
  campaignId: string;
  adGroupId: string;
}

/** The lines that make one part: what it stands on first. */
export function partLines({ product, recipe }: Plan, part: PlannedPart, numbers: PartNumbers): LineDraft[] {
  const place = { ...numbers };
  const reason = `Kit “${recipe}” for ${product.sku}: ${part.part.name}.`;
  const negativeReason = (servedBy: string | null) =>
    servedBy === null
      ? `${reason} Excluded from the whole kit.`
      : `${reason} Served by its part ${servedBy}.`;
  return [
    newCampaignLine(place.campaignId, part.name, part.dailyBudget, { reason }),
    newAdGroupLine(place, part.name, part.defaultBid.bid, { reason: `${reason} ${part.defaultBid.why}` }),
    productAdLine(place, product.sku, { reason }),
    ...part.targets.map(({ targetKind, matchType, expression, bid, why }) =>
      newTargetLine(place, { targetKind, matchType, expression }, bid, { reason: `${reason} ${why}` }),
    ),
    ...part.negatives.map(({ matchType, expression, servedBy }) =>
      negativeLine(place, { matchType, expression }, { reason: negativeReason(servedBy) }),
    ),
  ];
}
