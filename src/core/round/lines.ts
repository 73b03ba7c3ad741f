import type { Effect } from '../effect/types.ts';
import type { Micros } from '../metrics/money.ts';
import type { BidProposal, WaitProposal, Finding } from './types.ts';
import {
  bidLine,
  fieldLine,
  negativeLine,
  newTargetLine,
  type LineDraft,
  type LinePlace,
} from '../changes/lines.ts';
import { testWeeks, type KeptTest } from '../testing/plan.ts';
import { effectAtBid } from '../effect/weekly.ts';

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
  /** Another of the ways that were weighed for a budget. */
  way?: 'raise' | 'lower_bids' | 'slack';
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
  const placeOf = (adGroupId: string): LinePlace => ({ campaignId: campaignOf(adGroupId), adGroupId });
  switch (proposal.kind) {
    case 'wait':
      return proposal.held && adjustment.beyond ? [ownBidLine(finding, proposal, adjustment, reason)] : [];
    case 'bid':
      return [ownBidLine(finding, proposal, adjustment, reason)];
    case 'negative': {
      if (adjustment.milder && proposal.milder) return [milderLine(finding, proposal.milder, reason)];
      const wanted = adjustment.matchType;
      const matchType =
        wanted === 'negative_exact' || wanted === 'negative_phrase' ? wanted : proposal.matchType;
      const negative = { matchType, expression: proposal.expression };
      const here = placeOf(proposal.adGroupId);
      const { scope = 'ad_group' } = adjustment;
      if (scope === 'ad_group')
        return [negativeLine(here, negative, { reason, effect: claimed(finding, finding.effect) })];
      const campaigns = scope === 'campaign' ? [] : campaignsOf(finding.sku);
      // What is known of the effect is that of this ad group; it is counted once.
      return [...new Set([here.campaignId, ...campaigns])].map((campaignId, at) =>
        negativeLine({ campaignId, adGroupId: null }, negative, {
          reason,
          effect: at === 0 ? claimed(finding, finding.effect) : null,
        }),
      );
    }
    case 'harvest': {
      const { targetKind, expression, isolateIn } = proposal;
      const isItem = targetKind === 'item';
      const wanted = adjustment.matchType;
      const keywordType =
        wanted === 'exact' || wanted === 'phrase' || wanted === 'broad' ? wanted : proposal.matchType;
      const bid = adjustment.bid ?? proposal.bid;
      const blockedIn = adjustment.isolate === false ? [] : isolateIn;
      const harvest = blockedIn.length > 0 ? finding.key : null;
      const target = { targetKind, matchType: isItem ? null : keywordType, expression };
      const effect = claimed(finding, effectAtBid(finding, bid / proposal.bid));
      const negative = { matchType: isItem ? 'negative_item' : 'negative_exact', expression } as const;
      return [
        newTargetLine(placeOf(proposal.adGroupId), target, bid, { reason, effect, harvest }),
        ...blockedIn.map((id) => negativeLine(placeOf(id), negative, { reason, harvest })),
      ];
    }
  }
}

/** An effect with the clicks that it takes elsewhere: sums count them once. */
const claimed = ({ claims }: Finding, effect: Effect): Effect => ({ ...effect, claims });

/** The bid of the finding's own target. */
function ownBidLine(
  finding: Finding,
  proposal: BidProposal | WaitProposal,
  adjustment: Adjustment,
  reason: string,
): LineDraft {
  const { targetId, targetKind, matchType, subject: expression } = finding;
  const bids = bidOf(proposal, adjustment);
  const proposed = proposal.kind === 'bid' ? proposal.to : proposal.held!.wanted;
  const effect = effectAtBid(finding, bids.to / proposed);
  if (finding.members)
    return fieldLine(
      'ad_group',
      'default_bid',
      finding,
      finding.adGroupId,
      { oldValue: String(bids.from), newValue: String(bids.to) },
      { reason, effect: claimed(finding, effect) },
    );
  return bidLine(finding, targetId, { targetKind, matchType, expression }, bids, {
    reason,
    effect,
    test: keptTest(finding),
  });
}

/** What is kept of a test: what was believed, and what is expected. */
function keptTest({ working }: Finding): KeptTest | null {
  const { test, gamma, value, theta, modifier } = working;
  if (!test) return null;
  const { isRested, ordinary, after, orders } = test;
  const [clicks, spend] = [after.clicks * testWeeks, after.spend * testWeeks];
  return { isRested, ordinary, gamma, value, theta, modifier, clicks, spend, orders };
}

function milderLine(finding: Finding, bids: { from: Micros; to: Micros }, reason: string): LineDraft {
  const { targetId, targetKind, matchType, target: expression, subject } = finding;
  return bidLine(finding, targetId, { targetKind, matchType, expression }, bids, {
    reason: `Instead of a negative “${subject}”: ${reason}`,
  });
}
