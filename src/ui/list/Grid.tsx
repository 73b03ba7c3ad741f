import Box from '@mui/material/Box';
import { defaultRangeExtractor, useVirtualizer, type Range } from '@tanstack/react-virtual';
import {
  useCallback,
  useEffect,
  useId,
  useRef,
  type ElementType,
  type FocusEvent,
  type ReactNode,
  type RefObject,
  type UIEvent,
} from 'react';
import { useRecycled } from './useRecycled.ts';

/** A row that is seen: where it stands, and what its element must carry. */
export interface SeenRow {
  index: number;
  /** px from the top of all rows. */
  top: number;
  /** Name of its element in the document, which the grid points at while the row has the focus. */
  id: string;
  /** Key of its element: rows hand on their elements while they are scrolled. */
  slot: number;
  /** Measures a row that is as high as its text. */
  measure: (element: HTMLElement | null) => void;
}

interface GridProps {
  label: string;
  /** The element that scrolls, for who needs it. */
  scroller?: RefObject<HTMLDivElement | null>;
  count: number;
  /** How many columns there are, where not all of them are in the document. */
  columns?: number;
  /** px; a first guess where rows are as high as their text. */
  rowHeight: number;
  /** Rows are as high as their text: each has an element of its own, with `measure` as its ref and `data-index`. */
  isMeasured?: boolean;
  /** Rows of the head, and their height in px. */
  headRows?: number;
  headHeight?: number;
  focus: number;
  /** What the list shows: another one is seen from its top. */
  about?: string;
  isBusy?: boolean;
  /** Said to be choosable: rows have marks. */
  isMarkable?: boolean;
  head: ReactNode;
  /** What stands under the head while there is no row. */
  note?: ReactNode;
  /** The element that holds the rows, with their looks. */
  Rows: ElementType;
  rowsClass?: string;
  /** px, where the rows are wider than what is seen. */
  width?: number;
  row: (seen: SeenRow) => ReactNode;
  onSeen?: (first: number, last: number) => void;
  onScroll?: (event: UIEvent<HTMLDivElement>) => void;
}

/**
 * Rows that exist only while they are seen, under a head that stays: 200,000 scroll as 20 do. One stop of the Tab key;
 * the row in focus is pointed at, and stays in the document however far one scrolls.
 */
export function Grid(props: GridProps) {
  const { count, focus, rowHeight, headRows = 1, headHeight = 30, Rows, onSeen } = props;
  const own = useRef<HTMLDivElement>(null);
  const scroller = props.scroller ?? own;
  const name = useId();
  const rangeExtractor = useCallback(
    (range: Range) => {
      const shown = defaultRangeExtractor(range);
      if (focus < 0 || focus >= count || shown.includes(focus)) return shown;
      return focus < shown[0]! ? [focus, ...shown] : [...shown, focus];
    },
    [focus, count],
  );
  const virtual = useVirtualizer({
    count,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    overscan: 12,
    // The head stands above the rows, and stays over them: it counts at both ends.
    scrollMargin: headHeight,
    scrollPaddingStart: headHeight,
    rangeExtractor,
  });
  const items = virtual.getVirtualItems();
  const recycled = useRecycled(items, virtual.isScrolling);
  const shown = props.isMeasured ? items.map((item) => ({ item, slot: item.index })) : recycled;
  const near = items.filter(({ index }) => index !== focus);
  const [first, last] = [near[0]?.index ?? 0, near[near.length - 1]?.index ?? 0];
  useEffect(() => onSeen?.(first, last), [first, last, onSeen]);
  useEffect(() => {
    if (focus >= 0 && focus < count) virtual.scrollToIndex(focus, { align: 'auto' });
    // Scrolling belongs to a move of the focus, not to every new list.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [focus]);
  useEffect(() => {
    scroller.current?.scrollTo({ top: 0 });
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [props.about]);
  // An element that was handed on to another row lets go of the focus: what stands in it now was not meant.
  const held = useRef<{ row: HTMLElement; key: string | undefined } | null>(null);
  const onFocus = (event: FocusEvent<HTMLElement>) => {
    const row = event.target.closest<HTMLElement>('[data-key]');
    held.current = row && { row, key: row.dataset.key };
  };
  useEffect(() => {
    const active = document.activeElement;
    if (!held.current || !(active instanceof HTMLElement) || !held.current.row.contains(active)) return;
    if (held.current.row.dataset.key !== held.current.key) active.blur();
  });
  return (
    <Box
      ref={scroller}
      role="grid"
      aria-label={props.label}
      aria-rowcount={count + headRows}
      aria-colcount={props.columns}
      aria-busy={props.isBusy ?? false}
      aria-multiselectable={props.isMarkable ?? false}
      aria-activedescendant={focus >= 0 && focus < count ? `${name}${focus}` : undefined}
      tabIndex={0}
      onFocus={onFocus}
      onScroll={props.onScroll}
      sx={{
        flex: 1,
        minHeight: 0,
        minWidth: 0,
        overflow: 'auto',
        bgcolor: 'background.paper',
        borderTop: 1,
        borderColor: 'text.primary',
        outlineOffset: -2,
        opacity: props.isBusy ? 0.6 : 1,
      }}
    >
      {props.head}
      {props.note}
      <Rows
        role="rowgroup"
        className={props.rowsClass}
        style={{ height: virtual.getTotalSize(), ...(props.width ? { width: props.width } : {}) }}
      >
        {shown.map(({ item, slot }) =>
          props.row({
            index: item.index,
            top: item.start - headHeight,
            id: `${name}${item.index}`,
            slot,
            measure: virtual.measureElement,
          }),
        )}
      </Rows>
    </Box>
  );
}

interface RowState {
  id: string;
  index: number;
  top: number;
  isFocused: boolean;
  isMarked?: boolean;
  headRows?: number;
}

/** What the element of a row carries, besides its cells. */
export const rowAttributes = ({ id, index, top, isFocused, isMarked, headRows = 1 }: RowState) => ({
  id,
  role: 'row',
  'aria-rowindex': index + headRows + 1,
  ...(isMarked === undefined ? {} : { 'aria-selected': isMarked }),
  ...(isFocused ? { 'data-focus': 'true' } : {}),
  style: { transform: `translateY(${top}px)` },
});
