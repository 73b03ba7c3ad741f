import Box from '@mui/material/Box';
import type { BudgetRow } from '../../core/budgets/rows.ts';
import { emptyRule, type BudgetGroup, type BudgetRule } from '../../core/budgets/rules.ts';
import { money, percent } from '../../core/metrics/format.ts';
import type { Micros } from '../../core/metrics/money.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { MoneyField } from '../../ui/parts/MoneyField.tsx';
import { NumberField } from '../../ui/parts/NumberField.tsx';
import { sizes } from '../../ui/theme.ts';

interface RuleFieldsProps {
  group: BudgetGroup;
  rows: readonly BudgetRow[];
  total: Micros;
}

/** What a grace begins with: money for some days before a campaign can be starved. */
const usualGrace = { days: 14, least: 3_000_000 };

/** What is said of a total: how much, what each gets of it, what is kept for research, and for new campaigns. */
export function RuleFields({ group, rows, total }: RuleFieldsProps) {
  const { changeBudgetRule } = useAct();
  const before = group.rule ?? emptyRule(group.scope, group.object);
  const change = (part: Partial<BudgetRule>) => void changeBudgetRule(before, { ...before, ...part });
  const budgets = rows.reduce((sum, { budget }) => sum + (budget ?? 0), 0);
  return (
    <Box
      data-rule=""
      sx={{
        display: 'flex',
        columnGap: 2,
        rowGap: 0.5,
        flexWrap: 'wrap',
        alignItems: 'baseline',
        fontSize: sizes.table,
      }}
    >
      <span>
        Total a day{' '}
        <MoneyField
          label="Total a day"
          value={before.total}
          placeholder={money(total)}
          onChange={(value) => change({ total: value })}
        />
        <span className="soft">
          {' '}
          {before.total !== null
            ? `; their budgets are ${money(budgets)}`
            : group.set !== null
              ? ', as the marketplace has it,'
              : ', the sum of their budgets;'}
        </span>
      </span>
      <span>
        each at least{' '}
        <MoneyField
          label="Each at least"
          value={before.least}
          placeholder="–"
          width={52}
          onChange={(least) => change({ least })}
        />{' '}
        at most{' '}
        <MoneyField
          label="Each at most"
          value={before.most}
          placeholder="–"
          width={52}
          onChange={(most) => change({ most })}
        />
      </span>
      <span>
        research gets{' '}
        <NumberField
          label="Share for research, per cent"
          value={before.researchShare === null ? null : before.researchShare * 100}
          digits={0}
          least={0}
          suffix="%"
          width={36}
          placeholder="–"
          onCommit={(value) =>
            change(
              value === null
                ? { researchShare: null, researchCap: null }
                : { researchShare: Math.min(1, value / 100) },
            )
          }
        />
        {before.researchShare !== null && (
          <>
            {' '}
            up to{' '}
            <MoneyField
              label="Research at most"
              value={before.researchCap}
              placeholder={money(before.researchShare * total)}
              width={52}
              onChange={(researchCap) => change({ researchCap })}
            />
          </>
        )}
      </span>
      <span>
        new for{' '}
        <NumberField
          label="Days of grace"
          value={before.graceDays}
          digits={0}
          least={1}
          width={28}
          placeholder="–"
          onCommit={(value) =>
            change(
              value === null
                ? { graceDays: null, graceLeast: null }
                : {
                    graceDays: Math.min(90, Math.round(value)),
                    graceLeast: before.graceLeast ?? usualGrace.least,
                  },
            )
          }
        />{' '}
        days at least{' '}
        <MoneyField
          label="Grace at least"
          value={before.graceLeast}
          placeholder="–"
          width={52}
          onChange={(least) =>
            change(
              least === null
                ? { graceDays: null, graceLeast: null }
                : { graceDays: before.graceDays ?? usualGrace.days, graceLeast: least },
            )
          }
        />
      </span>
      {before.researchShare !== null && (
        <span className="soft">
          {percent(before.researchShare)} of {money(total)}
        </span>
      )}
    </Box>
  );
}
