import { Figure } from '../../ui/parts/Figure.tsx';
import { sumColumns } from '../../ui/list/sumColumns.tsx';
import { Filter, SearchField, useSort, unknownChoices } from '../../ui/list/filters.tsx';
import { ListHead, ListPage, Empty, Matching, Failed, Waiting } from '../../ui/list/ListPage.tsx';
import Button from '@mui/material/Button';
import { useQuery } from '@tanstack/react-query';
import { useDeferredValue } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { count, money, percent, signedMoney } from '../../core/metrics/format.ts';
import type { WordsAnswer } from '../../answers/terms.ts';
import type { WordRow } from '../../core/terms/word-verdicts.ts';
import { ask, get, send } from '../../ui/api.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { useList } from '../../ui/list/useList.ts';
import { listKeys } from '../../ui/list/useSelection.ts';
import { useUrlState } from '../../ui/hooks/useUrlState.ts';
import { ListTable, type ListColumn } from '../../ui/list/ListTable.tsx';
import type { KeyHelp } from '../../ui/shell/Keys.tsx';
import { Whisker } from '../../ui/parts/Whisker.tsx';
import { type PartProps } from './parts.tsx';
import { ProductChoice, useSku } from './ProductChoice.tsx';
import { termsWith } from './links.ts';
import { WordPanel, type WordScope } from './WordPanel.tsx';

export const wordsHelp: KeyHelp[] = [
  ...listKeys,
  { keys: ['a'], does: 'add as negative phrases, what is marked, else the row in focus' },
  { keys: ['r'], does: 'relevant: never propose it; again takes the mark away' },
  { keys: ['Enter'], does: 'open the terms that have it' },
  { keys: ['/'], does: 'filter' },
];

const filters = {
  all: 'all words',
  proposed: 'proposed as negatives',
  over: 'over goal',
  relevant: 'marked relevant',
};

const sorts = ['words', 'terms', 'clicks', 'spend', 'orders', 'sales', 'acos', 'worth'] as const;

const columnsOf = (spend: number): ListColumn<WordRow>[] => [
  {
    id: 'words',
    label: 'Words',
    width: 'minmax(150px, 1.4fr)',
    sorts: true,
    cell: (row) => <b>{row.words}</b>,
    below: (row) => (row.relevant ? 'relevant' : row.proposed ? 'negative phrase proposed' : ''),
  },
  {
    id: 'terms',
    label: 'Terms',
    width: '50px',
    isNumber: true,
    sorts: true,
    explains: 'terms',
    value: (row) => row.terms,
    text: count,
    cell: (row) => count(row.terms),
  },
  ...sumColumns<WordRow>(['clicks'], (row) => row),
  {
    ...sumColumns<WordRow>(['spend'], (row) => row)[0]!,
    below: (row) => percent(spend > 0 ? row.spend / spend : null),
  },
  ...sumColumns<WordRow>(['orders', 'sales', 'acos'], (row) => row),
  {
    id: 'likely',
    label: 'Likely, goal',
    width: '104px',
    explains: 'likely',
    cell: (row) => <Whisker interval={row.interval} target={row.targetAcos} verdict={row.verdict} />,
  },
  {
    id: 'worth',
    label: 'A week',
    width: '60px',
    isNumber: true,
    sorts: true,
    explains: 'worth',
    value: (row) => (row.proposed ? row.worth : null),
    text: money,
    cell: (row) =>
      row.proposed ? (
        <b>{signedMoney(row.worth)}</b>
      ) : row.over !== null && row.over >= 0.8 ? (
        // Lower bids mend it better than a negative: no number that would look like a gain.
        <span
          className="soft"
          title="Over its goal, and its orders would be lost with a negative: lower bids mend it."
        >
          by bids
        </span>
      ) : (
        ''
      ),
  },
];

/** One bad word spoils a hundred terms that each look harmless: sums of words, and negatives with what they cost. */
export function WordsView({ window, tabs }: PartProps) {
  const sku = useSku();
  const [text] = useUrlState('q');
  const [onlyName] = useUrlState('only');
  const [scopeName, setScope] = useUrlState('scope');
  const { act, putLines } = useAct();
  const only = onlyName !== null && onlyName in filters ? onlyName : 'all';
  const { sort, descending, onSort } = useSort(sorts, 'spend', ['words']);
  const scope: WordScope = scopeName === 'ad_group' || scopeName === 'product' ? scopeName : 'campaign';
  const typed = useDeferredValue(text ?? '');
  const body = { from: window.from, to: window.to, sku, text: typed, only, sort, descending };
  const words = useQuery({
    queryKey: ['words', body],
    queryFn: () => ask<WordsAnswer>('/api/terms/words', body),
    placeholderData: (previous) => previous,
  });
  const progress = useQuery({
    queryKey: ['terms progress'],
    queryFn: () => get<{ doing: string; done: number; of: number }>('/api/terms/progress'),
    refetchInterval: 300,
    enabled: words.isPending,
    staleTime: 0,
  });
  const rows = words.data?.rows ?? [];
  const list = useList(rows, ({ words: one }) => one, { about: JSON.stringify(body) });
  const negate = (names: string[]) => {
    if (names.length === 0) return;
    list.unmark();
    void putLines(
      '/api/terms/negate',
      {
        from: window.from,
        to: window.to,
        sku,
        words: names,
        scope,
      },
      names.length === 1 ? `negative phrase “${names[0]!}”` : `${count(names.length)} negative phrases`,
    );
  };
  const relevant = (chosen: WordRow[]) => {
    const mark = chosen.some((row) => !row.relevant);
    const names = chosen.map(({ words: one }) => one);
    if (names.length === 0) return;
    list.unmark();
    void act(
      () => send('PUT', '/api/terms/words', { words: names, relevant: mark }),
      mark ? 'Marked relevant: never proposed.' : 'No longer marked relevant.',
    );
  };
  const open = (row: WordRow) => globalThis.location.assign(termsWith(row.words, sku));
  const negateChosen = () => negate(list.chosen().map(({ words: one }) => one));
  useHotkeys('a', negateChosen, [list]);
  useHotkeys('r', () => relevant(list.chosen()), [list]);
  useHotkeys('enter', () => list.row && open(list.row), [list]);
  if (words.isPending) {
    const at = progress.data;
    return (
      <Waiting>
        {at && at.of > 0
          ? `${at.doing}: ${count(at.done)} of ${count(at.of)}.`
          : 'Summing the words of all terms.'}
      </Waiting>
    );
  }
  if (words.isError) return <Failed error={words.error} onRetry={() => void words.refetch()} />;
  const answer = words.data;
  return (
    <ListPage
      problems={unknownChoices(globalThis.location.search, {
        only: Object.keys(filters),
        sort: sorts,
        scope: ['ad_group', 'campaign', 'product'],
      })}
      head={
        <ListHead
          title="Lanes"
          tabs={tabs}
          name="words"
          sentence={
            <>
              <b>{count(answer.proposed)} negative phrases</b> would stop{' '}
              <Figure name="worth" label="A week">
                <b>{money(answer.worth)} a week</b>
              </Figure>{' '}
              over goal; {count(answer.over)} sequences of {count(answer.terms)} terms are surely over.
              {answer.blocked > 0 && ' What negatives keep away by now is left out.'}
            </>
          }
          filters={
            <>
              <SearchField label="Filter words" placeholder="Filter words" width={140} />
              <ProductChoice />
              <Filter param="only" label="Show" options={Object.entries(filters)} usual="all" />
              {list.markedRows.length > 0 && (
                <Button size="small" variant="contained" sx={{ ml: 'auto' }} onClick={negateChosen}>
                  Add {count(list.markedRows.length)} negative phrases
                </Button>
              )}
              <Matching>
                {count(answer.count)} match
                {answer.count > rows.length && `, the first ${count(rows.length)} here`}
              </Matching>
            </>
          }
        />
      }
      panel={
        <WordPanel
          row={list.row}
          window={window}
          sku={sku}
          scope={scope}
          onScope={setScope}
          onNegate={negate}
          onRelevant={(row) => relevant([row])}
        />
      }
    >
      {rows.length === 0 ? (
        <Empty>No words match. Show all, or filter by other words.</Empty>
      ) : (
        <ListTable
          label="Words"
          nouns="words"
          rows={rows}
          columns={columnsOf(answer.spend)}
          keyOf={(row) => row.words}
          nameOf={(row) => row.words}
          list={list}
          isMarkable
          sort={sort}
          descending={descending}
          onSort={onSort}
          onOpen={open}
        />
      )}
    </ListPage>
  );
}
