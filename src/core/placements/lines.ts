import type { Guards } from '../bids/guards.ts';
import { fieldLine, type LineDraft, type LineNote } from '../changes/lines.ts';
import { eighty } from '../effect/forecast.ts';
import type { Effect, MoveOutcome } from '../effect/types.ts';
import { clamp } from '../metrics/clamp.ts';
import { toStep, type Micros } from '../metrics/money.ts';
import type { StructureCampaign, StructureTarget } from '../structure/ground.ts';
import type { BidFactor, ModifierChange } from './propose.ts';
import { inStream } from './streams.ts';

/** How modifiers and bids of a campaign reach the sheet: together, under one key. */

const keyStart = 'placements:';
export const placementKey = (campaignId: string): string => `${keyStart}${campaignId}`;
export const campaignOfKey = (key: string): string => key.slice(keyStart.length);
export const isPlacementKey = (key: string): boolean => key.startsWith(keyStart);

/** Change a week with what is not known of it, as the first line of a finding carries it that moves money between times or places. */
export function effectOfMove({ effect }: Pick<MoveOutcome, 'effect'>, margin: number | null): Effect {
  const { clicks, spend, orders, sales, low, high, clicksSpread, spendSpread } = effect;
  const salesSpread = (high - low) / (2 * eighty);
  const spreads = {
    clicks: clicksSpread,
    spend: spendSpread,
    orders: sales === 0 ? 0 : Math.abs((salesSpread * orders) / sales),
    sales: salesSpread,
    profit: margin === null ? null : Math.hypot(margin * salesSpread, spendSpread),
  };
  return {
    clicks,
    spend,
    orders,
    sales,
    salesLow: low,
    salesHigh: high,
    profit: margin === null ? null : margin * sales - spend,
    spreads,
  };
}

/** A bid of a campaign times its factor, in whole steps, within what its scope and the marketplace let through. */
export const scaledBid = (bid: Micros, beta: number, { step, floor, ceiling, ...guards }: Guards): Micros =>
  toStep(
    clamp(
      bid * beta,
      Math.min(bid, Math.max(floor, guards.minimumBid)),
      Math.max(bid, Math.min(ceiling, guards.maximumBid)),
    ),
    step,
  );

/** What carries a change out. */
interface Orders {
  bids: readonly BidFactor[];
  modifiers: readonly Pick<ModifierChange, 'placement' | 'to'>[];
}

/** A bid that moves: of a target, or of an ad group for its targets without one. */
export interface BidMove {
  adGroupId: string;
  target: StructureTarget | null;
  from: Micros;
  to: Micros;
}

/** The bids of a campaign times the factor of each target, those that stay left out. */
export function bidMoves(
  { adGroups }: StructureCampaign,
  betaOf: (target: StructureTarget) => number,
): BidMove[] {
  const moved: BidMove[] = [];
  for (const { adGroupId, targets, defaultBid, guards } of adGroups) {
    for (const target of targets) {
      const from = target.row.bid;
      if (from === null) continue;
      const to = scaledBid(from, betaOf(target), guards);
      if (to !== from) moved.push({ adGroupId, target, from, to });
    }
    const bare = targets.find(({ row }) => row.bid === null);
    const to = bare ? scaledBid(defaultBid, betaOf(bare), guards) : defaultBid;
    if (to !== defaultBid) moved.push({ adGroupId, target: null, from: defaultBid, to });
  }
  return moved;
}

/** The line that moves a bid. */
export function moveLine(
  campaignId: string,
  { adGroupId, target, from, to }: BidMove,
  note: LineNote,
): LineDraft {
  const place = { campaignId, adGroupId };
  const bids = { oldValue: String(from), newValue: String(to) };
  if (!target) return fieldLine('ad_group', 'default_bid', place, adGroupId, bids, note);
  const { targetId, kind, matchType, expression } = target.row;
  return fieldLine('target', 'bid', place, targetId, bids, note, { targetKind: kind, matchType, expression });
}

/** Modifiers that are not as they should be, and bids that move. */
function movesOf(campaign: StructureCampaign, { bids, modifiers }: Orders) {
  const placements = modifiers.filter(({ placement, to }) => to !== (campaign.modifiers[placement] ?? 0));
  const moved = bidMoves(
    campaign,
    (target) => bids.find(({ stream }) => inStream(stream, target))?.beta ?? 1,
  );
  return { placements, moved };
}

/** How many lines carry it out. */
export function countLines(campaign: StructureCampaign, orders: Orders): number {
  const { placements, moved } = movesOf(campaign, orders);
  return placements.length + moved.length;
}

/**
 * Lines that set modifiers and move the bids of each stream by its factor; they stay together on the sheet. Targets
 * without a bid of their own move by their ad group's default bid.
 */
export function placementDrafts(
  campaign: StructureCampaign,
  orders: Orders,
  { reason, effect }: { reason: string; effect: Effect | null },
): LineDraft[] {
  const { campaignId, modifiers: live } = campaign;
  const { placements, moved } = movesOf(campaign, orders);
  const note = { reason, harvest: placementKey(campaignId) };
  const drafts = [
    ...placements.map(({ placement, to }) =>
      fieldLine(
        'placement_modifier',
        placement,
        { campaignId, adGroupId: null },
        campaignId,
        { oldValue: String(live[placement] ?? 0), newValue: String(to) },
        note,
      ),
    ),
    ...moved.map((move) => moveLine(campaignId, move, note)),
  ];
  const [first] = drafts;
  if (first) first.effect = effect;
  return drafts;
}
