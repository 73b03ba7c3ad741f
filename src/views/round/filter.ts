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
export const proposalKinds = {
  terms: { harvest: 'Harvest', negative: 'Negate', wait: 'Waits' },
  targets: { raise: 'Raise bid', cut: 'Cut bid', wait: 'Waits' },
} as const;

/** Guards as people count them: both directions of a step are one. */
export const guardWords: Record<GuardName, string> = {
  'highest CPC': 'the highest CPC',
  cooldown: 'cooldown',
  'largest step up': 'the largest step',
  'largest step down': 'the largest step',
  floor: 'the floor',
  ceiling: 'the ceiling',
  'minimum bid': 'the least bid',
  'maximum bid': 'the highest bid',
};

/** The guard that holds a finding first, whole or in part; null where none does. */
export function heldBy({ proposal }: Row): string | null {
  const name =
    proposal.kind === 'wait'
      ? proposal.held?.by
      : proposal.kind === 'negative'
        ? undefined
        : proposal.held[0];
  return name === undefined ? null : guardWords[name];
}

/** Nothing is proposed, for a guard holds all of it back. */
export const isHeldWhole = ({ proposal }: Row): boolean =>
  proposal.kind === 'wait' && proposal.held !== undefined;

/** Nothing can be decided about it yet: it only waits for clicks, and comes by itself once it has them. */
export const isWaiting = ({ proposal }: Row): boolean =>
  proposal.kind === 'wait' && proposal.held === undefined && proposal.obstacle === null;

/** How many findings each guard holds, most first. */
export function heldCounts(rows: readonly Row[]): { by: string; count: number; whole: number }[] {
  const counts = new Map<string, { by: string; count: number; whole: number }>();
  for (const row of rows) {
    const by = heldBy(row);
    if (by === null) continue;
    const known = counts.get(by) ?? { by, count: 0, whole: 0 };
    known.count++;
    if (isHeldWhole(row)) known.whole++;
    counts.set(by, known);
  }
  return [...counts.values()].sort((a, b) => b.count - a.count || (a.by < b.by ? -1 : 1));
}

export const proposalKind = ({ proposal }: Row): string =>
  proposal.kind === 'bid' ? (proposal.to < proposal.from ? 'cut' : 'raise') : proposal.kind;

export function filterRows(
  rows: readonly Row[],
  queue: Row['queue'],
  filter: Filter,
  names: RoundAnswer['adGroups'],
): Row[] {
  const words = normalise(filter.text);
  return rows.filter(
    (row) =>
      row.queue === queue &&
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

const acosOf = (row: Row): number =>
  row.sums.sales > 0 ? row.sums.spend / row.sums.sales : row.sums.spend > 0 ? Infinity : -1;

/** Sorts a copy; by worth as it came. Spend without sales is the worst ACOS; what only waits stands last in every order. */
export function sortRows(rows: readonly Row[], sort: SortName, descending: boolean): Row[] {
  const waiting = (a: Row, b: Row) => Number(isWaiting(a)) - Number(isWaiting(b));
  if (sort === 'worth' && descending) return [...rows].sort(waiting);
  const sign = descending ? -1 : 1;
  const by: Record<SortName, (a: Row, b: Row) => number> = {
    worth: (a, b) => a.worth - b.worth,
    subject: (a, b) => (a.subject < b.subject ? -1 : a.subject > b.subject ? 1 : 0),
    clicks: (a, b) => a.sums.clicks - b.sums.clicks,
    spend: (a, b) => a.sums.spend - b.sums.spend,
    orders: (a, b) => a.sums.orders - b.sums.orders,
    acos: (a, b) => {
      const [left, right] = [acosOf(a), acosOf(b)];
      return left === right ? a.sums.spend - b.sums.spend : left < right ? -1 : 1;
    },
  };
  return [...rows].sort((a, b) => waiting(a, b) || sign * by[sort](a, b));
}
