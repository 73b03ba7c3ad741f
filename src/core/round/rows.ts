import type { SumsColumns, EvidenceColumns, Objects, Pairs } from '../account/store.ts';
import { type LaneColumns, type LaneCounts, termPlaces, type TermRow, evidenceAt } from '../account/rows.ts';
import type { TermsInput } from './types.ts';
import { isQuiet } from './terms.ts';
import type { QuietTerms } from '../evidence/pooling.ts';
import { noSiblings, addTally } from '../evidence/siblings.ts';

/** What terms are judged by, a column each, by pair. */
export interface TermFigures {
  sums: SumsColumns;
  highestCpc: Float64Array | null;
  evidence: EvidenceColumns;
  /** Null where all lanes count over all days of evidence. */
  lanes: LaneColumns | null;
}

const countsAt = (lanes: LaneColumns, row: number): LaneCounts => ({
  keywordClicks: lanes.keywordClicks[row]!,
  keywordOrders: lanes.keywordOrders[row]!,
  itemClicks: lanes.itemClicks[row]!,
  itemOrders: lanes.itemOrders[row]!,
});

/** Terms that may become a finding, target by target; all others summed by ad group as siblings. */
export function termRows(
  objects: Objects,
  pairs: Pairs,
  { sums, highestCpc, evidence, lanes }: TermFigures,
): TermsInput {
  const { targets, adGroups } = objects;
  const { n, y, seen } = evidence;
  const places = termPlaces(objects, pairs);
  const grouped = (column: Float64Array): Float64Array => {
    const into = new Float64Array(places.count);
    for (let row = 0; row < places.of.length; row++) into[places.of[row]!]! += column[row]!;
    return into;
  };
  const clicks = grouped(sums.clicks);
  const seenClicks = grouped(seen.clicks);
  const seenOrders = grouped(seen.orders);
  /** Caught by an exact keyword or an item target only: there is nothing to harvest or to block. */
  const performs = new Uint8Array(places.count).fill(1);
  /** Seen within the days of evidence at all, and by which ad group. */
  const adGroupOf = new Int32Array(places.count).fill(-1);
  const single = Uint8Array.from(targets, ({ kind, matchType }) =>
    kind === 'item' || matchType === 'exact' ? 1 : 0,
  );
  for (let row = 0; row < places.of.length; row++) {
    const place = places.of[row]!;
    if (seen.impressions[row] === 0 && seen.clicks[row] === 0 && sums.impressions[row] === 0) continue;
    adGroupOf[place] = targets[pairs.target[row]!]!.adGroup;
    if (single[pairs.target[row]!] === 0) performs[place] = 0;
  }
  const quiet = Uint8Array.from({ length: places.count }, (_, place) =>
    performs[place] === 1 ||
    isQuiet({ clicks: clicks[place]!, seenClicks: seenClicks[place]!, seenOrders: seenOrders[place]! })
      ? 1
      : 0,
  );
  const quietTerms = new Map<string, QuietTerms>();
  const [sumN, sumY, sumSales] = [grouped(n), grouped(y), grouped(seen.sales)];
  for (let place = 0; place < places.count; place++) {
    if (quiet[place] === 0 || places.archived[place] === 1 || adGroupOf[place]! < 0) continue;
    const { id } = adGroups[adGroupOf[place]!]!;
    let known = quietTerms.get(id);
    if (!known) quietTerms.set(id, (known = { terms: 0, siblings: noSiblings(), orders: 0, sales: 0 }));
    known.terms++;
    known.orders += seenOrders[place]!;
    known.sales += sumSales[place]!;
    if (seenClicks[place] === 0) continue;
    known.siblings.n += sumN[place]!;
    known.siblings.y += sumY[place]!;
    addTally(known.siblings, seenClicks[place]!, seenOrders[place]!, 1);
  }
  const terms: TermRow[] = [];
  for (let row = 0; row < places.of.length; row++) {
    const place = places.of[row]!;
    if (quiet[place] === 1 || places.archived[place] === 1) continue;
    if (seen.clicks[row] === 0 && sums.impressions[row] === 0 && seen.impressions[row] === 0) continue;
    terms.push({
      targetId: targets[pairs.target[row]!]!.id,
      term: pairs.texts[pairs.term[row]!]!,
      ...evidenceAt(row, sums, evidence, highestCpc),
      laneCounts: lanes && countsAt(lanes, row),
    });
  }
  return { terms, quietTerms };
}
