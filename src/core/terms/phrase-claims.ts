import type { Day } from '../metrics/days.ts';
import type { Claim } from '../effect/claims.ts';
import { wordsOf } from '../text/normalise.ts';
import type { TermGround } from './sums.ts';

/** No proposed phrase is longer (words.ts). */
const longest = 3;

/**
 * The clicks of a week that phrases take from the targets of a product, by phrase.
 *
 * @param isInside Whether an ad group, by its place, is of the product.
 * @param targetClicks Clicks of every target in the window, by place.
 * @param days Days of the window.
 */
export function phraseClaims(
  { objects, pairs, window }: Pick<TermGround, 'objects' | 'pairs' | 'window'>,
  phrases: ReadonlySet<string>,
  isInside: (adGroup: number) => boolean,
  targetClicks: ArrayLike<number>,
  days: number,
): Map<string, Claim[]> {
  const sums = new Map<string, Map<number, number>>([...phrases].map((phrase) => [phrase, new Map()]));
  if (phrases.size === 0) return new Map();
  const inside = Uint8Array.from(objects.targets, ({ adGroup }) => (isInside(adGroup) ? 1 : 0));
  const held = new Map<number, string[]>();
  for (let row = 0; row < pairs.target.length; row++) {
    const clicks = window.clicks[row]!;
    const target = pairs.target[row]!;
    if (clicks === 0 || inside[target] === 0) continue;
    const term = pairs.term[row]!;
    let within = held.get(term);
    if (!within) held.set(term, (within = phrasesIn(pairs.texts[term]!, phrases)));
    for (const phrase of within) {
      const sum = sums.get(phrase)!;
      sum.set(target, (sum.get(target) ?? 0) + clicks);
    }
  }
  return new Map(
    [...sums].map(([phrase, byTarget]) => [
      phrase,
      [...byTarget].map(([target, clicks]) => ({
        targetId: objects.targets[target]!.id,
        clicks: (clicks / days) * 7,
        part: Math.min(1, clicks / Math.max(clicks, targetClicks[target]!)),
      })),
    ]),
  );
}

/**
 * The ad groups of a product, by their places, that have caught terms with a phrase, by phrase; those that caught them
 * first after `until` are left out.
 */
export function phrasePlaces(
  { objects, pairs }: Pick<TermGround, 'objects' | 'pairs'>,
  phrases: ReadonlySet<string>,
  isInside: (adGroup: number) => boolean,
  until: Day,
): Map<string, Set<number>> {
  const places = new Map([...phrases].map((phrase) => [phrase, new Set<number>()]));
  const held = new Map<number, string[]>();
  for (let row = 0; row < pairs.target.length; row++) {
    const { adGroup } = objects.targets[pairs.target[row]!]!;
    if (!isInside(adGroup) || pairs.firstSeen[row]! > until) continue;
    const term = pairs.term[row]!;
    let within = held.get(term);
    if (!within) held.set(term, (within = phrasesIn(pairs.texts[term]!, phrases)));
    for (const phrase of within) places.get(phrase)!.add(adGroup);
  }
  return places;
}

function phrasesIn(text: string, phrases: ReadonlySet<string>): string[] {
  const words = wordsOf(text);
  const found = new Set<string>();
  for (let from = 0; from < words.length; from++)
    for (let to = from + 1; to <= Math.min(words.length, from + longest); to++) {
      const phrase = words.slice(from, to).join(' ');
      if (phrases.has(phrase)) found.add(phrase);
    }
  return [...found];
}
