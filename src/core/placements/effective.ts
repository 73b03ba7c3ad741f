import type { Micros } from '../metrics/money.ts';

/** What one click may cost at most (domain, section 8): bid x (1 + modifier) x schedule x what the strategy may add. */

/** Up and down may double a bid; the others never raise it. */
const mostOfStrategy: Readonly<Record<string, number>> = { up_and_down: 2 };

/** By how much a strategy may raise a bid. */
export const strategyFactor = (strategy: string | null): number => mostOfStrategy[strategy ?? ''] ?? 1;

/**
 * Micros, in whole cents as money is shown. `modifier` in per cent; `scheduled`: by how much the schedule may raise a bid
 * (`scheduleFactor`).
 * @example effectiveBid(1_000_000, 50, 'fixed') // 1_500_000
 * @example effectiveBid(1_000_000, 50, 'up_and_down') // 3_000_000
 * @example effectiveBid(1_000_000, 50, 'fixed', 1.2) // 1_800_000
 */
export const effectiveBid = (bid: Micros, modifier: number, strategy: string | null, scheduled = 1): Micros =>
  Math.round(bid * (1 + modifier / 100) * strategyFactor(strategy) * scheduled);

/** Beyond this many times its bid what a click may cost is hardly meant: it is asked. */
export const unusualFactor = 2;

/** On a sheet it is asked only where a click may cost this many times what it may already: one step of a bid is meant. */
export const unusualStep = 1.25;

/**
 * Placements where a click may cost more than twice the bid as it is now, and more than it may already. `beta`: factor on
 * the bid; modifiers in per cent; `scheduled` as above.
 */
export const unusual = (
  modifiers: readonly { placement: string; from: number; to: number }[],
  strategy: string | null,
  beta = 1,
  scheduled = 1,
): string[] => {
  const most = (modifier: number) => (1 + modifier / 100) * strategyFactor(strategy) * scheduled;
  return modifiers
    .filter(({ from, to }) => beta * most(to) > unusualFactor && beta * most(to) > most(from) * 1.005)
    .map(({ placement }) => placement);
};

/**
 * The equivalent pair with the least modifiers: what all placements are raised by goes into the bids. `beta`: factor on
 * bids. Bids in placements stay what they were but for rounding.
 * @example normalised({ top: 100, rest: 50 }) // { beta: 1.5, modifiers: { top: 33, rest: 0 } }
 */
export function normalised(modifiers: Readonly<Record<string, number>>): {
  beta: number;
  modifiers: Record<string, number>;
} {
  const all = Object.values(modifiers);
  const beta = all.length === 0 ? 1 : 1 + Math.min(...all) / 100;
  return {
    beta,
    modifiers: Object.fromEntries(
      Object.entries(modifiers).map(([name, modifier]) => [
        name,
        Math.round(((1 + modifier / 100) / beta - 1) * 100),
      ]),
    ),
  };
}
