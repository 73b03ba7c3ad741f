import { useUrlState } from '../../ui/hooks/useUrlState.ts';
import { Shell } from '../../ui/shell/Shell.tsx';
import { Tabs, type Tab } from '../../ui/parts/Tabs.tsx';
import { GoalsList, goalsHelp } from './GoalsList.tsx';
import { MethodsView, methodsHelp } from './MethodsView.tsx';
import { PlanView } from './PlanView.tsx';

const parts = ['goals', 'methods', 'plan'] as const;
type PartId = (typeof parts)[number];
const names: Record<PartId, string> = { goals: 'Goals', methods: 'Compare methods', plan: 'Plan' };

export function GoalsView() {
  const [shown, setShown] = useUrlState('view', true);
  const part = parts.find((id) => id === shown) ?? 'goals';
  const tabs = (
    <Tabs
      label="Parts of Goals"
      tabs={parts.map((id): Tab<PartId> => ({ id, name: names[id] }))}
      chosen={part}
      onChoose={(id) => setShown(id === 'goals' ? null : id)}
    />
  );
  return (
    <Shell help={part === 'goals' ? goalsHelp : part === 'methods' ? methodsHelp : []}>
      {part === 'goals' ? (
        <GoalsList tabs={tabs} />
      ) : part === 'methods' ? (
        <MethodsView tabs={tabs} />
      ) : (
        <PlanView tabs={tabs} />
      )}
    </Shell>
  );
}
