/** Quayside's own matcher: what a keyword or a negative catches (rules of the marketplace). */

const fillers = new Set('a an and at by for from in of on or the to with'.split(' '));

/** Lower case, NFKC, punctuation to spaces, words. */
export function words(text: string): string[] {
  return text
    .normalize('NFKC')
    .toLowerCase()
    .replace(/['’]/g, '')
    .replace(/[^\p{L}\p{N}]+/gu, ' ')
    .trim()
    .split(' ')
    .filter((word) => word !== '');
}

/** Folds an English plural to its singular; short words stay. */
export function singular(word: string): string {
  if (word.length <= 3) return word;
  if (word.endsWith('ies') && word.length > 4) return `${word.slice(0, -3)}y`;
  if (/(s|x|z|ch|sh)es$/.test(word)) return word.slice(0, -2);
  if (word.endsWith('s') && !/(ss|us|is)$/.test(word)) return word.slice(0, -1);
  return word;
}

/** The words as they stand, singular, without fillers: two texts with one core are close variants. */
export const core = (list: string[]): string[] => {
  const kept = list.filter((word) => !fillers.has(word));
  return (kept.length > 0 ? kept : list).map(singular);
};

const inARow = (needle: string[], hay: string[]): boolean =>
  needle.length > 0 && ` ${hay.join(' ')} `.includes(` ${needle.join(' ')} `);

export type MatchType = 'broad' | 'phrase' | 'exact' | 'negative_exact' | 'negative_phrase';

/** Does a keyword (or negative) of this type catch the query? */
export function catches(type: MatchType, keyword: string, query: string): boolean {
  const k = words(keyword);
  const q = words(query);
  if (k.length === 0 || q.length === 0) return false;
  if (type === 'phrase' || type === 'negative_phrase') return inARow(k, q);
  if (type === 'exact') return core(k).join(' ') === core(q).join(' ');
  if (type === 'negative_exact') return k.map(singular).join(' ') === q.map(singular).join(' ');
  const have = new Set(core(q));
  return core(k).every((word) => have.has(word));
}
