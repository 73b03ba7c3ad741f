import { cpc as cpcOf } from '../../core/metrics/figures.ts';
import { addDays, type Day, type Window } from '../../core/metrics/days.ts';
import { sentenceOf } from '../../core/round/explain.ts';
import { isHeldWhole, type QueueRow } from '../../core/round/queue.ts';
import type { Finding } from '../../core/round/types.ts';
import type { Candidate } from '../../core/routines/choose.ts';
import { narrowingOf } from '../../core/routines/narrow.ts';
import type { Routine, RoutineKind, RoutineScope } from '../../core/routines/routine.ts';
import { db } from '../db/connection.ts';
import { ServiceError } from '../errors.ts';
import { heldBySlice, slicesOf } from '../explore/index.ts';
import { findingsFor, widerFor } from '../round/index.ts';
import { campaignNames, campaignsSince, lastChanges } from './ground.queries.ts';

/** What the round finds, as a routine sees it: the same findings with the same sentences as a person's round. */

export interface Offered extends Candidate {
  subject: string;
  campaign: string;
  sentence: string;
}

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

const kindsOfQueue: Partial<Record<QueueRow['queue'], RoutineKind>> = {
  words: 'words',
  conflicts: 'conflicts',
  placements: 'placements',
  budgets: 'budgets',
  hours: 'hours',
  structure: 'structure',
};

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
  for (const change of await lastChanges(db(), accountId, addDays(today, -changesWithin))) {
    const names = [`${change.entity}:${change.objectId}:${change.field}`];
    if (change.entity === 'placement_modifier') names.push(`placements:${change.campaignId}`);
    for (const name of names) {
      note(on, name, change.day);
      if (change.byHand) note(byHand, name, change.day);
    }
  }
  return { on: (name) => on.get(name) ?? null, byHand: (name) => byHand.get(name) ?? null };
}

/** What changes of its own a finding would change again. */
function fieldOfRow({ queue, campaignId }: QueueRow): string {
  if (queue === 'placements') return `placements:${campaignId}`;
  if (queue === 'budgets') return `campaign:${campaignId}:daily_budget`;
  return queue === 'hours' ? `campaign:${campaignId}:schedule` : '';
}

/** Whether a finding moves a bid up; null where it moves none. */
export function raisesBid({ proposal }: Finding): boolean | null {
  if (proposal.kind === 'bid') return proposal.to > proposal.from;
  return proposal.kind === 'wait' && proposal.held ? proposal.held.wanted > proposal.held.from : null;
}

/** Of terms and targets: what is nothing to do yet, and what is only tried to know, is a person's. */
function kindOf({ proposal }: Finding): RoutineKind | null {
  switch (proposal.kind) {
    case 'harvest':
      return 'harvest';
    case 'negative':
      return 'negate';
    case 'bid':
      return proposal.isTest ? null : 'bids';
    case 'wait':
      return proposal.held ? 'bids' : null;
  }
}

const sentenceOfRow = ({ proposal, sums, subject }: QueueRow): string =>
  'sentence' in proposal
    ? proposal.sentence
    : `“${subject}”: ${sums ? `${sums.clicks} clicks, ${sums.orders} orders.` : ''}`;

export async function offerOf(
  accountId: number,
  routine: Routine,
  window: Window,
  today: Day,
): Promise<Offer> {
  const wants = new Set<RoutineKind>(routine.kinds);
  // Stages live of terms that sell, and of keywords that get a campaign of their own.
  const staged = wants.has('stages');
  if (staged) wants.add('harvest');
  const within = await scopeOf(accountId, routine.scope, window);
  const [changes, since, campaigns] = await Promise.all([
    changesOf(accountId, today),
    campaignsSince(db(), accountId),
    campaignNames(db(), accountId),
  ]);
  const nameOf = new Map(campaigns.map(({ id, name }) => [id, name]));
  const narrowing = narrowingOf(routine);
  const { judged, findings, decided } = await findingsFor(accountId, window, narrowing, within);
  const names = { adGroup: (id: string) => judged.adGroups[id]?.name ?? id };
  const days = routine.days;
  const account = judged.sums;
  const usual = { mu: account.clicks > 0 ? account.orders / account.clicks : 0, cpc: cpcOf(account) };
  const offered: Offered[] = [];
  if (wants.has('harvest') || wants.has('negate') || wants.has('bids'))
    for (const finding of findings) {
      const kind = kindOf(finding);
      if (kind === null || !wants.has(kind)) continue;
      const { proposal, working } = finding;
      const field = finding.members
        ? `ad_group:${finding.adGroupId}:default_bid`
        : `target:${finding.targetId}:bid`;
      const isBid = kind === 'bids';
      offered.push({
        key: finding.key,
        kind,
        campaignId: finding.campaignId,
        campaign: nameOf.get(finding.campaignId) ?? finding.campaignId,
        subject: finding.subject,
        measured: {
          sums: finding.sums,
          mu: working.prior.mu,
          cpc: working.cpc,
          targetAcos: working.targetAcos,
        },
        worth: finding.worth,
        raises: raisesBid(finding),
        held: proposal.kind === 'wait' ? `the ${proposal.held!.by}` : null,
        changedOn: isBid ? changes.on(field) : null,
        handOn: isBid ? changes.byHand(field) : null,
        since: since.get(finding.campaignId) ?? null,
        sentence: sentenceOf(finding, names),
      });
    }
  const wider = [...wants, ...(staged ? (['structure'] as const) : [])].some(
    (kind) => kind === 'collections' || Object.values(kindsOfQueue).includes(kind),
  )
    ? await widerFor(accountId, window)
    : { rows: [], decided: 0 };
  for (const row of wider.rows) {
    const kind = row.key.startsWith('structure:collection:') ? 'collections' : kindsOfQueue[row.queue];
    const isStarved = staged && row.key.startsWith('structure:starved_best:');
    if (kind === undefined || !(wants.has(kind) || isStarved) || !within(row)) continue;
    if (row.proposal.kind === 'repair' && row.proposal.repair === null) continue;
    const field = fieldOfRow(row);
    offered.push({
      key: row.key,
      kind,
      campaignId: row.campaignId,
      campaign: nameOf.get(row.campaignId) ?? '',
      subject: row.subject,
      measured: row.sums && {
        sums: row.sums,
        mu: usual.mu,
        cpc: row.sums.clicks > 0 ? row.sums.spend / row.sums.clicks : usual.cpc,
        targetAcos: row.targetAcos,
      },
      worth: row.worth,
      raises: row.proposal.kind === 'budget' ? row.proposal.way === 'raise' : null,
      held: isHeldWhole(row) ? 'its cooldown' : null,
      changedOn: field === '' ? null : changes.on(field),
      handOn: field === '' ? null : changes.byHand(field),
      since: row.campaignId === '' ? '2000-01-01' : (since.get(row.campaignId) ?? null),
      sentence: sentenceOfRow(row),
    });
  }
  offered.sort((a, b) => b.worth - a.worth || (a.key < b.key ? -1 : 1));
  return {
    offered,
    decided: decided + wider.decided,
    weekSpend: (account.spend / days) * 7,
    changedOn: changes.on,
  };
}
