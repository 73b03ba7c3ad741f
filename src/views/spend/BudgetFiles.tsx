import type { ReadBudgets } from '../../answers/spend.ts';
import type { Window } from '../../core/metrics/days.ts';
import { counted, money } from '../../core/metrics/format.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { FileOffer } from '../../ui/parts/FileOffer.tsx';

/** Saves budgets to a file and loads them from one: what it would change is looked at before it goes onto the sheet. */
export function BudgetFiles({ window }: { window: Window }) {
  const { putLines } = useAct();
  return (
    <FileOffer<ReadBudgets, ReadBudgets['budgets'][number]>
      noun="budget"
      label="A file of budgets"
      saved={`/api/spend/budgets/file?from=${window.from}&to=${window.to}`}
      reads="/api/spend/budgets/file"
      changesOf={({ budgets }) => budgets}
      keyOf={({ campaignId }) => campaignId}
      line={({ name, from, budget }) => (
        <>
          {name}: {money(from)} → <b>{money(budget)}</b>
        </>
      )}
      takes={(some) => `Add ${some} to the sheet`}
      onTake={(changes) =>
        putLines(
          '/api/spend/budgets',
          {
            ...window,
            budgets: changes.map(({ campaignId, budget }) => ({ campaignId, budget })),
            source: 'file',
          },
          `${counted(changes.length, 'budget')} from a file`,
        )
      }
    />
  );
}
