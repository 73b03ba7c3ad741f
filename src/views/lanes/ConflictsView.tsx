import type { ConflictRow, ConflictsAnswer } from '../../answers/terms.ts';
import { Figure } from '../../ui/parts/Figure.tsx';
import { sizes } from '../../ui/theme.ts';
import { Filter, unknownChoices } from '../../ui/list/filters.tsx';
import { ListHead, Empty, ListPage, Matching, Failed, Waiting } from '../../ui/list/ListPage.tsx';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useHotkeys } from 'react-hotkeys-hook';
import { at } from '../../ui/address.ts';
import { count, counted, money } from '../../core/metrics/format.ts';
import { get } from '../../ui/api.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { useList } from '../../ui/list/useList.ts';
import { listKeys } from '../../ui/list/useSelection.ts';
import { useUrlState } from '../../ui/hooks/useUrlState.ts';
import { ListTable, type ListColumn } from '../../ui/list/ListTable.tsx';
import { Panel, Part } from '../../ui/parts/Panel.tsx';
import { KeyHints, type KeyHelp } from '../../ui/shell/Keys.tsx';
import { type PartProps } from './parts.tsx';

export const conflictsHelp: KeyHelp[] = [
  ...listKeys,
  { keys: ['a'], does: 'accept the repair of what is marked, else of the row in focus' },
  { keys: ['s'], does: 'skip' },
  { keys: ['l'], does: 'later: come back after 7 days' },
];

const columnsOf = (kinds: ConflictsAnswer['kinds']): ListColumn<ConflictRow>[] => [
  {
    id: 'subject',
    label: 'What is in its own way',
    width: 'minmax(190px, 1fr)',
    cell: (row) => <b>{row.subject}</b>,
    below: (row) => kinds[row.kind],
  },
  {
    id: 'sentence',
    isLong: true,
    label: 'Why',
    width: 'minmax(240px, 1.8fr)',
    cell: (row) => <span title={row.sentence}>{row.sentence}</span>,
  },
  {
    id: 'repair',
    isLong: true,
    label: 'Repair',
    width: 'minmax(160px, 1fr)',
    cell: (row) =>
      row.repair ? (
        <span title={row.repair}>{row.repair}</span>
      ) : (
        <span className="soft">yours to decide</span>
      ),
  },
  {
    id: 'cost',
    label: 'A week',
    width: '70px',
    isNumber: true,
    explains: 'cost',
    value: (row) => (row.cost > 0 ? row.cost : null),
    text: money,
    cell: (row) => (row.cost > 0 ? <b>{money(row.cost)}</b> : '–'),
  },
];

/** What is in its own way, with what it costs a week and a repair that goes onto the sheet. */
export function ConflictsView({ window, currency, tabs }: PartProps) {
  const [kind] = useUrlState('kind');
  const { putLines, decide: put } = useAct();
  const conflicts = useQuery({
    queryKey: ['conflicts', window.from, window.to],
    queryFn: () => get<ConflictsAnswer>(`/api/terms/conflicts?from=${window.from}&to=${window.to}`),
    placeholderData: (previous) => previous,
  });
  const answer = conflicts.data;
  const rows = (answer?.conflicts ?? []).filter((row) => kind === null || row.kind === kind);
  const list = useList(rows, ({ key }) => key, { about: kind ?? '' });
  const accept = (chosen: ConflictRow[]) => {
    const keys = chosen.filter(({ lines }) => lines > 0).map(({ key }) => key);
    if (keys.length === 0) return;
    list.unmark();
    void putLines(
      '/api/terms/conflicts',
      { from: window.from, to: window.to, keys },
      keys.length === 1 ? 'one repair' : `${count(keys.length)} repairs`,
    );
  };
  const decide = (chosen: ConflictRow[], decision: 'skipped' | 'later') => {
    const keys = chosen.map(({ key }) => key);
    if (keys.length === 0) return;
    list.unmark();
    void put(keys, decision, 'conflict');
  };
  useHotkeys('a', () => accept(list.chosen()), [list]);
  useHotkeys('s', () => decide(list.chosen(), 'skipped'), [list]);
  useHotkeys('l', () => decide(list.chosen(), 'later'), [list]);
  if (conflicts.isError && !answer)
    return <Failed error={conflicts.error} onRetry={() => void conflicts.refetch()} />;
  if (!answer) return <Waiting>Looking for what is in its own way.</Waiting>;
  const cost = answer.conflicts.reduce((sum, row) => sum + row.cost, 0);
  const repairable = rows.filter((row) => list.isMarked(row.key) && row.lines > 0).length;
  const row = list.row;
  return (
    <ListPage
      problems={unknownChoices(globalThis.location.search, { kind: Object.keys(answer.kinds) })}
      head={
        <ListHead
          title="Lanes"
          tabs={tabs}
          name="conflicts"
          sentence={
            <>
              <b>{counted(answer.conflicts.length, 'conflict')}</b> cost{' '}
              <Figure name="cost" label="Cost a week">
                <b>
                  {currency} {money(cost)} a week
                </b>
              </Figure>
              .{answer.onSheet > 0 && ` ${count(answer.onSheet)} are on the sheet.`}
              {answer.putOff > 0 && ` ${count(answer.putOff)} put off or skipped.`}
            </>
          }
          filters={
            <>
              <Filter
                param="kind"
                label="Kind of conflict"
                none="all kinds"
                width={360}
                options={Object.entries(answer.kinds).map(([id, name]) => [
                  id,
                  `${name} (${count(answer.conflicts.filter((one) => one.kind === id).length)})`,
                ])}
              />
              <Box sx={{ flex: 1 }} />
              {list.markedRows.length > 0 && (
                <>
                  <Button size="small" onClick={() => decide(list.chosen(), 'later')}>
                    Later
                  </Button>
                  <Button size="small" onClick={() => decide(list.chosen(), 'skipped')}>
                    Skip
                  </Button>
                  <Button
                    size="small"
                    variant="contained"
                    disabled={repairable === 0}
                    onClick={() => accept(list.chosen())}
                  >
                    Accept {count(repairable)} repairs
                  </Button>
                </>
              )}
              <Matching>{count(rows.length)} match</Matching>
            </>
          }
        />
      }
      panel={
        <Panel label="The conflict in focus">
          {row && (
            <>
              <Typography variant="h2" sx={{ overflowWrap: 'anywhere' }}>
                {row.subject}
              </Typography>
              <Typography variant="caption" color="text.secondary">
                {answer.kinds[row.kind]}
              </Typography>
              <Typography sx={{ mt: 0.75, fontSize: sizes.sentence, lineHeight: 1.45 }}>
                {row.sentence}
              </Typography>
              <Part title="What it costs a week" explains="cost">
                {row.cost > 0 ? money(row.cost) : 'Nothing that is known.'}
              </Part>
              <Part title="Repair">
                {row.repair ?? (
                  <>
                    There is none that lines on a sheet could make. Give it a performance ad group, then a{' '}
                    <Link href={at(`/lanes?sku=${encodeURIComponent(row.sku ?? '')}`)}>lane</Link>.
                  </>
                )}
              </Part>
              <Part title="Look closer">
                {row.kind === 'no_product' || row.kind === 'no_performance' ? (
                  <Link href={at('/explore?level=ad_groups')}>Its ad groups</Link>
                ) : (
                  <Link href={at(`/lanes?view=coverage&term=${encodeURIComponent(row.subject)}`)}>
                    Everything that bids on it or blocks it
                  </Link>
                )}
              </Part>
              <KeyHints
                keys={[
                  ['a', 'accept'],
                  ['s', 'skip'],
                  ['l', 'later'],
                ]}
              />
            </>
          )}
        </Panel>
      }
    >
      {rows.length === 0 ? (
        <Empty>
          {answer.conflicts.length === 0
            ? 'Nothing is in its own way.'
            : 'Nothing of this kind is in its own way.'}
        </Empty>
      ) : (
        <ListTable
          label="Conflicts"
          nouns="conflicts"
          rows={rows}
          columns={columnsOf(answer.kinds)}
          keyOf={({ key }) => key}
          nameOf={({ subject }) => subject}
          list={list}
          isMarkable
          sort="cost"
          descending
        />
      )}
    </ListPage>
  );
}
