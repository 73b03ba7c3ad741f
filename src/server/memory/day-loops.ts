import type { PairPlaces, Places } from '../../core/account/places.ts';
import type { Day } from '../../core/metrics/days.ts';
import type { Block } from '../facts/blocks.ts';

// Loops over millions of rows stand in functions of their own: within an awaiting one they are never made quick.

export function addWeighted(
  into: Float64Array,
  places: Int32Array,
  counts: Int32Array,
  weight: number,
): void {
  for (let row = 0; row < places.length; row++) {
    const at = places[row]!;
    if (at >= 0) into[at]! += counts[row]! * weight;
  }
}

/** Takes rows of marked targets out of a day's places. */
export function leaveOut(
  places: Int32Array,
  targetId: ArrayLike<number>,
  targetAt: Places,
  marked: Uint8Array,
): void {
  for (let row = 0; row < places.length; row++) {
    const target = targetAt.at(targetId[row]!);
    if (target >= 0 && marked[target] === 1) places[row] = -1;
  }
}

/** Gives every pair of a day its place, and notes that it was seen. */
export function notePairs(
  { day, rows, targetId, termId }: Block,
  targetAt: Places,
  places: PairPlaces,
  seen: Seen,
): void {
  const now = seen.on(day);
  for (let row = 0; row < rows; row++) {
    const target = targetAt.at(targetId[row]!);
    if (target >= 0) seen.note(places.add(target, termId[row]!), now);
  }
}

/** Keeps of each place the highest spend per click of a day, whole micros. */
export function raiseCpc(highest: Float64Array, places: Int32Array, { clicks, spend }: Block): void {
  for (let row = 0; row < places.length; row++) {
    const at = places[row]!;
    if (at >= 0) raiseCpcTo(highest, at, clicks[row]!, spend[row]!);
  }
}

export function raiseCpcTo(highest: Float64Array, at: number, clicks: number, spend: number): void {
  if (clicks === 0) return;
  const cpc = Math.trunc(spend / clicks);
  if (cpc > highest[at]!) highest[at] = cpc;
}

/** First and last days by place, noted day by day in their order: numbers until they are asked for, for speed. */
export class Seen {
  private readonly known: Day[] = [];
  private first = new Int32Array(1 << 16);
  private last = new Int32Array(1 << 16);

  /** The number of a day, from 1. */
  on(day: Day): number {
    return this.known.push(day);
  }

  note(place: number, day: number): void {
    if (place >= this.first.length) {
      const length = 2 ** Math.ceil(Math.log2(place + 1));
      const [first, last] = [new Int32Array(length), new Int32Array(length)];
      first.set(this.first);
      last.set(this.last);
      [this.first, this.last] = [first, last];
    }
    if (this.first[place] === 0) this.first[place] = day;
    this.last[place] = day;
  }

  /** Of the places below `count`, first and last days; nothing for one that was never seen. */
  days(count: number): [first: Day[], last: Day[]] {
    const read = (numbers: Int32Array) =>
      Array.from({ length: count }, (_, at) => this.known[numbers[at]! - 1]!);
    return [read(this.first), read(this.last)];
  }
}
