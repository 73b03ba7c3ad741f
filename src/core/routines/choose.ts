import { addDays, daysBetween, type Day } from '../metrics/days.ts';
import { count, counted, money, percent } from '../metrics/format.ts';
import type { Micros } from '../metrics/money.ts';
import type { Routine, RoutineKind, RoutineLimits } from './routine.ts';
import { missed, type Measured } from './thresholds.ts';

/** Which findings of a round a routine acts on, and why it leaves the others (domain, section 16). Worth most first. */

/** A finding as a routine sees it. */
export interface Candidate {
  /** The finding's key. */
  key: string;
  kind: RoutineKind;
  campaignId: string;
  /** Null: nothing to hold a threshold against. */
  measured: Measured | null;
  /** Money at stake a week, micros. */
  worth: Micros;
  /** Whether it moves a bid or a budget up; null: it moves none, or several ways. */
  raises: boolean | null;
  /** What guards hold back whole, in words; null: nothing. */
  held: string | null;
  /** When what it changes was changed last; null: never. */
  changedOn: Day | null;
  /** When its bid was set by a person's hand last; null: never. */
  handOn: Day | null;
  /** The first day of its campaign; null: none yet. */
  since: Day | null;
}

/** Why a finding was left to a person, or alone. */
export type HeldBack =
  | 'guard'
  | 'threshold'
  | 'way'
  | 'least'
  | 'wait'
  | 'by_hand'
  | 'grace'
  | 'other_routine'
  | 'person'
  | 'trial'
  | 'unusual_click'
  | 'line_limit'
  | 'spend_limit'
  | 'share_limit'
  | 'gone';

export interface Held {
  by: HeldBack;
  why: string;
}

type Chooser = Pick<
  Routine,
  'moves' | 'thresholds' | 'moves' | 'wait' | 'grace' | 'byHand' | 'leastClicks' | 'leastImpressions'
>;

/** What stands against acting on a finding by itself; null where nothing does. */
export function heldBack(candidate: Candidate, routine: Chooser, today: Day): Held | null {
  const { measured, held, raises, changedOn, handOn, since } = candidate;
  if (raises !== null && routine.moves !== 'both' && raises !== (routine.moves === 'raises'))
    return {
      by: 'way',
      why: raises ? 'It would raise; this routine only cuts.' : 'It would cut; this routine only raises.',
    };
  if (held !== null) return { by: 'guard', why: `Held by ${held}.` };
  if (handOn !== null && daysBetween(handOn, today) < routine.byHand)
    return {
      by: 'by_hand',
      why: `Set by hand on ${handOn}; left alone until ${addDays(handOn, routine.byHand)}.`,
    };
  if (changedOn !== null && daysBetween(changedOn, today) < routine.wait)
    return {
      by: 'wait',
      why: `Changed on ${changedOn}; its next change waits until ${addDays(changedOn, routine.wait)}.`,
    };
  if (routine.grace > 0) {
    const age = since === null ? 0 : daysBetween(since, today);
    if (age < routine.grace)
      return {
        by: 'grace',
        why: `Its campaign has run ${counted(age, 'day')}; new ones have ${routine.grace}.`,
      };
  }
  if (measured === null) return null;
  const { clicks, impressions } = measured.sums;
  if (clicks < routine.leastClicks)
    return {
      by: 'least',
      why: `${counted(clicks, 'click')}; ${count(routine.leastClicks)} are asked for.`,
    };
  if (impressions !== undefined && impressions < routine.leastImpressions)
    return {
      by: 'least',
      why: `${counted(impressions, 'impression')}; ${count(routine.leastImpressions)} are asked for.`,
    };
  for (const threshold of routine.thresholds) {
    const why = missed(threshold, measured);
    if (why) return { by: 'threshold', why: `${why}.` };
  }
  return null;
}

/**
 * Moves of a campaign move bids along: where one of the fields that it changes (`changeName`) was changed a short while
 * ago, all of it waits.
 */
export function changedLately(
  touches: readonly string[],
  changedOn: (name: string) => Day | null,
  wait: number,
  today: Day,
): Held | null {
  for (const name of touches) {
    const day = changedOn(name);
    if (day !== null && daysBetween(day, today) < wait)
      return {
        by: 'wait',
        why: `A bid that it moves was changed on ${day}; it waits until ${addDays(day, wait)}.`,
      };
  }
  return null;
}

/** What a run, and a week, have used of limits; micros. */
export interface Used {
  lines: number;
  spend: Micros;
}

/** What one finding would use. */
export type Uses = Used;

/** Counts limits of a run, of a week and of the account together: what goes beyond waits for a person. */
export class Allowance {
  private run: Used = { lines: 0, spend: 0 };
  /** What was wanted in all, with what was beyond. */
  private asked: Used = { lines: 0, spend: 0 };

  /** `accountSpend`: what the account spends a week, micros. */
  constructor(
    private readonly limits: RoutineLimits,
    private readonly week: Used,
    private readonly accountSpend: Micros,
  ) {}

  /** Takes what a finding uses, or says which limit is in its way. */
  take({ lines, spend }: Uses): Held | null {
    this.asked = { lines: this.asked.lines + lines, spend: this.asked.spend + spend };
    const over = this.over({ lines: this.run.lines + lines, spend: this.run.spend + spend });
    if (over === null) this.run = { lines: this.run.lines + lines, spend: this.run.spend + spend };
    return over;
  }

  private over({ lines, spend }: Used): Held | null {
    const { limits, week, accountSpend } = this;
    const wait = 'it waits for you.';
    if (lines > limits.lines)
      return { by: 'line_limit', why: `A run may hold ${counted(limits.lines, 'line')}: ${wait}` };
    if (week.lines + lines > limits.weekLines)
      return {
        by: 'line_limit',
        why: `A week may hold ${counted(limits.weekLines, 'line')}, ${count(week.lines)} of them are used: ${wait}`,
      };
    if (spend > limits.spend)
      return { by: 'spend_limit', why: `A run may move ${money(limits.spend)} a week: ${wait}` };
    if (week.spend + spend > limits.weekSpend)
      return {
        by: 'spend_limit',
        why: `A week may move ${money(limits.weekSpend)}, ${money(week.spend)} of it is used: ${wait}`,
      };
    if (spend > limits.share * accountSpend)
      return {
        by: 'share_limit',
        why: `A run may move ${percent(limits.share)} of the account’s ${money(accountSpend)} a week: ${wait}`,
      };
    return null;
  }

  get used(): Used {
    return this.run;
  }

  /** Whether more is wanted than the whole account spends: then something is wrong with the routine, or with the figures. */
  get isRunaway(): boolean {
    return this.asked.spend > this.accountSpend && this.asked.spend > this.limits.spend;
  }
}
