import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { defaultRangeExtractor, useVirtualizer, type Range } from '@tanstack/react-virtual';
import { useEffect, useRef, useState, type ReactNode } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import type { LinePage, PageEntry, SheetLine } from '../../answers/changes.ts';
import type { LineGroup, LineView } from '../../core/changes/sheet.ts';
import { get } from '../../ui/api.ts';
import { pageRows, usePages } from '../../ui/hooks/usePages.ts';

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

/** The lines of a sheet: read page by page, rows that exist only while they are seen, a focus that keys move. */
export function LinesList<Line extends SheetLine>(props: LinesListProps<Line>) {
  const { path, queryKey, view, columns } = props;
  const scroller = useRef<HTMLDivElement>(null);
  const [focus, setFocus] = useState(0);
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
  const at = Math.min(focus, total - 1);
  const virtual = useVirtualizer({
    count: total,
    getScrollElement: () => scroller.current,
    estimateSize: () => 36,
    overscan: 12,
    scrollPaddingStart: 30,
    // What is being edited stays, however far one scrolls.
    rangeExtractor: (range: Range) => {
      const shown = defaultRangeExtractor(range);
      return at < 0 || shown.includes(at) ? shown : [...shown, at].sort((a, b) => a - b);
    },
  });
  const items = virtual.getVirtualItems();
  const seen = [...new Set(items.map(({ index }) => Math.floor(index / pageRows)))].join(',');
  useEffect(() => setPages(seen === '' ? [0] : seen.split(',').map(Number)), [seen]);
  useEffect(() => {
    setFocus(0);
    scroller.current?.scrollTo({ top: 0 });
  }, [view.show, view.find, view.order]);
  const moveTo = (index: number) => {
    const next = Math.max(0, Math.min(total - 1, index));
    setFocus(next);
    virtual.scrollToIndex(next, { align: 'auto' });
  };
  useHotkeys('j, down', (event) => (event.preventDefault(), moveTo(at + 1)), [at, total]);
  useHotkeys('k, up', (event) => (event.preventDefault(), moveTo(at - 1)), [at, total]);
  useHotkeys('home', (event) => (event.preventDefault(), moveTo(0)), [total]);
  useHotkeys('end', (event) => (event.preventDefault(), moveTo(total - 1)), [total]);
  useHotkeys(
    'e, enter',
    (event) => {
      const field = scroller.current?.querySelector<HTMLInputElement>('[aria-selected=true] input');
      if (!field || document.activeElement instanceof HTMLButtonElement) return;
      event.preventDefault();
      field.select();
    },
    [at],
  );
  useHotkeys(
    'delete',
    () => {
      const entry = rowAt(at);
      if (entry) props.onDelete?.(entry);
    },
    [rowAt, at, props.onDelete],
  );
  if (first.isError && !first.data) {
    return (
      <Box sx={{ p: 2 }}>
        <Typography variant="body2">{first.error.message}</Typography>
        <Button onClick={() => void first.refetch()}>Try again</Button>
      </Box>
    );
  }
  return (
    <Box
      ref={scroller}
      role="table"
      aria-label={props.label}
      aria-rowcount={total + 1}
      aria-busy={first.isPlaceholderData || first.isPending}
      tabIndex={0}
      sx={{
        flex: 1,
        minHeight: 0,
        overflow: 'auto',
        bgcolor: 'background.paper',
        borderTop: 1,
        borderColor: 'text.primary',
        fontSize: 13,
        opacity: first.isPlaceholderData ? 0.6 : 1,
        '& [role=row].line': {
          display: 'grid',
          gridTemplateColumns: columns,
          columnGap: 1.5,
          px: 2,
          py: 0.6,
          alignItems: 'start',
          borderTop: 1,
          borderColor: 'divider',
          minHeight: 32,
        },
        '& [role=row][aria-selected=true]': {
          bgcolor: (theme) => theme.palette.roles.wash,
          boxShadow: (theme) => `inset 3px 0 0 ${theme.palette.roles.accent}`,
        },
      }}
    >
      <Box role="rowgroup" sx={{ position: 'sticky', top: 0, zIndex: 1, bgcolor: 'background.paper' }}>
        <Box
          role="row"
          sx={{
            display: 'grid',
            gridTemplateColumns: columns,
            columnGap: 1.5,
            color: 'text.secondary',
            fontSize: 12,
            py: 0.75,
            px: 2,
            borderBottom: 1,
            borderColor: 'divider',
          }}
        >
          {props.heads}
        </Box>
      </Box>
      {first.data && total === 0 && (
        <Typography variant="body2" color="text.secondary" sx={{ p: 2 }}>
          {props.none}
        </Typography>
      )}
      {first.isPending && (
        <Typography variant="body2" color="text.secondary" sx={{ p: 2 }}>
          Reading the lines.
        </Typography>
      )}
      <Box role="rowgroup" sx={{ position: 'relative' }} style={{ height: virtual.getTotalSize() }}>
        {items.map(({ index, start }) => {
          const entry = rowAt(index);
          const line = entry !== null && 'line' in entry ? entry.line : null;
          return (
            <Box
              key={line ? line.line_id : entry && 'head' in entry ? entry.head.key : `waits-${index}`}
              ref={virtual.measureElement}
              data-index={index}
              {...(line ? { 'data-line': line.line_id } : {})}
              role="row"
              className={line ? 'line' : undefined}
              aria-rowindex={index + 2}
              aria-selected={index === at}
              onClick={() => setFocus(index)}
              onFocus={() => setFocus(index)}
              sx={{ position: 'absolute', top: 0, left: 0, right: 0 }}
              style={{ transform: `translateY(${start}px)` }}
            >
              {line ? (
                props.cells(line)
              ) : entry && 'head' in entry ? (
                props.head(entry.head)
              ) : (
                <Box role="cell" aria-busy sx={{ height: 32, px: 2, color: 'text.secondary' }}>
                  …
                </Box>
              )}
            </Box>
          );
        })}
      </Box>
    </Box>
  );
}
