import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useVirtualizer } from '@tanstack/react-virtual';
import { useDeferredValue, useMemo, useRef, useState } from 'react';
import type { DeskAnswer, PagesAnswer } from '../../answers/kits.ts';
import { byStanding, standingOf, type CataloguePage, type PageStanding } from '../../core/kits/pages.ts';
import { count, counted, money } from '../../core/metrics/format.ts';
import { get } from '../../ui/api.ts';
import { Choice, Field } from '../../ui/parts/fields.tsx';
import { sizes } from '../../ui/theme.ts';
import { useCategories } from './Categories.tsx';
import { number, Row, type SectionProps } from './parts.tsx';

type PagePickerProps = SectionProps & { desk: DeskAnswer; onClose: () => void };

const columns = '24px minmax(0, 1.1fr) 76px 52px 30px minmax(0, 1.2fr)';
const rowHeight = 30;

/** Pages of the catalogue to be chosen, those whose visitors are won most easily first, each with the reason. */
export function PagePicker({ body, desk, grounds, change, onClose }: PagePickerProps) {
  const ours = grounds.get(body.skus[0] ?? '')?.grounds.page;
  const categories = useCategories();
  const [asked, setAsked] = useState<{ search: string; category: string | null; brand: string }>({
    search: '',
    category: null,
    brand: '',
  });
  const [only, setOnly] = useState({ dearer: true, worse: false });
  const [marked, setMarked] = useState<ReadonlySet<string>>(new Set());
  const category = asked.category ?? ours?.category ?? '';
  const query = useDeferredValue(
    new URLSearchParams({
      ...(asked.search.trim() === '' ? {} : { search: asked.search.trim() }),
      ...(asked.brand.trim() === '' ? {} : { brand: asked.brand.trim() }),
      ...(category === '' ? {} : { category }),
    }).toString(),
  );
  const found = useQuery({
    queryKey: ['kits', 'pages', query],
    queryFn: () => get<PagesAnswer>(`/api/kits/pages?${query}`),
    placeholderData: keepPreviousData,
    staleTime: 60_000,
  });
  const own = useMemo(() => new Set(desk.products.map(({ itemCode }) => itemCode)), [desk]);
  const taken = useMemo(
    () => new Set(body.items.map(({ itemCode }) => itemCode.toUpperCase())),
    [body.items],
  );
  const pages = useMemo(
    () =>
      (found.data?.pages ?? [])
        .filter(({ itemCode }) => !own.has(itemCode) && !taken.has(itemCode))
        .map((page) => ({ page, standing: standingOf(page, ours ?? { price: 0, rating: null }) }))
        .filter(
          ({ standing }) => (!only.dearer || standing.dearer > 0) && (!only.worse || standing.worse > 0),
        )
        .sort((a, b) => byStanding(a.standing, b.standing)),
    [found.data, own, taken, ours, only],
  );
  const chosen = pages.filter(({ page }) => marked.has(page.itemCode));
  const add = () => {
    const codes = chosen.map(({ page }) => page.itemCode);
    change((old) => ({
      ...old,
      items: [
        ...old.items.filter(({ itemCode }) => itemCode !== ''),
        ...codes.map((itemCode) => ({ itemCode, bid: null })),
      ],
    }));
    setMarked(new Set());
  };
  const mark = (itemCode: string, isMarked: boolean) =>
    setMarked((old) => new Set(isMarked ? [...old, itemCode] : [...old].filter((one) => one !== itemCode)));
  return (
    <Box
      component="section"
      aria-label="Catalogue"
      sx={{
        pt: 1,
        pb: 1.5,
        borderBottom: 1,
        borderColor: 'text.primary',
        display: 'grid',
        gap: 0.75,
        fontSize: sizes.table,
      }}
    >
      <Row>
        <Typography variant="h2" sx={{ flex: 1 }}>
          Pages of the catalogue
        </Typography>
        <Button size="small" onClick={() => setMarked(new Set(pages.map(({ page }) => page.itemCode)))}>
          Mark all {count(pages.length)}
        </Button>
        <Button size="small" variant="outlined" disabled={chosen.length === 0} onClick={add}>
          Add {counted(chosen.length, 'page')}
        </Button>
        <Button size="small" onClick={onClose}>
          Close the catalogue
        </Button>
      </Row>
      <Row>
        <Field
          aria-label="Search the catalogue"
          placeholder="words or item code"
          value={asked.search}
          style={{ flex: 1, minWidth: 120 }}
          onChange={({ target }) => setAsked({ ...asked, search: target.value })}
        />
        <Choice
          aria-label="Category of pages"
          value={category}
          onChange={({ target }) => setAsked({ ...asked, category: target.value })}
        >
          <option value="">all categories</option>
          {categories.data?.categories.map((one) => (
            <option key={one.category}>{one.category}</option>
          ))}
        </Choice>
        <Field
          aria-label="Brand of pages"
          placeholder="any brand"
          value={asked.brand}
          style={{ width: 96 }}
          onChange={({ target }) => setAsked({ ...asked, brand: target.value })}
        />
        <label>
          <input
            type="checkbox"
            checked={only.dearer}
            onChange={({ target }) => setOnly({ ...only, dearer: target.checked })}
          />{' '}
          dearer than ours
        </label>
        <label>
          <input
            type="checkbox"
            checked={only.worse}
            onChange={({ target }) => setOnly({ ...only, worse: target.checked })}
          />{' '}
          rated worse
        </label>
      </Row>
      {found.error && (
        <Typography variant="body2" role="alert" color="error">
          {found.error.message}
        </Typography>
      )}
      {found.data?.problem ? (
        <Typography variant="body2" role="alert" color="error">
          {found.data.problem}
        </Typography>
      ) : pages.length > 0 ? (
        <Pages pages={pages} marked={marked} onMark={mark} />
      ) : (
        <Typography variant="body2" role="status" color="text.secondary">
          {found.isPending ? 'The catalogue is being read.' : 'No page is like that: ask for less.'}
        </Typography>
      )}
    </Box>
  );
}

interface PagesProps {
  pages: readonly { page: CataloguePage; standing: PageStanding }[];
  marked: ReadonlySet<string>;
  onMark: (itemCode: string, isMarked: boolean) => void;
}

function Pages({ pages, marked, onMark }: PagesProps) {
  const scroll = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: pages.length,
    getScrollElement: () => scroll.current,
    estimateSize: () => rowHeight,
    overscan: 8,
  });
  return (
    <Box
      ref={scroll}
      role="list"
      aria-label="Pages"
      tabIndex={0}
      sx={{
        maxHeight: 240,
        overflowY: 'auto',
        bgcolor: 'background.paper',
        border: 1,
        borderColor: 'divider',
      }}
    >
      <Box sx={{ height: rows.getTotalSize(), position: 'relative' }}>
        {rows.getVirtualItems().map(({ index, start }) => {
          const { page, standing } = pages[index]!;
          return (
            <Box
              key={page.itemCode}
              role="listitem"
              sx={{
                position: 'absolute',
                insetInline: 0,
                height: rowHeight,
                transform: `translateY(${start}px)`,
                display: 'grid',
                gridTemplateColumns: columns,
                columnGap: 1,
                alignItems: 'center',
                px: 1,
                borderBottom: 1,
                borderColor: 'divider',
              }}
            >
              <input
                type="checkbox"
                aria-label={`Choose ${page.title}`}
                checked={marked.has(page.itemCode)}
                onChange={({ target }) => onMark(page.itemCode, target.checked)}
              />
              <span style={cut} title={`${page.title}, ${page.itemCode}`}>
                {page.title}
              </span>
              <span style={cut}>{page.brand}</span>
              <span style={number}>{money(page.price)}</span>
              <span style={number}>{page.rating?.toFixed(1) ?? ''}</span>
              <Box component="span" sx={{ color: 'text.secondary', fontSize: sizes.small, ...cut }}>
                {standing.why}
                {page.stock === 0 && ', out of stock'}
              </Box>
            </Box>
          );
        })}
      </Box>
    </Box>
  );
}

const cut = { overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' } as const;
