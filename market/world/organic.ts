import type { Memory, Setting } from './day.ts';
import type { Random } from './random.ts';
import { poisson } from './rhythm.ts';
import type { Query } from './shoppers.ts';
import type { ProductSum } from './sums.ts';

/**
 * The day's visitors and orders that no ad brought: a product's standing for a query brings them, and follows what was
 * sold. Takes from the stock, moves the standing (both in the memory). `wonFrom`: orders from ads by "product:query".
 */
export function organicDay(
  { scenario, demand }: Setting,
  memory: Memory,
  volume: number,
  wonFrom: Record<string, number>,
  buys: (query: Query, product: number) => boolean,
  random: Random,
): ProductSum[] {
  const { products } = scenario;
  const sums = products.map(({ sku }) => ({
    sku,
    sessions: 0,
    organicOrders: 0,
    organicUnits: 0,
    organicSales: 0,
  }));
  const head = demand.queries.slice(0, 600);
  const total = demand.cumulative[demand.cumulative.length - 1]!;
  for (const query of head) {
    const searched = (scenario.searchesPerDay * volume * query.popularity) / total;
    for (let p = 0; p < products.length; p++) {
      if (query.click[p]! < 0.004) continue;
      const key = `${p}:${query.text}`;
      const before = memory.organic[key] ?? 0.15;
      const visitors = poisson(searched * 0.3 * before ** 1.2, random);
      const sum = sums[p]!;
      let won = wonFrom[key] ?? 0;
      sum.sessions += visitors;
      for (let v = 0; v < visitors; v++) {
        if (!buys(query, p)) continue;
        memory.stock[p]!--;
        sum.organicOrders++;
        sum.organicUnits++;
        sum.organicSales += products[p]!.price;
        won += 0.5;
      }
      memory.organic[key] = Math.round((0.97 * before + 0.03 * Math.min(1, 0.1 + won)) * 1e4) / 1e4;
    }
  }
  return sums;
}
