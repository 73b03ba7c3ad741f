import type { AppearancesAnswer } from '../../answers/terms.ts';
import { sumColumns } from '../../ui/list/sumColumns.tsx';
import { useSort, unknownChoices } from '../../ui/list/filters.tsx';
import { ListHead, ListPage, Empty, Failed, Waiting } from '../../ui/list/ListPage.tsx';
import Box from '@mui/material/Box';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useHotkeys } from 'react-hotkeys-hook';
import { at } from '../../ui/address.ts';
import type { ChangedTerm } from '../../core/terms/new-terms.ts';
import { acos } from '../../core/metrics/figures.ts';
import { count, percent } from '../../core/metrics/format.ts';
import { ask } from '../../ui/api.ts';
import { shortDay } from '../../ui/days.ts';
import { useList } from '../../ui/list/useList.ts';
import { setUrl, useUrlState } from '../../ui/hooks/useUrlState.ts';
import { ListTable, type ListColumn } from '../../ui/list/ListTable.tsx';
import { Tabs } from '../../ui/parts/Tabs.tsx';
import { useOwnComparison } from '../../ui/shell/data.ts';
import type { KeyHelp } from '../../ui/shell/Keys.tsx';
import { type PartProps } from './parts.tsx';
import { ProductChoice, useSku } from './ProductChoice.tsx';

export const newTermsHelp: KeyHelp[] = [
  { keys: ['j', 'k'], does: 'next, previous term' },
  { keys: ['Enter'], does: 'try the term: what catches and blocks it' },
];

const sorts = {
  term: (row: ChangedTerm) => row.term,
  day: (row: ChangedTerm) => row.day,
  impressions: (row: ChangedTerm) => row.impressions,
  clicks: (row: ChangedTerm) => row.clicks,
  spend: (row: ChangedTerm) => row.spend,
  orders: (row: ChangedTerm) => row.orders,
  sales: (row: ChangedTerm) => row.sales,
  acos: (row: ChangedTerm) => acos(row) ?? -1,
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
    explains: stopped ? 'last_seen' : 'first_seen',
    cell: (row) => shortDay(row.day),
  },
  {
    id: 'impressions',
    label: 'Impressions',
    width: '80px',
    isNumber: true,
    sorts: true,
    explains: 'impressions',
    value: (row) => row.impressions,
    text: count,
    cell: (row) => count(row.impressions),
  },
  ...sumColumns<ChangedTerm>(['clicks', 'spend', 'orders', 'sales', 'acos'], (row) => row),
];

const sortNames = Object.keys(sorts) as (keyof typeof sorts)[];

const share = (part: number, whole: number): string => percent(whole > 0 ? part / whole : null);

/** What appeared for the first time in the window, how much of spend and orders it is, and what stopped. */
export function NewTermsView({ window, tabs }: PartProps) {
  const own = useOwnComparison();
  const sku = useSku();
  const [listName] = useUrlState('list', true);
  const stopped = listName === 'stopped';
  const { sort, descending, onSort } = useSort(sortNames, 'spend', ['term']);
  const body = { from: window.from, to: window.to, comparison: own, sku };
  const appearances = useQuery({
    queryKey: ['appearances', body],
    queryFn: () => ask<AppearancesAnswer>('/api/terms/appearances', body),
    placeholderData: (previous) => previous,
  });
  const answer = appearances.data;
  const read = sorts[sort];
  const rows = [...((stopped ? answer?.stopped : answer?.fresh) ?? [])].sort((a, b) => {
    const [x, y] = [read(a), read(b)];
    return (x < y ? -1 : x > y ? 1 : 0) * (descending ? -1 : 1);
  });
  const list = useList(rows, ({ term }) => term, {
    about: `${JSON.stringify(body)} ${listName ?? ''} ${sort} ${descending}`,
  });
  const open = (row: ChangedTerm) =>
    globalThis.location.assign(at(`/lanes?view=coverage&term=${encodeURIComponent(row.term)}`));
  useHotkeys('enter', () => list.row && open(list.row), [list]);
  if (appearances.isError && !answer)
    return <Failed error={appearances.error} onRetry={() => void appearances.refetch()} />;
  if (!answer) return <Waiting>Looking for what was never seen before.</Waiting>;
  const { comparison } = answer.windows;
  const many = stopped ? answer.stoppedCount : answer.freshCount;
  return (
    <ListPage
      problems={unknownChoices(globalThis.location.search, { list: ['stopped'], sort: sortNames })}
      head={
        <ListHead
          title="Lanes"
          tabs={tabs}
          name="new"
          sentence={
            <>
              <b>{count(answer.freshCount)} terms</b> appeared for the first time:{' '}
              {share(answer.freshCount, answer.window.terms)} of the terms,{' '}
              {share(answer.freshSums.spend, answer.window.spend)} of the spend,{' '}
              {share(answer.freshSums.orders, answer.window.orders)} of the orders.{' '}
              <b>{count(answer.stoppedCount)} stopped</b>: they had{' '}
              {share(answer.stoppedSums.spend, answer.before.spend)} of the spend and{' '}
              {share(answer.stoppedSums.orders, answer.before.orders)} of the orders of{' '}
              {shortDay(comparison.from)} to {shortDay(comparison.to)}.
            </>
          }
          filters={
            <>
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
            </>
          }
        />
      }
    >
      {rows.length === 0 ? (
        <Empty>{stopped ? 'No term stopped.' : 'No term is new in this window.'}</Empty>
      ) : (
        <ListTable
          label={stopped ? 'Stopped terms' : 'New terms'}
          nouns="terms"
          rows={rows}
          columns={columnsOf(stopped)}
          keyOf={({ term }) => term}
          nameOf={({ term }) => term}
          list={list}
          sort={sort}
          descending={descending}
          onSort={onSort}
          onOpen={open}
        />
      )}
    </ListPage>
  );
}
