import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useMemo, type ReactNode } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import type { ToleranceRow } from '../../answers/idle.ts';
import type { OrganicAnswer, OrganicFollowing, OrganicProduct } from '../../answers/organic.ts';
import { counted, money, percent, significant } from '../../core/metrics/format.ts';
import { get } from '../../ui/api.ts';
import { useUrlState } from '../../ui/hooks/useUrlState.ts';
import { unknownChoices, useSort } from '../../ui/list/filters.tsx';
import { Empty, Failed, ListHead, ListPage, Matching, Waiting } from '../../ui/list/ListPage.tsx';
import { ListTable, type ListColumn } from '../../ui/list/ListTable.tsx';
import { found } from '../../ui/list/found.ts';
import { useList } from '../../ui/list/useList.ts';
import { listKeys } from '../../ui/list/useSelection.ts';
import { Field } from '../../ui/parts/fields.tsx';
import { Figure } from '../../ui/parts/Figure.tsx';
import { useWindow } from '../../ui/shell/data.ts';
import type { KeyHelp } from '../../ui/shell/Keys.tsx';
import { FollowingSaid } from './FollowingSaid.tsx';
import { OrganicPanel } from './OrganicPanel.tsx';

export const organicHelp: KeyHelp[] = [
  ...listKeys,
  { keys: ['/'], does: 'find a product' },
  { keys: ['←', '→'], does: 'move the series in focus along the days' },
];

const shareOf = ({ adSales, organicSales }: OrganicProduct): number | null =>
  organicSales === null || adSales + organicSales <= 0 ? null : organicSales / (adSales + organicSales);
/** How many times as many searches see it as at the beginning. */
const movedOf = ({ seen }: OrganicProduct): number | null =>
  seen && seen.first > 0 ? seen.last / seen.first - 1 : null;

const sorts = {
  title: ({ title }: OrganicProduct) => title.toLowerCase(),
  spend: ({ spend }: OrganicProduct) => spend,
  organic: ({ organicSales }: OrganicProduct) => organicSales ?? -1,
  share: (row: OrganicProduct) => shareOf(row) ?? -1,
  seen: (row: OrganicProduct) => movedOf(row) ?? -2,
};
const sortNames = Object.keys(sorts) as (keyof typeof sorts)[];

const signed = (value: number): string => `${value < 0 ? '−' : '+'}${percent(Math.abs(value))}`;

const columns: ListColumn<OrganicProduct>[] = [
  {
    id: 'title',
    label: 'Product',
    width: 'minmax(120px, 1fr)',
    sorts: true,
    cell: ({ title }) => <b>{title}</b>,
    below: ({ sku, keywords }) => `${sku} · ${keywords === 0 ? 'no ranks' : counted(keywords, 'keyword')}`,
  },
  {
    id: 'spend',
    label: 'Ad spend',
    width: '72px',
    isNumber: true,
    sorts: true,
    explains: 'spend',
    value: ({ spend }) => spend,
    text: money,
    cell: ({ spend }) => money(spend),
  },
  {
    id: 'organic',
    label: 'Organic sales',
    width: '84px',
    isNumber: true,
    sorts: true,
    explains: 'organic_sales',
    value: ({ organicSales }) => organicSales,
    text: money,
    cell: ({ organicSales }) => (organicSales === null ? '–' : money(organicSales)),
  },
  {
    id: 'share',
    label: 'Share',
    width: '58px',
    isNumber: true,
    sorts: true,
    explains: 'organic_share',
    value: shareOf,
    text: percent,
    cell: (row) => (shareOf(row) === null ? '–' : percent(shareOf(row))),
  },
  {
    id: 'seen',
    label: 'Seen by',
    width: '84px',
    isNumber: true,
    sorts: true,
    explains: 'rank_seen',
    value: movedOf,
    text: signed,
    cell: (row) => {
      const moved = movedOf(row);
      return moved === null ? '–' : <b>{signed(moved)}</b>;
    },
    below: ({ seen }) =>
      seen && seen.first + seen.last > 0 ? `${significant(seen.first)} to ${significant(seen.last)}` : '',
  },
];

/** Ranks without ads: what ads have to do with them, and what they sell. */
export function OrganicView({ tabs }: { tabs: ReactNode }) {
  const window = useWindow();
  const [text, setText] = useUrlState('q');
  const { sort, descending, onSort } = useSort(sortNames, 'spend', ['title']);
  const organic = useQuery({
    queryKey: ['organic', window?.from, window?.to],
    queryFn: () => get<OrganicAnswer>(`/api/organic?from=${window!.from}&to=${window!.to}`),
    enabled: window !== null,
    placeholderData: (previous) => previous,
  });
  const tolerances = useQuery({
    queryKey: ['tolerances'],
    queryFn: () => get<ToleranceRow[]>('/api/idle/tolerances'),
  });
  const together = useQuery({
    queryKey: ['organic following'],
    queryFn: () => get<OrganicFollowing>('/api/organic/following'),
  });
  const answer = organic.data;
  const rows = useMemo(
    () =>
      found(answer?.products ?? [], {
        text,
        in: ({ title, sku }) => [title, sku],
        by: sorts[sort],
        descending,
        then: (a, b) => (a.sku < b.sku ? -1 : 1),
      }),
    [answer, text, sort, descending],
  );
  const list = useList(rows, ({ sku }) => sku, {
    about: `${text ?? ''} ${sort} ${descending}`,
    address: 'product',
  });
  useHotkeys('slash', () => document.querySelector<HTMLInputElement>('[data-find]')?.focus(), {
    preventDefault: true,
  });
  if (!answer || !window)
    return organic.isError ? (
      <Failed error={organic.error} onRetry={() => void organic.refetch()} />
    ) : (
      <Waiting>Reading ranks and what products sold without ads.</Waiting>
    );
  const told = answer.products.filter(({ organicSales }) => organicSales !== null);
  const organicSales = told.reduce((sum, row) => sum + row.organicSales!, 0);
  const all = told.reduce((sum, row) => sum + row.organicSales! + row.adSales, 0);
  const borne = (tolerances.data ?? []).filter(({ back, rank }) => back === null && rank.last !== null);
  return (
    <ListPage
      problems={unknownChoices(globalThis.location.search, { sort: sortNames })}
      head={
        <ListHead
          title="Today"
          tabs={tabs}
          name="organic"
          sentence={
            told.length === 0 ? (
              'What products sell without ads is not told: it comes with “products-daily”. Fetch, or load the file.'
            ) : (
              <>
                <Figure name="organic_sales" label="Organic sales">
                  <b>{money(organicSales)}</b>
                </Figure>{' '}
                sold without an ad, {percent(all > 0 ? organicSales / all : null)} of all sales.{' '}
                {!answer.isTold && 'Ranks are not told: they come with “ranks-daily”.'}
                {borne.length > 0 &&
                  `${counted(borne.length, 'loss', 'losses')} tolerated for a rank, ${money(borne.reduce((sum, { loss }) => sum + Math.max(0, loss), 0))} a week.`}
              </>
            )
          }
          notes={together.data && together.data.keywords > 0 && <Together all={together.data} />}
          filters={
            <>
              <Field
                type="search"
                data-find=""
                aria-label="Find a product"
                placeholder="Find a product  /"
                value={text ?? ''}
                onChange={({ target }) => setText(target.value || null)}
                style={{ width: 170 }}
              />
              <Matching>{counted(rows.length, 'product')}</Matching>
            </>
          }
        />
      }
      panel={
        list.row && (
          <OrganicPanel
            key={list.row.sku}
            product={list.row}
            window={window}
            tolerances={tolerances.data ?? []}
          />
        )
      }
    >
      {rows.length === 0 ? (
        <Empty>
          {answer.products.length === 0
            ? 'No product sold or was advertised on these days.'
            : 'No product is called so.'}
        </Empty>
      ) : (
        <Box sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
          <ListTable
            label="Products by organic sales"
            nouns="products"
            rows={rows}
            columns={columns}
            keyOf={({ sku }) => sku}
            nameOf={({ title }) => title}
            list={list}
            sort={sort}
            descending={descending}
            onSort={onSort}
          />
        </Box>
      )}
    </ListPage>
  );
}

/** What followed what over the whole account. */
const Together = ({
  all: { keywords, products, rankAfterSpend, salesAfterRank },
}: {
  all: OrganicFollowing;
}) => (
  <Typography variant="body2" color="text.secondary">
    Over {counted(keywords, 'keyword')}:{' '}
    <FollowingSaid
      following={rankAfterSpend}
      name="all-rank-after-spend"
      first="what its searches cost"
      second="rank"
    />{' '}
    Over {counted(products, 'product')}:{' '}
    <FollowingSaid
      following={salesAfterRank}
      name="all-sales-after-rank"
      first="their ranks"
      second="organic sales"
    />
  </Typography>
);
