import type { StructureCampaign, StructureTarget } from '../structure/ground.ts';
import type { PlacementCounts } from './beliefs.ts';

/**
 * Which targets reach which placements. A bid answers for all clicks of its target, wherever they come from; a modifier
 * can only say more where one target is shown in several placements. Where searches and pages are reached by different
 * targets, their bids part the money already, and modifiers part it within each.
 */

export type TargetClass = 'terms' | 'items';
/** Placements that the same targets reach, and those targets. */
export type StreamName = TargetClass | 'all';

/** What a target aims at: what shoppers type, or what they look at. */
export const classOf = ({ row }: StructureTarget): TargetClass =>
  row.kind === 'keyword' || (row.kind === 'automatic' && row.expression.endsWith('terms'))
    ? 'terms'
    : 'items';

export const inStream = (stream: StreamName, target: StructureTarget): boolean =>
  stream === 'all' || classOf(target) === stream;

/** The class that all targets of a campaign are of; null where there are both, or none. */
function onlyClass(adGroups: StructureCampaign['adGroups']): TargetClass | null {
  let only: TargetClass | null = null;
  for (const { targets } of adGroups)
    for (const target of targets) {
      const own = classOf(target);
      if (only !== null && own !== only) return null;
      only = own;
    }
  return only;
}

/** Clicks of campaigns with one class of targets before they tell where these are shown. */
const leastClicks = 200;
/** Below this share of those clicks a placement is not reached. */
const leastShare = 0.01;

/**
 * By placement the stream it belongs to: told by the campaigns that have targets of one class only. While one class never
 * stood alone, or both reach one placement, all of them are one stream.
 */
export function streamsOf(
  campaigns: readonly StructureCampaign[],
  figures: ReadonlyMap<string, readonly PlacementCounts[]>,
): (placement: string) => StreamName {
  const clicks = { terms: new Map<string, number>(), items: new Map<string, number>() };
  for (const { campaignId, adGroups } of campaigns) {
    const only = onlyClass(adGroups);
    if (!only) continue;
    for (const { placement, seenClicks } of figures.get(campaignId) ?? [])
      clicks[only].set(placement, (clicks[only].get(placement) ?? 0) + seenClicks);
  }
  const reached = (own: ReadonlyMap<string, number>): Set<string> | null => {
    const all = [...own.values()].reduce((sum, n) => sum + n, 0);
    if (all < leastClicks) return null;
    return new Set([...own].filter(([, n]) => n >= leastShare * all).map(([placement]) => placement));
  };
  const [terms, items] = [reached(clicks.terms), reached(clicks.items)];
  if (!terms || !items || [...terms].some((placement) => items.has(placement))) return () => 'all';
  return (placement) => (terms.has(placement) ? 'terms' : items.has(placement) ? 'items' : 'all');
}
