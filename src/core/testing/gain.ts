import type { Gamma } from '../evidence/gamma.ts';

/** Of the chances of a number of orders, what is left out at their end. */
const tail = 1e-9;
/** More orders than this are not gone through; the sum ends by its tail long before, save where a click brings many orders. */
const mostOrders = 100_000;

/**
 * What knowing more would be worth: the expectation, over the orders that `clicks` more clicks may bring, of the worth of
 * doing the best with the belief they leave, over the worth of doing the best with the present one (the knowledge
 * gradient; Frazier, Powell, Dayanik 2008). Orders of m clicks under a Gamma(a, b) are negative binomial: P(0) =
 * (b / (b + m))^a, P(k + 1) = P(k) (a + k) / (k + 1) m / (b + m), and leave Gamma(a + k, b + m). Never below nothing.
 *
 * `best`: worth a week of doing the best, by orders per click; where it is straight, nothing is to be learned.
 * @example gainOfKnowing({ shape: 1, rate: 10 }, 10, (rate) => 10 * rate) // 0
 */
export function gainOfKnowing(
  { shape, rate }: Gamma,
  clicks: number,
  best: (ordersPerClick: number) => number,
): number {
  if (clicks <= 0) return 0;
  const rateAfter = rate + clicks;
  const share = clicks / rateAfter;
  let chance = (rate / rateAfter) ** shape;
  let [seen, expected] = [0, 0];
  for (let orders = 0; orders < mostOrders && seen < 1 - tail; orders++) {
    expected += chance * best((shape + orders) / rateAfter);
    seen += chance;
    chance *= ((shape + orders) / (orders + 1)) * share;
  }
  // What was left out is taken for as good as what was gone through.
  return seen > 0 ? Math.max(0, expected / seen - best(shape / rate)) : 0;
}
