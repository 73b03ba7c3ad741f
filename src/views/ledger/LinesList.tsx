import { styled } from '@mui/material/styles';
import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useCallback, useState, type ReactNode } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import type { LinePage, PageEntry, SheetLine } from '../../answers/changes.ts';
import type { LineGroup, LineView } from '../../core/changes/sheet.ts';
import { get } from '../../ui/api.ts';
import { Grid, rowAttributes } from '../../ui/list/Grid.tsx';
import { headRowStyle } from '../../ui/list/HeadCell.tsx';
import { Failed } from '../../ui/list/ListPage.tsx';
import { rowStyles } from '../../ui/list/rowStyles.ts';
import { pageRows, usePages } from '../../ui/list/usePages.ts';
import { useSelection } from '../../ui/list/useSelection.ts';

interface LinesListProps<Line extends SheetLine> {
  label: string;
  /** Where its pages are read: `/api/sheet/lines`. */
  path: string;
  queryKey: readonly unknown[];
  view: LineView;
  /** Tracks of a CSS grid, and what stands over them. */
  columns: string;
  heads: ReactNode;
  head: (group: LineGroup) => ReactNode;
  cells: (line: Line) => ReactNode;
  /** Said where nothing is shown. */
  none: string;
  onDelete?: (entry: PageEntry<Line>) => void;
}

const entriesOf = <Line,>({ entries }: LinePage<Line>): readonly PageEntry<Line>[] => entries;

const Rows = styled('div')(({ theme }) => {
  const known = rowStyles(theme);
  return {
    ...known,
    '& .row': { ...known['& .row'], right: 0, display: 'block', minHeight: 32 },
    '& .row.line': { display: 'grid', columnGap: '12px', padding: '5px 16px', alignItems: 'start' },
  };
});

const keyOf = <Line extends SheetLine>(entry: PageEntry<Line>): string =>
  'line' in entry ? String(entry.line.line_id) : entry.head.key;

/** The lines of a sheet: read page by page, rows that exist only while they are seen, a focus that keys move. */
export function LinesList<Line extends SheetLine>(props: LinesListProps<Line>) {
  const { path, queryKey, view, columns } = props;
  const [pages, setPages] = useState<readonly number[]>([0]);
  const asked = new URLSearchParams({ ...view });
  const { first, rowAt } = usePages<LinePage<Line>, PageEntry<Line>>(
    {
      key: [...queryKey, view],
      read: (from, count) => get(`${path}?${asked.toString()}&from=${from}&count=${count}`),
    },
    pages,
    entriesOf,
  );
  const total = first.data?.total ?? 0;
  const keyAt = useCallback(
    (index: number) => {
      const entry = rowAt(index);
      return entry && keyOf(entry);
    },
    [rowAt],
  );
  const about = `${view.show} ${view.find} ${view.order}`;
  const { focus, moveTo } = useSelection({ count: total, keyAt, about, isUnmarkable: true });
  const onSeen = useCallback((from: number, to: number) => {
    const [low, high] = [Math.floor(from / pageRows), Math.floor(to / pageRows)];
    const next = Array.from({ length: high - low + 1 }, (_, i) => low + i);
    setPages((old) => (old.join() === next.join() ? old : next));
  }, []);
  useHotkeys(
    'e, enter',
    (event) => {
      const field = document.querySelector<HTMLInputElement>('[role=grid] [data-focus=true] input');
      if (!field || document.activeElement instanceof HTMLButtonElement) return;
      event.preventDefault();
      field.select();
    },
    [focus],
  );
  useHotkeys(
    'delete',
    () => {
      const entry = rowAt(focus);
      if (entry) props.onDelete?.(entry);
    },
    [rowAt, focus, props.onDelete],
  );
  if (first.isError && !first.data)
    return <Failed error={first.error} onRetry={() => void first.refetch()} />;
  const note = first.isPending ? 'Reading the lines.' : first.data && total === 0 ? props.none : null;
  return (
    <Grid
      label={props.label}
      count={total}
      rowHeight={36}
      isMeasured
      onSeen={onSeen}
      focus={focus}
      about={about}
      isBusy={first.isPlaceholderData || first.isPending}
      head={
        <Box role="rowgroup" sx={{ position: 'sticky', top: 0, zIndex: 3 }}>
          <Box role="row" sx={{ ...headRowStyle, gridTemplateColumns: columns, columnGap: 1.5, px: 2 }}>
            {props.heads}
          </Box>
        </Box>
      }
      note={
        note !== null && (
          <Typography variant="body2" color="text.secondary" sx={{ p: 2 }}>
            {note}
          </Typography>
        )
      }
      Rows={Rows}
      row={({ index, top, id, measure }) => {
        const entry = rowAt(index);
        const line = entry !== null && 'line' in entry ? entry.line : null;
        const isFocused = index === focus;
        const { style, ...attributes } = rowAttributes({ id, index, top, isFocused });
        return (
          <div
            key={entry ? keyOf(entry) : `waits-${index}`}
            ref={measure}
            data-index={index}
            data-key={entry ? keyOf(entry) : undefined}
            {...(line ? { 'data-line': line.line_id } : {})}
            {...attributes}
            className={`row${line ? ' line' : ''}${isFocused ? ' focus' : ''}`}
            onClick={() => moveTo(index)}
            onFocus={() => moveTo(index)}
            style={line ? { ...style, gridTemplateColumns: columns } : style}
          >
            {line ? (
              props.cells(line)
            ) : entry && 'head' in entry ? (
              props.head(entry.head)
            ) : (
              <Box role="gridcell" aria-busy sx={{ height: 32, px: 2, color: 'text.secondary' }}>
                …
              </Box>
            )}
          </div>
        );
      }}
    />
  );
}
