import { lnPredictive } from './check.ts';
import { posterior, type Prior } from './prior.ts';

/**
 * What words tell of a term before it speaks (domain, section 5): ln of its prior mean = ln mu(ad group) + sum of
 * beta(w) over its words, beta ~ Normal(0, tau^2): a ridge Poisson regression over the account's terms.
 */

/** Terms with the numbers of their words, as one list and where each term's part of it begins. */
export interface TermWords {
  words: readonly string[];
  /** `list[from[t]] .. list[from[t + 1] - 1]` are the words of term t, each once. */
  list: Int32Array;
  from: Int32Array;
}

/** Fewer terms than this that hold a word, and it is left out: it could be told from nothing. */
const leastTerms = 3;

/** Numbers the words that several terms share. */
export function numberWords(texts: readonly string[], split: (text: string) => string[]): TermWords {
  const terms = new Map<string, number>();
  for (const text of texts)
    for (const word of new Set(split(text))) terms.set(word, (terms.get(word) ?? 0) + 1);
  const words = [...terms].filter(([, count]) => count >= leastTerms).map(([word]) => word);
  const numbers = new Map(words.map((word, i) => [word, i]));
  const list: number[] = [];
  const from = new Int32Array(texts.length + 1);
  texts.forEach((text, t) => {
    for (const word of new Set(split(text))) {
      const number = numbers.get(word);
      if (number !== undefined) list.push(number);
    }
    from[t + 1] = list.length;
  });
  return { words, list: Int32Array.from(list), from };
}

/** What is counted of rows: which term, clicks, orders, and what the row's ad group says before words are heard. */
export interface WordRow {
  term: number;
  clicks: number;
  orders: number;
  prior: Prior;
}

const passes = 12;

/**
 * beta of every word by coordinate-wise Newton steps. A row counts as b / (b + clicks) of itself: beyond its words it
 * has a rate of its own, so that one large row tells no more than its likeness to others lets it.
 */
export function wordEffects(
  { words, list, from }: TermWords,
  rows: readonly WordRow[],
  tau: number,
): Float64Array {
  const terms = from.length - 1;
  const orders = new Float64Array(terms);
  const expected = new Float64Array(terms);
  for (const { term, clicks, orders: y, prior } of rows) {
    const share = prior.strength / (prior.strength + clicks);
    orders[term]! += y * share;
    expected[term]! += clicks * prior.mu * share;
  }
  const { holders, begins } = inverted(list, from, words.length);
  const beta = new Float64Array(words.length);
  for (let pass = 0; pass < passes; pass++) {
    let most = 0;
    for (let word = 0; word < words.length; word++) {
      let slope = -beta[word]! / tau ** 2;
      let curve = 1 / tau ** 2;
      for (let i = begins[word]!; i < begins[word + 1]!; i++) {
        const term = holders[i]!;
        slope += orders[term]! - expected[term]!;
        curve += expected[term]!;
      }
      const move = Math.max(-0.7, Math.min(0.7, slope / curve));
      if (Math.abs(move) < 1e-6) continue;
      most = Math.max(most, Math.abs(move));
      beta[word]! += move;
      const factor = Math.exp(move);
      for (let i = begins[word]!; i < begins[word + 1]!; i++) expected[holders[i]!]! *= factor;
    }
    if (most < 1e-3) break;
  }
  return beta;
}

/** Which terms hold a word: `holders[begins[w]] .. holders[begins[w + 1] - 1]`. */
function inverted(
  list: Int32Array,
  from: Int32Array,
  words: number,
): { holders: Int32Array; begins: Int32Array } {
  const begins = new Int32Array(words + 1);
  for (const word of list) begins[word + 1]!++;
  for (let word = 0; word < words; word++) begins[word + 1]! += begins[word]!;
  const next = begins.slice();
  const holders = new Int32Array(list.length);
  for (let term = 0; term + 1 < from.length; term++)
    for (let i = from[term]!; i < from[term + 1]!; i++) holders[next[list[i]!]!++] = term;
  return { holders, begins };
}

/** How far all words of a term together may move its mean: a factor of e^1.5 is 4.5. */
const mostMoved = 1.5;

/** Factor on the prior mean of a term. */
export const factorOf = (sum: number): number => Math.exp(Math.max(-mostMoved, Math.min(mostMoved, sum)));

/** The prior of a term of these words. */
export const movedPrior = (prior: Prior, sum: number): Prior =>
  sum === 0 ? prior : { ...prior, mu: prior.mu * factorOf(sum) };

/** Words of a text with the factor each moves its prior mean by, strongest first; and their sum. */
export function wordsThatMove(
  effects: ReadonlyMap<string, number>,
  words: readonly string[],
): { sum: number; moved: { word: string; factor: number }[] } {
  let sum = 0;
  const moved: { word: string; factor: number }[] = [];
  if (effects.size === 0) return { sum, moved };
  for (const word of new Set(words)) {
    const beta = effects.get(word);
    if (beta === undefined) continue;
    sum += beta;
    moved.push({ word, factor: Math.exp(beta) });
  }
  moved.sort((a, b) => Math.abs(Math.log(b.factor)) - Math.abs(Math.log(a.factor)));
  return { sum, moved };
}

/** A row with what it did in the days held out. */
export interface HeldOutRow extends WordRow {
  n: number;
  y: number;
  after: { clicks: number; orders: number };
}

/** Mean ln score of the days held out, per row with clicks in them; null without any. */
export function scoreWithWords(
  { list, from }: TermWords,
  rows: readonly HeldOutRow[],
  beta: Float64Array | null,
): number | null {
  let sum = 0;
  let count = 0;
  for (const { term, prior, n, y, after } of rows) {
    if (after.clicks <= 0) continue;
    let effect = 0;
    if (beta) for (let i = from[term]!; i < from[term + 1]!; i++) effect += beta[list[i]!]!;
    sum += lnPredictive(posterior(movedPrior(prior, effect), n, y), after.clicks, after.orders);
    count++;
  }
  return count > 0 ? sum / count : null;
}

/** Spreads of beta that are tried on the days held out. */
const taus = [0.1, 0.2, 0.35, 0.5];

export interface LearnedWords {
  used: boolean;
  tau: number;
  score: number;
  plainScore: number;
}

/** Whether words predict the days held out better than none, and with which tau; null without such days. */
export function learnTau(terms: TermWords, rows: readonly HeldOutRow[]): LearnedWords | null {
  const plainScore = scoreWithWords(terms, rows, null);
  if (plainScore === null) return null;
  let best = { tau: taus[0]!, score: -Infinity };
  for (const tau of taus) {
    const score = scoreWithWords(terms, rows, wordEffects(terms, rows, tau))!;
    if (score > best.score) best = { tau, score };
  }
  const told = rows.filter(({ after }) => after.clicks > 0).length;
  // Two nats over all rows: less may be luck in the choice of tau.
  return { ...best, plainScore, used: (best.score - plainScore) * told > 2 };
}
