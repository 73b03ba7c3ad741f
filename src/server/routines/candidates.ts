import { changeName } from '../../core/account/as-of.ts';
import { addDays, type Day, type Window } from '../../core/metrics/days.ts';
import type { QueueRow } from '../../core/round/queue.ts';
import {
  byWorth,
  isStarvedBest,
  isWider,
  offeredFinding,
  offeredRow,
  stagedToo,
  type Offered,
  type OfferGround,
} from '../../core/routines/candidate.ts';
import { narrowingOf } from '../../core/routines/narrow.ts';
import type { Routine, RoutineKind, RoutineScope } from '../../core/routines/routine.ts';
import { db } from '../db/connection.ts';
import { ServiceError } from '../errors.ts';
import { heldBySlice, slicesOf } from '../explore/index.ts';
import { findingsFor, widerFor } from '../round/index.ts';
import { campaignNames, campaignsSince, lastChanges } from './ground.queries.ts';

/** What the round finds, as a routine sees it: the same findings with the same sentences as a person's round. */

/** Findings of a scope, worth most first; how many a person has decided upon; what the account spends a week. */
export interface Offer {
  offered: Offered[];
  decided: number;
  /** Micros a week, of the window. */
  weekSpend: number;
  /** When a field was changed last, by `entity:object:field`; null: never. */
  changedOn: (field: string) => Day | null;
}

/** How far back changes matter to any routine. */
const changesWithin = 90;

/** A text that changes with what a slice means: its level and its conditions. */
export const meaningOf = ({ level, where }: { level: string; where: unknown }): string =>
  JSON.stringify({ level, where });

type Place = Pick<QueueRow, 'campaignId' | 'adGroupId' | 'targetId' | 'sku' | 'subject' | 'queue'>;

/** Throws where a scope has gone, or means something else by now: nothing is done by guess. */
export async function checkScope(accountId: number, scope: RoutineScope): Promise<void> {
  if (scope.of === 'campaigns' || scope.of === 'budget_groups') {
    const ids = await campaignsIn(accountId, scope);
    if (ids.size > 0) return;
    throw gone(
      scope.of === 'campaigns'
        ? 'None of its campaigns is there any more: they were archived or removed.'
        : 'Its budget group has gone, or holds no campaign any more.',
    );
  }
  if (scope.of !== 'slice') return;
  const slice = (await slicesOf(accountId)).find(({ id }) => id === scope.id);
  if (!slice) throw gone('Its slice has gone. Choose another scope.');
  if (meaningOf(slice.body) !== scope.meaning)
    throw gone(
      `“${slice.name}” means something else by now than when it was chosen. Look at it, and choose it again.`,
    );
}

/** Campaigns of a scope that are there. */
async function campaignsIn(
  accountId: number,
  { of, keys }: Extract<RoutineScope, { keys: string[] }>,
): Promise<Set<string>> {
  const wanted = new Set(keys);
  return new Set(
    (await campaignNames(db(), accountId)).flatMap(({ id, budgetGroup }) =>
      wanted.has(of === 'campaigns' ? id : (budgetGroup ?? '')) ? [id] : [],
    ),
  );
}

/** Whether a scope holds a place; see `checkScope`. */
export async function scopeOf(
  accountId: number,
  scope: RoutineScope,
  window: Window,
): Promise<(place: Place) => boolean> {
  await checkScope(accountId, scope);
  switch (scope.of) {
    case 'account':
      return () => true;
    case 'products': {
      const keys = new Set(scope.keys);
      return ({ sku }) => sku !== null && keys.has(sku);
    }
    case 'campaigns':
    case 'budget_groups': {
      const ids = await campaignsIn(accountId, scope);
      return ({ campaignId }) => ids.has(campaignId);
    }
    case 'slice': {
      const { body } = (await slicesOf(accountId)).find(({ id }) => id === scope.id)!;
      const { level } = body;
      const held = await heldBySlice(accountId, body, window);
      return ({ campaignId, adGroupId, targetId, sku, subject, queue }) => {
        if (level === 'terms') return queue === 'terms' && held.has(subject);
        if (level === 'targets') return held.has(targetId);
        if (level === 'ad_groups') return held.has(adGroupId);
        if (level === 'campaigns') return held.has(campaignId);
        return level === 'products' && sku !== null && held.has(sku);
      };
    }
  }
}

const gone = (message: string) => new ServiceError(422, 'scope_gone', message, { field: 'scope' });

/** Days of changes by what was changed. */
interface Changes {
  on: (name: string) => Day | null;
  byHand: (name: string) => Day | null;
}

async function changesOf(accountId: number, today: Day): Promise<Changes> {
  const on = new Map<string, Day>();
  const byHand = new Map<string, Day>();
  const note = (map: Map<string, Day>, name: string, day: Day) => {
    const known = map.get(name);
    if (known === undefined || known < day) map.set(name, day);
  };
  for (const { entity, objectId, field, ...change } of await lastChanges(
    db(),
    accountId,
    addDays(today, -changesWithin),
  )) {
    const name = changeName(entity, objectId, field);
    note(on, name, change.day);
    if (change.byHand) note(byHand, name, change.day);
  }
  return { on: (name) => on.get(name) ?? null, byHand: (name) => byHand.get(name) ?? null };
}

export async function offerOf(
  accountId: number,
  routine: Routine,
  window: Window,
  today: Day,
): Promise<Offer> {
  const wants = new Set<RoutineKind>(routine.kinds);
  const staged = wants.has('stages');
  if (staged) for (const kind of stagedToo) wants.add(kind);
  const within = await scopeOf(accountId, routine.scope, window);
  const [changes, since, campaigns] = await Promise.all([
    changesOf(accountId, today),
    campaignsSince(db(), accountId),
    campaignNames(db(), accountId),
  ]);
  const nameOf = new Map(campaigns.map(({ id, name }) => [id, name]));
  const { judged, findings, decided } = await findingsFor(accountId, window, narrowingOf(routine), within);
  const ground: OfferGround = {
    campaignOf: (id) => nameOf.get(id) ?? id,
    adGroupOf: (id) => judged.adGroups[id]?.name ?? id,
    changedOn: changes.on,
    byHand: changes.byHand,
    since: (id) => since.get(id) ?? null,
    sums: judged.sums,
  };
  const offered: Offered[] = [];
  for (const finding of findings) {
    const made = offeredFinding(finding, ground);
    if (made && wants.has(made.kind)) offered.push(made);
  }
  const wider =
    staged || [...wants].some(isWider) ? await widerFor(accountId, window) : { rows: [], decided: 0 };
  for (const row of wider.rows) {
    const made = within(row) ? offeredRow(row, ground) : null;
    if (made && (wants.has(made.kind) || (staged && isStarvedBest(row)))) offered.push(made);
  }
  offered.sort(byWorth);
  return {
    offered,
    decided: decided + wider.decided,
    weekSpend: (judged.sums.spend / routine.days) * 7,
    changedOn: changes.on,
  };
}
