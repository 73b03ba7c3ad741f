import { wordsOf } from '../text/normalise.ts';

/** What stands in the place of the tokens of a name pattern. */
export interface NameTokens {
  code: string;
  part: string;
  purpose: string;
  sku: string;
  number: number;
}

const token = /\{(code|part|purpose|sku|number)\}/g;

/** Tokens that a pattern holds and that do not exist. */
export const unknownTokens = (pattern: string): string[] =>
  [...pattern.matchAll(/\{([^}]*)\}/g)]
    .map(([, name = '']) => name)
    .filter((name) => !['code', 'part', 'purpose', 'sku', 'number'].includes(name));

/**
 * A name out of a pattern. Numbers have two digits, so that names sort.
 * @example nameOf('{code} {part}', { code: 'Lids', part: 'exact', purpose: 'performance', sku: 'TT-LID4', number: 1 }) // 'Lids exact'
 */
export const nameOf = (pattern: string, tokens: NameTokens): string =>
  pattern
    .replace(token, (_, name: keyof NameTokens) =>
      name === 'number' ? String(tokens.number).padStart(2, '0') : tokens[name],
    )
    .replace(/\s+/g, ' ')
    .trim();

/** The name, or where it is taken the first of those with a number behind it that is not; it is taken then. */
export function freeName(name: string, taken: Set<string>): string {
  let free = name;
  for (let number = 2; taken.has(free.toLowerCase()); number++)
    free = `${name} ${String(number).padStart(2, '0')}`;
  taken.add(free.toLowerCase());
  return free;
}

/** Names that begin with the word that most of them begin with: one campaign of a season breaks no habit. */
function alike(lists: readonly string[][]): string[][] {
  const groups = new Map<string, string[][]>();
  for (const list of lists) {
    const first = list[0]!.toLowerCase();
    groups.set(first, [...(groups.get(first) ?? []), list]);
  }
  return [...groups.values()].reduce((best, group) => (group.length > best.length ? group : best), []);
}

/**
 * How an account calls its products in the names of their campaigns, by SKU: the words that the names of most of
 * a product's own campaigns begin with, where no other product's do. Products without such a habit are left out.
 */
export function codeHabits(
  campaigns: Iterable<{ name: string; skus: readonly string[] }>,
): Map<string, string> {
  const names = new Map<string, string[]>();
  const all: { words: string[]; skus: readonly string[] }[] = [];
  for (const { name, skus } of campaigns) {
    all.push({ words: wordsOf(name), skus });
    if (skus.length === 1) names.set(skus[0]!, [...(names.get(skus[0]!) ?? []), name]);
  }
  const found = new Map<string, string>();
  for (const [sku, own] of names) {
    const lists = alike(own.map((name) => name.trim().split(/\s+/)));
    if (lists.length < 2 || 2 * lists.length <= own.length) continue;
    let length = 0;
    while (
      length < Math.min(...lists.map((list) => list.length)) - 1 &&
      lists.every((list) => list[length]!.toLowerCase() === lists[0]![length]!.toLowerCase())
    )
      length++;
    if (length === 0) continue;
    const code = lists[0]!.slice(0, length).join(' ');
    const begins = wordsOf(code);
    const others = all.some(
      ({ words, skus }) => !skus.includes(sku) && begins.every((word, i) => words[i] === word),
    );
    if (!others && begins.length > 0) found.set(sku, code);
  }
  return found;
}
