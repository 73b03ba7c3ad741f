import { daysBetween, type Day } from '../metrics/days.ts';
import { toStep, type Micros } from '../metrics/money.ts';

/** How boldly an account moves: the largest step per change, and which quantile of the belief a raise rests on. */
export type Stance = 'careful' | 'even' | 'bold';
export const stances: readonly Stance[] = ['careful', 'even', 'bold'];

/** Largest step per change, as factors on the bid (domain, section 6.6). */
export const largestStep: Record<Stance, { up: number; down: number }> = {
  careful: { up: 1.4, down: 0.5 },
  even: { up: 2, down: 1 / 3 },
  bold: { up: 3, down: 0.2 },
};

/** The quantile of orders per click that a raise rests on; null: the mean. Cuts always rest on the mean. */
export const raiseQuantile: Record<Stance, number | null> = { careful: 0.35, even: null, bold: 0.6 };

/** Limits that every bid proposal keeps, whatever the method (domain, section 6.6). Money in micros. */
export interface Guards {
  /** Largest step per change, as factors: 2 is twice the bid, 1/3 a third of it. */
  up: number;
  down: number;
  floor: Micros;
  ceiling: Micros;
  /** A click must not be expected to cost more than this many times the highest CPC paid in the window. */
  overHighestCpc: number;
  step: Micros;
  /** The marketplace's minimum: a bid below it is silently never shown. */
  minimumBid: Micros;
  maximumBid: Micros;
  /** Changes smaller than this share are dropped. */
  least: number;
  cooldownDays: number;
  /** P(over) on the days since the change alone that lifts the cooldown. */
  cooldownLift: number;
  /** What holds beside whatever goals say, where it is narrower; null: nothing of it does. */
  narrower?: Narrower;
}

/** Limits that narrow those of every goal. */
export interface Narrower {
  up: number | null;
  down: number | null;
  leastBid: Micros | null;
  highestBid: Micros | null;
  cooldownDays: number;
}

/** Guards within what narrows them. */
export function within(guards: Guards, narrower: Narrower | undefined): Guards {
  if (!narrower) return guards;
  const { up, down, leastBid, highestBid, cooldownDays } = narrower;
  return {
    ...guards,
    up: Math.min(guards.up, up ?? Infinity),
    down: Math.max(guards.down, down ?? 0),
    floor: Math.max(guards.floor, leastBid ?? 0),
    ceiling: Math.min(guards.ceiling, highestBid ?? Infinity),
    cooldownDays: Math.max(guards.cooldownDays, cooldownDays),
  };
}

export const defaultGuards: Guards = {
  ...largestStep.even,
  floor: 40_000,
  ceiling: 60_000_000,
  overHighestCpc: 2,
  step: 10_000,
  minimumBid: 30_000,
  maximumBid: 60_000_000,
  least: 0.05,
  cooldownDays: 7,
  cooldownLift: 0.95,
};

export const guardNames = [
  'largest step up',
  'largest step down',
  'floor',
  'ceiling',
  'highest CPC',
  'budget',
  'minimum bid',
  'maximum bid',
  'cooldown',
  'test',
] as const;
export type GuardName = (typeof guardNames)[number];

export interface GuardedBid {
  /** Null: no change is proposed. */
  bid: Micros | null;
  /** Which guards held it, in the order in which they did. */
  held: GuardName[];
  /** Nothing is proposed though more than the least change was wanted: a guard holds it back whole. */
  whole: boolean;
}

export interface GuardInput {
  wanted: Micros;
  current: Micros;
  /** Highest CPC paid in the window, micros; null without a click. */
  highestCpc: Micros | null;
  /** What a click costs per bid: spend / (clicks x bid), pooled to the campaign. */
  paidPerBid: number;
  /** The bid that the campaign's budgets can pay for, micros; null where they do not bind. */
  affordable?: Micros | null;
  changedOn: Day | null;
  /** It is tried at its bid until then. */
  testedUntil?: Day | null;
  today: Day;
  /** P(over target) on the days since the last change alone; null when they show nothing. */
  overSinceChange: number | null;
  /** It shall rest at its floor: no step is too large for that. */
  rests?: boolean;
}

/** Puts a wanted bid through the guards; says which of them held it. */
export function guardBid(input: GuardInput, guards: Guards): GuardedBid {
  const { wanted, current, highestCpc, paidPerBid, affordable, changedOn, today, overSinceChange } = input;
  const held: GuardName[] = [];
  const far = (bid: Micros) => current <= 0 || Math.abs(bid - current) / current >= guards.least;
  if (!far(toStep(wanted, guards.step))) return { bid: null, held, whole: false };
  const isTested = (input.testedUntil ?? '') >= today;
  const cooling = changedOn !== null && daysBetween(changedOn, today) < guards.cooldownDays;
  if ((isTested || cooling) && !(wanted < current && (overSinceChange ?? 0) >= guards.cooldownLift)) {
    return { bid: null, held: [isTested ? 'test' : 'cooldown'], whole: true };
  }
  let bid = wanted;
  const atMost = (limit: Micros, name: GuardName) => {
    if (bid > limit) {
      bid = limit;
      held.push(name);
    }
  };
  const atLeast = (limit: Micros, name: GuardName) => {
    if (bid < limit) {
      bid = limit;
      held.push(name);
    }
  };
  atMost(current * guards.up, 'largest step up');
  if (!input.rests) atLeast(current * guards.down, 'largest step down');
  // What a click costs is capped, not the bid; a cap restrains raises, it never turns one into a cut.
  if (highestCpc !== null && wanted > current) {
    atMost(Math.max(current, (highestCpc * guards.overHighestCpc) / paidPerBid), 'highest CPC');
  }
  if (affordable !== null && affordable !== undefined && wanted > current)
    atMost(Math.max(current, affordable), 'budget');
  atMost(guards.ceiling, 'ceiling');
  atMost(guards.maximumBid, 'maximum bid');
  atLeast(guards.floor, 'floor');
  atLeast(guards.minimumBid, 'minimum bid');
  bid = withinSteps(bid, input, guards);
  // A floor above the live bid must not turn a wanted cut into a raise, nor a ceiling a raise into a cut.
  if ((wanted - current) * (bid - current) < 0 || !far(bid))
    return { bid: null, held, whole: held.length > 0 };
  return { bid, held, whole: false };
}

/** Rounds to the bid step without stepping over a limit: down after a raise, up after a cut. */
function withinSteps(bid: Micros, { current }: GuardInput, { step }: Guards): Micros {
  const near = toStep(bid, step);
  if (bid > current && near > bid) return near - step;
  if (bid < current && near < bid) return near + step;
  return near;
}

/**
 * The first bid of a term in the lane it is sent down (micros): what is wanted, but a click must not be expected to
 * cost more than twice the highest CPC it has cost, within floor and ceiling (domain, sections 6.6 and 7.1).
 */
export function firstBid(
  wanted: Micros,
  highestCpc: Micros | null,
  paidPerBid: number,
  guards: Guards,
): { bid: Micros; held: GuardName[] } {
  const held: GuardName[] = [];
  let bid = wanted;
  const most = highestCpc === null ? Infinity : (highestCpc * guards.overHighestCpc) / paidPerBid;
  if (bid > most) {
    bid = most;
    held.push('highest CPC');
  }
  if (bid > guards.ceiling) {
    bid = guards.ceiling;
    held.push('ceiling');
  }
  const least = Math.max(guards.floor, guards.minimumBid);
  if (bid < least) {
    bid = least;
    held.push('floor');
  }
  return { bid: toStep(bid, guards.step), held };
}
