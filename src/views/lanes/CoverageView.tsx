import type { CoverageAnswer } from '../../answers/terms.ts';
import { sizes } from '../../ui/theme.ts';
import { ListPage, ListHead } from '../../ui/list/ListPage.tsx';
import { sumColumns } from '../../ui/list/sumColumns.tsx';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useEffect, useRef, useState, type FormEvent } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { at } from '../../ui/address.ts';
import type { Catcher } from '../../core/terms/coverage.ts';
import { count, money } from '../../core/metrics/format.ts';
import { ask } from '../../ui/api.ts';
import { Field } from '../../ui/parts/fields.tsx';
import { useList } from '../../ui/list/useList.ts';
import { listKeys } from '../../ui/list/useSelection.ts';
import { useUrlState } from '../../ui/hooks/useUrlState.ts';
import { ListTable, type ListColumn } from '../../ui/list/ListTable.tsx';
import { Panel, Part } from '../../ui/parts/Panel.tsx';
import type { KeyHelp } from '../../ui/shell/Keys.tsx';
import type { PartProps } from './parts.tsx';

export const coverageHelp: KeyHelp[] = [...listKeys.slice(0, 1), { keys: ['/'], does: 'type a term to try' }];

const columns: ListColumn<Catcher>[] = [
  {
    id: 'rank',
    label: 'Order',
    width: '64px',
    cell: (row) =>
      row.rank !== null ? (
        <b>{row.rank === 1 ? 'shown' : `${count(row.rank)}.`}</b>
      ) : (
        <span className="over">{row.stopped ? 'stopped' : 'blocked'}</span>
      ),
    below: (row) => row.sku ?? 'no product',
  },
  {
    id: 'target',
    label: 'What would catch it',
    width: 'minmax(180px, 1.2fr)',
    cell: (row) => <b>{row.expression}</b>,
    below: (row) => `${row.matchType ?? row.kind} in ${row.adGroup}`,
  },
  {
    id: 'bid',
    label: 'Bid, most',
    width: '78px',
    isNumber: true,
    cell: (row) => (row.bid === null ? '–' : money(row.bid)),
    below: (row) => (row.raised > 1 ? money(row.most ?? 0) : ''),
  },
  ...sumColumns<Catcher>(['clicks', 'spend', 'orders', 'acos'], ({ sums }) => sums, false),
  {
    id: 'reason',
    isLong: true,
    label: 'Why',
    width: 'minmax(200px, 1.6fr)',
    cell: (row) => <span title={row.reason}>{row.reason}</span>,
  },
];

/** What the account does with a term as a sentence. */
function sentenceOf({ term, catchers, isItem, negatives }: CoverageAnswer): string {
  const shown = catchers.filter(({ rank }) => rank === 1);
  const blocked = catchers.filter(
    ({ stopped, blockedBy }) => stopped === null && blockedBy.length > 0,
  ).length;
  const name = isItem ? `The page ${term}` : `“${term}”`;
  if (catchers.length === 0)
    return `${name} is caught by nothing you bid on by words${negatives.length > 0 ? `, and ${count(negatives.length)} negatives block it` : ''}. Automatic targets may still meet it.`;
  if (shown.length === 0)
    return `${name} would not be shown: of ${count(catchers.length)} targets ${count(blocked)} are blocked and the others stopped.`;
  const first = shown.map((one) => `${one.matchType ?? one.kind} in ${one.adGroup}`).join(', ');
  return `${name} would be served by ${first}. ${count(catchers.length)} targets could catch it, ${count(blocked)} of them are blocked.`;
}

/** For any term, everywhere: what bids on it, what blocks it, in which order they would catch it and why. */
export function CoverageView({ window, tabs }: PartProps) {
  const [term, setTerm] = useUrlState('term', true);
  const [typed, setTyped] = useState(term ?? '');
  const input = useRef<HTMLInputElement>(null);
  useEffect(() => setTyped(term ?? ''), [term]);
  const body = { from: window.from, to: window.to, term };
  const coverage = useQuery({
    queryKey: ['coverage', body],
    queryFn: () => ask<CoverageAnswer>('/api/terms/coverage', body),
    enabled: term !== null,
    retry: false,
  });
  const answer = term === null ? undefined : coverage.data;
  const rows = answer?.catchers ?? [];
  const list = useList(rows, ({ targetId }) => targetId, { about: term ?? '' });
  useHotkeys('slash', (event) => (event.preventDefault(), input.current?.select()));
  const submit = (event: FormEvent) => {
    event.preventDefault();
    setTerm(typed.trim() === '' ? null : typed);
    input.current?.blur();
  };
  return (
    <ListPage
      head={
        <ListHead
          title="Lanes"
          tabs={tabs}
          name="coverage"
          sentence={
            <>
              {coverage.isError && term !== null ? (
                <Box component="span" role="alert" sx={{ color: 'error.main' }}>
                  {coverage.error.message}
                </Box>
              ) : answer ? (
                sentenceOf(answer)
              ) : (
                'Type what a shopper might type, and see what the account would do with it.'
              )}
            </>
          }
          notes={
            <>
              {answer?.whyNoKeyword && (
                <Typography variant="body2" color="text.secondary">
                  It can’t be a keyword itself: {answer.whyNoKeyword}
                </Typography>
              )}
            </>
          }
          filters={
            <Box component="form" onSubmit={submit} sx={{ display: 'flex', gap: 1, alignItems: 'center' }}>
              <Field
                ref={input}
                aria-label="Term to try"
                placeholder="Try a term, or an item code  /"
                value={typed}
                autoFocus={term === null}
                onChange={(event) => setTyped(event.target.value)}
                onKeyDown={(event) => event.key === 'Escape' && event.currentTarget.blur()}
                style={{ width: 320 }}
              />
              <Button type="submit" size="small" variant="contained">
                Try
              </Button>
            </Box>
          }
        />
      }
      panel={
        <Panel label="About the term">
          {!answer && <Typography color="text.secondary">Nothing is tried yet.</Typography>}
          {answer && (
            <>
              <Typography variant="h2" sx={{ overflowWrap: 'anywhere' }}>
                {answer.term}
              </Typography>
              {list.row && (
                <Typography sx={{ mt: 0.75, fontSize: sizes.sentence }}>{list.row.reason}</Typography>
              )}
              <Part title="As the matcher reads it">
                {answer.isItem ? `The item code ${answer.normal}` : answer.normal.split(' ').join(' · ')}
              </Part>
              <Part title={`Negatives that block it: ${count(answer.negatives.length)}`}>
                {answer.negatives.slice(0, 20).map(({ id, name }) => (
                  <div key={id}>{name}</div>
                ))}
              </Part>
              {!answer.isItem && (
                <Part title="Likeness of its words, a hint">
                  {answer.likeness.slice(0, 3).map((one) => (
                    <Box key={one.sku} sx={{ mb: 0.75 }}>
                      <b>{one.title}</b>
                      <div>{one.sentence}</div>
                    </Box>
                  ))}
                </Part>
              )}
              <Part title="Look closer">
                <Link
                  href={at(
                    `/explore?level=terms&where=${encodeURIComponent(JSON.stringify({ all: [{ column: 'name', is: 'equals', value: answer.isItem ? answer.normal : answer.term }] }))}`,
                  )}
                >
                  The term in Explore
                </Link>
              </Part>
            </>
          )}
        </Panel>
      }
    >
      {rows.length > 0 && (
        <ListTable
          label="What would catch it"
          rows={rows}
          columns={columns}
          keyOf={(row) => row.targetId}
          nameOf={(row) => row.expression}
          list={list}
        />
      )}
    </ListPage>
  );
}
