import { elasticityOver, type Response } from './response.ts';
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

/** Parts of the way along which clicks are read. */
const parts = 16;

/**
 * The same where elasticity falls along the bid (`Response`): each click that is won or given up costs what the last bid for
 * it was, w (C(to) - C(from)) less the integral of b dC(b) between them, w = theta x RPC. Highest at `to` = w.
 */
export function worthAlong(
  clicks: number,
  from: Micros,
  to: Micros,
  revenue: Micros,
  theta: number,
  response: Response,
): Micros {
  if (from <= 0 || to === from) return 0;
  const worth = theta * revenue;
  const clicksAt = (ratio: number): number =>
    ratio <= 0 ? 0 : clicks * ratio ** elasticityOver(response, ratio);
  const last = to / from;
  const step = (last - 1) / parts;
  let area = 0;
  for (let at = 0; at <= parts; at++)
    area += (at === 0 || at === parts ? 1 : at % 2 === 1 ? 4 : 2) * clicksAt(1 + at * step);
  return (worth - to) * clicksAt(last) - (worth - from) * clicks + (from * area * step) / 3;
}

/**
 * What any other change is worth a week, micros: theta x change of expected sales - change of expected spend.
 * @example worthOfEffect({ sales: 100_000_000, spend: 30_000_000 }, 0.5) // 20_000_000
 */
export const worthOfEffect = (effect: { sales: Micros; spend: Micros }, theta: number): Micros =>
  theta * effect.sales - effect.spend;
