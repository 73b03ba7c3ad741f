import type { TableRequest } from './useTable.ts';
import type { Level } from '../../core/account/levels.ts';
import Box from '@mui/material/Box';
import { styled, type Theme } from '@mui/material/styles';
import { useVirtualizer } from '@tanstack/react-virtual';
import { memo, useEffect, useMemo, useRef, useState } from 'react';
import type { TableRow } from '../../answers/explore.ts';
import type { Value } from '../../core/explore/conditions.ts';
import { MarkBox } from '../../ui/parts/MarkBox.tsx';
import { useRecycled } from '../../ui/hooks/useRecycled.ts';
import { Cell, type EditedCell } from './Cell.tsx';
import { markWidth, type TableColumn } from './layout.ts';
import { TableHead } from './TableHead.tsx';
import { pageRows } from '../../ui/hooks/usePages.ts';

const rowHeight = 32;

export interface ExploreTableProps {
  level: Level;
  /** What the rows were asked by: heads say what is usual among them. */
  request: TableRequest;
  columns: TableColumn[];
  /** Order of `row.values`. */
  refs: string[];
  count: number;
  totals: Value[];
  rowAt: (index: number) => TableRow | null;
  onPages: (pages: number[]) => void;
  focus: number;
  marked: ReadonlySet<string>;
  allMarked: boolean;
  editing: EditedCell | null;
  sort: string | null;
  descending: boolean;
  stale: boolean;
  onSort: (ref: string) => void;
  onWidth: (ref: string, width: number) => void;
  onFocus: (index: number) => void;
  onOpen: (key: string) => void;
  onMark: (index: number, range: boolean) => void;
  onMarkAll: () => void;
  onEdit: (cell: EditedCell | null) => void;
  onValue: (cell: EditedCell, value: number | string) => void;
}

const tableStyles = ({ palette: { roles } }: Theme) =>
  ({
    position: 'relative',
    '& .row': {
      position: 'absolute',
      contain: 'strict',
      top: 0,
      left: 0,
      height: rowHeight,
      display: 'grid',
      alignItems: 'center',
      borderBottom: `1px solid ${roles.line}`,
      fontSize: 13,
      background: roles.surface,
    },
    '& .row[aria-selected=true], & .row[aria-selected=true] > .stays': { background: roles.wash },
    '& .row[aria-selected=true] > .mark': { boxShadow: `inset 3px 0 0 ${roles.accent}` },
    '& .row > div': { padding: '0 6px', overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' },
    // Every sticky cell is a layer of its own to the browser: they are so only while there is something to stay before.
    '&.shifted .stays': { position: 'sticky', zIndex: 1, background: roles.surface },
    '& .row > .mark': { textAlign: 'center', padding: 0 },
    '& .mark > input': { accentColor: roles.accent, width: 14, height: 14 },
    '& .number': { textAlign: 'right' },
    '& .over': { color: roles.over },
    '& .under': { color: roles.under },
    '& .none': { color: roles.soft },
    '& .row > .judged': { display: 'flex', alignItems: 'center', gap: '6px', fontSize: 11 },
    '& .open': {
      font: 'inherit',
      fontWeight: 600,
      color: 'inherit',
      background: 'none',
      border: 0,
      padding: 0,
      cursor: 'pointer',
      maxWidth: '100%',
      overflow: 'hidden',
      textOverflow: 'ellipsis',
      verticalAlign: 'bottom',
    },
    '& .open:hover': { textDecoration: 'underline' },
    '& .changes': { borderBottom: `1px dotted ${roles.soft}`, cursor: 'text' },
  }) as const;

const RowGroup = styled('div')(({ theme }) => tableStyles(theme));

/** One level of the account as a table: rows exist while they are seen, and are fetched page by page. */
export function ExploreTable(props: ExploreTableProps) {
  const { columns, count, focus, marked, allMarked, rowAt, onPages, refs } = props;
  const scroller = useRef<HTMLDivElement>(null);
  const [isShifted, setShifted] = useState(false);
  const virtual = useVirtualizer({
    count,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    overscan: 10,
    scrollPaddingStart: 62,
  });
  const items = virtual.getVirtualItems();
  const recycled = useRecycled(items, virtual.isScrolling);
  const [first, last] = [items[0]?.index ?? 0, items[items.length - 1]?.index ?? 0];
  const pages = `${Math.floor(first / pageRows)}-${Math.floor(last / pageRows)}`;
  useEffect(() => {
    const [from, to] = pages.split('-').map(Number) as [number, number];
    onPages(Array.from({ length: to - from + 1 }, (_, i) => from + i));
  }, [pages, onPages]);
  useEffect(() => {
    if (focus >= 0 && focus < count) virtual.scrollToIndex(focus, { align: 'auto' });
    // Scrolling belongs to a move of the focus, not to every new list.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [focus]);
  const width = columns.reduce((sum, column) => sum + column.width, markWidth + 8);
  const grid = `${markWidth}px ${columns.map((column) => `${column.width}px`).join(' ')} 8px`;
  const places = useMemo(() => columns.map(({ ref }) => refs.indexOf(ref)), [columns, refs]);
  return (
    <Box
      ref={scroller}
      role="table"
      aria-label="Rows"
      aria-rowcount={count + 2}
      aria-busy={props.stale}
      tabIndex={0}
      onScroll={(event) => setShifted(event.currentTarget.scrollLeft > 0)}
      sx={{
        flex: 1,
        minHeight: 0,
        minWidth: 0,
        overflow: 'auto',
        bgcolor: 'background.paper',
        borderTop: 1,
        borderColor: 'text.primary',
        outlineOffset: -2,
        opacity: props.stale ? 0.6 : 1,
      }}
    >
      <TableHead
        columns={columns}
        totals={props.totals}
        sort={props.sort}
        descending={props.descending}
        onSort={props.onSort}
        onWidth={props.onWidth}
        onMarkAll={props.onMarkAll}
        allMarked={allMarked}
        marked={marked}
        count={count}
        request={props.request}
        grid={grid}
        width={width}
        places={places}
      />
      <RowGroup
        role="rowgroup"
        className={isShifted ? 'shifted' : ''}
        style={{ height: virtual.getTotalSize(), width }}
      >
        {recycled.map(({ item, slot }) => {
          const row = rowAt(item.index);
          const editing = row !== null && props.editing?.key === row.key ? props.editing.name : null;
          return (
            <Row
              key={editing === null ? slot : `editing ${row!.key}`}
              level={props.level}
              columns={columns}
              places={places}
              grid={grid}
              width={width}
              row={row}
              index={item.index}
              top={item.start}
              focused={item.index === focus}
              isMarked={row !== null && (allMarked || marked.has(row.key))}
              editing={editing}
              onFocus={props.onFocus}
              onOpen={props.onOpen}
              onMark={props.onMark}
              onEdit={props.onEdit}
              onValue={props.onValue}
            />
          );
        })}
      </RowGroup>
    </Box>
  );
}

interface RowProps {
  level: Level;
  columns: TableColumn[];
  places: number[];
  grid: string;
  width: number;
  row: TableRow | null;
  index: number;
  top: number;
  focused: boolean;
  isMarked: boolean;
  /** Name of the column whose cell is being changed. */
  editing: string | null;
  onFocus: (index: number) => void;
  onOpen: (key: string) => void;
  onMark: (index: number, range: boolean) => void;
  onEdit: (cell: EditedCell | null) => void;
  onValue: (cell: EditedCell, value: number | string) => void;
}

const Row = memo(function Row(props: RowProps) {
  const { level, columns, places, grid, width, row, index, top, focused, isMarked, editing } = props;
  const element = useRef<HTMLDivElement>(null);
  const key = row?.key ?? null;
  useEffect(() => {
    // The element was another row's: the focus of what stands in it is not meant for this one.
    const active = document.activeElement;
    if (editing === null && active instanceof HTMLElement && element.current?.contains(active)) active.blur();
  }, [key, editing]);
  const name = row ? String(row.values[places[0]!] ?? '') : '';
  return (
    <div
      ref={element}
      className="row"
      role="row"
      aria-rowindex={index + 3}
      aria-selected={focused}
      data-key={key ?? undefined}
      onClick={() => props.onFocus(index)}
      style={{ gridTemplateColumns: grid, width, transform: `translateY(${top}px)` }}
    >
      <div role="cell" className="mark stays" style={{ left: 0 }}>
        <MarkBox
          name={name}
          checked={isMarked}
          disabled={row === null}
          onMark={(range) => props.onMark(index, range)}
        />
      </div>
      {columns.map((column, i) => (
        <Cell
          key={column.ref}
          level={level}
          column={column}
          value={row?.values[places[i]!] ?? null}
          row={row}
          isEditing={editing === column.column.name}
          onOpen={props.onOpen}
          onEdit={props.onEdit}
          onValue={props.onValue}
        />
      ))}
    </div>
  );
});
