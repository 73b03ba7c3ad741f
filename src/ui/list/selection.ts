/** Which rows of a list are marked, and where its focus stands; without an interface, so that it can be tried alone. */

export interface Marks {
  keys: ReadonlySet<string>;
  /** All that match are marked, also those that are not read yet. */
  all: boolean;
  /** The row from which a range begins. */
  anchor: number;
}

export const noMarks: Marks = { keys: new Set(), all: false, anchor: 0 };

/** Marks one row, or takes its mark away. */
export function toggled(marks: Marks, key: string, index: number): Marks {
  const keys = new Set(marks.all ? [] : marks.keys);
  if (!keys.delete(key)) keys.add(key);
  return { keys, all: false, anchor: index };
}

/** The rows between the anchor and this one, both included: `[from, to]`. */
export const rangeTo = (marks: Marks, index: number): [number, number] => [
  Math.min(marks.anchor, index),
  Math.max(marks.anchor, index),
];

/** Marks more rows; the next range begins at `index`. */
export const withKeys = (marks: Marks, keys: readonly string[], index: number): Marks => ({
  keys: new Set([...(marks.all ? [] : marks.keys), ...keys]),
  all: false,
  anchor: index,
});

/** Marks all, or nothing where all were marked. */
export const allToggled = (marks: Marks): Marks => ({ ...noMarks, all: !marks.all, anchor: marks.anchor });

export const isMarked = (marks: Marks, key: string | null): boolean =>
  key !== null && (marks.all || marks.keys.has(key));

/** Where the focus stands: on its row while that is in the list, else at the place where it stood. */
export function focusPlace(count: number, found: number, place: number): number {
  if (found >= 0 && found < count) return found;
  return Math.min(Math.max(0, place), count - 1);
}
