import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useMemo, useState, type ReactNode } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import type { RoutineRow, RoutinesAnswer } from '../../answers/routines.ts';
import { counted } from '../../core/metrics/format.ts';
import { newRoutine } from '../../core/routines/shipped.ts';
import { send } from '../../ui/api.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { Empty, ListHead, ListPage } from '../../ui/list/ListPage.tsx';
import { ListTable, type ListColumn } from '../../ui/list/ListTable.tsx';
import { useList } from '../../ui/list/useList.ts';
import { RoutinePanel } from './RoutinePanel.tsx';
import { instantSaid } from '../../ui/days.ts';
import { reachSaid, runSaid, standsSaid, timeSaid, whatSaid } from './words.ts';

const columnsFor = ({ runs, timeZone }: RoutinesAnswer): ListColumn<RoutineRow>[] => {
  const lastOf = (row: RoutineRow) => runs.find(({ routineId }) => routineId === row.routineId);
  return [
    { id: 'rank', label: 'Rank', width: '44px', isNumber: true, cell: ({ rank }) => rank },
    {
      id: 'name',
      label: 'Routine',
      width: 'minmax(180px, 1.7fr)',
      cell: ({ settings }) => <b>{settings.name}</b>,
      below: ({ settings }) => whatSaid(settings),
    },
    {
      id: 'when',
      label: 'When',
      width: 'minmax(120px, 0.8fr)',
      cell: ({ settings }) => timeSaid(settings),
      below: ({ nextDue }) => (nextDue ? `next ${instantSaid(nextDue, timeZone)}` : ''),
    },
    {
      id: 'reach',
      label: 'How far',
      width: 'minmax(110px, 0.7fr)',
      cell: ({ settings }) => reachSaid(settings)[0],
      below: ({ settings }) => reachSaid(settings)[1],
    },
    {
      id: 'state',
      label: 'State',
      width: 'minmax(120px, 1fr)',
      cell: (row) => (row.isOn ? <b>on</b> : <span className="soft">{standsSaid(row)}</span>),
      below: (row) => {
        const last = lastOf(row);
        return row.stoppedWhy ?? row.problem ?? (last ? `${runSaid(last, timeZone)}, ${last.day}` : '');
      },
    },
  ];
};

interface RoutinesListProps {
  answer: RoutinesAnswer;
  tabs: ReactNode;
}

/** The routines by rank; the one in focus is read, changed, played and turned on beside them. */
export function RoutinesList({ answer, tabs }: RoutinesListProps) {
  const { changeRoutine, act } = useAct();
  const [isMaking, setMaking] = useState(false);
  const { routines, allStopped, runs } = answer;
  const list = useList(routines, ({ routineId }) => String(routineId), { about: '', address: 'routine' });
  const columns = useMemo(() => columnsFor(answer), [answer]);
  const row = list.row;
  const on = routines.filter(({ isOn }) => isOn).length;
  const held = runs.filter(({ state }) => state === 'held').length;
  const turn = () => {
    if (!row) return;
    const path = `/api/routines/${row.routineId}`;
    void changeRoutine(
      { method: 'POST', path, body: { act: row.isOn ? 'off' : 'on' } },
      `“${row.settings.name}” turned ${row.isOn ? 'off' : 'on'}`,
      { method: 'POST', path, body: { act: row.isOn ? 'on' : 'off' } },
    );
  };
  const move = (by: number) => {
    if (!row) return;
    const ids = routines.map(({ routineId }) => routineId);
    const at = ids.indexOf(row.routineId);
    if (at + by < 0 || at + by >= ids.length) return;
    const order = [...ids];
    order.splice(at, 1);
    order.splice(at + by, 0, row.routineId);
    void changeRoutine(
      { method: 'PUT', path: '/api/routines', body: { order } },
      `“${row.settings.name}” has rank ${at + by + 1}`,
      { method: 'PUT', path: '/api/routines', body: { order: ids } },
    );
  };
  const throwSwitch = () => {
    const path = '/api/routines/switch';
    void changeRoutine(
      { method: 'POST', path, body: { isStopped: !allStopped } },
      allStopped ? 'Routines go on' : 'All routines are stopped',
      { method: 'POST', path, body: { isStopped: allStopped } },
    );
  };
  useHotkeys('o', turn, [row]);
  useHotkeys('shift+j', () => move(1), [row, routines]);
  useHotkeys('shift+k', () => move(-1), [row, routines]);
  return (
    <ListPage
      head={
        <ListHead
          title="Routines"
          tabs={tabs}
          name="routines"
          actions={
            <>
              <Button variant="outlined" onClick={() => setMaking(true)}>
                New routine
              </Button>
              <Button
                variant={allStopped ? 'contained' : 'outlined'}
                color={allStopped ? 'primary' : 'error'}
                onClick={throwSwitch}
              >
                {allStopped ? 'Let routines go on' : 'Stop all routines'}
              </Button>
            </>
          }
          sentence={
            allStopped ? (
              <>
                <b>All routines are stopped</b>: none runs, and nothing that is held leaves.
              </>
            ) : on === 0 ? (
              'No routine is on. Each is a round that runs by itself, within limits, with the findings and sentences of yours.'
            ) : (
              <>
                <b>{counted(on, 'routine')}</b> {on === 1 ? 'is' : 'are'} on
                {held > 0 && `, ${held === 1 ? '1 sheet is' : `${held} sheets are`} held`}. Where two want the
                same, the higher rank has it; you outrank all.
              </>
            )
          }
        />
      }
      panel={
        isMaking ? (
          <RoutinePanel
            key="new"
            answer={answer}
            row={null}
            start={newRoutine('')}
            onClose={() => setMaking(false)}
            onMade={(settings) =>
              changeRoutine<{ routineId: number }>(
                { method: 'POST', path: '/api/routines', body: settings },
                `“${settings.name}” made, and off`,
                ({ routineId }) => ({
                  method: 'POST',
                  path: `/api/routines/${routineId}`,
                  body: { act: 'remove' },
                }),
              )
            }
          />
        ) : (
          row && (
            <RoutinePanel
              key={`${row.routineId} ${row.version}`}
              answer={answer}
              row={row}
              start={row.settings}
              onTurn={turn}
              onMove={move}
              onRun={() =>
                void act(
                  () => send('POST', `/api/routines/${row.routineId}`, { act: 'run' }),
                  `“${row.settings.name}” runs now; look under Runs what it does.`,
                )
              }
            />
          )
        )
      }
    >
      {routines.length === 0 ? (
        <Empty>No routine is left. Make one, or bring one back with ctrl z.</Empty>
      ) : (
        <Box sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
          <ListTable
            label="Routines by rank"
            nouns="routines"
            rows={routines}
            columns={columns}
            keyOf={({ routineId }) => String(routineId)}
            nameOf={({ settings }) => settings.name}
            list={list}
          />
        </Box>
      )}
    </ListPage>
  );
}
