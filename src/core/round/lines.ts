import type { Micros } from '../metrics/money.ts';
import type { BidProposal, WaitProposal, Finding } from './types.ts';
import type { LineDraft } from '../changes/lines.ts';
import { effectAtBid } from '../effect/weekly.ts';
import type { NegativeType } from '../account/store.ts';
import type { Effect } from '../effect/types.ts';

/** What the specialist changed on a proposal before accepting it. */
export interface Adjustment {
  bid?: Micros;
  matchType?: 'negative_exact' | 'negative_phrase' | 'exact' | 'phrase' | 'broad';
  /** Harvest without blocking the term in research. */
  isolate?: boolean;
  /** Where a negative stands: its ad group unless said otherwise. */
  scope?: 'ad_group' | 'campaign' | 'product';
  /** Lower the bid of the target that caught the term instead of blocking it. */
  milder?: boolean;
  /** Confirms what a guard holds back: the bid goes to what is wanted. */
  beyond?: boolean;
}

/** Where things stand: what lines need to know of the account. */
export interface Places {
  campaignOf: (adGroupId: string) => string;
  /** Running campaigns that advertise a product. */
  campaignsOf: (sku: string | null) => string[];
}

/** Where a bid goes: as adjusted, beyond its guards when that was confirmed, else as proposed. */
function bidOf(
  proposal: BidProposal | WaitProposal,
  { bid, beyond }: Adjustment,
): { from: Micros; to: Micros } {
  if (proposal.kind === 'wait') return { from: proposal.held!.from, to: bid ?? proposal.held!.wanted };
  return { from: proposal.from, to: bid ?? (beyond ? (proposal.beyond ?? proposal.to) : proposal.to) };
}

/** The lines that carry out a finding; none for one that waits, unless what holds it was confirmed. */
export function linesOf(
  finding: Finding,
  adjustment: Adjustment,
  reason: string,
  { campaignOf, campaignsOf }: Places,
): LineDraft[] {
  const { proposal } = finding;
  const base = {
    targetKind: null,
    matchType: null,
    expression: null,
    reason,
    oldValue: null,
    newValue: null,
  };
  if (proposal.kind === 'wait' && !(proposal.held && adjustment.beyond)) return [];
  if (proposal.kind === 'bid' || proposal.kind === 'wait') {
    const { from, to } = bidOf(proposal, adjustment);
    return [
      {
        ...base,
        action: 'update',
        entity: 'target',
        objectId: finding.targetId,
        campaignId: finding.campaignId,
        adGroupId: finding.adGroupId,
        field: 'bid',
        oldValue: String(from),
        newValue: String(to),
        targetKind: finding.targetKind,
        matchType: finding.matchType,
        expression: finding.subject,
        effect: effectAtBid(finding, to / (proposal.kind === 'bid' ? proposal.to : proposal.held!.wanted)),
      },
    ];
  }
  const negative = (adGroupId: string, matchType: NegativeType, expression: string, effect: Effect | null) =>
    ({
      ...base,
      action: 'create',
      entity: 'negative',
      objectId: null,
      campaignId: campaignOf(adGroupId),
      adGroupId,
      field: 'negative',
      matchType,
      expression,
      effect,
    }) satisfies LineDraft;
  if (proposal.kind === 'negative') {
    const wanted = adjustment.matchType;
    const type = wanted === 'negative_exact' || wanted === 'negative_phrase' ? wanted : proposal.matchType;
    if (adjustment.milder && proposal.milder) return [milderLine(finding, proposal.milder, reason)];
    const here = negative(proposal.adGroupId, type, proposal.expression, finding.effect);
    const { scope = 'ad_group' } = adjustment;
    if (scope === 'ad_group') return [here];
    const campaigns = scope === 'campaign' ? [here.campaignId] : campaignsOf(finding.sku);
    // What is known of the effect is that of this ad group; it is counted once.
    return [...new Set([here.campaignId, ...campaigns])].map((campaignId, at) => ({
      ...here,
      campaignId,
      adGroupId: null,
      effect: at === 0 ? here.effect : null,
    }));
  }
  const wanted = adjustment.matchType;
  const keywordType =
    wanted === 'exact' || wanted === 'phrase' || wanted === 'broad' ? wanted : proposal.matchType;
  const bid = adjustment.bid ?? proposal.bid;
  const created: LineDraft = {
    ...base,
    action: 'create',
    entity: 'target',
    objectId: null,
    campaignId: campaignOf(proposal.adGroupId),
    adGroupId: proposal.adGroupId,
    field: 'bid',
    newValue: String(bid),
    targetKind: proposal.targetKind,
    matchType: proposal.targetKind === 'item' ? null : keywordType,
    expression: proposal.expression,
    effect: effectAtBid(finding, bid / proposal.bid),
  };
  if (adjustment.isolate === false) return [created];
  const type: NegativeType = proposal.targetKind === 'item' ? 'negative_item' : 'negative_exact';
  return [created, ...proposal.isolateIn.map((id) => negative(id, type, proposal.expression, null))];
}

const milderLine = (
  finding: Finding,
  { from, to }: { from: Micros; to: Micros },
  reason: string,
): LineDraft => ({
  action: 'update',
  entity: 'target',
  objectId: finding.targetId,
  campaignId: finding.campaignId,
  adGroupId: finding.adGroupId,
  field: 'bid',
  oldValue: String(from),
  newValue: String(to),
  targetKind: finding.targetKind,
  matchType: finding.matchType,
  expression: finding.target,
  reason: `Instead of a negative “${finding.subject}”: ${reason}`,
  effect: null,
});
