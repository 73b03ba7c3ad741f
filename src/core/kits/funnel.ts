import type { NegativeType } from '../account/store.ts';
import { normalise } from '../text/normalise.ts';
import type { PartKind } from './recipe.ts';
import { partKindOf } from './running.ts';
import type { NegativeList, Plan, PlannedNegative, PlannedPart, PlannedTarget } from './types.ts';

/** What keeps the parts of a kit apart, so that every term is served in one place only (domain, section 15). */

/** Parts that serve more precisely come first (domain, section 15). */
const precision: Record<PartKind, number> = {
  exact: 0,
  items: 0,
  phrase: 1,
  broad: 2,
  category: 3,
  automatic: 3,
};

/** Whether a part is shown for words that are searched. */
const byWords = (kind: PartKind): boolean => kind !== 'items' && kind !== 'category';

/** What a target of one part is kept out by in a less precise one; null: the two never meet. */
function shutOut(target: PlannedTarget, from: PartKind, to: PartKind): NegativeType | null {
  if (precision[from] >= precision[to]) return null;
  if (target.targetKind === 'item') return to === 'automatic' || to === 'category' ? 'negative_item' : null;
  if (target.targetKind !== 'keyword' || !byWords(to)) return null;
  if (from === 'exact') return 'negative_exact';
  if (from === 'phrase') return to === 'broad' ? 'negative_phrase' : 'negative_exact';
  return to === 'automatic' ? 'negative_exact' : null;
}

/** What a part serves: what stands in it and what it gets. */
const served = ({ stands, targets, archives }: PlannedPart): PlannedTarget[] => {
  const gone = new Set(archives.map(({ target }) => target.targetId));
  const standing = (stands?.targets ?? []).flatMap((target): PlannedTarget[] =>
    gone.has(target.targetId) || target.status !== 'enabled'
      ? []
      : [
          {
            targetKind: target.kind,
            matchType: target.matchType as PlannedTarget['matchType'],
            expression: target.expression,
            bid: target.bid ?? 0,
            why: '',
          },
        ],
  );
  return [...standing, ...targets];
};

const negativeKey = ({ matchType, expression }: Pick<PlannedNegative, 'matchType' | 'expression'>): string =>
  `${matchType}\t${normalise(expression)}`;

/** What no part is shown for: phrases of the kit, and lists of the account. */
interface Excluded {
  excluded: readonly string[];
  lists: readonly NegativeList[];
}
const nothing: Excluded = { excluded: [], lists: [] };

/** What one part is kept out of: what more precise parts serve, and what the whole kit excludes. */
function keptOut(
  { part: to }: PlannedPart,
  parts: readonly PlannedPart[],
  { excluded, lists }: Excluded,
): PlannedNegative[] {
  const found = new Map<string, PlannedNegative>();
  const add = (matchType: NegativeType, expression: string, servedBy: string | null, list?: string) => {
    const negative = { matchType, expression, servedBy, ...(list === undefined ? {} : { list }) };
    const key = negativeKey(negative);
    if (!found.has(key)) found.set(key, negative);
  };
  if (byWords(to.kind))
    for (const text of excluded) if (normalise(text) !== '') add('negative_phrase', text, null);
  for (const { name, entries } of lists)
    for (const { matchType, expression } of entries) {
      const isItem = matchType === 'negative_item';
      const meets = isItem ? to.kind === 'automatic' || to.kind === 'category' : byWords(to.kind);
      if (meets) add(matchType, expression, null, name);
    }
  for (const one of parts) {
    if (one.part === to) continue;
    for (const target of served(one)) {
      const kind = partKindOf({ kind: target.targetKind, matchType: target.matchType });
      const matchType = kind === null ? null : shutOut(target, kind, to.kind);
      if (matchType) add(matchType, target.expression, one.part.name);
    }
  }
  return [...found.values()];
}

/** Negatives that a part needs and has not yet. */
export function negativesOf(
  one: PlannedPart,
  parts: readonly PlannedPart[],
  excluded: Excluded,
): PlannedNegative[] {
  const there = new Set((one.stands?.negatives ?? []).map(negativeKey));
  return keptOut(one, parts, excluded).filter((negative) => !there.has(negativeKey(negative)));
}

/** Who shuts whom out of how much: pairs of parts, for the picture of the funnel. */
export function funnelOf({ parts }: Plan): { from: string; to: string; terms: number }[] {
  const pairs: { from: string; to: string; terms: number }[] = [];
  for (const one of parts) {
    const { part: to } = one;
    const counts = new Map<string, number>();
    for (const { servedBy } of keptOut(one, parts, nothing))
      if (servedBy !== null) counts.set(servedBy, (counts.get(servedBy) ?? 0) + 1);
    for (const [from, terms] of counts) pairs.push({ from, to: to.name, terms });
  }
  return pairs;
}
