import Box from '@mui/material/Box';
import Link from '@mui/material/Link';
import { useMemo, type ReactNode } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import type { RoutineRun, RoutinesAnswer } from '../../answers/routines.ts';
import { counted, signedMoney } from '../../core/metrics/format.ts';
import { at } from '../../ui/address.ts';
import { useUrlState } from '../../ui/hooks/useUrlState.ts';
import { Empty, ListHead, ListPage, Matching } from '../../ui/list/ListPage.tsx';
import { ListTable, type ListColumn } from '../../ui/list/ListTable.tsx';
import { found } from '../../ui/list/found.ts';
import { useList } from '../../ui/list/useList.ts';
import { Choice, Field } from '../../ui/parts/fields.tsx';
import { RunPanel } from './RunPanel.tsx';
import { useRunActs } from './useRunActs.ts';
import { instantSaid } from '../../ui/days.ts';
import { dueSaid, runSaid } from './words.ts';

const columnsFor = (timeZone: string): ListColumn<RoutineRun>[] => [
  {
    id: 'began',
    label: 'Run',
    width: 'minmax(120px, 0.7fr)',
    cell: ({ beganAt }) => instantSaid(beganAt, timeZone),
    below: dueSaid,
  },
  {
    id: 'routine',
    label: 'Routine',
    width: 'minmax(170px, 1.3fr)',
    cell: ({ routine }) => <b>{routine}</b>,
    below: ({ day }) => `figures of ${day}`,
  },
  {
    id: 'state',
    label: 'What it did',
    width: 'minmax(180px, 1.6fr)',
    cell: (run) => (run.state === 'held' ? <b>{runSaid(run, timeZone)}</b> : runSaid(run, timeZone)),
    below: ({ why, summary }) =>
      why ?? (summary.found === undefined ? '' : `found ${counted(summary.found, 'finding')}`),
  },
  {
    id: 'beyond',
    label: 'Left to you',
    width: '84px',
    isNumber: true,
    cell: ({ summary }) => summary.beyond || '',
  },
  {
    id: 'worth',
    label: 'Worth a week',
    width: '96px',
    isNumber: true,
    cell: ({ summary }) => (summary.worth ? signedMoney(summary.worth) : ''),
  },
];

interface RunsListProps {
  answer: RoutinesAnswer;
  tabs: ReactNode;
}

/** Every run: what it looked at, found, did and held back; what it holds is stopped or sent from here. */
export function RunsList({ answer, tabs }: RunsListProps) {
  const { runs, timeZone } = answer;
  const [text, setText] = useUrlState('q');
  const [only, setOnly] = useUrlState('only');
  const rows = useMemo(
    () =>
      found(
        runs.filter(({ state, summary }) =>
          only === 'held' ? state === 'held' : only === 'beyond' ? (summary.beyond ?? 0) > 0 : true,
        ),
        { text, in: ({ routine, day, why }) => [routine, day, why ?? ''] },
      ),
    [runs, text, only],
  );
  const list = useList(rows, ({ runId }) => String(runId), { about: `${text} ${only}`, address: 'run' });
  const columns = useMemo(() => columnsFor(timeZone), [timeZone]);
  const acts = useRunActs();
  const run = list.row;
  useHotkeys('h', () => run?.state === 'held' && acts.stop(run), [run]);
  const held = runs.filter(({ state }) => state === 'held');
  return (
    <ListPage
      head={
        <ListHead
          title="Routines"
          tabs={tabs}
          name="runs"
          sentence={
            runs.length === 0 ? (
              'No routine has run yet.'
            ) : held.length === 0 ? (
              `${counted(runs.length, 'run')}; nothing is held.`
            ) : (
              <>
                <b>{counted(held.length, 'sheet')}</b> {held.length === 1 ? 'is' : 'are'} held, and{' '}
                {held.length === 1
                  ? 'leaves by itself unless you stop it.'
                  : 'leave by themselves unless you stop them.'}
              </>
            )
          }
          filters={
            <>
              <Field
                type="search"
                aria-label="Find a run"
                placeholder="Find a run"
                value={text ?? ''}
                onChange={({ target }) => setText(target.value || null)}
                style={{ width: 150 }}
              />
              <Choice
                aria-label="Which runs"
                value={only ?? ''}
                onChange={({ target }) => setOnly(target.value || null)}
              >
                <option value="">all runs</option>
                <option value="held">what is held</option>
                <option value="beyond">left something to you</option>
              </Choice>
              <Link href={at('/api/routines/file?format=csv')} download sx={{ fontSize: 'inherit' }}>
                All of the log as CSV
              </Link>
              <Matching>{counted(rows.length, 'run')}</Matching>
            </>
          }
        />
      }
      panel={run && <RunPanel key={run.runId} run={run} timeZone={timeZone} acts={acts} />}
    >
      {rows.length === 0 ? (
        <Empty>{runs.length === 0 ? 'Turn a routine on, or run one now.' : 'No run is like that.'}</Empty>
      ) : (
        <Box sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
          <ListTable
            label="Runs"
            nouns="runs"
            rows={rows}
            columns={columns}
            keyOf={({ runId }) => String(runId)}
            nameOf={({ routine, day }) => `${routine}, ${day}`}
            list={list}
          />
        </Box>
      )}
    </ListPage>
  );
}
