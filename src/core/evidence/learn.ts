import { checkModel, learnDrift, type Check, type CheckedRow } from './check.ts';
import { posterior } from './prior.ts';
import { valuePerOrder } from './value.ts';
import { learnTau, numberWords, wordEffects, type HeldOutRow, type LearnedWords } from './words.ts';
import { wordsOf } from '../text/normalise.ts';
import type { EvidenceColumns, FrameSums, Pairs, SumsColumns } from '../account/store.ts';
import type { Judging } from './beliefs.ts';

/** Days held out: the model is fit to what was before them, and judged on them. */
export const heldOutDays = 30;

/**
 * Drift and grades of the targets: beliefs as of before the days held out, against those days; on both sides without
 * what a negative keeps away by now.
 */
export function gradeTargets(
  before: Judging,
  evidence: EvidenceColumns,
  after: SumsColumns,
): { drift: number; check: Check | null } {
  const rows: CheckedRow[] = [];
  for (let row = 0; row < evidence.n.length; row++) {
    const clicks = after.clicks[row]!;
    if (clicks <= 0) continue;
    const { prior, value } = before.siblings('targets', row);
    rows.push({
      gamma: posterior(prior, evidence.n[row]!, evidence.y[row]!),
      clicks,
      orders: after.orders[row]!,
      spend: after.spend[row]!,
      value: valuePerOrder(value, evidence.seen.sales[row]!, evidence.seen.orders[row]!),
      targetAcos: before.goalAt('targets', row).targetAcos,
    });
  }
  const drift = learnDrift(rows);
  return { drift, check: checkModel(rows, drift) };
}

/** What words tell of terms, learned where it helps: effects by word, empty where it does not. */
export function learnWords(
  before: Judging,
  evidenceBefore: EvidenceColumns,
  after: FrameSums,
  now: Judging,
  evidenceNow: EvidenceColumns,
  pairs: Pairs,
  isItem: (text: string) => boolean,
): { about: (LearnedWords & { count: number }) | null; effects: Map<string, number> } {
  // Texts stand under the number of their term: there are gaps.
  const texts = Array.from(pairs.texts, (text: string | undefined) => (!text || isItem(text) ? '' : text));
  const terms = numberWords(texts, wordsOf);
  const rows = (table: Judging, { n, y, seen }: EvidenceColumns, then: FrameSums | null): HeldOutRow[] => {
    const made: HeldOutRow[] = [];
    for (let row = 0; row < n.length; row++) {
      const clicks = seen.clicks[row]!;
      const since = then?.pairs ? { clicks: then.pairs.clicks[row]!, orders: then.pairs.orders[row]! } : none;
      if (clicks <= 0 && since.clicks <= 0) continue;
      const { prior } = table.siblings('terms', row);
      made.push({
        term: pairs.term[row]!,
        clicks,
        orders: seen.orders[row]!,
        prior,
        n: n[row]!,
        y: y[row]!,
        after: since,
      });
    }
    return made;
  };
  const about = learnTau(terms, rows(before, evidenceBefore, after));
  if (!about?.used) return { about: about && { ...about, count: 0 }, effects: new Map() };
  const beta = wordEffects(terms, rows(now, evidenceNow, null), about.tau);
  const effects = new Map<string, number>();
  terms.words.forEach((word, i) => {
    // A factor of less than one per cent is nothing to keep.
    if (Math.abs(beta[i]!) >= 0.01) effects.set(word, beta[i]!);
  });
  return { about: { ...about, count: effects.size }, effects };
}

const none = { clicks: 0, orders: 0 };
