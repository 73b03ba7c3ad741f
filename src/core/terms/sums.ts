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

/** Sums each term over the ad groups that count: those of one product, say. Item codes are left out: they are no words. */
export function sumTerms(
  { table, objects, pairs, window, evidence }: TermGround,
  counts: (adGroup: number) => boolean,
  itemCode: RegExp,
): SummedTerms {
  const isItem = (text: string) => !text.includes(' ') && itemCode.test(text);
  const at = new Int32Array(pairs.texts.length).fill(-1);
  const ids: number[] = [];
  // Ad groups by target as plain numbers: a million visits to objects cost more than all the rest.
  const adGroupOf = Int32Array.from(objects.targets, ({ adGroup }) => adGroup);
  const inside = Uint8Array.from(adGroupOf, (adGroup) => (counts(adGroup) ? 1 : 0));
  const rowAt = new Int32Array(pairs.target.length).fill(-1);
  for (let row = 0; row < pairs.target.length; row++) {
    if (inside[pairs.target[row]!] === 0) continue;
    const term = pairs.term[row]!;
    // -2: seen, and no words.
    if (at[term] === -1) at[term] = isItem(pairs.texts[term]!) ? -2 : ids.push(term) - 1;
    rowAt[row] = at[term]!;
  }
  const figures = termFigures(ids.length);
  addRows({ table, pairs, window, evidence }, adGroupOf, rowAt, figures);
  return { texts: ids.map((term) => pairs.texts[term]!), ids: Int32Array.from(ids), figures };
}

/** The hot loop: what siblings say is the same for all rows of an ad group, and read once. */
function addRows(
  { table, pairs, window, evidence }: Omit<TermGround, 'objects'>,
  adGroupOf: Int32Array,
  rowAt: Int32Array,
  figures: TermFigures,
): void {
  const known = new Map<number, { mu: number; value: number; goal: number; theta: number }>();
  for (let row = 0; row < rowAt.length; row++) {
    const at = rowAt[row]!;
    if (at < 0) continue;
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
      usual = { mu: prior.mu, value, goal: targetAcos, theta };
      known.set(adGroup, usual);
    }
    figures.expected[at]! += n * usual.mu;
    figures.goals[at]! += n * usual.goal;
    figures.thetas[at]! += n * usual.theta;
    figures.values[at]! += n * usual.value;
  }
}
