import Button from '@mui/material/Button';
import { useQuery } from '@tanstack/react-query';
import type { ReactNode } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import type { ToleranceRow } from '../../answers/idle.ts';
import { counted, money } from '../../core/metrics/format.ts';
import { get } from '../../ui/api.ts';
import { shortDay } from '../../ui/days.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { Empty, Failed, ListHead, ListPage, Waiting } from '../../ui/list/ListPage.tsx';
import { ListTable, type ListColumn } from '../../ui/list/ListTable.tsx';
import { useList } from '../../ui/list/useList.ts';
import type { KeyHelp } from '../../ui/shell/Keys.tsx';

export const toleratedHelp: KeyHelp[] = [
  { keys: ['j', 'k'], does: 'next, previous loss' },
  { keys: ['delete'], does: 'tolerate it no longer' },
];

const rankText = (rank: number | null): string => (rank === null ? '–' : String(rank));

const columns: ListColumn<ToleranceRow>[] = [
  {
    id: 'name',
    label: 'What',
    width: 'minmax(180px, 1.4fr)',
    cell: ({ name }) => <b>{name}</b>,
    below: ({ matchType, adGroup, findingKey }) =>
      `${findingKey.startsWith('term:') ? 'term' : (matchType ?? 'target')} in ${adGroup}`,
  },
  {
    id: 'reason',
    label: 'Why',
    width: 'minmax(140px, 1fr)',
    isLong: true,
    cell: ({ reason }) => reason,
  },
  {
    id: 'loss',
    label: 'Loses a week',
    width: '88px',
    isNumber: true,
    explains: 'loss',
    cell: ({ loss, back }) => (
      <span className={back === 'beyond' ? 'over' : undefined}>{loss > 0 ? money(loss) : 'nothing'}</span>
    ),
  },
  {
    id: 'amount',
    label: 'Tolerated',
    width: '80px',
    isNumber: true,
    cell: ({ amount }) => money(amount),
  },
  {
    id: 'until',
    label: 'Until',
    width: '150px',
    cell: ({ until, back }) =>
      back === 'over' ? (
        <b className="over">over: back in the round</b>
      ) : back === 'beyond' ? (
        <b className="over">beyond: back in the round</b>
      ) : until === null ? (
        'further notice'
      ) : (
        shortDay(until)
      ),
    below: ({ since }) => `since ${shortDay(since)}`,
  },
  {
    id: 'rank',
    label: 'Organic rank',
    width: '92px',
    isNumber: true,
    explains: 'organic_rank',
    cell: ({ rank: { first, last } }) =>
      first === null && last === null ? '–' : `${rankText(first)} to ${rankText(last)}`,
  },
  {
    id: 'earns',
    label: 'The rank sells',
    width: '112px',
    isNumber: true,
    explains: 'rank_sells',
    cell: ({ earns }) => (earns === null ? '–' : money(earns.sales)),
    below: ({ earns, loss }) =>
      earns === null || earns.left === null ? (
        ''
      ) : (
        <span className={earns.left < loss ? 'over' : undefined}>{money(earns.left)} before ads</span>
      ),
  },
];

/** Losses that are borne on purpose: what they cost, what they hold, and which are back. */
export function ToleratedView({ tabs }: { tabs: ReactNode }) {
  const { changeTolerances } = useAct();
  const tolerated = useQuery({
    queryKey: ['tolerances'],
    queryFn: () => get<ToleranceRow[]>('/api/idle/tolerances'),
  });
  const rows = tolerated.data ?? [];
  const list = useList(rows, ({ toleranceId }) => toleranceId, { about: 'tolerated' });
  const end = () => {
    const chosen = list.chosen();
    if (chosen.length === 0) return;
    void changeTolerances(
      chosen.map(({ findingKey, amount, reason, until, since }) => ({
        findingKey,
        tolerance: { amount, reason, until, since },
      })),
      chosen.map(({ findingKey }) => ({ findingKey, tolerance: null })),
      `${counted(chosen.length, 'loss', 'losses')} tolerated no longer.`,
    ).then((done) => done && list.unmark());
  };
  useHotkeys('delete', end, [list]);
  if (!tolerated.data)
    return tolerated.isError ? (
      <Failed error={tolerated.error} onRetry={() => void tolerated.refetch()} />
    ) : (
      <Waiting>Reading what is tolerated.</Waiting>
    );
  const holding = rows.filter(({ back }) => back === null);
  const sum = holding.reduce((total, { loss }) => total + Math.max(0, loss), 0);
  return (
    <ListPage
      head={
        <ListHead
          title="Goals"
          tabs={tabs}
          name="tolerated"
          sentence={
            <>
              <b>{counted(holding.length, 'loss', 'losses')}</b> borne on purpose, <b>{money(sum)}</b> a week
              {rows.length > holding.length &&
                `; ${counted(rows.length - holding.length, 'other')} beyond its amount or its time ${rows.length - holding.length === 1 ? 'is' : 'are'} back in the round`}
              .
            </>
          }
          filters={
            <Button size="small" variant="outlined" disabled={list.chosen().length === 0} onClick={end}>
              Tolerate no longer
            </Button>
          }
        />
      }
    >
      {rows.length === 0 ? (
        <Empty>
          Nothing is tolerated. Under “Without orders” a loss is borne for a reason, an amount a week and a
          time.
        </Empty>
      ) : (
        <ListTable
          label="Tolerated"
          nouns="losses"
          rows={rows}
          columns={columns}
          keyOf={({ toleranceId }) => toleranceId}
          nameOf={({ name }) => name}
          list={list}
          isMarkable
        />
      )}
    </ListPage>
  );
}
