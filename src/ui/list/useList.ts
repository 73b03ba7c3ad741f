import { useCallback, useMemo } from 'react';
import { useSelection, type ListSource } from './useSelection.ts';

/** Focus and marks of a list whose rows are all here. */
export function useList<Row>(
  rows: readonly Row[],
  keyOf: (row: Row) => string,
  options: Pick<ListSource, 'about' | 'scope' | 'address' | 'isPartial'> = {},
) {
  const places = useMemo(
    () => new Map(rows.map((row, at) => [keyOf(row), at])),
    // keyOf says the same of a row whenever it is asked.
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [rows],
  );
  const keyAt = useCallback(
    (index: number) => (rows[index] === undefined ? null : keyOf(rows[index])),
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [rows],
  );
  const indexOf = useCallback((key: string) => places.get(key) ?? -1, [places]);
  const allKeys = useCallback(() => [...places.keys()], [places]);
  const selection = useSelection({ count: rows.length, keyAt, indexOf, allKeys, ...options });
  const row = rows[selection.focus] ?? null;
  /** What is marked among the rows that match. */
  const markedRows = useMemo(
    () => (selection.marked.size === 0 ? [] : rows.filter((one) => selection.marked.has(keyOf(one)))),
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [rows, selection.marked],
  );
  /** What is marked among the rows that match, else the row in focus. */
  const chosen = (): Row[] => (markedRows.length > 0 ? markedRows : row ? [row] : []);
  return { ...selection, row, markedRows, chosen };
}
