import type { PairPlaces, Places } from '../../core/account/places.ts';
import type { SumsColumns, SumsRows } from '../../core/account/store.ts';
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

/** The places of a day without the rows of marked targets; `targetOf`: the target of each place. */
export function leaveOut(places: Int32Array, targetOf: Int32Array | null, marked: Uint8Array): Int32Array {
  const left = new Int32Array(places.length);
  for (let row = 0; row < places.length; row++) {
    const at = places[row]!;
    const target = targetOf === null || at < 0 ? at : targetOf[at]!;
    left[row] = target >= 0 && marked[target] === 1 ? -1 : at;
  }
  return left;
}

/** Places of the rows of a day, by the target alone. */
export function targetPlaces({ rows, targetId }: Block, targetAt: Places): Int32Array {
  const places = new Int32Array(rows);
  for (let row = 0; row < rows; row++) places[row] = targetAt.at(targetId[row]!);
  return places;
}

/** Places of the rows of a day among the pairs; `meet`: a pair that was never met takes the next place. */
export function pairPlaces(
  { rows, targetId, termId }: Block,
  targetAt: Places,
  pairs: PairPlaces,
  meet: boolean,
): Int32Array {
  const places = new Int32Array(rows);
  for (let row = 0; row < rows; row++) {
    const target = targetAt.at(targetId[row]!);
    places[row] = target < 0 ? -1 : meet ? pairs.add(target, termId[row]!) : pairs.find(target, termId[row]!);
  }
  return places;
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

  /** Notes that these places were seen on a day; -1 is none. */
  noteAll(places: Int32Array, day: Day): void {
    const now = this.known.push(day);
    for (const place of places) if (place >= 0) this.note(place, now);
  }

  private note(place: number, day: number): void {
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

/** Takes a part of the orders of a day, with their units and sales, out of sums. */
export function takePart(sums: SumsColumns, block: SumsRows, places: Int32Array, part: number): void {
  for (const name of ['orders', 'units', 'sales'] as const) {
    const [from, told] = [sums[name], block[name]];
    for (let row = 0; row < places.length; row++) {
      const at = places[row]!;
      if (at >= 0) from[at]! -= part * told[row]!;
    }
  }
}
