import { useCallback, useEffect, useRef, useState } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';

/**
 * Focus and marks of a list of rows with the keys that every list has: j, k, x, shift x, ctrl a, Esc. `about` names what
 * the list shows: another filter or order begins at its top.
 */
export function useList<Row>(rows: readonly Row[], keyOf: (row: Row) => string, about = '') {
  const [focusKey, setFocusKey] = useState<string | null>(null);
  const [marked, setMarked] = useState<ReadonlySet<string>>(new Set());
  const place = useRef(0);
  const anchor = useRef(0);
  const [shown, setShown] = useState(about);
  if (shown !== about) {
    setShown(about);
    setFocusKey(null);
    place.current = 0;
  }
  // The focus stays at its place when its row has left the list.
  const known = focusKey === null ? -1 : rows.findIndex((row) => keyOf(row) === focusKey);
  const focus = known >= 0 ? known : Math.min(place.current, rows.length - 1);
  place.current = Math.max(0, focus);
  const row = rows[focus] ?? null;
  useEffect(() => {
    if (row) setFocusKey(keyOf(row));
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [row]);
  const moveTo = useCallback(
    (index: number) => {
      const next = rows[Math.max(0, Math.min(rows.length - 1, index))];
      if (next) setFocusKey(keyOf(next));
    },
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [rows],
  );
  const mark = useCallback(
    (index: number, range: boolean) => {
      setMarked((old) => {
        const next = new Set(old);
        if (range) {
          const [from, to] = [Math.min(anchor.current, index), Math.max(anchor.current, index)];
          for (const one of rows.slice(from, to + 1)) next.add(keyOf(one));
        } else {
          const key = rows[index] === undefined ? undefined : keyOf(rows[index]);
          if (key !== undefined && !next.delete(key)) next.add(key);
        }
        anchor.current = index;
        return next;
      });
    },
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [rows],
  );
  const unmark = useCallback(() => setMarked(new Set()), []);
  const markAll = () =>
    setMarked((old) => (rows.every((one) => old.has(keyOf(one))) ? new Set() : new Set(rows.map(keyOf))));
  /** What is marked among the rows, else the row in focus. */
  const chosen = (): Row[] => {
    const list = rows.filter((one) => marked.has(keyOf(one)));
    return list.length > 0 ? list : row ? [row] : [];
  };
  useHotkeys('j, down', (event) => (event.preventDefault(), moveTo(focus + 1)), [focus, moveTo]);
  useHotkeys('k, up', (event) => (event.preventDefault(), moveTo(focus - 1)), [focus, moveTo]);
  useHotkeys('x', () => mark(focus, false), [focus, mark]);
  useHotkeys('shift+x', () => mark(focus, true), [focus, mark]);
  useHotkeys('ctrl+a, meta+a', (event) => (event.preventDefault(), markAll()), [rows]);
  useHotkeys('esc', unmark);
  const markedHere = rows.filter((one) => marked.has(keyOf(one))).length;
  return { about, focus, row, moveTo, marked, markedHere, mark, markAll, unmark, chosen };
}

export const listKeys = [
  { keys: ['j', 'k'], does: 'next, previous row' },
  { keys: ['x'], does: 'mark; with shift a range' },
  { keys: ['ctrl', 'a'], does: 'mark all that match' },
  { keys: ['Esc'], does: 'unmark' },
];
