import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useDeferredValue, useRef } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { acos } from '../../core/metrics/figures.ts';
import { count, money, percent, signedMoney } from '../../core/metrics/format.ts';
import type { WordsAnswer } from '../../answers/terms.ts';
import type { WordRow } from '../../core/terms/word-verdicts.ts';
import { ask, get, send } from '../../ui/api.ts';
import { Choice, Field } from '../../ui/parts/fields.tsx';
import { useAct } from '../../ui/hooks/useAct.ts';
import { listKeys, useList } from '../../ui/hooks/useList.ts';
import { setUrl, useUrlState } from '../../ui/hooks/useUrlState.ts';
import { ListTable, type ListColumn } from '../../ui/parts/ListTable.tsx';
import type { KeyHelp } from '../../ui/shell/Keys.tsx';
import { Whisker } from '../../ui/parts/Whisker.tsx';
import { Waiting, type PartProps } from './parts.tsx';
import { ProductChoice } from './ProductChoice.tsx';
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
  all: 'all',
  proposed: 'proposed as negatives',
  over: 'over goal',
  relevant: 'marked relevant',
};

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
    cell: (row) => count(row.terms),
  },
  {
    id: 'clicks',
    label: 'Clicks',
    width: '50px',
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
    below: (row) => percent(spend > 0 ? row.spend / spend : null),
  },
  {
    id: 'orders',
    label: 'Orders',
    width: '50px',
    isNumber: true,
    sorts: true,
    cell: (row) => count(row.orders),
  },
  {
    id: 'sales',
    label: 'Sales',
    width: '66px',
    isNumber: true,
    sorts: true,
    cell: (row) => money(row.sales),
  },
  {
    id: 'acos',
    label: 'ACOS',
    width: '62px',
    isNumber: true,
    sorts: true,
    cell: (row) => (
      <span className={row.sales === 0 && row.spend > 0 ? 'over' : ''}>{percent(acos(row))}</span>
    ),
  },
  {
    id: 'likely',
    label: 'Likely, goal',
    width: '104px',
    cell: (row) => <Whisker interval={row.interval} target={row.targetAcos} verdict={row.verdict} />,
  },
  {
    id: 'worth',
    label: 'A week',
    width: '60px',
    isNumber: true,
    sorts: true,
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
export function WordsView({ window, head }: PartProps) {
  const [sku] = useUrlState('sku');
  const [text, setText] = useUrlState('q');
  const [onlyName, setOnly] = useUrlState('only');
  const [sortName] = useUrlState('sort');
  const [scopeName, setScope] = useUrlState('scope');
  const input = useRef<HTMLInputElement>(null);
  const { act, putLines } = useAct();
  const only = onlyName !== null && onlyName in filters ? onlyName : 'all';
  const sort = sortName?.replace('-', '') ?? 'spend';
  const descending = sortName === null || sortName.startsWith('-');
  const scope: WordScope = scopeName === 'ad_group' || scopeName === 'product' ? scopeName : 'campaign';
  const typed = useDeferredValue(text ?? '');
  const body = { from: window.from, to: window.to, sku: sku ?? null, text: typed, only, sort, descending };
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
  const list = useList(rows, ({ words: one }) => one, JSON.stringify(body));
  const negate = (names: string[]) => {
    if (names.length === 0) return;
    list.unmark();
    void putLines(
      () =>
        send('POST', '/api/terms/negate', {
          from: window.from,
          to: window.to,
          sku: sku ?? null,
          words: names,
          scope,
        }),
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
  useHotkeys('slash', (event) => (event.preventDefault(), input.current?.focus()));
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
  if (words.isError) return <Typography sx={{ p: 4 }}>{words.error.message}</Typography>;
  const answer = words.data;
  return (
    <Box sx={{ height: '100%', display: 'flex' }}>
      <Box sx={{ flex: 1, minWidth: 0, display: 'flex', flexDirection: 'column' }}>
        <Box sx={{ px: 2.25, pt: 1.5, pb: 1, display: 'grid', gap: 0.75 }}>
          {head}
          <Typography data-testid="words-sentence" sx={{ fontSize: 14 }}>
            <b>{count(answer.proposed)} negative phrases</b> would stop <b>{money(answer.worth)} a week</b>{' '}
            over goal; {count(answer.over)} sequences of {count(answer.terms)} terms are surely over.
          </Typography>
          <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, flexWrap: 'wrap' }}>
            <Field
              ref={input}
              aria-label="Filter words"
              placeholder="Filter words  /"
              value={text ?? ''}
              onChange={(event) => setText(event.target.value)}
              onKeyDown={(event) => event.key === 'Escape' && event.currentTarget.blur()}
              style={{ width: 140 }}
            />
            <ProductChoice />
            <Choice aria-label="Show" value={only} onChange={(event) => setOnly(event.target.value)}>
              {Object.entries(filters).map(([id, name]) => (
                <option key={id} value={id}>
                  {name}
                </option>
              ))}
            </Choice>
            <Box sx={{ flex: 1 }} />
            {list.markedHere > 0 && (
              <Button size="small" variant="contained" onClick={negateChosen}>
                Add {count(list.markedHere)} negative phrases
              </Button>
            )}
            <Typography variant="body2" color="text.secondary" noWrap>
              {count(answer.count)} match
              {answer.count > rows.length && `, the first ${count(rows.length)} here`}
            </Typography>
          </Box>
        </Box>
        {rows.length === 0 ? (
          <Box sx={{ p: 4, borderTop: 1, borderColor: 'divider', flex: 1 }}>
            <Typography>No words match. Show all, or filter by other words.</Typography>
          </Box>
        ) : (
          <ListTable
            label="Words"
            rows={rows}
            columns={columnsOf(answer.spend)}
            keyOf={(row) => row.words}
            nameOf={(row) => row.words}
            about={list.about}
            focus={list.focus}
            onFocus={list.moveTo}
            marked={list.marked}
            onMark={list.mark}
            sort={sort}
            descending={descending}
            onSort={(id) => {
              const down = id === sort ? !descending : id !== 'words';
              setUrl({ sort: id === 'spend' && down ? null : `${down ? '-' : ''}${id}` });
            }}
            onOpen={open}
          />
        )}
      </Box>
      <WordPanel
        row={list.row}
        window={window}
        sku={sku ?? null}
        scope={scope}
        onScope={setScope}
        onNegate={negate}
        onRelevant={(row) => relevant([row])}
      />
    </Box>
  );
}
