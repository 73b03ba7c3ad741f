import type { Guards } from '../../core/bids/guards.ts';
import { money } from '../../core/metrics/format.ts';

/** What the marketplace would refuse in a bid (micros), as a sentence; null when it would take it. */
export function bidProblem(bid: number, { minimumBid, maximumBid, step }: Guards): string | null {
  return Number.isInteger(bid) && bid >= minimumBid && bid <= maximumBid && bid % step === 0
    ? null
    : `A bid lies between ${money(minimumBid)} and ${money(maximumBid)}, in steps of ${money(step)}.`;
}
