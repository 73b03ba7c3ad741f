import { sizes } from '../../ui/theme.ts';
import Box from '@mui/material/Box';
import Checkbox from '@mui/material/Checkbox';
import { memo, useRef, type PointerEvent } from 'react';
import { columnLabel } from '../../core/explore/columns.ts';
import { HeadCell } from '../../ui/list/HeadCell.tsx';
import { cellText, isNumber } from './cells.ts';
import { Explains } from './Explains.tsx';
import type { ExploreTableProps } from './ExploreTable.tsx';

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
  | 'someMarked'
  | 'count'
  | 'request'
> & {
  grid: string;
  width: number;
  /** Places of the columns in `totals`. */
  places: number[];
  /** The columns that are in sight, or stay. */
  seen: readonly number[];
};

/** Heads that say what they are, sort and can be widened, and below them the totals of all rows that match. */
export const TableHead = memo(function TableHead(props: TableHeadProps) {
  const { columns, totals, sort, descending, grid, width, places, seen } = props;
  const line = {
    display: 'grid',
    gridTemplateColumns: grid,
    width,
    alignItems: 'center',
    bgcolor: 'background.paper',
    borderBottom: 1,
    borderColor: 'divider',
    '& > div': { px: '6px', overflow: 'hidden', whiteSpace: 'nowrap', textOverflow: 'ellipsis' },
    '& .head': { position: 'relative' },
    '& .stays': { position: 'sticky', zIndex: 1, bgcolor: 'background.paper' },
    '& .number': { textAlign: 'right' },
  } as const;
  return (
    <Box role="rowgroup" sx={{ position: 'sticky', top: 0, zIndex: 3, width }}>
      <Box role="row" sx={{ ...line, height: 30, fontSize: sizes.small, color: 'text.secondary' }}>
        <Box role="columnheader" className="stays" sx={{ left: 0, p: '0 !important', textAlign: 'center' }}>
          <Checkbox
            size="small"
            checked={props.allMarked}
            indeterminate={!props.allMarked && props.someMarked}
            onChange={props.onMarkAll}
            slotProps={{ input: { 'aria-label': `Mark all ${props.count} that match` } }}
            sx={{ p: 0.25 }}
          />
        </Box>
        {seen.map((at) => {
          const column = columns[at]!;
          return (
            <HeadCell
              key={column.ref}
              label={columnLabel(column)}
              isNumber={isNumber(column.column.kind)}
              className={column.left === null ? 'head' : 'head stays'}
              style={column.style}
              order={column.ref === sort ? (descending ? 'descending' : 'ascending') : null}
              onSort={() => props.onSort(column.ref)}
              explanation={<Explains column={column} request={props.request} />}
            >
              <Grip width={column.width} onWidth={(next) => props.onWidth(column.ref, next)} />
            </HeadCell>
          );
        })}
      </Box>
      <Box
        role="row"
        data-testid="totals"
        sx={{ ...line, height: 31, fontSize: sizes.table, fontWeight: 700, borderColor: 'text.secondary' }}
      >
        <div role="gridcell" className="stays" style={{ left: 0 }} />
        {seen.map((at) => {
          const column = columns[at]!;
          const value = totals[places[at]!] ?? null;
          const text =
            column.column.name === 'name'
              ? `All ${props.count.toLocaleString('en-IE')}`
              : value === null
                ? ''
                : cellText(column, value);
          return (
            <div
              key={column.ref}
              role="gridcell"
              className={`${isNumber(column.column.kind) ? 'number' : ''} ${column.left === null ? '' : 'stays'}`}
              style={column.style}
            >
              {text}
            </div>
          );
        })}
      </Box>
    </Box>
  );
});

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
