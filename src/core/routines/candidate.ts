import { changeName } from '../account/as-of.ts';
import { cpc as cpcOf, type Sums } from '../metrics/figures.ts';
import type { Day } from '../metrics/days.ts';
import { sentenceOf } from '../round/explain.ts';
import { isHeldWhole, type QueueRow } from '../round/queue.ts';
import type { Finding } from '../round/types.ts';
import { sentenceOfWords } from '../terms/words.ts';
import type { Candidate } from './choose.ts';
import type { RoutineKind } from './routine.ts';

/** Findings as a routine sees them: the same with the same sentences as a person's round (domain, section 16). */

/** A finding with what is said of it. */
export interface Offered extends Candidate {
  subject: string;
  campaign: string;
  sentence: string;
}

/** What a routine must know of the account beside its findings. */
export interface OfferGround {
  campaignOf: (campaignId: string) => string;
  adGroupOf: (adGroupId: string) => string;
  /** When a field was changed last, and when by a person's hand, by `changeName`; null: never. */
  changedOn: (name: string) => Day | null;
  byHand: (name: string) => Day | null;
  /** The first day of a campaign; null: none yet. */
  since: (campaignId: string) => Day | null;
  /** Of all terms and targets of the window. */
  sums: Sums;
}

/** Of terms and targets: what is nothing to do yet, and what is only tried to know, is a person's. */
export function kindOfFinding({ proposal }: Finding): RoutineKind | null {
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

/** Whether a finding moves a bid up; null where it moves none. */
function raisesBid({ proposal }: Finding): boolean | null {
  if (proposal.kind === 'bid') return proposal.to > proposal.from;
  return proposal.kind === 'wait' && proposal.held ? proposal.held.wanted > proposal.held.from : null;
}

/** Null where routines leave it alone. */
export function offeredFinding(finding: Finding, ground: OfferGround): Offered | null {
  const kind = kindOfFinding(finding);
  if (kind === null) return null;
  const { proposal, working, campaignId } = finding;
  const field = finding.members
    ? changeName('ad_group', finding.adGroupId, 'default_bid')
    : changeName('target', finding.targetId, 'bid');
  const isBid = kind === 'bids';
  return {
    key: finding.key,
    kind,
    campaignId,
    campaign: ground.campaignOf(campaignId),
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
    changedOn: isBid ? ground.changedOn(field) : null,
    handOn: isBid ? ground.byHand(field) : null,
    since: ground.since(campaignId),
    sentence: sentenceOf(finding, { adGroup: ground.adGroupOf }),
  };
}

const kindsOfQueue: Partial<Record<QueueRow['queue'], RoutineKind>> = {
  words: 'words',
  conflicts: 'conflicts',
  placements: 'placements',
  budgets: 'budgets',
  hours: 'hours',
  structure: 'structure',
};

/** Stages live of terms that sell, and of keywords that get a campaign of their own. */
export const stagedToo: readonly RoutineKind[] = ['harvest'];
export const isStarvedBest = ({ key }: Pick<QueueRow, 'key'>): boolean =>
  key.startsWith('structure:starved_best:');

/** Kinds whose findings stand beside those of terms and targets. */
export const isWider = (kind: RoutineKind): boolean =>
  kind === 'collections' || Object.values(kindsOfQueue).includes(kind);

export const kindOfRow = ({ key, queue }: Pick<QueueRow, 'key' | 'queue'>): RoutineKind | null =>
  key.startsWith('structure:collection:') ? 'collections' : (kindsOfQueue[queue] ?? null);

/** What changes of its own a finding would change again, by `changeName`; empty: nothing. */
function fieldOfRow({ queue, campaignId }: QueueRow): string {
  if (queue === 'placements') return changeName('placement_modifier', campaignId, '');
  if (queue === 'budgets') return changeName('campaign', campaignId, 'daily_budget');
  return queue === 'hours' ? changeName('campaign', campaignId, 'schedule') : '';
}

const sentenceOfRow = ({ proposal, sums, subject, terms }: QueueRow): string =>
  'sentence' in proposal ? proposal.sentence : sentenceOfWords({ words: subject, terms: terms!, ...sums! });

/** Of a wider finding. Null where routines leave it alone: only the specialist can mend it. */
export function offeredRow(row: QueueRow, ground: OfferGround): Offered | null {
  const kind = kindOfRow(row);
  const { campaignId, proposal } = row;
  if (kind === null || (proposal.kind === 'repair' && proposal.repair === null)) return null;
  const { clicks, orders } = ground.sums;
  const field = fieldOfRow(row);
  return {
    key: row.key,
    kind,
    campaignId,
    campaign: ground.campaignOf(campaignId),
    subject: row.subject,
    measured: row.sums && {
      sums: row.sums,
      mu: clicks > 0 ? orders / clicks : 0,
      cpc: row.sums.clicks > 0 ? row.sums.spend / row.sums.clicks : cpcOf(ground.sums),
      targetAcos: row.targetAcos,
    },
    worth: row.worth,
    raises: proposal.kind === 'budget' ? proposal.way === 'raise' : null,
    held: isHeldWhole(row) ? 'its cooldown' : null,
    changedOn: field === '' ? null : ground.changedOn(field),
    handOn: field === '' ? null : ground.byHand(field),
    // What stands in no campaign is of no new one.
    since: campaignId === '' ? '2000-01-01' : ground.since(campaignId),
    sentence: sentenceOfRow(row),
  };
}

/** Worth most first. */
export const byWorth = (a: Offered, b: Offered): number => b.worth - a.worth || (a.key < b.key ? -1 : 1);
