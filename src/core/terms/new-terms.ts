import type { Day, Window } from '../metrics/days.ts';
import type { Micros } from '../metrics/money.ts';
import type { Objects, Pairs, SumsColumns } from '../account/store.ts';

/** A term that appeared for the first time in the window, or that stopped before it. */
export interface ChangedTerm {
  term: string;
  /** First day ever for a new one, last day for one that stopped. */
  day: Day;
  /** Sums of the window for a new one, of the comparison for one that stopped. */
  impressions: number;
  clicks: number;
  spend: Micros;
  orders: number;
  sales: Micros;
  /** Where it was caught, most clicks first. */
  adGroup: string;
  target: string;
  sku: string | null;
}

export interface Appearances {
  fresh: ChangedTerm[];
  stopped: ChangedTerm[];
  /** What all terms did in the window, and in the comparison: what shares are of. */
  window: { terms: number; spend: Micros; orders: number };
  before: { terms: number; spend: Micros; orders: number };
}

export interface AppearanceGround {
  objects: Objects;
  pairs: Pairs;
  window: SumsColumns;
  comparison: SumsColumns;
}

/**
 * Terms that were never seen before the window, and terms of the comparison that the window has not seen. What was
 * only seen, and not clicked, is new or gone all the same.
 */
export function appearances(
  ground: AppearanceGround,
  { from }: Window,
  counts: (adGroup: number) => boolean,
): Appearances {
  const { objects, pairs, window, comparison } = ground;
  const first = new Map<number, Day>();
  const last = new Map<number, Day>();
  const now = new Map<number, number[]>();
  const before = new Map<number, number[]>();
  const note = (map: Map<number, number[]>, term: number, row: number) => {
    const known = map.get(term);
    if (known) known.push(row);
    else map.set(term, [row]);
  };
  for (let row = 0; row < pairs.target.length; row++) {
    if (!counts(objects.targets[pairs.target[row]!]!.adGroup)) continue;
    const term = pairs.term[row]!;
    const [seen, gone] = [pairs.firstSeen[row], pairs.lastSeen[row]];
    // A summary tells no days: its terms are neither new nor gone.
    if (seen !== undefined && !(first.get(term)! <= seen)) first.set(term, seen);
    if (gone !== undefined && !(last.get(term)! >= gone)) last.set(term, gone);
    if (window.impressions[row]! > 0 || window.clicks[row]! > 0) note(now, term, row);
    if (comparison.impressions[row]! > 0 || comparison.clicks[row]! > 0) note(before, term, row);
  }
  const line = (term: number, rows: number[], sums: SumsColumns, day: Day): ChangedTerm => {
    const most = rows.reduce((a, b) => (sums.clicks[b]! > sums.clicks[a]! ? b : a));
    const target = objects.targets[pairs.target[most]!]!;
    const total = (name: 'impressions' | 'clicks' | 'spend' | 'orders' | 'sales') =>
      rows.reduce((sum, row) => sum + sums[name][row]!, 0);
    return {
      term: pairs.texts[term]!,
      day,
      impressions: total('impressions'),
      clicks: total('clicks'),
      spend: total('spend'),
      orders: total('orders'),
      sales: total('sales'),
      adGroup: objects.adGroups[target.adGroup]!.name,
      target: target.matchType ? `${target.matchType} · ${target.expression}` : target.expression,
      sku: objects.adGroups[target.adGroup]!.sku,
    };
  };
  const fresh = [...now]
    .filter(([term]) => (first.get(term) ?? '') >= from)
    .map(([term, rows]) => line(term, rows, window, first.get(term)!));
  const stopped = [...before]
    .filter(([term]) => !now.has(term) && last.has(term))
    .map(([term, rows]) => line(term, rows, comparison, last.get(term)!));
  const bySpend = (a: ChangedTerm, b: ChangedTerm) =>
    b.spend - a.spend || b.clicks - a.clicks || (a.term < b.term ? -1 : 1);
  const whole = (map: Map<number, number[]>, sums: SumsColumns) => {
    const all = { terms: map.size, spend: 0, orders: 0 };
    for (const rows of map.values()) {
      for (const row of rows) {
        all.spend += sums.spend[row]!;
        all.orders += sums.orders[row]!;
      }
    }
    return all;
  };
  return {
    fresh: fresh.sort(bySpend),
    stopped: stopped.sort(bySpend),
    window: whole(now, window),
    before: whole(before, comparison),
  };
}
