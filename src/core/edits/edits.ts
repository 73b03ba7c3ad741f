import { firstBid, guardBid, type GuardName, type Guards } from '../bids/guards.ts';
import { valueProblem, type Field, type FieldLimits, type Range } from '../changes/fields.ts';
import type { Day } from '../metrics/days.ts';
import { toStep, type Micros } from '../metrics/money.ts';
import type { NegativeType } from '../account/store.ts';
import type { Destination } from '../lanes/ad-groups.ts';

/** One edit of many rows. Money in micros, per cent and shares as shares (0.1 is 10 %), modifiers in per cent. */
export type BidEdit =
  | { field: 'bid'; how: 'set' | 'percent' | 'amount'; value: number }
  /** Revenue per click by the evidence x the row's target ACOS (domain, section 6.2). */
  | { field: 'bid'; how: 'rpc' }
  /** A share of what a click has cost in the window. */
  | { field: 'bid'; how: 'cpc'; value: number }
  /** The floor: keeps its history and lets it come back. */
  | { field: 'bid'; how: 'rest' };

/** A field whose value is a number; see `changes/fields.ts`. */
export interface AmountEdit {
  field: string;
  how: 'set' | 'percent' | 'amount';
  value: number;
}

/** A field that is set to a word or a day; null takes it away. */
export interface ChoiceEdit {
  field: string;
  to: string | null;
}

export type Edit =
  | BidEdit
  | AmountEdit
  | ChoiceEdit
  | { field: 'negative'; matchType: 'negative_exact' | 'negative_phrase'; scope: 'ad_group' | 'campaign' }
  /** Exact in the performance ad group of its lane, and blocked in the research of its product. */
  | { field: 'lane' };

export const isBidEdit = (edit: Edit): edit is BidEdit => edit.field === 'bid' && 'how' in edit;
export const isAmountEdit = (edit: Edit): edit is AmountEdit => edit.field !== 'bid' && 'how' in edit;
export const isChoiceEdit = (edit: Edit): edit is ChoiceEdit => 'to' in edit;

/** What an edit of a bid needs to know of a row. */
export interface BidRow {
  bid: Micros | null;
  changedOn: Day | null;
  /** Spend per click in the window, and the highest of a day; null without a click. */
  cpc: Micros | null;
  highestCpc: Micros | null;
  /** Revenue per click by the evidence, micros. */
  rpc: Micros;
  targetAcos: number;
  /** What a click costs per bid, modifiers in. */
  paidPerBid: number;
}

export interface Edited {
  old: string | null;
  /** Null: nothing is changed, and `problem` says why. Empty: the value is taken away. */
  next: string | null;
  held: GuardName[];
  problem: string | null;
}

const changed = (old: string, next: string, held: GuardName[] = []): Edited => ({
  old,
  next,
  held,
  problem: null,
});
const unchanged = (old: string | null, problem: string, held: GuardName[] = []): Edited => ({
  old,
  next: null,
  held,
  problem,
});

const heldBack: Partial<Record<GuardName, string>> = {
  cooldown: 'Changed too short a while ago: it cools down.',
};

/** The bid that an edit asks for, before any guard; a sentence when it asks for none. */
export function wantedBid(edit: BidEdit, row: BidRow, guards: Guards): Micros | string {
  const { bid } = row;
  if (edit.how === 'set') return edit.value;
  if (edit.how === 'rest') return Math.max(guards.floor, guards.minimumBid);
  if (edit.how === 'rpc') return row.rpc > 0 ? row.rpc * row.targetAcos : 'Nothing is known of its revenue.';
  if (edit.how === 'cpc') return row.cpc === null ? 'It had no click in the window.' : row.cpc * edit.value;
  if (bid === null) return 'It has no bid of its own.';
  return edit.how === 'percent' ? bid * (1 + edit.value) : bid + edit.value;
}

/**
 * A bid after an edit. Kept to the guards it is the bid of the round's proposals; else only the marketplace's limits
 * hold. Resting is a step of its own: it goes to the floor at once.
 */
export function editBid(edit: BidEdit, row: BidRow, guards: Guards, today: Day, keepGuards: boolean): Edited {
  const old = row.bid === null ? null : String(row.bid);
  const wanted = wantedBid(edit, row, guards);
  if (typeof wanted === 'string') return unchanged(old, wanted);
  if (row.bid === null || old === null) return unchanged(null, 'It has no bid of its own.');
  if (keepGuards && edit.how !== 'rest') {
    const { bid, held } = guardBid(
      {
        wanted,
        current: row.bid,
        highestCpc: row.highestCpc,
        paidPerBid: row.paidPerBid,
        changedOn: row.changedOn,
        today,
        overSinceChange: null,
      },
      guards,
    );
    if (bid !== null) return changed(old, String(bid), held);
    const last = held[held.length - 1];
    if (!last) return unchanged(old, 'The change would be under 5 %.');
    return unchanged(old, heldBack[last] ?? `Held by ${held.join(' and ')}.`, held);
  }
  const held: GuardName[] = [];
  let bid = toStep(wanted, guards.step);
  if (bid < guards.minimumBid) {
    bid = guards.minimumBid;
    held.push('minimum bid');
  } else if (bid > guards.maximumBid) {
    bid = guards.maximumBid;
    held.push('maximum bid');
  }
  return bid === row.bid ? unchanged(old, 'It is that already.', held) : changed(old, String(bid), held);
}

/** A field of money (micros) or per cent after an edit, within what the marketplace allows. */
export function editAmount(edit: AmountEdit, current: number | null, limits: Range): Edited {
  const old = current === null ? null : String(current);
  if (current === null && edit.how !== 'set') return unchanged(null, 'It has none to change.');
  const from = current ?? 0;
  const wanted =
    edit.how === 'set' ? edit.value : edit.how === 'percent' ? from * (1 + edit.value) : from + edit.value;
  const held: GuardName[] = [];
  let next = toStep(wanted, limits.step);
  if (next < limits.least) {
    next = limits.least;
    held.push('floor');
  } else if (next > limits.most) {
    next = limits.most;
    held.push('ceiling');
  }
  return next === current
    ? unchanged(old, 'It is that already.', held)
    : { old, next: String(next), held, problem: null };
}

/** A status or a day after an edit. What is archived stays so. */
export function editChoice(
  field: Field,
  current: string | null,
  to: string | null,
  limits: FieldLimits,
): Edited {
  if (current === 'archived') return unchanged(current, 'It is archived: the marketplace wakes nothing up.');
  if (current === to) return unchanged(current, `It is ${to ?? 'none'} already.`);
  const problem = valueProblem(field, to, limits);
  return problem === null
    ? { old: current, next: to ?? '', held: [], problem: null }
    : unchanged(current, problem);
}

/** A new negative for a term. An item code is blocked as such. */
export function editNegative(
  term: string,
  matchType: NegativeType,
  blocked: string | null,
  whyNot: string | null,
): Edited {
  if (blocked !== null) return unchanged(null, `Blocked already by ${blocked}.`);
  if (whyNot !== null) return unchanged(null, whyNot);
  return { old: null, next: `${matchType}:${term}`, held: [], problem: null };
}

/** What a term needs to be known of to be sent down its lane. */
export interface LaneRow {
  term: string;
  served: string | null;
  blocked: string | null;
  /** Where it goes, or why it goes nowhere. */
  destination: Destination | string;
  whyNoKeyword: string | null;
  /** Revenue per click by the evidence, micros. */
  rpc: Micros;
  /** Spend per click in the window; null without a click. */
  cpc: Micros | null;
  /** Theta of the destination's goal, and what a click costs per bid. */
  theta: number;
  paidPerBid: number;
}

/** A term sent down its lane: the first bid there, by what a click of it brings, held as the round holds it. */
export function editLane(row: LaneRow, guards: Guards): Edited {
  if (row.served !== null) return unchanged(null, `Served already: ${row.served}.`);
  if (row.blocked !== null) return unchanged(null, `Blocked already by ${row.blocked}.`);
  if (typeof row.destination === 'string') return unchanged(null, row.destination);
  if (row.destination.lane.kind === 'keyword' && row.whyNoKeyword !== null)
    return unchanged(null, row.whyNoKeyword);
  const { firstBid: method, fixedBid } = row.destination.lane;
  const usual = method === 'source_cpc' && row.cpc !== null ? row.cpc : row.rpc * row.theta;
  const { bid, held } = firstBid(
    fixedBid ?? usual,
    fixedBid === null ? row.cpc : null,
    row.paidPerBid,
    guards,
  );
  return { old: null, next: String(bid), held, problem: null };
}
