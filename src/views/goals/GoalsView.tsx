import { useUrlState } from '../../ui/hooks/useUrlState.ts';
import { Shell } from '../../ui/shell/Shell.tsx';
import { Tabs, type Tab } from '../../ui/parts/Tabs.tsx';
import { GoalsList, goalsHelp } from './GoalsList.tsx';
import { IdleView, idleHelp } from './IdleView.tsx';
import { MethodsView, methodsHelp } from './MethodsView.tsx';
import { PlanView } from './PlanView.tsx';
import { TestingView, testingHelp } from './TestingView.tsx';
import { ToleratedView, toleratedHelp } from './ToleratedView.tsx';

const parts = ['goals', 'methods', 'idle', 'tolerated', 'testing', 'plan'] as const;
type PartId = (typeof parts)[number];
const names: Record<PartId, string> = {
  goals: 'Goals',
  methods: 'Compare methods',
  idle: 'Without orders',
  tolerated: 'Tolerated',
  testing: 'Testing',
  plan: 'Plan',
};
const help = {
  goals: goalsHelp,
  methods: methodsHelp,
  idle: idleHelp,
  tolerated: toleratedHelp,
  testing: testingHelp,
  plan: [],
};

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
    <Shell help={help[part]}>
      {part === 'goals' ? (
        <GoalsList tabs={tabs} />
      ) : part === 'methods' ? (
        <MethodsView tabs={tabs} />
      ) : part === 'idle' ? (
        <IdleView tabs={tabs} />
      ) : part === 'tolerated' ? (
        <ToleratedView tabs={tabs} />
      ) : part === 'testing' ? (
        <TestingView tabs={tabs} />
      ) : (
        <PlanView tabs={tabs} />
      )}
    </Shell>
  );
}
