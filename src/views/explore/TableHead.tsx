import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import Checkbox from '@mui/material/Checkbox';
import Tooltip from '@mui/material/Tooltip';
import { memo, useRef, type PointerEvent } from 'react';
import { columnLabel } from '../../core/explore/columns.ts';
import { cellText, isNumber } from './cells.ts';
import { Explains } from './Explains.tsx';
import type { ExploreTableProps } from './ExploreTable.tsx';
import { stickyStyle } from './layout.ts';

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
  | 'request'
> & { grid: string; width: number; places: number[] };

const explainsStyle = {
  bgcolor: 'background.paper',
  color: 'text.primary',
  border: 1,
  borderColor: 'divider',
  boxShadow: 2,
  p: 1.25,
  fontWeight: 400,
} as const;

/** Heads that say what they are, sort and can be widened, and below them the totals of all rows that match. */
export const TableHead = memo(function TableHead(props: TableHeadProps) {
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
              <Tooltip
                title={<Explains column={column} request={props.request} />}
                describeChild
                enterDelay={500}
                enterNextDelay={150}
                placement="bottom-start"
                slotProps={{ tooltip: { sx: explainsStyle } }}
              >
                <ButtonBase
                  onClick={() => props.onSort(column.ref)}
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
              </Tooltip>
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
