import { randomLcg } from 'd3';

/** FNV-1a over UTF-16 units: the same text gives the same number on every machine. */
export function hash(text: string): number {
  let h = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) h = Math.imul(h ^ text.charCodeAt(i), 0x01000193);
  h ^= h >>> 16;
  h = Math.imul(h, 0x85ebca6b);
  return (h ^ (h >>> 13)) >>> 0;
}

export type Random = () => number;

/** A stream of uniform numbers in [0, 1) of its own for a name. */
export function stream(seed: number, name: string): Random {
  const next = randomLcg(hash(`${seed}:${name}`) / 2 ** 32);
  for (let i = 0; i < 5; i++) next();
  return next;
}

/** The stream that gave this number last, from there on: the number is the whole of its state. */
export const streamFrom = (last: number): Random => randomLcg(last);

/** A standard normal number out of one text: hidden traits that never change. */
export function trait(text: string): number {
  const u = (hash(text) + 1) / (2 ** 32 + 2);
  const v = hash(`${text}~`) / 2 ** 32;
  return Math.sqrt(-2 * Math.log(u)) * Math.cos(2 * Math.PI * v);
}

/** A standard normal number from a stream. */
export const normal = (random: Random): number =>
  Math.sqrt(-2 * Math.log(1 - random())) * Math.cos(2 * Math.PI * random());

/** A place in a rising table of sums, by weight. */
export function pick(cumulative: Float64Array, random: Random): number {
  const wanted = random() * cumulative[cumulative.length - 1]!;
  let low = 0;
  let high = cumulative.length - 1;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (cumulative[middle]! <= wanted) low = middle + 1;
    else high = middle;
  }
  return low;
}

export function sums(weights: number[]): Float64Array {
  const out = new Float64Array(weights.length);
  let sum = 0;
  weights.forEach((weight, i) => (out[i] = sum += weight));
  return out;
}
