import pluralize from 'pluralize';

/** Singulars by the pluralize library, with what its rules miss; every word of every term is asked for. */

/** Words in -ie, whose plurals the rules would take for -y. */
const endingInIe =
  'beanie birdie bootie brownie calorie cookie cutie die doggie foodie goalie gummie hoodie indie junkie lie nightie ' +
  'onesie pixie rookie selfie smoothie talkie veggie walkie';
/** Words that only look like a plural, or mean the same in both numbers. */
const unchanging = 'canvas clothes data media mens womens kids us';

for (const word of endingInIe.split(' ')) pluralize.addIrregularRule(word, `${word}s`);
pluralize.addIrregularRule('lens', 'lenses');
for (const word of unchanging.split(' ')) pluralize.addUncountableRule(word);

const known = new Map<string, string>();
/** Accounts hold some ten thousand words; whoever sends more pays for each again. */
const mostKnown = 200_000;

/** The singular of an English word; words of three letters and fewer, but for "men", and what holds a digit stay. */
export function singular(word: string): string {
  if (word.length <= 3) return word === 'men' ? 'man' : word;
  const told = known.get(word);
  if (told !== undefined) return told;
  // "basis", "cactus" and "press" are no plurals.
  const made = /\d|(?:[iu]s|ss)$/.test(word) ? word : pluralize.singular(word);
  if (known.size >= mostKnown) known.clear();
  known.set(word, made);
  return made;
}

/** The plural of a word; of a plural, itself. */
export const plural = (word: string): string => pluralize.plural(word);
