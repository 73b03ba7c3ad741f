import { takenByBid, type Claim, type Claiming, type ClaimedText } from '../effect/claims.ts';
import type { AcosInterval, Verdict } from '../evidence/verdict.ts';
import type { Sums } from '../metrics/figures.ts';
import type { Micros } from '../metrics/money.ts';
import type { Conflict } from '../terms/conflicts.ts';
import type { WordRow } from '../terms/word-verdicts.ts';
import { wordsOf } from '../text/normalise.ts';
import type { Finding, Proposal } from './types.ts';

/** The kinds of findings, in the order in which they are offered. A new kind is an entry here and one that makes its rows. */
export const queues = [
  { id: 'terms', name: 'Terms', one: 'term', many: 'terms' },
  { id: 'targets', name: 'Targets', one: 'target', many: 'targets' },
  { id: 'placements', name: 'Placements', one: 'campaign', many: 'campaigns' },
  { id: 'budgets', name: 'Budgets', one: 'campaign', many: 'campaigns' },
  { id: 'hours', name: 'Hours', one: 'campaign', many: 'campaigns' },
  { id: 'words', name: 'Words', one: 'word', many: 'words' },
  { id: 'conflicts', name: 'Conflicts', one: 'conflict', many: 'conflicts' },
  { id: 'structure', name: 'Structure', one: 'campaign', many: 'campaigns' },
  { id: 'trials', name: 'Trials', one: 'trial', many: 'trials' },
] as const;
/** Findings kept of a queue: more than anybody decides in a sitting; what is decided makes room for the next. */
export const mostOfAQueue = 10_000;
export type QueueId = (typeof queues)[number]['id'];

/** What mends a conflict or a campaign, in words; null where only the specialist can. */
export interface RepairProposal {
  kind: 'repair';
  repair: string | null;
  /** What is lost by it. */
  loses?: string;
  lines: number;
  sentence: string;
}

/** Modifiers of a campaign, and factors on its bids. */
export interface PlacementsProposal {
  kind: 'placements';
  /** Factors on its bids, in words. */
  bids: string;
  /** Per cent. */
  modifiers: readonly { placement: string; from: number; to: number }[];
  /** Guards that hold part of it back, in words. */
  held: readonly string[];
  lines: number;
  sentence: string;
  /** The sentence in half a line. */
  short: string;
}

/** A budget that runs dry: what to do about it. */
export interface BudgetProposal {
  kind: 'budget';
  way: 'raise' | 'lower_bids' | 'slack';
  /** "5.00 → 9.60 a day". */
  short: string;
  /** Guards that hold part of it back, in words. */
  held: readonly string[];
  lines: number;
  sentence: string;
}

/** A schedule of a campaign. */
export interface HoursProposal {
  kind: 'hours';
  /** "Sun 60 %, bids × 1.06". */
  short: string;
  /** Guards that hold part of it back, in words. */
  held: readonly string[];
  lines: number;
  sentence: string;
}

/** A finding of any kind as the round shows it: enough to filter, sort, adjust and accept it. */
export interface QueueRow {
  /** Stable over runs: decisions are kept under it. */
  key: string;
  queue: QueueId;
  subject: string;
  /** Empty where no target stands behind it. */
  targetId: string;
  targetKind: string;
  matchType: string | null;
  target: string;
  adGroupId: string;
  campaignId: string;
  sku: string | null;
  verdict: Verdict;
  proposal: Proposal | RepairProposal | PlacementsProposal | BudgetProposal | HoursProposal;
  worth: Micros;
  interval: AcosInterval | null;
  targetAcos: number;
  /** Null where no sums stand behind it. */
  sums: Pick<Sums, 'clicks' | 'spend' | 'orders' | 'sales'> | null;
  /** How many terms hold these words. */
  terms?: number;
  /** How many targets an ad group's bid stands for. */
  members?: number;
  claims: readonly Claim[];
  /** What of its targets' clicks is gone afterwards. */
  takes: number;
}

/** Nothing is proposed for now, for a guard holds all of it back. */
export const isHeldWhole = ({ proposal }: Pick<QueueRow, 'proposal'>): boolean =>
  proposal.kind === 'wait'
    ? proposal.held !== undefined
    : (proposal.kind === 'placements' || proposal.kind === 'budget' || proposal.kind === 'hours') &&
      proposal.held.includes('cooldown');

const sumsOf = ({ clicks, spend, orders, sales }: Sums) => ({ clicks, spend, orders, sales });

/** What is taken of a target by its own bid. */
const wholeTarget = (targetId: string): Claim[] => [{ targetId, clicks: 1, part: 1 }];

export function queueRow(finding: Finding): QueueRow {
  const { effect, working } = finding;
  const isBid = finding.proposal.kind === 'bid';
  return {
    key: finding.key,
    queue: finding.queue,
    subject: finding.subject,
    targetId: finding.targetId,
    targetKind: finding.targetKind,
    matchType: finding.matchType,
    target: finding.target,
    adGroupId: finding.adGroupId,
    campaignId: finding.campaignId,
    sku: finding.sku,
    verdict: finding.verdict,
    proposal: finding.proposal,
    worth: finding.worth,
    interval: working.interval,
    targetAcos: working.targetAcos,
    sums: sumsOf(finding.sums),
    claims: isBid && !finding.members ? wholeTarget(finding.targetId) : finding.claims,
    ...(finding.members ? { members: finding.members.length } : {}),
    takes: isBid ? takenByBid(effect.before?.clicks ?? 0, effect.clicks) : 1,
  };
}

/** Of a row behind which no target stands. */
export const nowhere = {
  targetId: '',
  targetKind: '',
  matchType: null,
  target: '',
  adGroupId: '',
  campaignId: '',
};

/** The key of a sequence of words within a product; with none, of terms that advertise nothing by itself. */
export const wordKey = (sku: string | null, words: string): string => `word:${sku ?? ''}:${words}`;

/** Sku and words of such a key; null for another. */
export function wordsOfKey(key: string): { sku: string | null; words: string } | null {
  const found = /^word:(.*):([^:]+)$/s.exec(key);
  return found && { sku: found[1] === '' ? null : found[1]!, words: found[2]! };
}

/** Words that are proposed as a negative phrase. */
export const wordQueueRow = (row: WordRow, sku: string | null, claims: readonly Claim[]): QueueRow => ({
  ...nowhere,
  key: wordKey(sku, row.words),
  queue: 'words',
  subject: row.words,
  sku,
  verdict: row.verdict,
  proposal: {
    kind: 'negative',
    adGroupId: '',
    matchType: 'negative_phrase',
    expression: row.words,
    milder: null,
  },
  worth: row.worth,
  interval: row.interval,
  targetAcos: row.targetAcos,
  sums: { clicks: row.clicks, spend: row.spend, orders: row.orders, sales: row.sales },
  terms: row.terms,
  claims,
  takes: 1,
});

export const conflictQueueRow = (conflict: Conflict): QueueRow => ({
  ...nowhere,
  key: conflict.key,
  queue: 'conflicts',
  subject: conflict.subject,
  sku: conflict.sku,
  verdict: 'undecided',
  proposal: {
    kind: 'repair',
    repair: conflict.repair,
    lines: conflict.drafts.length,
    sentence: conflict.sentence,
  },
  worth: conflict.worth,
  interval: null,
  targetAcos: 0,
  sums: null,
  claims: conflict.claims,
  takes: conflict.claims.length > 0 ? 1 : 0,
});

/** What a row takes hold of of its targets. */
export function claimingOf({ queue, subject, proposal, claims, takes }: QueueRow): Claiming {
  const text = (kind: ClaimedText['kind']): ClaimedText => ({ kind, words: wordsOf(subject).join(' ') });
  if (queue === 'words') return { claims, text: text('phrase'), takes };
  return { claims, takes, text: queue === 'terms' && proposal.kind !== 'bid' ? text('term') : null };
}
