const fillers = new Set('a an and at by for from in of on or the to with'.split(' '));

export const isFiller = (word: string): boolean => fillers.has(word);

const plain = /^[a-z0-9]+(?: [a-z0-9]+)*$/;

/** Lower case, NFKC, punctuation and repeated spaces removed; the words that stay. */
export function wordsOf(text: string): string[] {
  // Most terms are in their normal form as they come.
  if (plain.test(text)) return text.split(' ');
  return text
    .normalize('NFKC')
    .toLowerCase()
    .replace(/['’]/g, '')
    .replace(/[^\p{L}\p{N}]+/gu, ' ')
    .trim()
    .split(' ')
    .filter((word) => word !== '');
}

/** The normal form of a keyword or term: two texts with one normal form are the same keyword. */
export const normalise = (text: string): string => wordsOf(text).join(' ');

/** Folds an English plural; words of three letters and fewer stay. */
export function singular(word: string): string {
  if (word.length <= 3) return word;
  if (word.endsWith('ies') && word.length > 4) return `${word.slice(0, -3)}y`;
  if (/(s|x|z|ch|sh)es$/.test(word)) return word.slice(0, -2);
  if (word.endsWith('s') && !/(ss|us|is)$/.test(word)) return word.slice(0, -1);
  return word;
}

/** Words without fillers, in the singular; a text of fillers only keeps them. */
export function variantWords(words: string[]): string[] {
  const kept = words.filter((word) => !fillers.has(word));
  return (kept.length > 0 ? kept : words).map(singular);
}

/** Plural and filler words folded: two texts with one variant form are close variants of each other. */
export const variantForm = (text: string): string => variantWords(wordsOf(text)).join(' ');

/** Only plurals folded: what a negative exact catches. */
export const pluralForm = (text: string): string => wordsOf(text).map(singular).join(' ');
