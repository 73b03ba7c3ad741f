import type { Method } from '../bids/methods.ts';
import type { SetGoal } from '../goals/goals.ts';
import type { Micros } from '../metrics/money.ts';
import type { TargetsInput } from '../round/types.ts';
import type { Routine } from './routine.ts';

/** What of a routine changes how bids are found: the method of its own, and guards that are narrower than those of goals. */
export interface Narrowing {
  /** Null: as goals say. */
  method: Method | null;
  /** Largest step, as factors; null: as goals say. */
  up: number | null;
  down: number | null;
  leastBid: Micros | null;
  highestBid: Micros | null;
  /** Days without a second change of the same bid. */
  wait: number;
  /** Search terms are judged; where only bids are wanted, they need not be. */
  terms: boolean;
}

export const narrowingOf = ({
  kinds,
  method,
  up,
  down,
  leastBid,
  highestBid,
  wait,
}: Omit<Narrowing, 'terms'> & Pick<Routine, 'kinds'>): Narrowing => ({
  method,
  up,
  down,
  leastBid,
  highestBid,
  wait,
  terms: kinds.some((kind) => kind === 'harvest' || kind === 'negate' || kind === 'stages'),
});

/**
 * What targets are judged on with goals and guards narrowed: a step, a range or a wait of a routine holds only where it is
 * narrower than what goals say (domain, section 16: thresholds only narrow).
 */
export function narrowed<T extends Pick<TargetsInput, 'goals' | 'guards'>>(input: T, by: Narrowing): T {
  const { method, wait, terms: _terms, ...most } = by;
  return {
    ...input,
    goals: method === null ? input.goals : input.goals.map((goal): SetGoal => ({ ...goal, method })),
    guards: {
      ...input.guards,
      cooldownDays: Math.max(input.guards.cooldownDays, wait),
      narrower: { ...most, cooldownDays: wait },
    },
  };
}
