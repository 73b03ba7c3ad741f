/** More rows than this on one day are not watched in memory. */
const mostWatched = 500_000;

/**
 * Tells whether a file may name one day, target and term twice. It watches one day at a time, which settles files in the
 * order of their days; of any other it says that they may, and Postgres looks.
 */
export class Repeats {
  possible = false;
  private day = '';
  private readonly gone = new Set<string>();
  private keys = new Float64Array(1024);
  private count = 0;

  /** Numbers of target and term below 2^25: the two make one number without loss. */
  watch(day: string, target: number, term: number): void {
    if (this.possible) return;
    if (day !== this.day) {
      this.settle();
      this.gone.add(this.day);
      this.day = day;
      this.possible ||= this.gone.has(day);
    }
    if (this.count === this.keys.length) {
      if (this.count >= mostWatched) this.possible = true;
      const more = new Float64Array(this.count * 2);
      more.set(this.keys);
      this.keys = more;
    }
    this.keys[this.count++] = target * 2 ** 25 + term;
  }

  /** After the last row: whether something may have come twice. */
  end(): boolean {
    this.settle();
    return this.possible;
  }

  /** Looks through the day that is over: what is equal stands side by side once it is sorted. */
  private settle(): void {
    const keys = this.keys.subarray(0, this.count).sort();
    for (let i = 1; i < keys.length && !this.possible; i++) this.possible = keys[i] === keys[i - 1];
    this.count = 0;
  }
}
