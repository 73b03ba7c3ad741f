import { termFigures, type TermFigures } from './words.ts';
import type { EvidenceColumns, Objects, Pairs, SumsColumns } from '../account/store.ts';
import type { Judging } from '../evidence/beliefs.ts';

/** What sums over search terms are made of: the table, and of its pairs the window and the evidence. */
export interface TermGround {
  table: Judging;
  objects: Objects;
  pairs: Pairs;
  /** Sums of the pairs over the window. */
  window: SumsColumns;
  evidence: EvidenceColumns;
}

/** Terms with their sums over all places that caught them. */
export interface SummedTerms {
  texts: string[];
  /** Numbers of the terms, in the order of their texts. */
  ids: Int32Array;
  figures: TermFigures;
}

/** Rows of the pairs by what their ad groups advertise: one look at a large account instead of one a product. */
export function rowsByProduct({
  objects,
  pairs,
}: Pick<TermGround, 'objects' | 'pairs'>): Map<string | null, number[]> {
  const rows = new Map<string | null, number[]>();
  for (let row = 0; row < pairs.target.length; row++) {
    const { sku } = objects.adGroups[objects.targets[pairs.target[row]!]!.adGroup]!;
    const known = rows.get(sku);
    if (known) known.push(row);
    else rows.set(sku, [row]);
  }
  return rows;
}

/**
 * Sums each term over the ad groups that count, those of one product, say, and over the rows that are not left out.
 * Item codes are left out: they are no words.
 */
export function sumTerms(
  ground: TermGround,
  counts: (adGroup: number) => boolean,
  itemCode: RegExp,
  isOut: (row: number) => boolean = () => false,
): SummedTerms & { out: number } {
  const { objects, pairs } = ground;
  const adGroupOf = adGroupsOf(objects);
  const inside = Uint8Array.from(adGroupOf, (adGroup) => (counts(adGroup) ? 1 : 0));
  const rows: number[] = [];
  let out = 0;
  for (let row = 0; row < pairs.target.length; row++) {
    if (inside[pairs.target[row]!] !== 1) continue;
    if (isOut(row)) out++;
    else rows.push(row);
  }
  return { ...sumTermsOf(ground, rows, itemCode), out };
}

const adGroupsByTarget = new WeakMap<Objects, Int32Array>();

/** Ad groups by target as plain numbers, laid out once: sums are asked for product by product. */
function adGroupsOf(objects: Objects): Int32Array {
  let known = adGroupsByTarget.get(objects);
  if (!known) {
    known = Int32Array.from(objects.targets, ({ adGroup }) => adGroup);
    adGroupsByTarget.set(objects, known);
  }
  return known;
}

/** The same of these rows of the pairs. */
export function sumTermsOf(ground: TermGround, rows: readonly number[], itemCode: RegExp): SummedTerms {
  const { pairs } = ground;
  const isItem = (text: string) => !text.includes(' ') && itemCode.test(text);
  // Place among the sums by term; -2: seen, and no words.
  const at = new Map<number, number>();
  const ids: number[] = [];
  const places = new Int32Array(rows.length);
  rows.forEach((row, i) => {
    const term = pairs.term[row]!;
    let place = at.get(term);
    if (place === undefined) {
      place = isItem(pairs.texts[term]!) ? -2 : ids.push(term) - 1;
      at.set(term, place);
    }
    places[i] = place;
  });
  const figures = termFigures(ids.length);
  addRows(ground, rows, places, figures);
  return { texts: ids.map((term) => pairs.texts[term]!), ids: Int32Array.from(ids), figures };
}

/** The hot loop: what siblings say is the same for all rows of an ad group, and read once. */
function addRows(
  { table, objects, pairs, window, evidence }: TermGround,
  rows: readonly number[],
  places: Int32Array,
  figures: TermFigures,
): void {
  const adGroupOf = adGroupsOf(objects);
  const known = new Map<number, { mu: number; value: number; goal: number; theta: number }>();
  for (let i = 0; i < places.length; i++) {
    const at = places[i]!;
    if (at < 0) continue;
    const row = rows[i]!;
    figures.impressions[at]! += window.impressions[row]!;
    figures.clicks[at]! += window.clicks[row]!;
    figures.spend[at]! += window.spend[row]!;
    figures.orders[at]! += window.orders[row]!;
    figures.sales[at]! += window.sales[row]!;
    const n = evidence.n[row]!;
    figures.n[at]! += n;
    figures.y[at]! += evidence.y[row]!;
    figures.seenClicks[at]! += evidence.seen.clicks[row]!;
    figures.seenOrders[at]! += evidence.seen.orders[row]!;
    figures.seenSales[at]! += evidence.seen.sales[row]!;
    figures.seenSpend[at]! += evidence.seen.spend[row]!;
    if (n === 0) continue;
    const adGroup = adGroupOf[pairs.target[row]!]!;
    let usual = known.get(adGroup);
    if (!usual) {
      const { prior, value } = table.siblings('terms', row);
      const { targetAcos, theta } = table.goalAt('terms', row);
      usual = { mu: prior.mu, value: value.mean, goal: targetAcos, theta };
      known.set(adGroup, usual);
    }
    figures.expected[at]! += n * usual.mu;
    figures.goals[at]! += n * usual.goal;
    figures.thetas[at]! += n * usual.theta;
    figures.values[at]! += n * usual.value;
  }
}
