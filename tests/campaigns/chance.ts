/** Chance from a seed: the same campaign can be played again. */
export class Chance {
  private state: number;

  constructor(seed: number) {
    this.state = seed >>> 0;
  }

  /** At least 0, below 1 (mulberry32). */
  next(): number {
    this.state = (this.state + 0x6d2b79f5) >>> 0;
    let mixed = Math.imul(this.state ^ (this.state >>> 15), this.state | 1);
    mixed ^= mixed + Math.imul(mixed ^ (mixed >>> 7), mixed | 61);
    return ((mixed ^ (mixed >>> 14)) >>> 0) / 2 ** 32;
  }

  below(limit: number): number {
    return Math.floor(this.next() * limit);
  }

  of<T>(list: readonly T[]): T {
    return list[this.below(list.length)]!;
  }
}
