import { addDays, daysBetween, windowEnding, type Day } from '../../core/metrics/days.ts';
import { maturity } from '../../core/metrics/maturity.ts';
import type { IdleSums, IdleSpan } from '../../answers/idle.ts';
import type { LoadedAccount } from './load.ts';
import type { BlockSumsOf } from './days.ts';

/** Days that a row without a change of its bid is looked at. */
const longest = 90;

/**
 * Clicks, spend and orders of each row over a span of settled days, or, for `change`, since its target's bid was changed.
 * `weighted`: clicks by how much of their orders is known.
 */
export async function idleSums(
  account: LoadedAccount,
  of: BlockSumsOf,
  span: IdleSpan,
  curve: readonly number[],
): Promise<IdleSums> {
  const { objects, today, settledTo } = account;
  const count = account.countOf(of);
  const sums: IdleSums = {
    clicks: new Float64Array(count),
    spend: new Float64Array(count),
    orders: new Float64Array(count),
    weighted: new Float64Array(count),
  };
  // What came since a change is young by its nature: all days count, each by what is known of its orders.
  const end = span === 'change' ? today : (settledTo ?? today);
  const window = windowEnding(end, span === 'change' ? longest : span);
  const since = (at: number): Day => {
    if (span !== 'change') return window.from;
    const target = of === 'targets' ? at : account.pairs!.target[at]!;
    const changed = objects.targets[target]!.changedOn;
    return changed !== null && changed >= window.from ? addDays(changed, 1) : window.from;
  };
  const from = Array.from({ length: count }, (_, at) => since(at));
  for await (const { block, places } of account.rows(of, window)) {
    const ripe = maturity(curve, daysBetween(block.day, today));
    places.forEach((at, row) => {
      if (at < 0 || block.day < from[at]!) return;
      sums.clicks[at]! += block.clicks[row]!;
      sums.spend[at]! += block.spend[row]!;
      sums.orders[at]! += block.orders[row]!;
      sums.weighted[at]! += block.clicks[row]! * ripe;
    });
  }
  return sums;
}
