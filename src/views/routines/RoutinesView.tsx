import type { RoutinesAnswer } from '../../answers/routines.ts';
import { setUrl, useUrlState } from '../../ui/hooks/useUrlState.ts';
import { Failed, Waiting } from '../../ui/list/ListPage.tsx';
import { Tabs } from '../../ui/parts/Tabs.tsx';
import { Shell } from '../../ui/shell/Shell.tsx';
import { RoutinesList } from './RoutinesList.tsx';
import { RunsList } from './RunsList.tsx';
import { useRoutines } from './useRoutines.ts';

const keyHelp = [
  { keys: ['j', 'k'], does: 'next, previous routine or run' },
  { keys: ['o'], does: 'turn the routine in focus on, or off' },
  { keys: ['shift', 'j'], does: 'give it a lower rank' },
  { keys: ['shift', 'k'], does: 'give it a higher rank' },
  { keys: ['h'], does: 'stop what the run in focus holds' },
  { keys: ['/'], does: 'find in what runs found' },
];

export function RoutinesView() {
  return (
    <Shell help={keyHelp}>
      <Routines />
    </Shell>
  );
}

type PartId = 'routines' | 'runs';

function Routines() {
  const [part] = useUrlState('part', true);
  const asked = useRoutines();
  if (!asked.data)
    return asked.isError ? (
      <Failed error={asked.error} onRetry={() => void asked.refetch()} />
    ) : (
      <Waiting>Looking what routines do.</Waiting>
    );
  const answer: RoutinesAnswer = asked.data;
  const chosen: PartId = part === 'runs' ? 'runs' : 'routines';
  const held = answer.runs.filter(({ state }) => state === 'held').length;
  const tabs = (
    <Tabs
      label="Part of Routines"
      tabs={[
        { id: 'routines', name: 'Routines', count: answer.routines.length },
        { id: 'runs', name: 'Runs', ...(held > 0 ? { count: held } : {}) },
      ]}
      chosen={chosen}
      onChoose={(id) =>
        setUrl({ part: id === 'routines' ? null : id, routine: null, run: null, q: null }, true)
      }
    />
  );
  return chosen === 'runs' ? (
    <RunsList answer={answer} tabs={tabs} />
  ) : (
    <RoutinesList answer={answer} tabs={tabs} />
  );
}
