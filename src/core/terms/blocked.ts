import type { TermGround } from './sums.ts';
import type { AccountMatcher } from './matcher.ts';

/**
 * Whether a negative keeps a term by now from the target that caught it, by row of the pairs: what it cost is saved
 * already, and no new negative can stop it again.
 */
export function blockedRows(
  { objects, pairs }: Pick<TermGround, 'objects' | 'pairs'>,
  matcher: AccountMatcher,
): (row: number) => boolean {
  const blocks = new Map<number, number[]>();
  return (row) => {
    const term = pairs.term[row]!;
    let known = blocks.get(term);
    if (!known) blocks.set(term, (known = matcher.blocking(pairs.texts[term]!)));
    if (known.length === 0) return false;
    const { adGroup } = objects.targets[pairs.target[row]!]!;
    return known.some((block) => matcher.stands(block, adGroup));
  };
}
