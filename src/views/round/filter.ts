import { Claimed } from '../../core/effect/claims.ts';
import { claimingOf, isHeldWhole, queues, type QueueId } from '../../core/round/queue.ts';
import type { GuardName } from '../../core/bids/guards.ts';
import { normalise } from '../../core/text/normalise.ts';
import type { Row, RoundAnswer } from './types.ts';

/** What is asked of the queue; everything stands in the address. */
export interface Filter {
  text: string;
  sku: string;
  campaignId: string;
  verdict: string;
  proposal: string;
  /** A guard's name as people say it, `any`, or nothing: what is held back whole is left out then. */
  held: string;
}

export type SortName = 'worth' | 'subject' | 'clicks' | 'spend' | 'orders' | 'acos';

/** Kinds of proposal as people choose them. */
const kindsOfProposal: Record<QueueId, Record<string, string>> = {
  terms: { harvest: 'Harvest', negative: 'Negate', wait: 'Waits' },
  targets: { raise: 'Raise bid', cut: 'Cut bid', test: 'Test', wait: 'Waits' },
  words: { negative: 'Negate' },
  placements: { placements: 'Move' },
  budgets: { raise_budget: 'Raise budget', lower_bids: 'Lower bids' },
  hours: { hours: 'Schedule' },
  conflicts: { repair: 'Repair' },
  structure: { repair: 'Repair' },
  trials: { repair: 'Decide' },
};

/** One kind of findings, or all of them in one order. */
export type Shown = QueueId | 'all';

/** Kinds that are looked for beside terms and targets. */
export const isWider = (queue: Shown): boolean => queue !== 'all' && queue !== 'terms' && queue !== 'targets';

export const proposalKinds = (shown: Shown): Record<string, string> =>
  shown === 'all'
    ? queues.reduce((kinds, { id }) => ({ ...kinds, ...kindsOfProposal[id] }), {})
    : kindsOfProposal[shown];

/** Guards as people count them: both directions of a step are one. */
export const guardWords: Record<GuardName, string> = {
  'highest CPC': 'the highest CPC',
  budget: 'the budget',
  cooldown: 'cooldown',
  test: 'a test',
  'largest step up': 'the largest step',
  'largest step down': 'the largest step',
  floor: 'the floor',
  ceiling: 'the ceiling',
  'minimum bid': 'the least bid',
  'maximum bid': 'the highest bid',
};

/** The guard that decides how much of a finding is held, the last of them to do so; null where none does. */
export function heldBy({ proposal }: Row): string | null {
  if (proposal.kind === 'placements' || proposal.kind === 'budget' || proposal.kind === 'hours')
    return proposal.held.includes('cooldown')
      ? guardWords.cooldown
      : proposal.held.includes('largest step')
        ? guardWords['largest step up']
        : null;
  const name =
    proposal.kind === 'wait'
      ? proposal.held?.by
      : proposal.kind === 'negative' || proposal.kind === 'repair'
        ? undefined
        : proposal.held.at(-1);
  return name === undefined ? null : guardWords[name];
}

/** Held by a guard, beyond which it can be confirmed: a bid, or what is held whole. */
export const isConfirmable = (row: Row): boolean =>
  heldBy(row) !== null && (row.queue === 'targets' || isHeldWhole(row));

/** Nothing can be decided about it yet: it only waits for clicks, and comes by itself once it has them. */
export const isWaiting = ({ proposal }: Row): boolean =>
  proposal.kind === 'wait' && proposal.held === undefined && proposal.obstacle === null;

/** A negative on the sheet settles it already: it comes back when that is taken off. */
export const isCovered = ({ covered }: Row): boolean => covered !== undefined;

/** Nothing is left to decide about it for now. */
export const isSettled = (row: Row): boolean => isWaiting(row) || isCovered(row);

/**
 * What findings are worth together, no click counted twice: each with what those worth more have left. What is settled
 * counts nothing.
 */
export function netWorth(rows: readonly Row[]): { worth: number; stop: number; earn: number; mend: number } {
  const sums = { worth: 0, stop: 0, earn: 0, mend: 0 };
  const claimed = new Claimed();
  const open = rows.filter((row) => !isSettled(row)).sort((a, b) => b.worth - a.worth);
  for (const row of open) {
    const worth = row.worth * claimed.take(claimingOf(row));
    sums.worth += worth;
    const kind = proposalKind(row);
    if (kind === 'wait') continue;
    if (kind === 'repair') sums.mend += worth;
    else if (kind === 'negative' || kind === 'cut') sums.stop += worth;
    else sums.earn += worth;
  }
  return sums;
}

/** What a guard holds: so many findings, of which so many whole, and what all of it would be worth a week, micros. */
export interface HeldCount {
  by: string;
  count: number;
  whole: number;
  worth: number;
}

/** What a guard keeps from a finding, worth a week. */
const heldWorth = (row: Row): number =>
  isHeldWhole(row) ? row.worth : row.proposal.kind === 'bid' ? (row.proposal.heldWorth ?? 0) : 0;

/** How many findings each guard holds and how much of their worth, most first. */
export function heldCounts(rows: readonly Row[]): HeldCount[] {
  const counts = new Map<string, HeldCount>();
  for (const row of rows) {
    const by = heldBy(row);
    if (by === null) continue;
    const known = counts.get(by) ?? { by, count: 0, whole: 0, worth: 0 };
    known.count++;
    if (isHeldWhole(row)) known.whole++;
    known.worth += heldWorth(row);
    counts.set(by, known);
  }
  return [...counts.values()].sort((a, b) => b.count - a.count || (a.by < b.by ? -1 : 1));
}

export const proposalKind = ({ proposal }: Row): string =>
  proposal.kind === 'budget'
    ? proposal.way === 'raise'
      ? 'raise_budget'
      : 'lower_bids'
    : proposal.kind !== 'bid'
      ? proposal.kind
      : proposal.isTest
        ? 'test'
        : proposal.to < proposal.from
          ? 'cut'
          : 'raise';

export function filterRows(
  rows: readonly Row[],
  shown: Shown,
  filter: Filter,
  names: RoundAnswer['adGroups'],
): Row[] {
  const words = normalise(filter.text);
  return rows.filter(
    (row) =>
      (shown === 'all' || row.queue === shown) &&
      (filter.sku === '' || row.sku === filter.sku) &&
      (filter.campaignId === '' || row.campaignId === filter.campaignId) &&
      (filter.verdict === '' || row.verdict === filter.verdict) &&
      (filter.proposal === '' || proposalKind(row) === filter.proposal) &&
      (filter.held === ''
        ? !isHeldWhole(row)
        : filter.held === 'any'
          ? heldBy(row) !== null
          : heldBy(row) === filter.held) &&
      (words === '' ||
        normalise(`${row.subject} ${row.target} ${names[row.adGroupId]?.name ?? ''}`).includes(words)),
  );
}

const acosOf = ({ sums }: Row): number =>
  sums === null ? -1 : sums.sales > 0 ? sums.spend / sums.sales : sums.spend > 0 ? Infinity : -1;
const sumOf = ({ sums }: Row, name: 'clicks' | 'spend' | 'orders'): number => sums?.[name] ?? -1;

/** Sorts a copy. Spend without sales is the worst ACOS; what is settled or only waits stands last in every order. */
export function sortRows(rows: readonly Row[], sort: SortName, descending: boolean): Row[] {
  const waiting = (a: Row, b: Row) => Number(isSettled(a)) - Number(isSettled(b));
  const sign = descending ? -1 : 1;
  const by: Record<SortName, (a: Row, b: Row) => number> = {
    worth: (a, b) => a.worth - b.worth,
    subject: (a, b) => (a.subject < b.subject ? -1 : a.subject > b.subject ? 1 : 0),
    clicks: (a, b) => sumOf(a, 'clicks') - sumOf(b, 'clicks'),
    spend: (a, b) => sumOf(a, 'spend') - sumOf(b, 'spend'),
    orders: (a, b) => sumOf(a, 'orders') - sumOf(b, 'orders'),
    acos: (a, b) => {
      const [left, right] = [acosOf(a), acosOf(b)];
      return left === right ? sumOf(a, 'spend') - sumOf(b, 'spend') : left < right ? -1 : 1;
    },
  };
  return [...rows].sort((a, b) => waiting(a, b) || sign * by[sort](a, b));
}
