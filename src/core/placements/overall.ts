import { addSums, noSums, type Sums } from '../metrics/figures.ts';
import { eighty } from '../effect/forecast.ts';
import type { PlacedRow } from './findings.ts';
import { byPlacement } from './names.ts';

/** Placements over many campaigns: side by side, for all of them or by what they have in common. */

export interface OverallPlacement {
  placement: string;
  sums: Sums;
  /** Of the group's spend and sales; 0 where there is none. */
  spendShare: number;
  salesShare: number;
  /** Its orders per click over its campaigns' own means, weighted by their clicks; 1 on the mean. */
  factor: number;
  /** Standard deviation of its natural logarithm. */
  spread: number;
}

export interface OverallGroup {
  key: string;
  campaigns: number;
  placements: OverallPlacement[];
  /** Where a click sells best, its 80 % interval above all others; null where none stands out. */
  best: string | null;
}

/** Campaigns by a key (the strategy, the product, nothing), their placements summed; most spend first. */
export function overall(rows: readonly PlacedRow[], keyOf: (row: PlacedRow) => string): OverallGroup[] {
  const groups = new Map<string, PlacedRow[]>();
  for (const row of rows) {
    const key = keyOf(row);
    const known = groups.get(key);
    if (known) known.push(row);
    else groups.set(key, [row]);
  }
  const spendOf = ({ placements }: OverallGroup) => placements.reduce((sum, { sums }) => sum + sums.spend, 0);
  return [...groups]
    .map(([key, members]) => groupOf(key, members))
    .sort((a, b) => spendOf(b) - spendOf(a) || (a.key < b.key ? -1 : 1));
}

function groupOf(key: string, members: readonly PlacedRow[]): OverallGroup {
  const found = new Map<string, { sums: Sums; clicks: number; factor: number; variance: number }>();
  for (const { placements } of members)
    for (const { placement, sums, seenClicks, factor, spread } of placements) {
      const one = found.get(placement) ?? { sums: noSums, clicks: 0, factor: 0, variance: 0 };
      found.set(placement, {
        sums: addSums(one.sums, sums),
        clicks: one.clicks + seenClicks,
        factor: one.factor + seenClicks * factor,
        variance: one.variance + (seenClicks * factor * spread) ** 2,
      });
    }
  const of = (name: 'spend' | 'sales') => [...found.values()].reduce((sum, { sums }) => sum + sums[name], 0);
  const [spend, sales] = [of('spend'), of('sales')];
  const placements = [...found]
    .map(([placement, one]): OverallPlacement => ({
      placement,
      sums: one.sums,
      spendShare: spend > 0 ? one.sums.spend / spend : 0,
      salesShare: sales > 0 ? one.sums.sales / sales : 0,
      factor: one.clicks > 0 ? one.factor / one.clicks : 1,
      spread: one.factor > 0 ? Math.sqrt(one.variance) / one.factor : 1,
    }))
    .sort((a, b) => byPlacement(a.placement, b.placement));
  return { key, campaigns: members.length, placements, best: bestOf(placements) };
}

/** The placement that surely sells best: its interval lies above the middles of all others. */
function bestOf(placements: readonly OverallPlacement[]): string | null {
  if (placements.length < 2) return null;
  const best = placements.reduce((a, b) => (b.factor > a.factor ? b : a));
  const low = best.factor * Math.exp(-eighty * best.spread);
  return placements.every((one) => one === best || one.factor < low) ? best.placement : null;
}
