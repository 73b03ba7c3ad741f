import Box from '@mui/material/Box';
import { styled } from '@mui/material/styles';
import type { ReactNode } from 'react';
import { Explanation, ListExplanation } from '../parts/Explanation.tsx';
import { Grid, rowAttributes, type SeenRow } from './Grid.tsx';
import { HeadCell, headRowStyle } from './HeadCell.tsx';
import { MarkBox } from './MarkBox.tsx';
import { rowStyles } from './rowStyles.ts';

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
  /** Name of the figure whose explanation its head gives. */
  explains?: string;
  /** The figure of a row, and how it is written: the head then says what is usual. */
  value?: (row: Row) => number | null;
  text?: (value: number) => string;
  cell: (row: Row) => ReactNode;
  /** Text of a second, smaller line. */
  below?: (row: Row) => ReactNode;
}

interface ListTableProps<Row> {
  label: string;
  /** What its rows are: "words". */
  nouns?: string;
  rows: readonly Row[];
  columns: readonly ListColumn<Row>[];
  keyOf: (row: Row) => string;
  nameOf: (row: Row) => string;
  /** Focus and marks, as `useList` keeps them. */
  list: {
    about: string;
    focus: number;
    moveTo: (index: number) => void;
    isMarked: (key: string | null) => boolean;
    mark: (index: number, range: boolean) => void;
  };
  /** Rows have a box that marks them. */
  isMarkable?: boolean;
  /** A row with fields is the one in focus as soon as one of them is. */
  followsFields?: boolean;
  sort?: string;
  descending?: boolean;
  onSort?: (id: string) => void;
  onOpen?: (row: Row) => void;
}

const rowHeight = 40;

const Rows = styled('div')(({ theme }) => {
  const known = rowStyles(theme);
  return {
    ...known,
    '& .row': { ...known['& .row'], right: 0, height: rowHeight, columnGap: '10px', padding: '0 12px 0 6px' },
  };
});

/** A list as a grid of rows that exist only while they are seen, with a focus, marks, and a head that sorts and explains. */
export function ListTable<Row>(props: ListTableProps<Row>) {
  const { label, nouns = 'rows', rows, columns, keyOf, nameOf, list, isMarkable = false } = props;
  const { sort = '', descending = false, onSort } = props;
  const tracks = [...(isMarkable ? ['26px'] : []), ...columns.map(({ width }) => width)].join(' ');
  const explanation = ({ label: name, explains, value, text }: ListColumn<Row>) =>
    explains === undefined ? null : value && text ? (
      <ListExplanation label={name} name={explains} rows={rows} value={value} text={text} nouns={nouns} />
    ) : (
      <Explanation label={name} name={explains} />
    );
  const head = (
    <Box role="rowgroup" sx={{ position: 'sticky', top: 0, zIndex: 3 }}>
      <Box
        role="row"
        sx={{ ...headRowStyle, gridTemplateColumns: tracks, columnGap: '10px', pl: '6px', pr: 1.5 }}
      >
        {isMarkable && <span role="columnheader" aria-label="Marks" />}
        {columns.map((column) => (
          <HeadCell
            key={column.id}
            label={column.label}
            isNumber={column.isNumber ?? false}
            order={column.id === sort ? (descending ? 'descending' : 'ascending') : null}
            explanation={explanation(column)}
            {...(column.sorts && onSort ? { onSort: () => onSort(column.id) } : {})}
          />
        ))}
      </Box>
    </Box>
  );
  const row = ({ index, top, id, slot }: SeenRow) => {
    const one = rows[index]!;
    const key = keyOf(one);
    const isMarked = isMarkable ? list.isMarked(key) : undefined;
    const { style, ...attributes } = rowAttributes({
      id,
      index,
      top,
      isFocused: index === list.focus,
      ...(isMarked === undefined ? {} : { isMarked }),
    });
    return (
      <div
        key={slot}
        {...attributes}
        className={index === list.focus ? 'row fixed focus' : 'row fixed'}
        data-key={key}
        onClick={() => list.moveTo(index)}
        {...(props.followsFields && { onFocus: () => list.moveTo(index) })}
        onDoubleClick={() => props.onOpen?.(one)}
        style={{ ...style, gridTemplateColumns: tracks }}
      >
        {isMarked !== undefined && (
          <div role="gridcell" className="mark">
            <MarkBox name={nameOf(one)} checked={isMarked} onMark={(range) => list.mark(index, range)} />
          </div>
        )}
        {columns.map(({ id: column, isNumber, isLong, cell, below }) => (
          <div key={column} role="gridcell" className={isNumber ? 'number' : undefined}>
            <div className={isLong ? 'long' : 'first'}>{cell(one)}</div>
            {below && <div className="second">{below(one)}</div>}
          </div>
        ))}
      </div>
    );
  };
  return (
    <Grid
      label={label}
      count={rows.length}
      rowHeight={rowHeight}
      focus={list.focus}
      about={list.about}
      isMarkable={isMarkable}
      head={head}
      Rows={Rows}
      row={row}
    />
  );
}
