import {
  fieldLine,
  negativeLine,
  newAdGroupLine,
  newCampaignLine,
  newTargetLine,
  productAdLine,
  statusLine,
  type LineDraft,
} from '../changes/lines.ts';
import type { Micros } from '../metrics/money.ts';
import { normalise } from '../text/normalise.ts';
import type { StructureAdGroup, StructureCampaign, StructureTarget } from './ground.ts';
import type { NewCampaign } from './types.ts';

/** Targets that move into a campaign of their own. */

const note = { reason: '' };
const cent = 10_000;

export interface Move {
  /** What the new campaign is called. */
  name: string;
  from: StructureAdGroup;
  targets: readonly StructureTarget[];
  /** A day, micros. */
  budget: Micros;
}

/** Whole cents, upward. */
export const upToCents = (amount: Micros): Micros => Math.ceil(amount / cent - 1e-9) * cent;

/**
 * Lines that move targets out of a campaign: a new one with its strategy and modifiers, the same product, bids and
 * negatives; the targets are paused where they were, so that their history stays and they can be woken. Exact
 * keywords become negative exact where less precise ones stay. The budget is taken from the old campaign, which keeps
 * the least one at least.
 */
export function moveLines(
  campaign: StructureCampaign,
  moves: readonly Move[],
  minimumBudget: Micros,
): { campaigns: NewCampaign[]; drafts: LineDraft[] } {
  const campaigns: NewCampaign[] = [];
  const drafts: LineDraft[] = [];
  moves.forEach(({ name, from, targets, budget }, at) => {
    const reference = `new:${at + 1}`;
    const place = { campaignId: reference, adGroupId: reference };
    const old = { campaignId: campaign.campaignId, adGroupId: from.adGroupId };
    const { kind, strategy, modifiers } = campaign;
    campaigns.push({ reference, name, kind, strategy, modifiers });
    drafts.push(newCampaignLine(reference, name, budget, note));
    drafts.push(newAdGroupLine(place, name, bidOfGroup(from, targets), note));
    for (const sku of from.skus) drafts.push(productAdLine(place, sku, note));
    for (const { row } of targets) {
      const target = { targetKind: row.kind, matchType: row.matchType, expression: row.expression };
      drafts.push(newTargetLine(place, target, row.bid ?? from.defaultBid, note));
      drafts.push(statusLine('target', old, row.targetId, { from: 'enabled', to: 'paused' }, note, target));
    }
    const moved = new Set(targets.map(({ row }) => row.targetId));
    const wide = targets.some(({ row }) => row.matchType !== 'exact' && row.kind !== 'item');
    if (wide) for (const negative of from.negatives) drafts.push(negativeLine(place, negative, note));
    const stays = from.targets.some(
      ({ row }) => !moved.has(row.targetId) && row.matchType !== 'exact' && row.kind !== 'item',
    );
    const known = new Set(from.negatives.map((one) => `${one.matchType} ${normalise(one.expression)}`));
    for (const { row } of stays ? targets : []) {
      const isNew = !known.has(`negative_exact ${normalise(row.expression)}`);
      if (row.matchType === 'exact' && isNew)
        drafts.push(negativeLine(old, { matchType: 'negative_exact', expression: row.expression }, note));
    }
  });
  const taken = moves.reduce((sum, { budget }) => sum + budget, 0);
  const { dailyBudget: had, campaignId } = campaign;
  const left = had === null ? null : Math.max(minimumBudget, had - taken);
  if (had !== null && left !== null && left < had)
    drafts.push(
      fieldLine(
        'campaign',
        'daily_budget',
        { campaignId, adGroupId: null },
        campaignId,
        { oldValue: String(had), newValue: String(left) },
        note,
      ),
    );
  return { campaigns, drafts };
}

/** The default bid of what moves: the mean of its bids. */
function bidOfGroup({ defaultBid }: StructureAdGroup, targets: readonly StructureTarget[]): Micros {
  const bids = targets.flatMap(({ row }) => (row.bid === null ? [] : [row.bid]));
  if (bids.length === 0) return defaultBid;
  return Math.max(cent, Math.round(bids.reduce((a, b) => a + b, 0) / bids.length / cent) * cent);
}
