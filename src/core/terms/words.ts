import { PairPlaces } from '../explore/places.ts';
import { wordsOf } from './normalise.ts';

/** Sequences of one to three words over all terms (guide, section 7.3): one bad word spoils a hundred harmless terms. */

/** A sequence longer than this is rarely shared. */
const longest = 3;

/** What is summed of a term and so of its words. Money in micros; n and y as in section 5 of the guide. */
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
  /** Clicks weighted by what siblings of the term sell a click, by its goal, and by the value of an order: for means. */
  'expected',
  'goals',
  'values',
] as const;
export type WordFigure = (typeof wordFigures)[number];
export type TermFigures = Record<WordFigure, Float64Array>;

export const termFigures = (count: number): TermFigures =>
  Object.fromEntries(wordFigures.map((name) => [name, new Float64Array(count)])) as TermFigures;

/** Sequences as a tree: each hangs on the one without its last word. */
export class WordTree {
  private readonly places = new PairPlaces();
  private readonly ids = new Map<string, number>();
  private readonly known: string[] = [];

  get count(): number {
    return this.places.count;
  }

  /** Places of all sequences of a text, each once; new ones are made. */
  sequencesOf(text: string): number[] {
    const list = wordsOf(text).map((word) => {
      let id = this.ids.get(word);
      if (id === undefined) this.ids.set(word, (id = this.known.push(word) - 1));
      return id;
    });
    const found: number[] = [];
    for (let from = 0; from < list.length; from++) {
      let parent = -1;
      for (let to = from; to < Math.min(list.length, from + longest); to++) {
        parent = this.places.add(parent + 1, list[to]!);
        if (!found.includes(parent)) found.push(parent);
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

/** From this many sequences on those of one term only are left out: there the term itself says the same. */
const manySequences = 500_000;

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
  const places: Int32Array[] = [];
  let terms: Int32Array<ArrayBufferLike> = new Int32Array(1 << 16);
  for (let from = 0; from < texts.length; from += piece) {
    const to = Math.min(texts.length, from + piece);
    terms = countPiece(tree, texts, from, to, places, terms);
    await breathe(to);
  }
  const least = tree.count > manySequences ? 2 : 1;
  const at = new Int32Array(tree.count).fill(-1);
  const kept: number[] = [];
  for (let place = 0; place < tree.count; place++)
    if (terms[place]! >= least) at[place] = kept.push(place) - 1;
  const sums = termFigures(kept.length);
  for (const name of wordFigures) {
    addFigure(places, at, figures[name], sums[name]);
    await breathe(texts.length);
  }
  return { tree, terms: terms.subarray(0, tree.count), at, sequences: Int32Array.from(kept), figures: sums };
}

/** Notes the sequences of each text of a piece, and how many texts have each. */
function countPiece(
  tree: WordTree,
  texts: readonly string[],
  from: number,
  to: number,
  places: Int32Array[],
  counted: Int32Array<ArrayBufferLike>,
): Int32Array<ArrayBufferLike> {
  let terms = counted;
  for (let row = from; row < to; row++) {
    const found = tree.sequencesOf(texts[row]!);
    if (tree.count > terms.length) {
      const larger = new Int32Array(2 ** Math.ceil(Math.log2(tree.count + 1)));
      larger.set(terms);
      terms = larger;
    }
    for (const place of found) terms[place]!++;
    places.push(Int32Array.from(found));
  }
  return terms;
}

function addFigure(
  places: readonly Int32Array[],
  at: Int32Array,
  from: Float64Array,
  into: Float64Array,
): void {
  for (let row = 0; row < places.length; row++) {
    const value = from[row]!;
    if (value === 0) continue;
    for (const place of places[row]!) {
      const sum = at[place]!;
      if (sum >= 0) into[sum]! += value;
    }
  }
}
