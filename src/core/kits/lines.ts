import {
  creativeLine,
  fieldLine,
  negativeLine,
  newAdGroupLine,
  newCampaignLine,
  newTargetLine,
  productAdLine,
  statusLine,
  type LineDraft,
} from '../changes/lines.ts';
import type { BudgetKind, Plan, PlannedNegative, PlannedPart } from './types.ts';

/** The numbers of a part's campaign and ad group, drawn before they are made. */
export interface PartNumbers {
  campaignId: string;
  adGroupId: string;
}

/** The lines that make one part, what it stands on first; or those that complete one that stands. */
export function partLines(
  { product, also, recipe }: Plan,
  part: PlannedPart,
  numbers: PartNumbers,
  budgetKind: BudgetKind = 'daily',
): LineDraft[] {
  const { stands } = part;
  const place = stands ?? numbers;
  const { campaignId, adGroupId } = place;
  const reason = `Kit “${recipe}” for ${product.sku}: ${part.part.name}.`;
  const negativeReason = ({ servedBy, list }: PlannedNegative) =>
    servedBy !== null
      ? `${reason} Served by its part ${servedBy}.`
      : `${reason} ${list === undefined ? 'Excluded from the whole kit' : `Of the list “${list}”`}.`;
  const begins =
    stands === null
      ? [
          newCampaignLine(campaignId, part.name, part.budget, { reason }, budgetKind),
          newAdGroupLine(place, part.name, part.defaultBid.bid, {
            reason: `${reason} ${part.defaultBid.why}`,
          }),
          ...[product, ...also].map(({ sku }) => productAdLine(place, sku, { reason })),
        ]
      : budgetLines(part, reason);
  return [
    ...begins,
    ...part.creatives.map(({ kind, value, name }) => creativeLine(place, kind, value, name, { reason })),
    ...part.archives.map(({ target: { targetId, kind, matchType, expression }, why }) =>
      statusLine(
        'target',
        place,
        targetId,
        { from: 'enabled', to: 'archived' },
        { reason: `${reason} ${why}` },
        { targetKind: kind, matchType, expression },
      ),
    ),
    ...part.targets.map(({ targetKind, matchType, expression, bid, why }) =>
      newTargetLine({ campaignId, adGroupId }, { targetKind, matchType, expression }, bid, {
        reason: `${reason} ${why}`,
      }),
    ),
    ...part.negatives.map((negative) =>
      negativeLine({ campaignId, adGroupId: negative.list === undefined ? adGroupId : null }, negative, {
        reason: negativeReason(negative),
      }),
    ),
  ];
}

/** The budget of a campaign that stands, where another is wanted. */
function budgetLines({ stands, budget }: PlannedPart, reason: string): LineDraft[] {
  if (stands?.dailyBudget == null || stands.dailyBudget === budget) return [];
  const values = { oldValue: String(stands.dailyBudget), newValue: String(budget) };
  const place = { campaignId: stands.campaignId, adGroupId: null };
  return [fieldLine('campaign', 'daily_budget', place, stands.campaignId, values, { reason })];
}

/** How many lines a plan puts onto the sheet. */
export const lineCount = (plan: Plan): number =>
  plan.parts.reduce(
    (sum, part) =>
      sum +
      (part.stands ? budgetLines(part, '').length : 3 + plan.also.length) +
      part.creatives.length +
      part.targets.length +
      part.negatives.length +
      part.archives.length,
    0,
  );
