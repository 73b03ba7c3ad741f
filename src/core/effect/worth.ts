import type { Micros } from '../metrics/money.ts';

/**
 * What a bid going from `from` to `to` is worth a week at the scope's price of money (domain, section 12), micros:
 * c0 (theta RPC (r^e - 1) - e / (e + 1) b0 (r^(e + 1) - 1)), r = to / from. Bids are effective ones, modifiers in.
 * Zero at `from`, never negative toward theta x RPC; about spend x e / 2 x ln(r)^2.
 */
export function worthOfBid(
  clicks: number,
  from: Micros,
  to: Micros,
  revenue: Micros,
  theta: number,
  elasticity: number,
): Micros {
  if (from <= 0) return 0;
  const ratio = to / from;
  const sells = theta * revenue * (ratio ** elasticity - 1);
  const costs = (elasticity / (elasticity + 1)) * from * (ratio ** (elasticity + 1) - 1);
  return clicks * (sells - costs);
}

/**
 * What any other change is worth a week, micros: theta x change of expected sales - change of expected spend.
 * @example worthOfEffect({ sales: 100_000_000, spend: 30_000_000 }, 0.5) // 20_000_000
 */
export const worthOfEffect = (effect: { sales: Micros; spend: Micros }, theta: number): Micros =>
  theta * effect.sales - effect.spend;
