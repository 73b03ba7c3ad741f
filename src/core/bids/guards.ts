import { daysBetween, type Day } from '../metrics/days.ts';
import { toStep, type Micros } from '../metrics/money.ts';

/** Limits that every bid proposal keeps, whatever the method (guide, section 6.6). Money in micros. */
export interface Guards {
  /** Largest step per change, as a share: 0.4 is +40 %. */
  up: number;
  down: number;
  floor: Micros;
  ceiling: Micros;
  /** Never more than this many times the highest CPC paid in the window. */
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
}

export const defaultGuards: Guards = {
  up: 0.4,
  down: 0.5,
  floor: 40_000,
  ceiling: 60_000_000,
  overHighestCpc: 1.5,
  step: 10_000,
  minimumBid: 30_000,
  maximumBid: 60_000_000,
  least: 0.05,
  cooldownDays: 7,
  cooldownLift: 0.95,
};

export type GuardName =
  | 'largest step up'
  | 'largest step down'
  | 'floor'
  | 'ceiling'
  | 'highest CPC'
  | 'minimum bid'
  | 'maximum bid'
  | 'small change'
  | 'cooldown';

export interface GuardedBid {
  /** Null: no change is proposed. */
  bid: Micros | null;
  held: GuardName[];
}

export interface GuardInput {
  wanted: Micros;
  current: Micros;
  /** Highest CPC paid in the window, micros; null without a click. */
  highestCpc: Micros | null;
  changedOn: Day | null;
  today: Day;
  /** P(over target) on the days since the last change alone; null when they show nothing. */
  overSinceChange: number | null;
}

/** Puts a wanted bid through the guards; says which of them held it. */
export function guardBid(input: GuardInput, guards: Guards): GuardedBid {
  const { wanted, current, highestCpc, changedOn, today, overSinceChange } = input;
  const held: GuardName[] = [];
  const cooling = changedOn !== null && daysBetween(changedOn, today) < guards.cooldownDays;
  if (cooling && !(wanted < current && (overSinceChange ?? 0) >= guards.cooldownLift)) {
    return { bid: null, held: ['cooldown'] };
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
  // A cap by CPC restrains raises; it never turns a wanted raise into a cut.
  if (highestCpc !== null && wanted > current) {
    atMost(Math.max(current, highestCpc * guards.overHighestCpc), 'highest CPC');
  }
  atMost(current * (1 + guards.up), 'largest step up');
  atLeast(current * (1 - guards.down), 'largest step down');
  atMost(guards.ceiling, 'ceiling');
  atMost(guards.maximumBid, 'maximum bid');
  atLeast(guards.floor, 'floor');
  atLeast(guards.minimumBid, 'minimum bid');
  bid = withinSteps(bid, input, guards);
  // A floor above the live bid must not turn a wanted cut into a raise, nor a ceiling a raise into a cut.
  if ((wanted - current) * (bid - current) < 0) return { bid: null, held };
  if (current > 0 && Math.abs(bid - current) / current < guards.least) {
    return { bid: null, held: [...held, 'small change'] };
  }
  return { bid, held };
}

/** Rounds to the bid step without stepping over a limit: down after a raise, up after a cut. */
function withinSteps(bid: Micros, { current }: GuardInput, { step }: Guards): Micros {
  const near = toStep(bid, step);
  if (bid > current && near > bid) return near - step;
  if (bid < current && near < bid) return near + step;
  return near;
}

/**
 * The first bid of a term in the lane it is sent down (micros): what is wanted, but no more than 1.5 times the highest CPC
 * it has cost, within floor and ceiling (guide, section 7.1).
 */
export function firstBid(
  wanted: Micros,
  highestCpc: Micros | null,
  guards: Guards,
): { bid: Micros; held: GuardName[] } {
  const held: GuardName[] = [];
  let bid = wanted;
  if (highestCpc !== null && bid > highestCpc * guards.overHighestCpc) {
    bid = highestCpc * guards.overHighestCpc;
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
