import { margin, type Economics } from '../metrics/figures.ts';
import type { Micros } from '../metrics/money.ts';

/** What a product's order may cost (domain, section 3). Money in micros. */
export interface BreakEven {
  /** Break-even ACOS: the share of price that is left before ads. */
  acos: number;
  /** What an order may cost in ads at most: the profit before ads. */
  costPerOrder: Micros;
  /** The same at a target ACOS. */
  targetCostPerOrder: Micros;
  /** Clicks that an order may take at a CPC before it breaks even, and to meet the target. */
  clicks: number | null;
  targetClicks: number | null;
  /** The part of clicks that must sell for the target: orders per click. */
  conversion: number | null;
}

/**
 * Break-even of a product; null without a price. For example: a price of 20.00 of which 8.00 are left before ads is a
 * break-even ACOS of 40 %; at 0.50 a click an order may take 16 clicks, at a target of 25 % 10 clicks.
 */
export function breakEven(product: Economics, targetAcos: number, cpc: Micros): BreakEven | null {
  const acos = margin(product);
  if (acos === null) return null;
  const [costPerOrder, targetCostPerOrder] = [acos * product.price, targetAcos * product.price];
  const clicksOf = (cost: Micros) => (cpc > 0 ? Math.max(0, cost) / cpc : null);
  return {
    acos,
    costPerOrder,
    targetCostPerOrder,
    clicks: clicksOf(costPerOrder),
    targetClicks: clicksOf(targetCostPerOrder),
    conversion: targetCostPerOrder > 0 ? cpc / targetCostPerOrder : null,
  };
}
