import { PairPlaces } from '../account/places.ts';
import { counted, money } from '../metrics/format.ts';
import { wordsOf } from '../text/normalise.ts';

/** Sequences of one to three words over all terms (domain, section 7.3): one bad word spoils a hundred harmless terms. */

/** A sequence longer than this is rarely shared. */
const longest = 3;

/** What is summed of a term and so of its words. Money in micros; n and y: domain, section 5. */
export const wordFigures = [
  'impressions',
  'clicks',
  'spend',
  'orders',
  'sales',
  'n',
  'y',
  'seenClicks',
  'seenOrders',
  'seenSales',
  'seenSpend',
  /** Clicks weighted by what siblings of the term sell a click, by its goal, its theta, and by the value of an order: for means. */
  'expected',
  'goals',
  'thetas',
  'values',
] as const;
export type WordFigure = (typeof wordFigures)[number];
export type TermFigures = Record<WordFigure, Float64Array>;

export const termFigures = (count: number): TermFigures =>
  Object.fromEntries(wordFigures.map((name) => [name, new Float64Array(count)])) as TermFigures;

/** What is said of words that are to be kept away. Money in micros. */
export function sentenceOfWords({
  words,
  terms,
  spend,
  orders,
  sales,
}: {
  words: string;
  /** How many terms hold them. */
  terms: number;
  spend: number;
  orders: number;
  sales: number;
}): string {
  const lost =
    orders === 0
      ? 'None of them sold.'
      : `${counted(orders, 'order')}, ${money(sales)} of sales ${orders === 1 ? 'is' : 'are'} lost.`;
  return `“${words}” is in ${counted(terms, 'term')} that spent ${money(spend)}. ${lost}`;
}

/** Mixes two numbers to one of 24 bits: every bit of both moves half the bits of the result. */
function mixed(a: number, b: number): number {
  let hash = Math.imul(a, 0x9e3779b1) + b;
  hash = Math.imul(hash ^ (hash >>> 16), 0x85ebca6b);
  hash = Math.imul(hash ^ (hash >>> 13), 0xc2b2ae35);
  return (hash ^ (hash >>> 16)) >>> 8;
}

/**
 * Which sequences of two and three words may come twice, told without keeping them: most are met once and never again.
 * A mix that two sequences share lets one through that comes once only; the exact count sorts it out.
 */
class SharedSequences {
  private readonly seen = new Uint8Array(1 << 24);

  note(words: ArrayLike<number>, from: number, to: number): void {
    const { seen } = this;
    for (let at = from; at + 1 < to; at++) {
      const two = mixed(words[at]!, words[at + 1]!);
      if (seen[two]! < 2) seen[two]!++;
      if (at + 2 === to) break;
      const three = mixed(two, words[at + 2]!);
      if (seen[three]! < 2) seen[three]!++;
    }
  }

  /** Whether the sequence that goes on from `before` (its mix) with a word may come twice. */
  mayBe(mix: number): boolean {
    return this.seen[mix]! >= 2;
  }
}

/** Sequences as a tree: each hangs on the one without its last word. */
export class WordTree {
  private readonly places = new PairPlaces();
  private readonly ids = new Map<string, number>();
  private readonly known: string[] = [];
  private readonly found: number[] = [];

  get count(): number {
    return this.places.count;
  }

  /** The words of a text as numbers; new words get theirs. */
  idsOf(text: string): number[] {
    const { ids, known } = this;
    return wordsOf(text).map((word) => {
      let id = ids.get(word);
      if (id === undefined) ids.set(word, (id = known.push(word) - 1));
      return id;
    });
  }

  /**
   * Places of all sequences in a part of a list of words, each once; new ones are made. With `shared` those that come
   * once only are left out. The list is used again by the next call.
   */
  sequencesOf(
    words: ArrayLike<number>,
    from = 0,
    to = words.length,
    shared: SharedSequences | null = null,
  ): readonly number[] {
    const { found, places } = this;
    found.length = 0;
    const repeats = hasRepeats(words, from, to);
    for (let first = from; first < to; first++) {
      let parent = -1;
      let mix = 0;
      for (let at = first; at < Math.min(to, first + longest); at++) {
        if (shared && at > first) {
          mix = mixed(at === first + 1 ? words[first]! : mix, words[at]!);
          if (!shared.mayBe(mix)) break;
        }
        parent = places.add(parent + 1, words[at]!);
        if (!repeats || !found.includes(parent)) found.push(parent);
      }
    }
    return found;
  }

  /** The words of a sequence. */
  words(place: number): string[] {
    const words: string[] = [];
    for (let at = place; at >= 0; at = this.places.left(at) - 1)
      words.unshift(this.known[this.places.right(at)]!);
    return words;
  }

  text(place: number): string {
    return this.words(place).join(' ');
  }

  /** The place of a sequence that some text had; -1 for others. */
  find(words: readonly string[]): number {
    let at = -1;
    for (const word of words) {
      const id = this.ids.get(word);
      if (id === undefined) return -1;
      at = this.places.find(at + 1, id);
      if (at < 0) return -1;
    }
    return at;
  }
}

/** Only a word that comes twice can make a sequence come twice in one text. */
function hasRepeats(words: ArrayLike<number>, from: number, to: number): boolean {
  for (let at = from; at < to; at++)
    for (let one = from; one < at; one++) if (words[one] === words[at]) return true;
  return false;
}

/** Sums of sequences: those of the terms that have them. */
export interface WordSums {
  tree: WordTree;
  /** How many terms have each sequence, by its place. */
  terms: Int32Array;
  /** Place in the sums of each sequence; -1 for those of a single term in a large account. */
  at: Int32Array;
  /** Places of the sequences that were summed. */
  sequences: Int32Array;
  figures: TermFigures;
}

/** From this many terms on sequences of one term only are left out: there the term itself says the same. */
const manyTerms = 200_000;

/** A list of numbers for every text, one after the other: small lists by the million cost more than what is in them. */
class TextLists {
  private flat = new Int32Array(1 << 16);
  private used = 0;
  /** Where the list of each text ends. */
  readonly ends: Int32Array;

  constructor(readonly texts: number) {
    this.ends = new Int32Array(texts);
  }

  set(text: number, list: readonly number[]): void {
    if (this.used + list.length > this.flat.length) this.flat = grown(this.flat, this.used + list.length);
    for (const one of list) this.flat[this.used++] = one;
    this.ends[text] = this.used;
  }

  /** The whole, and where the list of a text begins in it. */
  get all(): Int32Array {
    return this.flat;
  }

  begin(text: number): number {
    return text === 0 ? 0 : this.ends[text - 1]!;
  }

  /** Puts what `at` says in the place of each sequence, and leaves out those of -1. */
  compact(at: Int32Array): void {
    let from = 0;
    let into = 0;
    for (let text = 0; text < this.texts; text++) {
      const end = this.ends[text]!;
      for (; from < end; from++) {
        const sum = at[this.flat[from]!]!;
        if (sum >= 0) this.flat[into++] = sum;
      }
      this.ends[text] = into;
    }
  }

  /** Adds the figure of every text to the sums of its sequences. */
  add(figure: Float64Array, sums: Float64Array): void {
    let from = 0;
    for (let text = 0; text < this.texts; text++) {
      const end = this.ends[text]!;
      const value = figure[text]!;
      if (value !== 0) for (let i = from; i < end; i++) sums[this.flat[i]!]! += value;
      from = end;
    }
  }
}

function grown(array: Int32Array<ArrayBuffer>, least: number): Int32Array<ArrayBuffer> {
  const larger = new Int32Array(2 ** Math.ceil(Math.log2(least + 1)));
  larger.set(array);
  return larger;
}

/**
 * Sums all sequences over terms, piece by piece, so that whoever waits hears how far it is. `figures` are the terms',
 * by their place in `texts`; terms without a click in the evidence and the window are counted, and add nothing.
 */
export async function sumWords(
  texts: readonly string[],
  figures: TermFigures,
  breathe: (done: number) => Promise<void>,
  piece = 20_000,
): Promise<WordSums> {
  const tree = new WordTree();
  const words = new TextLists(texts.length);
  const shared = texts.length >= manyTerms ? new SharedSequences() : null;
  for (let from = 0; from < texts.length; from += piece) {
    const to = Math.min(texts.length, from + piece);
    readPiece(tree, texts, from, to, words, shared);
    await breathe(Math.floor(to / 2));
  }
  const lists = new TextLists(texts.length);
  let terms = new Int32Array(1 << 16);
  for (let from = 0; from < texts.length; from += piece) {
    const to = Math.min(texts.length, from + piece);
    terms = countPiece(tree, words, from, to, lists, terms, shared);
    await breathe(Math.floor((texts.length + to) / 2));
  }
  const least = shared ? 2 : 1;
  const at = new Int32Array(tree.count).fill(-1);
  const kept: number[] = [];
  for (let place = 0; place < tree.count; place++)
    if (terms[place]! >= least) at[place] = kept.push(place) - 1;
  lists.compact(at);
  const sums = termFigures(kept.length);
  for (const name of wordFigures) {
    lists.add(figures[name], sums[name]);
    await breathe(texts.length);
  }
  return { tree, terms: terms.subarray(0, tree.count), at, sequences: Int32Array.from(kept), figures: sums };
}

/** Reads the words of each text of a piece, and notes which sequences may come twice. */
function readPiece(
  tree: WordTree,
  texts: readonly string[],
  from: number,
  to: number,
  words: TextLists,
  shared: SharedSequences | null,
): void {
  for (let row = from; row < to; row++) {
    const ids = tree.idsOf(texts[row]!);
    words.set(row, ids);
    shared?.note(ids, 0, ids.length);
  }
}

/** Notes the sequences of each text of a piece, and how many texts have each. */
function countPiece(
  tree: WordTree,
  words: TextLists,
  from: number,
  to: number,
  lists: TextLists,
  counted: Int32Array<ArrayBuffer>,
  shared: SharedSequences | null,
): Int32Array<ArrayBuffer> {
  let terms = counted;
  for (let row = from; row < to; row++) {
    const found = tree.sequencesOf(words.all, words.begin(row), words.ends[row], shared);
    if (tree.count > terms.length) terms = grown(terms, tree.count);
    for (const place of found) terms[place]!++;
    lists.set(row, found);
  }
  return terms;
}
