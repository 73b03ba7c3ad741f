import { singular } from './plurals.ts';

const fillers = new Set('a an and at by for from in of on or the to with'.split(' '));

export const isFiller = (word: string): boolean => fillers.has(word);

/** What "on", "in" and others stand against: beside it they are half of the meaning ("on off switch"). */
const opposites = new Set('down off out over under up without'.split(' '));
/** What a letter follows as a name ("vitamin a", "type a plug"). */
const lettered = new Set('class grade group hepatitis model plan series size type vitamin'.split(' '));

/**
 * Whether a filler says nothing at its place: not as the last word ("plug in"), not beside its opposite, not as the
 * letter of a name.
 */
const isIdle = (word: string, at: number, words: readonly string[]): boolean =>
  fillers.has(word) &&
  at < words.length - 1 &&
  !opposites.has(words[at + 1]!) &&
  !(at > 0 && (opposites.has(words[at - 1]!) || (word.length === 1 && lettered.has(words[at - 1]!))));

const plain = /^[a-z0-9]+(?: [a-z0-9]+)*$/;

/** Lower case, NFKC, punctuation and repeated spaces removed, letters with their marks; the words that stay. */
export function wordsOf(text: string): string[] {
  // Most terms are in their normal form as they come.
  if (plain.test(text)) return text.split(' ');
  return text
    .normalize('NFKC')
    .toLowerCase()
    .replace(/['’]/g, '')
    .replace(/[^\p{L}\p{N}\p{M}]+/gu, ' ')
    .trim()
    .split(' ')
    .filter((word) => word !== '');
}

/** The normal form of a keyword or term: two texts with one normal form are the same keyword. */
export const normalise = (text: string): string => wordsOf(text).join(' ');

/** Words without idle fillers, in the singular; a text of nothing else keeps them. */
export function variantWords(words: string[]): string[] {
  const kept = words.filter((word, at) => !isIdle(word, at, words));
  return (kept.length > 0 ? kept : words).map(singular);
}

/** Plural and filler words folded: two texts with one variant form are close variants of each other. */
export const variantForm = (text: string): string => variantWords(wordsOf(text)).join(' ');

/** Only plurals folded: what a negative exact catches. */
export const pluralForm = (text: string): string => wordsOf(text).map(singular).join(' ');

/**
 * Finds these words in another number in a text: "canning jars" for "canning jar", which a negative phrase lets through.
 * Null where they are not in it, or only as they stand.
 */
export function otherNumber(words: readonly string[]): (text: string) => string | null {
  const wanted = words.map(singular);
  return (text) => {
    const hay = wordsOf(text);
    for (let from = 0; from + wanted.length <= hay.length; from++) {
      const run = hay.slice(from, from + wanted.length);
      if (run.every((word, i) => singular(word) === wanted[i]) && run.some((word, i) => word !== words[i]))
        return run.join(' ');
    }
    return null;
  };
}

/** Units as they are written, to one way of writing. */
const units: Readonly<Record<string, string>> = Object.fromEntries(
  [
    'l litre liter litres liters ltr',
    'ml millilitre milliliter millilitres milliliters',
    'cl centilitre centiliter centilitres centiliters',
    'g gram gramme grams grammes gr',
    'kg kilogram kilogramme kilograms kilogrammes kilo kilos',
    'oz ounce ounces',
    'lb pound pounds lbs',
    'gal gallon gallons',
    'qt quart quarts',
    'cm centimetre centimeter centimetres centimeters',
    'mm millimetre millimeter millimetres millimeters',
    'm metre meter metres meters',
    'in inch inches',
    'ft foot feet',
    'w watt watts',
    'v volt volts',
    'pk pack packs',
    'pc piece pieces pcs',
  ].flatMap((line) => {
    const [unit, ...others] = line.split(' ');
    return [unit!, ...others].map((one) => [one, unit!]);
  }),
);

/**
 * What the warning of close variants goes by: beyond plurals and fillers also accents, hyphens and joined words, units
 * ("5l", "5 litre") and order are folded. One form for other orders, one for words joined or split. Never for matching:
 * two texts that share one may be two keywords.
 */
export function looseForms(text: string): [ordered: string, joined: string] {
  const words = variantWords(wordsOf(text.normalize('NFKD').replace(/\p{M}/gu, '')));
  const folded: string[] = [];
  words.forEach((word, at) => {
    const amount = /^(\d+)(\p{L}+)$/u.exec(word);
    if (amount && units[amount[2]!]) folded.push(`${amount[1]}${units[amount[2]!]}`);
    else if (at > 0 && /^\d+$/.test(words[at - 1]!) && units[word]) folded[folded.length - 1] += units[word];
    else folded.push(word);
  });
  return [[...folded].sort().join(' '), folded.join('')];
}
