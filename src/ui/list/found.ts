/** Rows of a list in memory that hold what is typed, in the order that is chosen. */

interface Looking<Row> {
  /** What is typed; null for nothing. */
  text: string | null;
  /** What of a row it is looked for in. */
  in: (row: Row) => readonly (string | null)[];
  /** What they are ordered by; left out, they stay as they come. */
  by?: (row: Row) => number | string;
  descending?: boolean;
  /** What decides between rows that are alike in that. */
  then?: (a: Row, b: Row) => number;
}

export function found<Row>(rows: readonly Row[], looking: Looking<Row>): Row[] {
  const { text, in: textsOf, by, descending = false, then = () => 0 } = looking;
  const wanted = (text ?? '').toLowerCase();
  const held = rows.filter((row) => textsOf(row).some((own) => own?.toLowerCase().includes(wanted)));
  if (!by) return held;
  const sign = descending ? -1 : 1;
  return held
    .map((row) => ({ row, value: by(row) }))
    .sort((a, b) => sign * (a.value < b.value ? -1 : a.value > b.value ? 1 : 0) || then(a.row, b.row))
    .map(({ row }) => row);
}
