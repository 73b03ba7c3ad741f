import { setUrl, useUrlState } from '../../ui/hooks/useUrlState.ts';
import { Shell } from '../../ui/shell/Shell.tsx';
import { BudgetsView, budgetsHelp } from './BudgetsView.tsx';
import { PaceView } from './PaceView.tsx';
import { SplitView, splitHelp } from './SplitView.tsx';
import { SpendTabs, parts, type PartId } from './SpendTabs.tsx';
import { budgetViewIds } from './useBudgets.ts';
import { WhenView, whenHelp } from './WhenView.tsx';
import { WhereView, whereHelp } from './WhereView.tsx';

/** Where and when money works, and how much of it. */
export function SpendView() {
  const [named] = useUrlState('part', true);
  const [viewName] = useUrlState('view', true);
  const part = (Object.keys(parts) as PartId[]).find((id) => id === named) ?? 'how-much';
  const view = budgetViewIds.find((id) => id === viewName) ?? 'campaigns';
  const choose = (id: PartId) =>
    setUrl(
      {
        part: id === 'how-much' ? null : id,
        view: null,
        campaign: null,
        sort: null,
        q: null,
        scope: null,
        draw: null,
        kind: null,
      },
      true,
    );
  const tabs = <SpendTabs part={part} view={view} onChoose={choose} />;
  if (part === 'where')
    return (
      <Shell help={whereHelp}>
        <WhereView parts={tabs} />
      </Shell>
    );
  if (part === 'when')
    return (
      <Shell help={whenHelp}>
        <WhenView tabs={tabs} />
      </Shell>
    );
  return (
    <Shell help={view === 'groups' ? splitHelp : budgetsHelp}>
      {view === 'groups' ? (
        <SplitView tabs={tabs} />
      ) : view === 'pace' ? (
        <PaceView tabs={tabs} />
      ) : (
        <BudgetsView tabs={tabs} />
      )}
    </Shell>
  );
}
