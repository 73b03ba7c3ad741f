/** Numbers of objects to their places in a list: flat memory instead of maps, made to be asked ten million times. */

/** Ids may lie this many times as far apart as they are many, and still stand in an array. */
const mostSpread = 8;

/**
 * Places by id. Ids of one account lie close together when it was loaded by itself, and far apart when many accounts
 * grew beside it: an array over their span in the first case, a hash in the second.
 */
export class Places {
  private readonly first: number;
  private readonly array: Int32Array | null;
  private readonly hashed: PairPlaces | null;

  constructor(ids: readonly number[]) {
    let first = Infinity;
    let last = -Infinity;
    for (const id of ids) {
      first = Math.min(first, id);
      last = Math.max(last, id);
    }
    this.first = ids.length === 0 ? 0 : first;
    const span = ids.length === 0 ? 0 : last - first + 1;
    if (span <= ids.length * mostSpread + 1024) {
      this.array = new Int32Array(span).fill(-1);
      this.hashed = null;
      for (const [place, id] of ids.entries()) this.array[id - first] = place;
    } else {
      this.array = null;
      this.hashed = new PairPlaces();
      for (const id of ids) this.hashed.add(0, id);
    }
  }

  /** -1 where an id has none. */
  at(id: number): number {
    return this.array === null ? this.hashed!.find(0, id) : (this.array[id - this.first] ?? -1);
  }
}

const fill = 0.6;
/** Numbers of a slot: left, right, place + 1 (0: free). Side by side, so that a look costs memory one visit, not three. */
const stride = 3;

/** Pairs of two numbers, each pair with the place at which it was first met: 0, 1, 2 ... */
export class PairPlaces {
  count = 0;
  private lefts = new Int32Array(1 << 10);
  private rights = new Int32Array(1 << 10);
  private slots = new Int32Array((1 << 11) * stride);
  private mask = (1 << 11) - 1;

  left(place: number): number {
    return this.lefts[place]!;
  }

  right(place: number): number {
    return this.rights[place]!;
  }

  /** The pairs as two columns, by place. */
  columns(): { left: Int32Array; right: Int32Array } {
    return { left: this.lefts.slice(0, this.count), right: this.rights.slice(0, this.count) };
  }

  /** Where the slot of a pair begins: its own, or the free one that it would take. Linear probing. */
  private slotOf(left: number, right: number): number {
    const { slots, mask } = this;
    // The end of MurmurHash3: every bit of both numbers moves half the bits of the slot.
    let hash = Math.imul(left, 0x9e3779b1) + right;
    hash = Math.imul(hash ^ (hash >>> 16), 0x85ebca6b);
    hash = Math.imul(hash ^ (hash >>> 13), 0xc2b2ae35);
    hash ^= hash >>> 16;
    for (let at = hash & mask; ; at = (at + 1) & mask) {
      const start = at * stride;
      if (slots[start + 2] === 0 || (slots[start] === left && slots[start + 1] === right)) return start;
    }
  }

  /** The place of a pair, -1 when it was never met. */
  find(left: number, right: number): number {
    return this.slots[this.slotOf(left, right) + 2]! - 1;
  }

  /** The place of a pair; a new one goes to the end. */
  add(left: number, right: number): number {
    const slot = this.slotOf(left, right);
    const known = this.slots[slot + 2]! - 1;
    if (known >= 0) return known;
    if (this.count === this.lefts.length) {
      this.lefts = grown(this.lefts);
      this.rights = grown(this.rights);
    }
    const place = this.count++;
    this.lefts[place] = left;
    this.rights[place] = right;
    this.take(slot, left, right, place);
    if (this.count > (this.mask + 1) * fill) this.spread();
    return place;
  }

  private take(slot: number, left: number, right: number, place: number): void {
    this.slots[slot] = left;
    this.slots[slot + 1] = right;
    this.slots[slot + 2] = place + 1;
  }

  private spread(): void {
    this.mask = this.mask * 2 + 1;
    this.slots = new Int32Array((this.mask + 1) * stride);
    for (let place = 0; place < this.count; place++) {
      const [left, right] = [this.lefts[place]!, this.rights[place]!];
      this.take(this.slotOf(left, right), left, right, place);
    }
  }
}

function grown(array: Int32Array): Int32Array<ArrayBuffer> {
  const larger = new Int32Array(array.length * 2);
  larger.set(array);
  return larger;
}
