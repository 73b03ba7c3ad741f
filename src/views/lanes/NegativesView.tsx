import { sizes } from '../../ui/theme.ts';
import { sumColumns } from '../../ui/list/sumColumns.tsx';
import { Filter, SearchField, useSort, unknownChoices } from '../../ui/list/filters.tsx';
import { ListHead, ListPage, Empty, Matching, Failed, Waiting } from '../../ui/list/ListPage.tsx';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useDeferredValue, useState } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { at } from '../../ui/address.ts';
import { count, counted, money } from '../../core/metrics/format.ts';
import type { NegativeRow, NegativesAnswer } from '../../answers/terms.ts';
import type { ImpactTerm } from '../../core/terms/negative-impact.ts';
import { get } from '../../ui/api.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { useList } from '../../ui/list/useList.ts';
import { listKeys } from '../../ui/list/useSelection.ts';
import { useUrlState } from '../../ui/hooks/useUrlState.ts';
import { ListTable, type ListColumn } from '../../ui/list/ListTable.tsx';
import { Panel, Part } from '../../ui/parts/Panel.tsx';
import { Key, type KeyHelp } from '../../ui/shell/Keys.tsx';
import { AddNegatives } from './AddNegatives.tsx';
import { NegativeLists } from './NegativeLists.tsx';
import { typeNames } from './negatives.ts';
import { type PartProps } from './parts.tsx';

export const negativesHelp: KeyHelp[] = [
  ...listKeys,
  { keys: ['n'], does: 'add negatives' },
  { keys: ['Delete'], does: 'archive what is marked, else the negative in focus' },
  { keys: ['/'], does: 'filter' },
];

const placeOf = (row: NegativeRow): string => row.adGroup ?? `campaign ${row.campaign}`;

const columns: ListColumn<NegativeRow>[] = [
  {
    id: 'expression',
    label: 'Negative',
    width: 'minmax(180px, 1.3fr)',
    sorts: true,
    cell: (row) => <b>{row.expression}</b>,
    below: (row) => typeNames[row.matchType] ?? row.matchType,
  },
  { id: 'place', label: 'Where it stands', width: 'minmax(150px, 1fr)', sorts: true, cell: placeOf },
  {
    id: 'terms',
    label: 'Keeps away',
    width: '84px',
    isNumber: true,
    sorts: true,
    explains: 'keeps_away',
    value: (row) => row.impact.terms,
    text: count,
    cell: (row) =>
      row.impact.terms === 0 ? <span className="soft">nothing</span> : counted(row.impact.terms, 'term'),
  },
  ...sumColumns<NegativeRow>(['clicks', 'spend', 'orders', 'sales'], ({ impact }) => impact),
];

const sorts = {
  expression: (row: NegativeRow) => row.expression.toLowerCase(),
  place: placeOf,
  terms: (row: NegativeRow) => row.impact.terms,
  clicks: (row: NegativeRow) => row.impact.clicks,
  spend: (row: NegativeRow) => row.impact.spend,
  orders: (row: NegativeRow) => row.impact.orders,
  sales: (row: NegativeRow) => row.impact.sales,
};

const sortNames = Object.keys(sorts) as (keyof typeof sorts)[];

const shows: Record<string, { name: string; test: (row: NegativeRow) => boolean }> = {
  all: { name: 'all negatives', test: () => true },
  sellers: { name: 'that keep sales away', test: ({ impact }) => impact.orders > 0 },
  working: { name: 'that keep something away', test: ({ impact }) => impact.terms > 0 },
  idle: { name: 'that keep nothing away', test: ({ impact }) => impact.terms === 0 },
};

/** Every negative with what it keeps away today; adding many at once; lists under a name. */
export function NegativesView({ window, tabs }: PartProps) {
  const [text] = useUrlState('q');
  const [showName] = useUrlState('show');
  const [adding, setAdding] = useState(false);
  const [lists, setLists] = useState(false);
  const { putLines } = useAct();
  const negatives = useQuery({
    queryKey: ['negatives', window.from, window.to],
    queryFn: () => get<NegativesAnswer>(`/api/terms/negatives?from=${window.from}&to=${window.to}`),
    placeholderData: (previous) => previous,
  });
  const answer = negatives.data;
  const show = shows[showName ?? 'all'] ?? shows.all!;
  const { sort, descending, onSort } = useSort(sortNames, 'sales', ['expression', 'place']);
  const needle = useDeferredValue((text ?? '').toLowerCase());
  const read = sorts[sort];
  const rows = (answer?.negatives ?? [])
    .filter((row) => show.test(row) && `${row.expression} ${placeOf(row)}`.toLowerCase().includes(needle))
    .sort((a, b) => {
      const [x, y] = [read(a), read(b)];
      return (x < y ? -1 : x > y ? 1 : 0) * (descending ? -1 : 1);
    });
  const list = useList(rows, ({ id }) => id, { about: `${text ?? ''} ${show.name} ${sort} ${descending}` });
  const archive = (chosen: NegativeRow[]) => {
    const keys = chosen.map(({ id }) => id);
    if (keys.length === 0) return;
    list.unmark();
    void putLines(
      '/api/explore/edit',
      {
        level: 'negatives',
        within: null,
        where: null,
        sort: null,
        descending: false,
        columns: [],
        window,
        comparison: null,
        keys,
        values: null,
        edit: { field: 'status', to: 'archived' },
        keepGuards: true,
      },
      keys.length === 1 ? 'one negative archived' : `${count(keys.length)} negatives archived`,
    );
  };
  useHotkeys('n', (event) => (event.preventDefault(), setAdding(true)));
  useHotkeys('delete', () => archive(list.chosen()), [list]);
  if (negatives.isError && !answer)
    return <Failed error={negatives.error} onRetry={() => void negatives.refetch()} />;
  if (!answer) return <Waiting>Matching every negative against every term.</Waiting>;
  const sellers = answer.negatives.filter(({ impact }) => impact.orders > 0).length;
  const idle = answer.negatives.filter(({ impact }) => impact.terms === 0).length;
  return (
    <ListPage
      problems={unknownChoices(globalThis.location.search, { show: Object.keys(shows), sort: sortNames })}
      head={
        <ListHead
          title="Lanes"
          tabs={tabs}
          name="negatives"
          sentence={
            <>
              <b>{counted(answer.negatives.length, 'negative')}</b>. {count(sellers)} of them keep terms away
              that sell elsewhere, {count(idle)} keep nothing away that was searched in this window.
            </>
          }
          filters={
            <>
              <SearchField label="Filter negatives" placeholder="Filter negatives" width={160} />
              <Filter
                param="show"
                label="Show"
                options={Object.entries(shows).map(([id, { name }]) => [id, name])}
                usual="all"
              />
              <Box sx={{ flex: 1 }} />
              {list.markedRows.length > 0 && (
                <Button size="small" onClick={() => archive(list.chosen())}>
                  Archive {count(list.markedRows.length)} marked
                </Button>
              )}
              <Button size="small" onClick={() => setLists(true)}>
                Lists
              </Button>
              <Button size="small" variant="contained" onClick={() => setAdding(true)}>
                Add negatives
              </Button>
              <Matching>{count(rows.length)} match</Matching>
            </>
          }
        />
      }
      panel={
        <>
          <NegativePanel row={list.row} window={window} onArchive={(row) => archive([row])} />
          {adding && <AddNegatives answer={answer} onClose={() => setAdding(false)} />}
          {lists && <NegativeLists places={answer.places} onClose={() => setLists(false)} />}
        </>
      }
    >
      {rows.length === 0 ? (
        <Empty>
          {answer.negatives.length === 0
            ? 'There is no negative yet. Add some, or load the structure.'
            : 'No negative matches.'}
        </Empty>
      ) : (
        <ListTable
          label="Negatives"
          nouns="negatives"
          rows={rows}
          columns={columns}
          keyOf={({ id }) => id}
          nameOf={({ expression }) => expression}
          list={list}
          isMarkable
          sort={sort}
          descending={descending}
          onSort={onSort}
        />
      )}
    </ListPage>
  );
}

interface NegativePanelProps {
  row: NegativeRow | null;
  window: { from: string; to: string };
  onArchive: (row: NegativeRow) => void;
}

/** What would flow again without the negative in focus. */
function NegativePanel({ row, window, onArchive }: NegativePanelProps) {
  const flow = useQuery({
    queryKey: ['would flow', row?.id, window.from, window.to],
    queryFn: () =>
      get<{ terms: ImpactTerm[] }>(`/api/terms/negatives/${row!.id}?from=${window.from}&to=${window.to}`),
    enabled: row !== null,
    staleTime: 60_000,
  });
  if (!row) {
    return (
      <Panel label="The negative in focus">
        <Typography color="text.secondary">Choose a negative to see what it keeps away.</Typography>
      </Panel>
    );
  }
  const { impact } = row;
  const terms = flow.data?.terms ?? [];
  return (
    <Panel label="The negative in focus">
      <Typography variant="h2" sx={{ overflowWrap: 'anywhere' }}>
        {row.expression}
      </Typography>
      <Typography variant="caption" color="text.secondary">
        {typeNames[row.matchType]} in {placeOf(row)}
      </Typography>
      <Typography
        data-testid="negative-sentence"
        sx={{ mt: 0.75, fontSize: sizes.sentence, lineHeight: 1.45 }}
      >
        {impact.terms === 0
          ? 'Nothing that was searched for this product in this window would come here without it.'
          : `Without it ${counted(impact.terms, 'term')} would flow here again. Elsewhere they brought ${counted(impact.clicks, 'click')}, ${money(impact.spend)} of spend, ${counted(impact.orders, 'order')} and ${money(impact.sales)} of sales in this window.`}
      </Typography>
      {terms.length > 0 && (
        <Part title="What would flow again">
          {terms.slice(0, 25).map((one) => (
            <Box key={one.term} sx={{ display: 'grid', gridTemplateColumns: '1fr auto', columnGap: 1 }}>
              <Box
                component="span"
                title={`caught here by ${one.by}; now in ${one.places.join(', ')}`}
                sx={{ overflowWrap: 'anywhere' }}
              >
                {one.term}
              </Box>
              <span>
                {one.orders > 0
                  ? `${count(one.orders)} orders, ${money(one.sales)}`
                  : `${count(one.clicks)} clicks, ${money(one.spend)}`}
              </span>
            </Box>
          ))}
          {terms.length > 25 && <div>and {count(terms.length - 25)} more</div>}
        </Part>
      )}
      <Box sx={{ mt: 1.5, display: 'flex', gap: 1.5, alignItems: 'center' }}>
        <Button size="small" variant="contained" onClick={() => onArchive(row)}>
          Archive this negative
        </Button>
        <Link href={at(`/lanes?view=coverage&term=${encodeURIComponent(row.expression)}`)}>Try the term</Link>
      </Box>
      <Box sx={{ mt: 1.5, color: 'text.secondary' }}>
        <Key>Delete</Key> archive, <Key>n</Key> add
      </Box>
    </Panel>
  );
}
