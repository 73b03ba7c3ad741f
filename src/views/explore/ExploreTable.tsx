import { sizes } from '../../ui/theme.ts';
import type { Level } from '../../core/account/levels.ts';
import { styled } from '@mui/material/styles';
import { useVirtualizer } from '@tanstack/react-virtual';
import { memo, useCallback, useEffect, useMemo, useRef, useState, type UIEvent } from 'react';
import type { TableRow } from '../../answers/explore.ts';
import type { Value } from '../../core/explore/conditions.ts';
import { Grid, rowAttributes } from '../../ui/list/Grid.tsx';
import { MarkBox } from '../../ui/list/MarkBox.tsx';
import { rowStyles } from '../../ui/list/rowStyles.ts';
import { pageRows } from '../../ui/list/usePages.ts';
import { Cell, type EditedCell } from './Cell.tsx';
import { markWidth, type TableColumn } from './layout.ts';
import { TableHead } from './TableHead.tsx';
import type { TableRequest } from './useTable.ts';

const rowHeight = 32;
const headRows = 2;
const headHeight = 62;

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
  isMarked: (key: string | null) => boolean;
  someMarked: boolean;
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

const Rows = styled('div')(({ theme }) => {
  const known = rowStyles(theme);
  const { roles } = theme.palette;
  return {
    ...known,
    '& .row': { ...known['& .row'], height: rowHeight, background: roles.surface },
    '& .row.focus': { background: roles.wash },
    '& .row.focus > .stays': { background: roles.wash },
    '& .row.focus > .mark': { boxShadow: `inset 3px 0 0 ${roles.accent}` },
    '& .row > div': { padding: '0 6px', overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' },
    // Every sticky cell is a layer of its own to the browser: they are so only while there is something to stay before.
    '&.shifted .stays': { position: 'sticky', zIndex: 1, background: roles.surface },
    '&.shifted .row.focus > .stays': { background: roles.wash },
    '& .row > .mark': { textAlign: 'center', padding: 0 },
    '& .none': { color: roles.soft },
    '& .row > .judged': { display: 'flex', alignItems: 'center', gap: '6px', fontSize: sizes.tiny },
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
  };
});

/** The columns that stay, and those in sight: a table of a hundred columns costs what is seen of it. */
function useSeenColumns(
  columns: readonly TableColumn[],
  scroller: { current: HTMLElement | null },
): number[] {
  const virtual = useVirtualizer({
    horizontal: true,
    count: columns.length,
    getScrollElement: () => scroller.current,
    estimateSize: (at) => columns[at]!.width,
    paddingStart: markWidth,
    overscan: 2,
  });
  useEffect(() => virtual.measure(), [columns, virtual]);
  const inSight = virtual.getVirtualItems().map(({ index }) => index);
  const staying = columns.filter(({ left }) => left !== null).length;
  const key = [...new Set([...Array.from({ length: staying }, (_, i) => i), ...inSight])].join(',');
  return useMemo(() => key.split(',').map(Number), [key]);
}

/** One level of the account as a grid: rows and columns exist while they are seen, rows are fetched page by page. */
export function ExploreTable(props: ExploreTableProps) {
  const { columns, count, focus, rowAt, onPages, refs } = props;
  const scroller = useRef<HTMLDivElement>(null);
  const [isShifted, setShifted] = useState(false);
  const seen = useSeenColumns(columns, scroller);
  const onSeen = useCallback(
    (first: number, last: number) => {
      const from = Math.floor(first / pageRows);
      onPages(Array.from({ length: Math.floor(last / pageRows) - from + 1 }, (_, i) => from + i));
    },
    [onPages],
  );
  const width = columns.reduce((sum, column) => sum + column.width, markWidth + 8);
  const grid = `${markWidth}px ${columns.map((column) => `${column.width}px`).join(' ')} 8px`;
  const places = useMemo(() => columns.map(({ ref }) => refs.indexOf(ref)), [columns, refs]);
  return (
    <Grid
      label="Rows"
      scroller={scroller}
      count={count}
      columns={columns.length + 1}
      rowHeight={rowHeight}
      headRows={headRows}
      headHeight={headHeight}
      focus={focus}
      isBusy={props.stale}
      isMarkable
      width={width}
      Rows={Rows}
      rowsClass={isShifted ? 'shifted' : ''}
      onSeen={onSeen}
      onScroll={(event: UIEvent<HTMLDivElement>) => setShifted(event.currentTarget.scrollLeft > 0)}
      head={
        <TableHead
          columns={columns}
          totals={props.totals}
          sort={props.sort}
          descending={props.descending}
          onSort={props.onSort}
          onWidth={props.onWidth}
          onMarkAll={props.onMarkAll}
          allMarked={props.allMarked}
          someMarked={props.someMarked}
          count={count}
          request={props.request}
          grid={grid}
          width={width}
          places={places}
          seen={seen}
        />
      }
      row={({ index, top, id, slot }) => {
        const row = rowAt(index);
        const editing = row !== null && props.editing?.key === row.key ? props.editing.name : null;
        return (
          <Row
            key={editing === null ? slot : `editing ${row!.key}`}
            id={id}
            level={props.level}
            columns={columns}
            seen={seen}
            places={places}
            grid={grid}
            width={width}
            row={row}
            index={index}
            top={top}
            isFocused={index === focus}
            isMarked={row !== null && props.isMarked(row.key)}
            editing={editing}
            onFocus={props.onFocus}
            onOpen={props.onOpen}
            onMark={props.onMark}
            onEdit={props.onEdit}
            onValue={props.onValue}
          />
        );
      }}
    />
  );
}

interface RowProps {
  id: string;
  level: Level;
  columns: TableColumn[];
  seen: readonly number[];
  places: number[];
  grid: string;
  width: number;
  row: TableRow | null;
  index: number;
  top: number;
  isFocused: boolean;
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
  const { id, level, columns, seen, places, grid, width, row, index, top, isFocused, isMarked, editing } =
    props;
  const name = row ? String(row.values[places[0]!] ?? '') : '';
  const { style, ...attributes } = rowAttributes({ id, index, top, isFocused, isMarked, headRows });
  return (
    <div
      {...attributes}
      className={isFocused ? 'row fixed focus' : 'row fixed'}
      data-key={row?.key}
      onClick={() => props.onFocus(index)}
      style={{ ...style, gridTemplateColumns: grid, width }}
    >
      <div role="gridcell" className="mark stays" style={{ left: 0 }}>
        <MarkBox
          name={name}
          checked={isMarked}
          disabled={row === null}
          onMark={(range) => props.onMark(index, range)}
        />
      </div>
      {seen.map((at) => {
        const column = columns[at]!;
        return (
          <Cell
            key={column.ref}
            level={level}
            column={column}
            value={row?.values[places[at]!] ?? null}
            row={row}
            isEditing={editing === column.column.name}
            onOpen={props.onOpen}
            onEdit={props.onEdit}
            onValue={props.onValue}
          />
        );
      })}
    </div>
  );
});
