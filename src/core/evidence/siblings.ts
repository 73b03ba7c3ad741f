/** What siblings were counted to have, kept as sums: whatever their number, only distinct counts are stored. */
export interface Siblings {
  /** Weighted clicks and orders: they make the mean. */
  n: number;
  y: number;
  /** Rows by their distinct undecayed counts, `key(clicks, orders)` to how many: they make the strength. */
  tally: Map<number, number>;
}

export const noSiblings = (): Siblings => ({ n: 0, y: 0, tally: new Map() });

const most = 2 ** 20;

/** One number for clicks and orders; both whole. Weighted counts are rounded. */
const key = (clicks: number, orders: number): number =>
  Math.round(clicks) * most + Math.min(most - 1, Math.round(orders));

/** Adds one sibling in place (hot loop: up to a million rows). Siblings without clicks say nothing. */
export function addSibling(siblings: Siblings, n: number, y: number, clicks: number, orders: number): void {
  if (clicks <= 0) return;
  siblings.n += n;
  siblings.y += y;
  addTally(siblings, clicks, orders, 1);
}

/** Adds rows that were counted elsewhere: how many had these clicks and orders. */
export function addTally({ tally }: Siblings, clicks: number, orders: number, rows: number): void {
  const at = key(clicks, orders);
  tally.set(at, (tally.get(at) ?? 0) + rows);
}

/** Adds siblings that were summed elsewhere. */
export function addSiblings(siblings: Siblings, more: Siblings): void {
  siblings.n += more.n;
  siblings.y += more.y;
  for (const [at, rows] of more.tally) siblings.tally.set(at, (siblings.tally.get(at) ?? 0) + rows);
}

/** Distinct counts as columns: clicks, orders, how many rows have them. */
export interface Tally {
  clicks: Float64Array;
  orders: Float64Array;
  rows: Float64Array;
}

export function tallyOf({ tally }: Siblings): Tally {
  const size = tally.size;
  const made = {
    clicks: new Float64Array(size),
    orders: new Float64Array(size),
    rows: new Float64Array(size),
  };
  let at = 0;
  for (const [pair, rows] of tally) {
    made.clicks[at] = Math.floor(pair / most);
    made.orders[at] = pair % most;
    made.rows[at] = rows;
    at++;
  }
  return made;
}
