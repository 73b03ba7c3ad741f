import type { AppearancesAnswer, ConflictsAnswer, CoverageAnswer } from '../../answers/terms.ts';
import type { LineDraft } from '../../core/changes/lines.ts';
import { decisionsOf } from '../account/decisions.queries.ts';
import { limitsOf } from '../account/limits.ts';
import { withComparison } from '../../core/explore/columns.ts';
import { conflictKinds, type Conflict } from '../../core/terms/conflicts.ts';
import type { Window } from '../../core/metrics/days.ts';
import { likenessSentence } from '../../core/terms/likeness.ts';
import { whyNoKeyword } from '../../core/terms/match.ts';
import { normalise } from '../../core/text/normalise.ts';
import { getAccount } from '../account/account.ts';
import { addDrafts, type Accepted } from '../changes/index.ts';
import { openFindingKeys } from '../changes/lines.queries.ts';
import { db } from '../db/connection.ts';
import { ServiceError } from '../errors.ts';
import { editionOf, noFigures } from '../engine/edition.ts';
import { termsEngine } from '../engine/link.ts';

/** Search terms as a whole: what the account would do with any of them, and what is in its own way. */

/** The longest text that is tried: a shopper types no more. */
const longestTerm = 300;

/** What the account would do with a term: what catches it, what blocks it, in which order and why. */
export async function coverageOf(accountId: number, window: Window, text: string): Promise<CoverageAnswer> {
  const term = text.trim();
  if (term === '') throw new ServiceError(422, 'empty_term', 'Type a term to try.', { field: 'term' });
  if (term.length > longestTerm) {
    const message = `The term has ${term.length} characters; ${longestTerm} are the most that are tried.`;
    throw new ServiceError(422, 'long_term', message, { field: 'term' });
  }
  const limits = limitsOf(await getAccount(db(), accountId));
  const isItem = new RegExp(limits.itemCode, 'iu').test(term);
  if (!isItem && normalise(term) === '') {
    const message = 'It has no letter or digit: no keyword and no negative ever matches it.';
    throw new ServiceError(422, 'no_words', message, { field: 'term' });
  }
  const asked = isItem ? term.toUpperCase() : term;
  const answer = await termsEngine().coverage(await editionOf(accountId), withComparison(window), asked);
  if (!answer) throw noFigures();
  return {
    ...answer,
    isItem,
    normal: isItem ? asked : normalise(term),
    whyNoKeyword: isItem ? null : whyNoKeyword(term, limits),
    likeness: answer.likeness.map((one) => ({ ...one, sentence: likenessSentence(one) })),
  };
}

/** A hint of how like a term's words are to what is sold; null where there is nothing to compare. */
export async function likenessOf(accountId: number, window: Window, sku: string | null, term: string) {
  if (sku === null) return null;
  const edition = await editionOf(accountId);
  const likeness = await termsEngine().likenessTo(edition, withComparison(window), sku, term);
  return likeness && { share: likeness.share, sentence: likenessSentence(likeness) };
}

async function allConflicts(accountId: number, window: Window): Promise<Conflict[]> {
  const { itemCode } = limitsOf(await getAccount(db(), accountId));
  const conflicts = await termsEngine().conflicts(
    await editionOf(accountId),
    withComparison(window),
    itemCode,
  );
  if (!conflicts) throw noFigures();
  return conflicts;
}

/** Conflicts that wait for a decision, those that cost most first. Lines are made when one is accepted. */
export async function conflictsOf(accountId: number, window: Window): Promise<ConflictsAnswer> {
  const { today } = await getAccount(db(), accountId);
  const decided = new Set((await decisionsOf(db(), accountId, today!)).map((row) => row.finding_key));
  const onSheet = new Set(await openFindingKeys(db(), accountId));
  const all = await allConflicts(accountId, window);
  return {
    kinds: conflictKinds,
    conflicts: all
      .filter(({ key }) => !decided.has(key) && !onSheet.has(key))
      .map(({ drafts, ...conflict }) => ({ ...conflict, lines: drafts.length })),
    putOff: all.filter(({ key }) => decided.has(key)).length,
    onSheet: all.filter(({ key }) => onSheet.has(key)).length,
  };
}

/** The lines that repair conflicts, by their keys; all of them can be repaired, or it is said which cannot. */
export async function repairsOf(
  accountId: number,
  window: Window,
  keys: readonly string[],
): Promise<Map<string, LineDraft[]>> {
  if (keys.length === 0) return new Map();
  const byKey = new Map((await allConflicts(accountId, window)).map((conflict) => [conflict.key, conflict]));
  const chosen = [...new Set(keys)].map((key) => {
    const conflict = byKey.get(key);
    if (!conflict) {
      const message = 'A conflict is not there any more: the account has changed. Load the list again.';
      throw new ServiceError(409, 'conflict_gone', message, { field: key });
    }
    if (conflict.drafts.length === 0) {
      const message = `“${conflict.subject}” has no repair that could be put onto the sheet.`;
      throw new ServiceError(422, 'no_repair', message, { field: key });
    }
    return conflict;
  });
  return new Map(
    chosen.map(({ key, sentence, drafts }) => [key, drafts.map((draft) => ({ ...draft, reason: sentence }))]),
  );
}

/** Puts the repairs of conflicts onto the sheet, one group each. */
export async function acceptConflicts(accountId: number, window: Window, keys: string[]): Promise<Accepted> {
  const made: Accepted = { groups: [], lines: 0 };
  for (const [key, drafts] of await repairsOf(accountId, window, keys)) {
    const { groups, lines } = await addDrafts(accountId, drafts, 'Mowing', key);
    made.groups.push(...groups);
    made.lines += lines;
  }
  return made;
}

/** Terms that appeared in the window and terms that stopped before it. */
export async function appearancesOf(
  accountId: number,
  window: Window,
  comparison: Window | null,
  sku: string | null,
  most: number,
): Promise<AppearancesAnswer> {
  const windows = withComparison(window, comparison);
  const answer = await termsEngine().appearances(await editionOf(accountId), windows, sku, most);
  if (!answer) throw noFigures();
  return { ...answer, windows };
}
