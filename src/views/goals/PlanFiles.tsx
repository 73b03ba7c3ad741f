import type { PlanRow, ReadPlan } from '../../answers/goals.ts';
import { money } from '../../core/metrics/format.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { FileOffer } from '../../ui/parts/FileOffer.tsx';
import { planFields } from './rows.ts';

type Change = ReadPlan['rows'][number];

const said = ({ before, row }: Change): string =>
  planFields
    .filter(({ name }) => before[name] !== row[name])
    .map(({ name, label }) => {
      const text = (plan: PlanRow) => (plan[name] === null ? 'not planned' : money(plan[name]));
      return `${label.toLowerCase()} ${text(before)} → ${text(row)}`;
    })
    .join(', ');

/** Saves the plan of the months to come to a file and loads it from one. */
export function PlanFiles() {
  const { changePlan } = useAct();
  return (
    <FileOffer<ReadPlan, Change>
      noun="plan"
      label="A file of plans"
      saved="/api/goals/plan/file"
      reads="/api/goals/plan/file"
      changesOf={({ rows }) => rows}
      keyOf={({ row: { month, sku } }) => `${month} ${sku}`}
      line={(change) => (
        <>
          {change.row.month.slice(0, 7)} {change.row.sku}: <b>{said(change)}</b>
        </>
      )}
      takes={(some) => `Keep ${some}`}
      onTake={(changes) =>
        changePlan(
          changes.map(({ before }) => before),
          changes.map(({ row }) => row),
        )
      }
    />
  );
}
