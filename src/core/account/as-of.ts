import type { Day } from '../metrics/days.ts';
import type { Micros } from '../metrics/money.ts';
import type { Objects, TargetObject } from './store.ts';

/** The account's objects as they stood on an earlier day, and with changes that were only played. */

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

/** A field that was only played, from which night on; named and written as on a line. */
export interface Played {
  entity: string;
  objectId: string;
  /** Of a placement modifier its placement. */
  field: string;
  value: string | null;
  on: Day;
}

/** The account on an earlier day. */
export interface AsOf {
  /** With what was played until then. */
  objects: Objects;
  /** As they really stood. */
  stood: Objects;
  forces: PastForce[];
  /** When fields were changed last until then, really or by what was played, by `changeName`. */
  changedOn: Map<string, Day>;
  /** The same without what was played. */
  stoodOn: Map<string, Day>;
}

/** What a change of a field is called; of modifiers, all of a campaign's together. */
export const changeName = (entity: string, objectId: string, field: string): string =>
  entity === 'placement_modifier' ? `placements:${objectId}` : `${entity}:${objectId}:${field}`;

/** A bid that was in force until a day, against the one that counts as present. */
export interface PastForce {
  targetId: string;
  bid: Micros;
  now: Micros;
  after: Day | null;
  until: Day | null;
}

type Edits = Omit<Objects, 'budgetGroups' | 'products' | 'mixes'>;

/** Objects whose fields can be set one by one; what is not there is left alone. */
class Editing {
  private readonly made: Edits;
  private readonly places: Record<'target' | 'campaign' | 'ad_group', ReadonlyMap<string, number>>;

  constructor(private readonly from: Objects) {
    const placeOf = (list: readonly { id: string }[]) => new Map(list.map(({ id }, at) => [id, at] as const));
    this.made = {
      targets: [...from.targets],
      campaigns: [...from.campaigns],
      adGroups: [...from.adGroups],
      placements: [...from.placements],
      negatives: from.negatives,
    };
    this.places = {
      target: placeOf(from.targets),
      campaign: placeOf(from.campaigns),
      ad_group: placeOf(from.adGroups),
    };
  }

  get objects(): Objects {
    return { ...this.from, ...this.made };
  }

  target(id: string): TargetObject | undefined {
    return this.made.targets[this.places.target.get(id) ?? -1];
  }

  setTarget(id: string, fields: Partial<TargetObject>): void {
    const at = this.places.target.get(id);
    if (at !== undefined) this.made.targets[at] = { ...this.made.targets[at]!, ...fields };
  }

  withoutNegatives(ids: ReadonlySet<string>): void {
    if (ids.size > 0) this.made.negatives = this.made.negatives.filter(({ id }) => !ids.has(id));
  }

  set(entity: string, id: string, field: string, value: string | null): void {
    const number = value === null || value === '' ? null : Number(value);
    if (entity === 'target') {
      if (field === 'bid') this.setTarget(id, { bid: number });
      if (field === 'status' && value !== null) this.setTarget(id, { status: value });
    } else if (entity === 'campaign') {
      const at = this.places.campaign.get(id);
      if (at === undefined) return;
      const campaign = this.made.campaigns[at]!;
      if (field === 'status' && value !== null) this.made.campaigns[at] = { ...campaign, status: value };
      else if (field === 'strategy') this.made.campaigns[at] = { ...campaign, strategy: value };
      else if (field === 'end_date') this.made.campaigns[at] = { ...campaign, endDate: value };
      else if (field === 'name' && value !== null) this.made.campaigns[at] = { ...campaign, name: value };
      else this.made.campaigns[at] = { ...campaign, fields: { ...campaign.fields, [field]: value } };
    } else if (entity === 'ad_group') {
      const at = this.places.ad_group.get(id);
      if (at === undefined) return;
      const adGroup = this.made.adGroups[at]!;
      if (field === 'status' && value !== null) this.made.adGroups[at] = { ...adGroup, status: value };
      else this.made.adGroups[at] = { ...adGroup, fields: { ...adGroup.fields, [field]: value } };
    } else if (entity === 'placement_modifier') {
      const campaign = this.places.campaign.get(id);
      if (campaign === undefined) return;
      const { placements } = this.made;
      const at = placements.findIndex((one) => one.campaign === campaign && one.placement === field);
      if (at >= 0) placements[at] = { ...placements[at]!, modifier: number };
      else placements.push({ campaign, placement: field, modifier: number });
    }
  }
}

const byDay = (a: { day: Day }, b: { day: Day }): number => (a.day < b.day ? -1 : a.day > b.day ? 1 : 0);

/** Takes back what happened after a day. */
function takenBack(objects: Objects, changes: readonly PastChange[], day: Day): Editing {
  const then = new Editing({
    ...objects,
    targets: objects.targets.map((target): TargetObject =>
      // What was not seen yet did not stand there, as far as anybody can tell.
      target.firstSeen !== null && target.firstSeen > day ? { ...target, status: 'paused' } : target,
    ),
  });
  const later = changes.filter((change) => change.day > day).sort(byDay);
  const made = later.filter(({ isMade }) => isMade);
  then.withoutNegatives(
    new Set(made.flatMap(({ entity, objectId }) => (entity === 'negative' ? [objectId] : []))),
  );
  // The last change is taken back first.
  for (const { entity, objectId, field, isMade, old } of later.reverse())
    if (!isMade) then.set(entity, objectId, field, old);
  // What was made since ran at no time before.
  for (const { entity, objectId } of made)
    if (entity === 'campaign' || entity === 'ad_group') then.set(entity, objectId, 'status', 'paused');
  return then;
}

/**
 * Takes back what happened after a day, and puts in what was played until then. `forces`: bids that were really in force,
 * for targets whose present bid is another.
 */
export function objectsAt(
  objects: Objects,
  changes: readonly PastChange[],
  played: readonly Played[],
  day: Day,
): AsOf {
  const then = takenBack(objects, changes, day);
  const stoodOn = new Map<string, Day>();
  const bids = new Map<string, PastChange[]>();
  for (const change of [...changes].sort(byDay)) {
    const { entity, objectId, field, isMade } = change;
    if (isMade) continue;
    if (change.day <= day) stoodOn.set(changeName(entity, objectId, field), change.day);
    if (entity !== 'target' || field !== 'bid') continue;
    const steps = bids.get(objectId) ?? [];
    if (change.day <= day) steps.push(change);
    bids.set(objectId, steps);
  }
  for (const [id, steps] of bids) {
    const last = steps.at(-1);
    then.setTarget(id, {
      changedOn: last?.day ?? null,
      bidBefore: last?.old == null ? null : Number(last.old),
    });
  }
  const stood = then.objects;
  const changedOn = new Map(stoodOn);
  const last = new Map<string, Played>();
  for (const one of played) {
    const name = `${one.entity}:${one.objectId}:${one.field}`;
    const known = last.get(name);
    if (!known || known.on <= one.on) last.set(name, one);
  }
  const now = new Editing(stood);
  const touched = new Set(bids.keys());
  const defaults = new Set<string>();
  for (const { entity, objectId, field, value, on } of last.values()) {
    const real = now.target(objectId)?.bid ?? null;
    now.set(entity, objectId, field, value);
    changedOn.set(changeName(entity, objectId, field), on);
    if (entity === 'ad_group' && field === 'default_bid') defaults.add(objectId);
    if (entity !== 'target' || field !== 'bid') continue;
    now.setTarget(objectId, { changedOn: on, bidBefore: real });
    touched.add(objectId);
  }
  const made = now.objects;
  const forces = forcesOf(stood, made, bids, touched);
  made.targets.forEach(({ id, bid, adGroup }) => {
    if (bid !== null || !defaults.has(made.adGroups[adGroup]!.id)) return;
    const [real, own] = [stood, made].map((one) => Number(one.adGroups[adGroup]!.fields.default_bid ?? 0));
    if (real! > 0 && own! > 0 && real !== own)
      forces.push({ targetId: id, bid: real!, now: own!, after: null, until: null });
  });
  return { objects: made, stood, forces, changedOn, stoodOn };
}

function forcesOf(
  stood: Objects,
  made: Objects,
  changes: ReadonlyMap<string, readonly PastChange[]>,
  touched: ReadonlySet<string>,
): PastForce[] {
  const at = new Map(stood.targets.flatMap(({ id }, i) => (touched.has(id) ? [[id, i] as const] : [])));
  const forces: PastForce[] = [];
  for (const [targetId, i] of at) {
    const [real, now] = [stood.targets[i]!.bid, made.targets[i]!.bid];
    if (now === null || now <= 0) continue;
    const steps = changes.get(targetId) ?? [];
    steps.forEach((step, n) => {
      const bid = Number(step.old);
      if (bid > 0) forces.push({ targetId, bid, now, after: steps[n - 1]?.day ?? null, until: step.day });
    });
    if (real !== null && real > 0 && (steps.length > 0 || real !== now))
      forces.push({ targetId, bid: real, now, after: steps.at(-1)?.day ?? null, until: null });
  }
  return forces;
}
