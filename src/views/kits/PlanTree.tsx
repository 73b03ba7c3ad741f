import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { type ReactNode } from 'react';
import type { GroundsAnswer } from '../../answers/kits.ts';
import type { KitBody } from '../../core/kits/kit.ts';
import { planTotals } from '../../core/kits/plan.ts';
import type { RunningAdGroup } from '../../core/kits/running.ts';
import type { PartEdit, Plan } from '../../core/kits/types.ts';
import { count, counted, money } from '../../core/metrics/format.ts';
import { sizes } from '../../ui/theme.ts';
import { Funnel } from './Funnel.tsx';
import { PartRow, Problem, row } from './PartRow.tsx';

interface PlanTreeProps {
  body: KitBody;
  plans: readonly Plan[];
  grounds: ReadonlyMap<string, GroundsAnswer>;
  onEdit: (sku: string, part: string, edit: PartEdit) => void;
  /** What is worked on above the plan. */
  children?: ReactNode;
}

/** Everything that would be made, product by product and part by part, each value to be changed where it stands. */
export function PlanTree({ body, plans, grounds, onEdit, children }: PlanTreeProps) {
  return (
    <Box
      sx={{ flex: 1, minWidth: 0, overflowY: 'auto', px: 2.25, pb: 2 }}
      role="region"
      aria-label="Plan"
      tabIndex={0}
    >
      {children}
      {plans.map((plan) => (
        <ProductPlan
          key={plan.product.sku}
          body={body}
          plan={plan}
          running={grounds.get(plan.product.sku)?.grounds.running ?? nothingRuns}
          onEdit={onEdit}
        />
      ))}
    </Box>
  );
}

const nothingRuns: readonly RunningAdGroup[] = [];

interface ProductPlanProps {
  body: KitBody;
  plan: Plan;
  running: readonly RunningAdGroup[];
  onEdit: PlanTreeProps['onEdit'];
}

function ProductPlan({ body, plan, running, onEdit }: ProductPlanProps) {
  const { product, also, parts, problems } = plan;
  const totals = planTotals(plan);
  const whole = problems.filter(({ part }) => part === null);
  return (
    <Box component="section" aria-label={`Plan of ${product.sku}`} sx={{ mb: 2 }}>
      <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 1.5, mt: 1, mb: 0.5 }}>
        <Typography variant="h2">
          {product.title}
          {also.length > 0 && ` and ${also.map(({ title }) => title).join(', ')}`}
        </Typography>
        <Typography variant="body2" color="text.secondary" noWrap>
          {counted(totals.campaigns, 'campaign')}
          {totals.standing > 0 && ` beside ${count(totals.standing)}`}, {counted(totals.targets, 'target')},{' '}
          {counted(totals.negatives, 'negative')}, {money(totals.dailyBudget)} a day
        </Typography>
      </Box>
      {whole.map(({ text, stops }) => (
        <Problem key={text} text={text} stops={stops} />
      ))}
      <Box
        role="table"
        aria-label={`Parts for ${product.sku}`}
        sx={{ borderTop: 1, borderColor: 'text.primary', bgcolor: 'background.paper' }}
      >
        <Box role="row" sx={{ ...row, color: 'text.secondary', fontSize: sizes.small, py: 0.5 }}>
          {[
            'Part',
            'Campaign',
            body.budgetKind === 'daily' ? 'Budget a day' : 'Budget in all',
            'Strategy',
            'Buys a day',
            'and a week',
            'Inside',
          ].map((name, at) => (
            <span role="columnheader" key={name} style={{ textAlign: at > 3 ? 'right' : 'left' }}>
              {name}
            </span>
          ))}
        </Box>
        {body.recipe.parts.map((part) => (
          <PartRow
            key={part.name}
            sku={product.sku}
            part={part}
            running={running}
            budgetKind={body.budgetKind}
            planned={parts.find((one) => one.part.name === part.name) ?? null}
            edit={body.edits[product.sku]?.[part.name] ?? {}}
            problems={problems.filter((one) => one.part === part.name)}
            onEdit={(edit) => onEdit(product.sku, part.name, edit)}
          />
        ))}
      </Box>
      <Box sx={{ mt: 1.5 }}>
        <Funnel plan={plan} />
      </Box>
    </Box>
  );
}
