/** Numbers of objects to their places in a list: flat memory instead of maps, made to be asked ten million times. */

/** Places by id, -1 where an id has none. Ids of one table are dense: an array by id is smaller than any map. */
export function placesById(ids: readonly number[]): Int32Array {
  const places = new Int32Array(ids.reduce((most, id) => Math.max(most, id), 0) + 1).fill(-1);
  ids.forEach((id, place) => (places[id] = place));
  return places;
}

const fill = 0.5;

/** Pairs of two numbers, each pair with the place at which it was first met: 0, 1, 2 ... */
export class PairPlaces {
  count = 0;
  private lefts = new Int32Array(1 << 10);
  private rights = new Int32Array(1 << 10);
  /** Place + 1 by slot; 0 is a free slot. Linear probing. */
  private slots = new Int32Array(1 << 11);

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

  private slotOf(left: number, right: number): number {
    const mask = this.slots.length - 1;
    // The end of MurmurHash3: every bit of both numbers moves half the bits of the slot.
    let hash = Math.imul(left, 0x9e3779b1) + right;
    hash = Math.imul(hash ^ (hash >>> 16), 0x85ebca6b);
    hash = Math.imul(hash ^ (hash >>> 13), 0xc2b2ae35);
    hash ^= hash >>> 16;
    for (let at = hash & mask; ; at = (at + 1) & mask) {
      const place = this.slots[at]! - 1;
      if (place < 0 || (this.lefts[place] === left && this.rights[place] === right)) return at;
    }
  }

  /** The place of a pair, -1 when it was never met. */
  find(left: number, right: number): number {
    return this.slots[this.slotOf(left, right)]! - 1;
  }

  /** The place of a pair; a new one goes to the end. */
  add(left: number, right: number): number {
    const slot = this.slotOf(left, right);
    const known = this.slots[slot]! - 1;
    if (known >= 0) return known;
    if (this.count === this.lefts.length) {
      this.lefts = grown(this.lefts);
      this.rights = grown(this.rights);
    }
    const place = this.count++;
    this.lefts[place] = left;
    this.rights[place] = right;
    this.slots[slot] = place + 1;
    if (this.count > this.slots.length * fill) this.spread();
    return place;
  }

  private spread(): void {
    this.slots = new Int32Array(this.slots.length * 2);
    for (let place = 0; place < this.count; place++) {
      this.slots[this.slotOf(this.lefts[place]!, this.rights[place]!)] = place + 1;
    }
  }
}

function grown(array: Int32Array): Int32Array<ArrayBuffer> {
  const larger = new Int32Array(array.length * 2);
  larger.set(array);
  return larger;
}
