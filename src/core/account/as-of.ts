import type { Day } from '../metrics/days.ts';
import type { Micros } from '../metrics/money.ts';
import type { Objects, TargetObject } from './store.ts';

/** The account's objects as they stood on an earlier day, and with bids that were only played. */

/** A change of a field, or an object that was made, on a day. */
export interface PastChange {
  day: Day;
  entity: string;
  objectId: string;
  /** Of a placement modifier its placement. */
  field: string;
  isMade: boolean;
  /** As it is kept: money in micros. Null of what was made. */
  old: string | null;
}

/** A bid that was played: from which night on. */
export interface PlayedBid {
  targetId: string;
  bid: Micros;
  on: Day;
}

/** A bid that was in force until a day, against the one that counts as present. */
export interface PastForce {
  targetId: string;
  bid: Micros;
  now: Micros;
  after: Day | null;
  until: Day | null;
}

/**
 * Takes back what happened after a day, and puts in what was played until then. `forces`: bids that were really in force,
 * for targets whose present bid is another.
 */
export function objectsAt(
  objects: Objects,
  changes: readonly PastChange[],
  played: readonly PlayedBid[],
  day: Day,
): { objects: Objects; forces: PastForce[] } {
  const targets = objects.targets.map((target): TargetObject =>
    // What was not seen yet did not stand there, as far as anybody can tell.
    target.firstSeen !== null && target.firstSeen > day ? { ...target, status: 'paused' } : target,
  );
  const campaigns = [...objects.campaigns];
  const adGroups = [...objects.adGroups];
  const placements = [...objects.placements];
  let negatives = objects.negatives;
  const placeOf = <T extends { id: string }>(list: readonly T[]) =>
    new Map(list.map(({ id }, at) => [id, at] as const));
  const [targetAt, campaignAt, adGroupAt] = [placeOf(targets), placeOf(campaigns), placeOf(adGroups)];
  const later = changes.filter((change) => change.day > day);
  const made = new Set(
    later.flatMap(({ entity, isMade, objectId }) => (entity === 'negative' && isMade ? [objectId] : [])),
  );
  if (made.size > 0) negatives = negatives.filter(({ id }) => !made.has(id));
  // The last change is taken back first.
  for (const { entity, objectId, field, isMade, old } of [...later].sort((a, b) =>
    a.day < b.day ? 1 : -1,
  )) {
    if (isMade) continue;
    if (entity === 'target') {
      const at = targetAt.get(objectId);
      if (at === undefined) continue;
      if (field === 'bid')
        targets[at] = { ...targets[at]!, bid: old === null || old === '' ? null : Number(old) };
      if (field === 'status' && old !== null) targets[at] = { ...targets[at]!, status: old };
    } else if (entity === 'campaign') {
      const at = campaignAt.get(objectId);
      if (at === undefined) continue;
      const campaign = campaigns[at]!;
      if (field === 'status' && old !== null) campaigns[at] = { ...campaign, status: old };
      else if (field === 'strategy') campaigns[at] = { ...campaign, strategy: old };
      else campaigns[at] = { ...campaign, fields: { ...campaign.fields, [field]: old } };
    } else if (entity === 'ad_group') {
      const at = adGroupAt.get(objectId);
      if (at === undefined) continue;
      const adGroup = adGroups[at]!;
      if (field === 'status' && old !== null) adGroups[at] = { ...adGroup, status: old };
      else adGroups[at] = { ...adGroup, fields: { ...adGroup.fields, [field]: old } };
    } else if (entity === 'placement_modifier') {
      const campaign = campaignAt.get(objectId);
      const at = placements.findIndex((one) => one.campaign === campaign && one.placement === field);
      if (at >= 0)
        placements[at] = { ...placements[at]!, modifier: old === null || old === '' ? null : Number(old) };
    }
  }
  const bids = changes.filter(
    ({ entity, field, isMade }) => entity === 'target' && field === 'bid' && !isMade,
  );
  const until = new Map<string, PastChange[]>();
  for (const change of bids)
    if (change.day <= day) until.set(change.objectId, [...(until.get(change.objectId) ?? []), change]);
  const nights = new Map<string, PlayedBid>();
  for (const one of played) {
    const known = nights.get(one.targetId);
    if (!known || known.on < one.on) nights.set(one.targetId, one);
  }
  const forces: PastForce[] = [];
  for (const id of new Set([...until.keys(), ...nights.keys(), ...bids.map(({ objectId }) => objectId)])) {
    const at = targetAt.get(id);
    if (at === undefined) continue;
    const target = targets[at]!;
    const real = target.bid;
    const steps = [...(until.get(id) ?? [])].sort((a, b) => (a.day < b.day ? -1 : 1));
    const night = nights.get(id);
    const last = steps.at(-1);
    targets[at] = {
      ...target,
      bid: night?.bid ?? real,
      changedOn: night?.on ?? last?.day ?? null,
      bidBefore: night ? real : last?.old == null ? null : Number(last.old),
    };
    const now = night?.bid ?? real;
    if (now === null || now <= 0) continue;
    steps.forEach((step, i) => {
      const bid = Number(step.old);
      if (bid > 0) forces.push({ targetId: id, bid, now, after: steps[i - 1]?.day ?? null, until: step.day });
    });
    if (real !== null && real > 0 && (steps.length > 0 || real !== now))
      forces.push({ targetId: id, bid: real, now, after: last?.day ?? null, until: null });
  }
  return { objects: { ...objects, targets, campaigns, adGroups, placements, negatives }, forces };
}
