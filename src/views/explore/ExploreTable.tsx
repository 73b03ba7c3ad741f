import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import Checkbox from '@mui/material/Checkbox';
import { styled, type Theme } from '@mui/material/styles';
import { useVirtualizer } from '@tanstack/react-virtual';
import { memo, useEffect, useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import { columnLabel, readColumn, type ColumnRef, type Level } from '../../core/explore/columns.ts';
import type { Value } from '../../core/explore/conditions.ts';
import { fieldText, readNumber } from '../../core/explore/typed.ts';
import { useRecycled } from '../../ui/hooks/useRecycled.ts';
import { Whisker } from '../../ui/Whisker.tsx';
import { cellText, isNumber } from './cells.ts';
import { below, type ShownColumn } from './state.ts';
import { pageRows, type TableRow } from './useTable.ts';

const rowHeight = 32;
const markWidth = 34;

export interface TableColumn extends ColumnRef {
  ref: string;
  width: number;
  /** Distance from the left edge at which it stays; null when it scrolls. */
  left: number | null;
}

const widths: Record<string, number> = {
  name: 210,
  verdict: 132,
  served: 190,
  blocked: 190,
  match_type: 84,
  gain: 122,
  impressions: 92,
};

const usualWidth = ({ column, frame }: ColumnRef): number => {
  const known = widths[column.name];
  if (known !== undefined) return known;
  if (column.kind === 'text') return column.choices ? 96 : 136;
  if (column.kind === 'day') return 92;
  if (column.label.length + (frame === '' ? 0 : 8) > 9) return 112;
  return column.kind === 'money' ? 86 : 72;
};

/** Columns with their widths; the first and pinned ones stay when the others scroll. */
export function layOut(shown: readonly ShownColumn[], level: Level): TableColumn[] {
  let left = markWidth;
  const list = shown.map((one, i) => ({ one, stays: i === 0 || one.pinned }));
  // What stays stands first, in its order.
  const ordered = [...list.filter(({ stays }) => stays), ...list.filter(({ stays }) => !stays)];
  return ordered.flatMap(({ one, stays }) => {
    const column = readColumn(one.ref, level);
    if (!column) return [];
    const width = one.width ?? usualWidth(column);
    const made = { ...column, ref: one.ref, width, left: stays ? left : null };
    if (stays) left += width;
    return [made];
  });
}

/** What can be typed into a cell at a level. */
export const editableColumn: Partial<Record<Level, string>> = {
  targets: 'bid',
  campaigns: 'daily_budget',
  placements: 'modifier',
};

interface ExploreTableProps {
  level: Level;
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
  editing: string | null;
  sort: string | null;
  descending: boolean;
  stale: boolean;
  onSort: (ref: string) => void;
  onWidth: (ref: string, width: number) => void;
  onFocus: (index: number) => void;
  onOpen: (key: string) => void;
  onMark: (index: number, range: boolean) => void;
  onMarkAll: () => void;
  onEdit: (key: string | null) => void;
  onValue: (key: string, value: number) => void;
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
    '& .stays': { position: 'sticky', zIndex: 1, background: roles.surface },
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
      <TableHead {...props} grid={grid} width={width} places={places} />
      <RowGroup role="rowgroup" style={{ height: virtual.getTotalSize(), width }}>
        {recycled.map(({ item, slot }) => {
          const row = rowAt(item.index);
          const isEditing = row !== null && props.editing === row.key;
          return (
            <Row
              key={isEditing ? `editing ${row.key}` : slot}
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
              isEditing={isEditing}
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

const stickyStyle = (left: number | null) => (left === null ? undefined : { left });

type TableHeadProps = Pick<
  ExploreTableProps,
  | 'columns'
  | 'totals'
  | 'sort'
  | 'descending'
  | 'onSort'
  | 'onWidth'
  | 'onMarkAll'
  | 'allMarked'
  | 'marked'
  | 'count'
> & { grid: string; width: number; places: number[] };

function TableHead(props: TableHeadProps) {
  const { columns, totals, sort, descending, grid, width, places } = props;
  const line = {
    display: 'grid',
    gridTemplateColumns: grid,
    width,
    alignItems: 'center',
    position: 'sticky',
    zIndex: 3,
    bgcolor: 'background.paper',
    borderBottom: 1,
    borderColor: 'divider',
    '& > div': { px: '6px', overflow: 'hidden', whiteSpace: 'nowrap', textOverflow: 'ellipsis' },
    '& .stays': { position: 'sticky', zIndex: 1, bgcolor: 'background.paper' },
    '& .number': { textAlign: 'right' },
  } as const;
  return (
    <>
      <Box role="row" sx={{ ...line, top: 0, height: 30, fontSize: 12, color: 'text.secondary' }}>
        <Box role="columnheader" className="stays" sx={{ left: 0, p: '0 !important', textAlign: 'center' }}>
          <Checkbox
            size="small"
            checked={props.allMarked}
            indeterminate={!props.allMarked && props.marked.size > 0}
            onChange={props.onMarkAll}
            slotProps={{ input: { 'aria-label': `Mark all ${props.count} that match` } }}
            sx={{ p: 0.25 }}
          />
        </Box>
        {columns.map((column) => {
          const number = isNumber(column.column.kind);
          return (
            <Box
              key={column.ref}
              role="columnheader"
              aria-sort={column.ref === sort ? (descending ? 'descending' : 'ascending') : undefined}
              className={`${number ? 'number' : ''} ${column.left === null ? '' : 'stays'}`}
              style={stickyStyle(column.left)}
              sx={{ position: 'relative' }}
            >
              <ButtonBase
                onClick={() => props.onSort(column.ref)}
                title={columnLabel(column)}
                sx={{
                  font: 'inherit',
                  fontWeight: column.ref === sort ? 700 : 400,
                  maxWidth: '100%',
                  overflow: 'hidden',
                  textOverflow: 'ellipsis',
                  display: 'inline-block',
                }}
              >
                {columnLabel(column)}
                {column.ref === sort ? (descending ? ' ↓' : ' ↑') : ''}
              </ButtonBase>
              <Grip width={column.width} onWidth={(next) => props.onWidth(column.ref, next)} />
            </Box>
          );
        })}
        <span />
      </Box>
      <Box
        role="row"
        data-testid="totals"
        sx={{ ...line, top: 30, height: 31, fontSize: 13, fontWeight: 700, borderColor: 'text.secondary' }}
      >
        <div role="cell" className="stays" style={{ left: 0 }} />
        {columns.map((column, i) => {
          const value = totals[places[i]!] ?? null;
          const text =
            column.column.name === 'name'
              ? `All ${props.count.toLocaleString('en-IE')}`
              : value === null
                ? ''
                : cellText(column, value);
          return (
            <div
              key={column.ref}
              role="cell"
              className={`${isNumber(column.column.kind) ? 'number' : ''} ${column.left === null ? '' : 'stays'}`}
              style={stickyStyle(column.left)}
            >
              {text}
            </div>
          );
        })}
        <span />
      </Box>
    </>
  );
}

/** Drags the width of a column; arrow keys do it too. */
function Grip({ width, onWidth }: { width: number; onWidth: (width: number) => void }) {
  const start = useRef<{ x: number; width: number } | null>(null);
  const move = (event: PointerEvent) => {
    if (start.current)
      onWidth(Math.max(40, Math.round(start.current.width + event.clientX - start.current.x)));
  };
  return (
    <Box
      component="span"
      aria-hidden="true"
      onPointerDown={(event: PointerEvent<HTMLSpanElement>) => {
        event.currentTarget.setPointerCapture(event.pointerId);
        start.current = { x: event.clientX, width };
      }}
      onPointerMove={move}
      onPointerUp={() => (start.current = null)}
      sx={{
        position: 'absolute',
        right: 0,
        top: 0,
        bottom: 0,
        width: 7,
        cursor: 'col-resize',
        touchAction: 'none',
      }}
    />
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
  isEditing: boolean;
  onFocus: (index: number) => void;
  onOpen: (key: string) => void;
  onMark: (index: number, range: boolean) => void;
  onEdit: (key: string | null) => void;
  onValue: (key: string, value: number) => void;
}

const Row = memo(function Row(props: RowProps) {
  const { level, columns, places, grid, width, row, index, top, focused, isMarked, isEditing } = props;
  const element = useRef<HTMLDivElement>(null);
  const key = row?.key ?? null;
  useEffect(() => {
    // The element was another row's: the focus of what stands in it is not meant for this one.
    const active = document.activeElement;
    if (!isEditing && active instanceof HTMLElement && element.current?.contains(active)) active.blur();
  }, [key, isEditing]);
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
        <input
          type="checkbox"
          checked={isMarked}
          disabled={row === null}
          aria-label={`Mark ${name}`}
          onChange={() => undefined}
          onClick={(event) => {
            event.stopPropagation();
            props.onMark(index, event.shiftKey);
          }}
        />
      </div>
      {columns.map((column, i) => (
        <Cell
          key={column.ref}
          level={level}
          column={column}
          value={row?.values[places[i]!] ?? null}
          row={row}
          isEditing={isEditing}
          onOpen={props.onOpen}
          onEdit={props.onEdit}
          onValue={props.onValue}
        />
      ))}
    </div>
  );
});

interface CellProps {
  level: Level;
  column: TableColumn;
  value: Value;
  row: TableRow | null;
  isEditing: boolean;
  onOpen: (key: string) => void;
  onEdit: (key: string | null) => void;
  onValue: (key: string, value: number) => void;
}

function Cell({ level, column, value, row, isEditing, onOpen, onEdit, onValue }: CellProps) {
  const { name, kind } = column.column;
  const stays = column.left === null ? '' : ' stays';
  const style = stickyStyle(column.left);
  if (row === null) return <div role="cell" className={`none${stays}`} style={style} />;
  const text = cellText(column, value);
  if (name === 'name') {
    return (
      <div role="cell" className={stays} style={style} title={text}>
        {below(level, row.key) ? (
          <button type="button" className="open" tabIndex={-1} onClick={() => onOpen(row.key)}>
            {text}
          </button>
        ) : (
          <b>{text}</b>
        )}
      </div>
    );
  }
  if (name === 'verdict') {
    const verdict = (value ?? 'undecided') as 'under' | 'over' | 'undecided';
    return (
      <div role="cell" className={`judged ${verdict}${stays}`} style={style} title={text}>
        <Whisker
          interval={row.interval ?? null}
          target={row.targetAcos ?? 0.3}
          verdict={verdict}
          width={64}
        />
        {text.replace(' goal', '')}
      </div>
    );
  }
  const editable = editableColumn[level] === name;
  if (editable && isEditing) {
    return (
      <div role="cell" className="number" style={{ ...style, overflow: 'visible' }}>
        <CellInput
          label={columnLabel(column)}
          kind={kind}
          value={typeof value === 'number' ? value : 0}
          onValue={(next) => onValue(row.key, next)}
          onCancel={() => onEdit(null)}
        />
      </div>
    );
  }
  const tone =
    value === null
      ? ' none'
      : text === 'no sales' || (name === 'gain' && (value as number) < 0)
        ? ' over'
        : name === 'gain'
          ? ' under'
          : '';
  return (
    <div
      role="cell"
      className={`${isNumber(kind) ? 'number' : ''}${tone}${stays}`}
      style={style}
      title={kind === 'text' ? text : undefined}
      onDoubleClick={editable ? () => onEdit(row.key) : undefined}
    >
      {editable ? <span className="changes">{text}</span> : text}
    </div>
  );
}

interface CellInputProps {
  label: string;
  kind: TableColumn['column']['kind'];
  value: number;
  onValue: (value: number) => void;
  onCancel: () => void;
}

/** A value changed where it stands: Enter puts it on the sheet, Escape leaves it. */
function CellInput({ label, kind, value, onValue, onCancel }: CellInputProps) {
  const [text, setText] = useState(fieldText(kind, value));
  const next = readNumber(kind, text);
  const wrong = next === null || next < 0;
  const onKey = (event: KeyboardEvent) => {
    event.stopPropagation();
    if (event.key === 'Escape') onCancel();
    if (event.key === 'Enter' && !wrong) onValue(next);
  };
  return (
    <input
      autoFocus
      aria-label={label}
      aria-invalid={wrong}
      inputMode="decimal"
      value={text}
      onChange={(event) => setText(event.target.value)}
      onFocus={(event) => event.target.select()}
      onBlur={onCancel}
      onKeyDown={onKey}
      style={{
        font: 'inherit',
        width: '100%',
        textAlign: 'right',
        padding: '1px 3px',
        boxSizing: 'border-box',
      }}
    />
  );
}
