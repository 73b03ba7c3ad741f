import pluralize from 'pluralize';

/** Quayside's own matcher: what a keyword or a negative catches (rules of the marketplace). */

const fillers = new Set('a an and at by for from in of on or the to with'.split(' '));

/** Lower case, NFKC, punctuation to spaces, words. */
export function words(text: string): string[] {
  return text
    .normalize('NFKC')
    .toLowerCase()
    .replace(/['’]/g, '')
    .replace(/[^\p{L}\p{N}\p{M}]+/gu, ' ')
    .trim()
    .split(' ')
    .filter((word) => word !== '');
}

const inIe =
  'beanie birdie bootie brownie calorie cookie cutie die doggie foodie goalie gummie hoodie indie junkie lie nightie onesie pixie rookie selfie smoothie talkie veggie walkie';
for (const word of inIe.split(' ')) pluralize.addIrregularRule(word, `${word}s`);
pluralize.addIrregularRule('lens', 'lenses');
for (const word of 'canvas clothes data media mens womens kids us'.split(' '))
  pluralize.addUncountableRule(word);

const folded = new Map<string, string>();
/** Folds an English plural to its singular; short words and what holds a digit stay. */
export function singular(word: string): string {
  if (word.length <= 3) return word === 'men' ? 'man' : word;
  let one = folded.get(word);
  if (one === undefined)
    folded.set(word, (one = /\d|(?:[iu]s|ss)$/.test(word) ? word : pluralize.singular(word)));
  return one;
}

const against = new Set('down off out over under up without'.split(' '));
const named = new Set('class grade group hepatitis model plan series size type vitamin'.split(' '));

/** The words as they stand, singular, without fillers that say nothing: two texts with one core are close variants. */
export const core = (list: string[]): string[] => {
  const kept = list.filter((word, i) => {
    if (!fillers.has(word) || i === list.length - 1 || against.has(list[i + 1]!)) return true;
    const before = list[i - 1];
    return before !== undefined && (against.has(before) || (word.length === 1 && named.has(before)));
  });
  return (kept.length > 0 ? kept : list).map(singular);
};

const inARow = (needle: string[], hay: string[]): boolean =>
  needle.length > 0 && ` ${hay.join(' ')} `.includes(` ${needle.join(' ')} `);

export type MatchType = 'broad' | 'phrase' | 'exact' | 'negative_exact' | 'negative_phrase' | 'negative_item';

/** Does a keyword (or negative) of this type catch the query? */
export function catches(type: MatchType, keyword: string, query: string): boolean {
  const k = words(keyword);
  const q = words(query);
  if (k.length === 0 || q.length === 0) return false;
  if (type === 'phrase' || type === 'negative_phrase') return inARow(k, q);
  if (type === 'negative_item') return k.join(' ') === q.join(' ');
  if (type === 'exact') return core(k).join(' ') === core(q).join(' ');
  if (type === 'negative_exact') return k.map(singular).join(' ') === q.map(singular).join(' ');
  const have = new Set(core(q));
  return core(k).every((word) => have.has(word));
}
