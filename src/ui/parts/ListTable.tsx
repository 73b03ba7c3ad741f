import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import { styled, type Theme } from '@mui/material/styles';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useEffect, useRef, type ReactNode } from 'react';
import { MarkBox } from './MarkBox.tsx';

/** A column of a list: what a row shows in it, and by what it is sorted. */
export interface ListColumn<Row> {
  id: string;
  label: string;
  /** A track of a CSS grid. */
  width: string;
  isNumber?: boolean;
  /** Long text in two lines instead of one. */
  isLong?: boolean;
  /** The column can be sorted by. */
  sorts?: boolean;
  cell: (row: Row) => ReactNode;
  /** Text of a second, smaller line. */
  below?: (row: Row) => ReactNode;
}

interface ListTableProps<Row> {
  label: string;
  rows: readonly Row[];
  columns: readonly ListColumn<Row>[];
  keyOf: (row: Row) => string;
  nameOf: (row: Row) => string;
  /** Names what the list shows: another filter or order is seen from its top. */
  about: string;
  focus: number;
  onFocus: (index: number) => void;
  marked?: ReadonlySet<string>;
  onMark?: (index: number, range: boolean) => void;
  sort: string;
  descending: boolean;
  onSort?: (id: string) => void;
  onOpen?: (row: Row) => void;
}

const rowHeight = 40;

const rowStyles = ({ palette: { roles } }: Theme) =>
  ({
    position: 'relative',
    '& .row': {
      position: 'absolute',
      contain: 'strict',
      top: 0,
      left: 0,
      right: 0,
      height: rowHeight,
      display: 'grid',
      columnGap: '10px',
      alignItems: 'center',
      padding: '0 12px 0 6px',
      borderBottom: `1px solid ${roles.line}`,
      fontSize: 13,
    },
    '& .row[aria-selected=true]': { background: roles.wash, boxShadow: `inset 3px 0 0 ${roles.accent}` },
    '& .row > div': { minWidth: 0 },
    '& .row > .mark': { textAlign: 'center' },
    '& .mark > input': { accentColor: roles.accent, width: 14, height: 14 },
    '& .number': { textAlign: 'right' },
    '& .first, & .second': { overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' },
    '& .long': {
      fontSize: 12,
      lineHeight: '16px',
      display: '-webkit-box',
      WebkitLineClamp: 2,
      WebkitBoxOrient: 'vertical',
      overflow: 'hidden',
    },
    '& .second': { fontSize: 11, lineHeight: '14px', color: roles.soft },
    '& .over': { color: roles.over },
    '& .under': { color: roles.under },
    '& .soft': { color: roles.soft },
  }) as const;

const RowGroup = styled('div')(({ theme }) => rowStyles(theme));

/** A list as a table of rows that exist only while they are seen, with a focus, marks, and a head that sorts. */
export function ListTable<Row>(props: ListTableProps<Row>) {
  const { label, rows, columns, keyOf, nameOf, focus, onFocus, marked, onMark, sort, descending, onSort } =
    props;
  const scroller = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    overscan: 10,
  });
  useEffect(() => {
    if (focus >= 0 && focus < rows.length) virtual.scrollToIndex(focus, { align: 'auto' });
    // Scrolling belongs to a move of the focus, not to every new list.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [focus]);
  useEffect(() => {
    scroller.current?.scrollTo({ top: 0 });
  }, [props.about]);
  const grid = [...(onMark ? ['26px'] : []), ...columns.map(({ width }) => width)].join(' ');
  return (
    <Box
      ref={scroller}
      role="table"
      aria-label={label}
      aria-rowcount={rows.length + 1}
      tabIndex={0}
      sx={{
        flex: 1,
        minHeight: 0,
        overflow: 'auto',
        bgcolor: 'background.paper',
        borderTop: 1,
        borderColor: 'text.primary',
      }}
    >
      <Box role="rowgroup">
        <Box
          role="row"
          sx={{
            display: 'grid',
            gridTemplateColumns: grid,
            columnGap: '10px',
            alignItems: 'center',
            height: 30,
            position: 'sticky',
            top: 0,
            zIndex: 2,
            bgcolor: 'background.paper',
            borderBottom: 1,
            borderColor: 'divider',
            pl: '6px',
            pr: 1.5,
            color: 'text.secondary',
            fontSize: 12,
          }}
        >
          {onMark && <span role="columnheader" aria-label="Marks" />}
          {columns.map(({ id, label: name, isNumber, sorts }) => (
            <Box
              key={id}
              role="columnheader"
              aria-sort={id === sort ? (descending ? 'descending' : 'ascending') : undefined}
              sx={{ textAlign: isNumber ? 'right' : 'left', whiteSpace: 'nowrap' }}
            >
              {sorts && onSort ? (
                <ButtonBase
                  onClick={() => onSort(id)}
                  sx={{ font: 'inherit', fontWeight: id === sort ? 700 : 400 }}
                >
                  {name}
                  {id === sort ? (descending ? ' ↓' : ' ↑') : ''}
                </ButtonBase>
              ) : (
                name
              )}
            </Box>
          ))}
        </Box>
      </Box>
      <RowGroup role="rowgroup" style={{ height: virtual.getTotalSize() }}>
        {virtual.getVirtualItems().map(({ index, start }) => {
          const row = rows[index]!;
          const key = keyOf(row);
          return (
            <div
              key={key}
              className="row"
              role="row"
              data-key={key}
              aria-rowindex={index + 2}
              aria-selected={index === focus}
              onClick={() => onFocus(index)}
              onDoubleClick={() => props.onOpen?.(row)}
              style={{ transform: `translateY(${start}px)`, gridTemplateColumns: grid }}
            >
              {onMark && (
                <div role="cell" className="mark">
                  <MarkBox
                    name={nameOf(row)}
                    checked={marked?.has(key) ?? false}
                    onMark={(range) => onMark(index, range)}
                  />
                </div>
              )}
              {columns.map(({ id, isNumber, isLong, cell, below }) => (
                <div key={id} role="cell" className={isNumber ? 'number' : undefined}>
                  <div className={isLong ? 'long' : 'first'}>{cell(row)}</div>
                  {below && <div className="second">{below(row)}</div>}
                </div>
              ))}
            </div>
          );
        })}
      </RowGroup>
    </Box>
  );
}
