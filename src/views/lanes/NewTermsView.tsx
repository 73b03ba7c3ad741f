import Box from '@mui/material/Box';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useHotkeys } from 'react-hotkeys-hook';
import { at } from '../../ui/address.ts';
import type { ListSums } from '../../answers/terms.ts';
import type { ChangedTerm } from '../../core/terms/new-terms.ts';
import { acos } from '../../core/metrics/figures.ts';
import { count, money, percent } from '../../core/metrics/format.ts';
import { ask } from '../../ui/api.ts';
import { shortDay } from '../../ui/days.ts';
import { useList } from '../../ui/hooks/useList.ts';
import { setUrl, useUrlState } from '../../ui/hooks/useUrlState.ts';
import { ListTable, type ListColumn } from '../../ui/parts/ListTable.tsx';
import { Tabs } from '../../ui/parts/Tabs.tsx';
import { useOwnComparison } from '../../ui/shell/data.ts';
import type { KeyHelp } from '../../ui/shell/Keys.tsx';
import { Waiting, type PartProps } from './parts.tsx';
import { ProductChoice } from './ProductChoice.tsx';

interface AppearancesAnswer {
  fresh: ChangedTerm[];
  stopped: ChangedTerm[];
  freshCount: number;
  stoppedCount: number;
  freshSums: ListSums;
  stoppedSums: ListSums;
  window: { terms: number; spend: number; orders: number };
  before: { terms: number; spend: number; orders: number };
  windows: { window: { from: string; to: string }; comparison: { from: string; to: string } };
}

export const newTermsHelp: KeyHelp[] = [
  { keys: ['j', 'k'], does: 'next, previous term' },
  { keys: ['Enter'], does: 'try the term: what catches and blocks it' },
];

const sorts: Record<string, (row: ChangedTerm) => number | string> = {
  term: (row) => row.term,
  day: (row) => row.day,
  impressions: (row) => row.impressions,
  clicks: (row) => row.clicks,
  spend: (row) => row.spend,
  orders: (row) => row.orders,
  sales: (row) => row.sales,
  acos: (row) => acos(row) ?? -1,
};

const columnsOf = (stopped: boolean): ListColumn<ChangedTerm>[] => [
  {
    id: 'term',
    label: 'Search term',
    width: 'minmax(200px, 1.4fr)',
    sorts: true,
    cell: (row) => <b>{row.term}</b>,
    below: (row) => `${row.target} in ${row.adGroup}`,
  },
  {
    id: 'day',
    label: stopped ? 'Last seen' : 'First seen',
    width: '80px',
    sorts: true,
    cell: (row) => shortDay(row.day),
  },
  {
    id: 'impressions',
    label: 'Impressions',
    width: '80px',
    isNumber: true,
    sorts: true,
    cell: (row) => count(row.impressions),
  },
  {
    id: 'clicks',
    label: 'Clicks',
    width: '54px',
    isNumber: true,
    sorts: true,
    cell: (row) => count(row.clicks),
  },
  {
    id: 'spend',
    label: 'Spend',
    width: '66px',
    isNumber: true,
    sorts: true,
    cell: (row) => money(row.spend),
  },
  {
    id: 'orders',
    label: 'Orders',
    width: '54px',
    isNumber: true,
    sorts: true,
    cell: (row) => count(row.orders),
  },
  {
    id: 'sales',
    label: 'Sales',
    width: '70px',
    isNumber: true,
    sorts: true,
    cell: (row) => money(row.sales),
  },
  {
    id: 'acos',
    label: 'ACOS',
    width: '66px',
    isNumber: true,
    sorts: true,
    cell: (row) => (
      <span className={row.sales === 0 && row.spend > 0 ? 'over' : ''}>{percent(acos(row))}</span>
    ),
  },
];

const share = (part: number, whole: number): string => percent(whole > 0 ? part / whole : null);

/** What appeared for the first time in the window, how much of spend and orders it is, and what stopped. */
export function NewTermsView({ window, head }: PartProps) {
  const own = useOwnComparison();
  const [sku] = useUrlState('sku');
  const [listName] = useUrlState('list', true);
  const [sortName] = useUrlState('sort');
  const stopped = listName === 'stopped';
  const sort = sortName?.replace('-', '') ?? 'spend';
  const descending = sortName === null || sortName.startsWith('-');
  const body = { from: window.from, to: window.to, comparison: own, sku: sku ?? null };
  const appearances = useQuery({
    queryKey: ['appearances', body],
    queryFn: () => ask<AppearancesAnswer>('/api/terms/appearances', body),
    placeholderData: (previous) => previous,
  });
  const answer = appearances.data;
  const read = sorts[sort] ?? sorts.spend!;
  const rows = [...((stopped ? answer?.stopped : answer?.fresh) ?? [])].sort((a, b) => {
    const [x, y] = [read(a), read(b)];
    return (x < y ? -1 : x > y ? 1 : 0) * (descending ? -1 : 1);
  });
  const list = useList(
    rows,
    ({ term }) => term,
    `${JSON.stringify(body)} ${listName ?? ''} ${sortName ?? ''}`,
  );
  const open = (row: ChangedTerm) =>
    globalThis.location.assign(at(`/lanes?view=coverage&term=${encodeURIComponent(row.term)}`));
  useHotkeys('enter', () => list.row && open(list.row), [list]);
  if (appearances.isError && !answer)
    return <Typography sx={{ p: 4 }}>{appearances.error.message}</Typography>;
  if (!answer) return <Waiting>Looking for what was never seen before.</Waiting>;
  const { comparison } = answer.windows;
  const many = stopped ? answer.stoppedCount : answer.freshCount;
  return (
    <Box sx={{ height: '100%', display: 'flex', flexDirection: 'column' }}>
      <Box sx={{ px: 2.25, pt: 1.5, pb: 1, display: 'grid', gap: 0.75 }}>
        {head}
        <Typography data-testid="new-sentence" sx={{ fontSize: 14 }}>
          <b>{count(answer.freshCount)} terms</b> appeared for the first time:{' '}
          {share(answer.freshCount, answer.window.terms)} of the terms,{' '}
          {share(answer.freshSums.spend, answer.window.spend)} of the spend,{' '}
          {share(answer.freshSums.orders, answer.window.orders)} of the orders.{' '}
          <b>{count(answer.stoppedCount)} stopped</b>: they had{' '}
          {share(answer.stoppedSums.spend, answer.before.spend)} of the spend and{' '}
          {share(answer.stoppedSums.orders, answer.before.orders)} of the orders of{' '}
          {shortDay(comparison.from)} to {shortDay(comparison.to)}.
        </Typography>
        <Box sx={{ display: 'flex', alignItems: 'center', gap: 2 }}>
          <Tabs
            label="New or stopped"
            tabs={[
              { id: 'new', name: 'New', count: answer.freshCount },
              { id: 'stopped', name: 'Stopped', count: answer.stoppedCount },
            ]}
            chosen={stopped ? 'stopped' : 'new'}
            onChoose={(id) => setUrl({ list: id === 'new' ? null : id }, true)}
          />
          <ProductChoice />
          <Box sx={{ flex: 1 }} />
          {many > rows.length && (
            <Typography variant="body2" color="text.secondary">
              the first {count(rows.length)} by spend
            </Typography>
          )}
          <Link
            variant="body2"
            href={at(
              `/explore?level=terms&where=${encodeURIComponent(JSON.stringify({ all: [stopped ? { column: 'last_seen', is: 'below', value: window.from } : { column: 'first_seen', is: 'at_least', value: window.from }] }))}`,
            )}
          >
            All of them in Explore
          </Link>
        </Box>
      </Box>
      {rows.length === 0 ? (
        <Box sx={{ p: 4, borderTop: 1, borderColor: 'divider', flex: 1 }}>
          <Typography>{stopped ? 'No term stopped.' : 'No term is new in this window.'}</Typography>
        </Box>
      ) : (
        <ListTable
          label={stopped ? 'Stopped terms' : 'New terms'}
          rows={rows}
          columns={columnsOf(stopped)}
          keyOf={({ term }) => term}
          nameOf={({ term }) => term}
          about={list.about}
          focus={list.focus}
          onFocus={list.moveTo}
          sort={sort}
          descending={descending}
          onSort={(id) => {
            const down = id === sort ? !descending : id !== 'term';
            setUrl({ sort: id === 'spend' && down ? null : `${down ? '-' : ''}${id}` });
          }}
          onOpen={open}
        />
      )}
    </Box>
  );
}
