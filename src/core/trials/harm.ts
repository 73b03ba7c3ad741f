import normalCdf from '@stdlib/stats-base-dists-normal-cdf';
import normalQuantile from '@stdlib/stats-base-dists-normal-quantile';

/** Whether a trial does harm beyond doubt, looked at every day (domain, section 17). */

/** One day of a trial: orders as known so far, and what was expected of it with what is known of its orders by now. */
export interface TrialDay {
  orders: number;
  expected: number;
}

export interface HarmLook {
  /** Days that were looked at. */
  looks: number;
  /** Orders so far over expected ones; null before anything was expected. */
  ratio: number | null;
  /** Day at which harm was sure, from 1; null while it is not. */
  sureOn: number | null;
}

/** In so many of harmless trials harm may be claimed at all, however often they are looked at. */
export const alpha = 0.05;

/**
 * What of alpha is spent after a part of the planned days, in the way of O'Brien and Fleming (Lan and DeMets, 1983): little
 * at first, all of it at the end.
 * @example spentAlpha(1) // 0.05
 */
export const spentAlpha = (part: number): number =>
  part <= 0
    ? 0
    : Math.min(
        alpha,
        2 - 2 * normalCdf(normalQuantile(1 - alpha / 2, 0, 1) / Math.sqrt(Math.min(1, part)), 0, 1),
      );

/** Orders of days scatter more than Poisson. */
const scatter = 1.3;

/**
 * Looks day by day whether orders are down by more than is borne. Each look spends what alpha has come free since the last:
 * the chance to claim harm that is not there stays below alpha whatever the looks depend on each other (their chances add
 * up at most).
 *
 * @param planned Days that the trial is to last.
 * @param borne Part of the orders that may be lost, 0 to 1.
 * @param doubt Relative standard deviation of what is expected: weeks before and the control tell it badly, too.
 */
export function lookForHarm(
  days: readonly TrialDay[],
  planned: number,
  borne: number,
  doubt: number,
): HarmLook {
  let [orders, expected] = [0, 0];
  let sureOn: number | null = null;
  days.slice(0, planned).forEach((day, at) => {
    orders += day.orders;
    expected += day.expected;
    if (sureOn !== null || expected <= 0) return;
    const bound = (1 - borne) * expected;
    const spread = Math.sqrt(scatter * bound + (bound * doubt) ** 2);
    const share = spentAlpha((at + 1) / planned) - spentAlpha(at / planned);
    if (spread > 0 && normalCdf((orders + 0.5 - bound) / spread, 0, 1) < share) sureOn = at + 1;
  });
  return { looks: Math.min(days.length, planned), ratio: expected > 0 ? orders / expected : null, sureOn };
}
