import { useCallback, useEffect, useRef, useState } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { useSteady } from '../hooks/useSteady.ts';
import { useUrlState } from '../hooks/useUrlState.ts';
import {
  allToggled,
  focusPlace,
  isMarked,
  noMarks,
  rangeTo,
  toggled,
  withKeys,
  type Marks,
} from './selection.ts';

/** The rows that a selection is of. */
export interface ListSource {
  count: number;
  /** The key of a row; null while its page is not read. */
  keyAt: (index: number) => string | null;
  /** Where a key stands now, -1 when it is gone. A list that is read page by page does not know. */
  indexOf?: (key: string) => number;
  /** Keys of a range of which some are not read yet. */
  readKeys?: (from: number, to: number) => Promise<string[]>;
  /** Every key that matches; a list that does not know them marks them all as one. */
  allKeys?: () => string[];
  /** What the list shows: another filter or order begins at its top. */
  about?: string;
  /** What it is a list of: nothing stays marked when that changes. */
  scope?: string;
  /** The parameter of the address that keeps the focus, where a link should. */
  address?: string;
  onError?: (error: Error) => void;
  /** More rows are still being read: a row that is not there yet is waited for. */
  isPartial?: boolean;
  /** Rows have no marks: only the focus moves. */
  isUnmarkable?: boolean;
}

/** ms without a move before the address follows the focus: a key held down must not write it with every row. */
const addressRest = 250;

/** The row in focus; the address says where it begins, and follows once it rests. */
function useLinkedFocus(address: string | undefined): [string | null, (key: string | null) => void] {
  const [linked, setLinked] = useUrlState(address ?? 'focus');
  const [own, setOwn] = useState(address ? linked : null);
  const written = useRef(linked);
  useEffect(() => {
    // Back, Forward or a link: the address leads.
    if (!address || linked === written.current) return;
    written.current = linked;
    setOwn(linked);
  }, [address, linked]);
  useEffect(() => {
    if (!address || own === null || own === written.current) return;
    const wait = setTimeout(() => {
      written.current = own;
      setLinked(own);
    }, addressRest);
    return () => clearTimeout(wait);
  }, [address, own, setLinked]);
  return [own, setOwn];
}

/** Whether nothing was pressed on the page so far. Who presses a key means the row that stands there at that moment. */
function useUntouched(isAsked: boolean): boolean {
  const [isUntouched, setUntouched] = useState(true);
  useEffect(() => {
    if (!isAsked) return;
    const touch = () => setUntouched(false);
    const signs = ['keydown', 'pointerdown'] as const;
    for (const sign of signs) window.addEventListener(sign, touch, { capture: true });
    return () => {
      for (const sign of signs) window.removeEventListener(sign, touch, { capture: true });
    };
  }, [isAsked]);
  return isUntouched;
}

/** Focus and marks of a list with the keys that every list has: j, k, Home, End, x, shift x, ctrl a, Esc. */
export function useSelection(source: ListSource) {
  const { count, keyAt, indexOf, readKeys, allKeys, about = '', scope = '', address, onError } = source;
  const marking = { enabled: !source.isUnmarkable };
  const [focusKey, setFocusKey] = useLinkedFocus(address);
  const [marks, setMarks] = useState<Marks>(noMarks);
  const place = useRef(0);
  const [shown, setShown] = useState({ about, scope });
  if (shown.about !== about || shown.scope !== scope) {
    if (shown.scope !== scope) setMarks(noMarks);
    setShown({ about, scope });
    setFocusKey(null);
    place.current = 0;
  }
  // The focus stays at its place when its row has left the list.
  const found =
    focusKey === null
      ? -1
      : indexOf
        ? indexOf(focusKey)
        : keyAt(place.current) === focusKey
          ? place.current
          : -1;
  const focus = focusPlace(count, found, place.current);
  place.current = Math.max(0, focus);
  const key = keyAt(focus);
  // The row that stands there now is the one to follow. While more rows are read, a linked one is waited for, and who has
  // done nothing yet stays at the top: what comes may go before what is there.
  const isUntouched = useUntouched(source.isPartial === true && focusKey === null);
  const waits = source.isPartial === true && (focusKey === null ? isUntouched : found < 0);
  useEffect(() => {
    if (key !== null && !waits) setFocusKey(key);
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [key, waits]);

  const moveTo = useSteady((index: number) => {
    const next = Math.max(0, Math.min(count - 1, index));
    place.current = next;
    setFocusKey(keyAt(next));
  });
  const anchor = useRef(0);
  const mark = useSteady((index: number, range: boolean) => {
    const one = keyAt(index);
    if (!range) {
      anchor.current = index;
      if (one !== null) setMarks((old) => toggled(old, one, index));
      return;
    }
    const [from, to] = rangeTo({ ...noMarks, anchor: anchor.current }, index);
    anchor.current = index;
    const keys = Array.from({ length: to - from + 1 }, (_, i) => keyAt(from + i));
    const add = (list: readonly string[]) => setMarks((old) => withKeys(old, list, index));
    if (!keys.includes(null)) add(keys as string[]);
    else void readKeys?.(from, to).then(add, onError);
  });
  const unmark = useCallback(() => setMarks(noMarks), []);
  const markAll = useSteady(() => {
    if (!allKeys) return setMarks(allToggled);
    const all = allKeys();
    setMarks((old) => (all.every((one) => old.keys.has(one)) ? noMarks : withKeys(noMarks, all, 0)));
  });

  useHotkeys('j, down', (event) => (event.preventDefault(), moveTo(focus + 1)), [focus, moveTo]);
  useHotkeys('k, up', (event) => (event.preventDefault(), moveTo(focus - 1)), [focus, moveTo]);
  useHotkeys('home', (event) => (event.preventDefault(), moveTo(0)), [moveTo]);
  useHotkeys('end', (event) => (event.preventDefault(), moveTo(count - 1)), [count, moveTo]);
  useHotkeys('x', () => mark(focus, false), marking, [focus, mark]);
  useHotkeys('shift+x', () => mark(focus, true), marking, [focus, mark]);
  useHotkeys('ctrl+a, meta+a', (event) => (event.preventDefault(), markAll()), marking, [markAll]);
  useHotkeys('esc', unmark, marking, [unmark]);

  return {
    about: `${scope} ${about}`,
    focus,
    moveTo,
    /** The keys that are marked one by one; empty while all are. */
    marked: marks.keys,
    allMarked: marks.all,
    isMarked: (one: string | null) => isMarked(marks, one),
    mark,
    markAll,
    unmark,
  };
}

export const listKeys = [
  { keys: ['j', 'k'], does: 'next, previous row' },
  { keys: ['x'], does: 'mark; with shift a range' },
  { keys: ['ctrl', 'a'], does: 'mark all that match' },
  { keys: ['Esc'], does: 'unmark' },
];
