import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { count, counted, money } from '../../core/metrics/format.ts';
import type { KitBody } from '../../core/kits/kit.ts';
import { planTotals, type PartEdit, type Plan, type PlannedPart } from '../../core/kits/plan.ts';
import { strategies, type Part, type PartState, type Strategy } from '../../core/kits/recipe.ts';
import { Choice, Field } from '../../ui/parts/fields.tsx';
import { sizes } from '../../ui/theme.ts';
import { Funnel } from './Funnel.tsx';
import { MoneyField } from './MoneyField.tsx';

const columns = '92px minmax(120px, 1fr) 92px 76px 74px 88px 84px';
const stateNames: Record<PartState, string> = { fill: 'fill', empty: 'empty', out: 'leave out' };
const strategyNames: Record<Strategy, string> = {
  fixed: 'fixed',
  down_only: 'down only',
  up_and_down: 'up and down',
};

interface PlanTreeProps {
  body: KitBody;
  plans: readonly Plan[];
  onEdit: (sku: string, part: string, edit: PartEdit) => void;
}

/** Everything that would be made, product by product and part by part, each value to be changed where it stands. */
export function PlanTree({ body, plans, onEdit }: PlanTreeProps) {
  return (
    <Box
      sx={{ flex: 1, minWidth: 0, overflowY: 'auto', px: 2.25, pb: 2 }}
      role="region"
      aria-label="Plan"
      tabIndex={0}
    >
      {plans.map((plan) => (
        <ProductPlan key={plan.product.sku} body={body} plan={plan} onEdit={onEdit} />
      ))}
    </Box>
  );
}

function ProductPlan({ body, plan, onEdit }: { body: KitBody; plan: Plan; onEdit: PlanTreeProps['onEdit'] }) {
  const { product, parts, problems } = plan;
  const totals = planTotals(plan);
  const whole = problems.filter(({ part }) => part === null);
  return (
    <Box component="section" aria-label={`Plan of ${product.sku}`} sx={{ mb: 2 }}>
      <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 1.5, mt: 1, mb: 0.5 }}>
        <Typography variant="h2">{product.title}</Typography>
        <Typography variant="body2" color="text.secondary" noWrap>
          {counted(totals.campaigns, 'campaign')}, {counted(totals.targets, 'target')},{' '}
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
          {['Part', 'Campaign', 'Budget a day', 'Strategy', 'Buys a day', 'and a week', 'Inside'].map(
            (name, at) => (
              <span role="columnheader" key={name} style={{ textAlign: at > 3 ? 'right' : 'left' }}>
                {name}
              </span>
            ),
          )}
        </Box>
        {body.recipe.parts.map((part) => (
          <PartRow
            key={part.name}
            sku={product.sku}
            part={part}
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

const row = {
  display: 'grid',
  gridTemplateColumns: columns,
  columnGap: 1,
  alignItems: 'center',
  px: 1,
} as const;

const Problem = ({ text, stops }: { text: string; stops: boolean }) => (
  <Typography
    variant="body2"
    role={stops ? 'alert' : 'note'}
    sx={{ color: stops ? 'error.main' : 'text.secondary', px: 1, py: 0.25 }}
  >
    {text}
  </Typography>
);

interface PartRowProps {
  sku: string;
  part: Part;
  planned: PlannedPart | null;
  edit: PartEdit;
  problems: readonly { text: string; stops: boolean }[];
  onEdit: (edit: PartEdit) => void;
}

function PartRow({ sku, part, planned, edit, problems, onEdit }: PartRowProps) {
  const [isOpen, setOpen] = useState(false);
  const state = edit.state ?? part.state;
  const stops = problems.some((one) => one.stops);
  const inside = (planned?.targets.length ?? 0) + (planned?.negatives.length ?? 0);
  return (
    <Box role="rowgroup" sx={{ borderTop: 1, borderColor: 'divider', opacity: planned ? 1 : 0.65 }}>
      <Box role="row" sx={{ ...row, fontSize: sizes.table, minHeight: 38 }}>
        <span role="cell">
          <Choice
            aria-label={`${part.name} of ${sku}`}
            value={state}
            style={{ width: 86 }}
            onChange={(event) => onEdit({ state: event.target.value as PartState })}
          >
            {Object.entries(stateNames).map(([id, name]) => (
              <option key={id} value={id}>
                {name}
              </option>
            ))}
          </Choice>
        </span>
        {planned ? (
          <>
            <span role="cell">
              <NameField
                label={`Name of ${part.name} of ${sku}`}
                value={planned.name}
                onChange={(name) => onEdit({ name })}
              />
            </span>
            <span role="cell">
              <MoneyField
                label={`Budget of ${part.name} of ${sku}`}
                value={planned.dailyBudget}
                isWrong={stops}
                width={84}
                onChange={(dailyBudget) => onEdit({ dailyBudget: dailyBudget ?? undefined })}
              />
            </span>
            <span role="cell">
              <Choice
                aria-label={`Strategy of ${part.name} of ${sku}`}
                value={planned.strategy}
                style={{ width: 76 }}
                onChange={(event) => onEdit({ strategy: event.target.value as Strategy })}
              >
                {strategies.map((id) => (
                  <option key={id} value={id}>
                    {strategyNames[id]}
                  </option>
                ))}
              </Choice>
            </span>
            <span
              role="cell"
              style={number}
              title={`The whole budget at an expected CPC of ${money(planned.cpc)}; fewer where less is searched`}
            >
              {planned.bought.clicksADay.toFixed(1)} <small>clicks</small>
            </span>
            <span
              role="cell"
              style={number}
              title={`Orders of those clicks in eight weeks of ten, ${planned.bought.orders.toFixed(1)} in the mean`}
            >
              {count(planned.bought.ordersLow)}–{count(planned.bought.ordersHigh)} <small>orders</small>
            </span>
            <span role="cell" style={number}>
              <ButtonBase
                disabled={inside === 0}
                aria-expanded={isOpen}
                aria-label={`What is in ${part.name} of ${sku}`}
                onClick={() => setOpen(!isOpen)}
                sx={{
                  typography: 'body2',
                  textDecoration: inside > 0 ? 'underline' : 'none',
                  textUnderlineOffset: 3,
                }}
              >
                {count(planned.targets.length)} · {count(planned.negatives.length)} neg.
              </ButtonBase>
            </span>
          </>
        ) : (
          <Box role="cell" sx={{ gridColumn: '2 / -1', color: 'text.secondary' }}>
            {part.name}: left out
          </Box>
        )}
      </Box>
      {problems.map(({ text, stops: isStop }) => (
        <div role="row" key={text}>
          <div role="cell">
            <Problem text={text} stops={isStop} />
          </div>
        </div>
      ))}
      {isOpen && planned && (
        <div role="row">
          <div role="cell">
            <Inside planned={planned} />
          </div>
        </div>
      )}
    </Box>
  );
}

const number = { textAlign: 'right', fontVariantNumeric: 'tabular-nums' } as const;
const mostShown = 200;
const inside = {
  display: 'grid',
  gridTemplateColumns: '180px 52px 40px minmax(0, 1fr)',
  columnGap: 1,
  py: 0.25,
} as const;

/** Targets with their first bids and where these come from, then negatives with the part that serves them. */
function Inside({ planned: { targets, negatives } }: { planned: PlannedPart }) {
  return (
    <Box
      sx={{ px: 1, pb: 1, fontSize: sizes.small, maxHeight: 220, overflowY: 'auto' }}
      tabIndex={0}
      role="region"
      aria-label="Targets and negatives"
    >
      {targets.slice(0, mostShown).map(({ expression, matchType, targetKind, bid, why }) => (
        <Box key={`${targetKind} ${expression}`} sx={inside}>
          <span>{expression}</span>
          <Box component="span" sx={{ color: 'text.secondary' }}>
            {matchType ?? targetKind}
          </Box>
          <span style={number}>{money(bid)}</span>
          <Box component="span" sx={{ color: 'text.secondary' }}>
            {why}
          </Box>
        </Box>
      ))}
      {negatives.slice(0, mostShown).map(({ expression, matchType, servedBy }) => (
        <Box key={`${matchType} ${expression}`} sx={inside}>
          <span>{expression}</span>
          <Box component="span" sx={{ color: 'text.secondary', gridColumn: '2 / -1' }}>
            {matchType.replace('_', ' ')},{' '}
            {servedBy === null ? 'excluded from the whole kit' : `served by ${servedBy}`}
          </Box>
        </Box>
      ))}
      {Math.max(targets.length, negatives.length) > mostShown && (
        <Box sx={{ color: 'text.secondary' }}>
          The first {mostShown} of each are shown; all {count(targets.length + negatives.length)} go onto the
          sheet.
        </Box>
      )}
    </Box>
  );
}

/** A name, taken when it is left or Enter is pressed. */
function NameField({
  label,
  value,
  onChange,
}: {
  label: string;
  value: string;
  onChange: (value: string) => void;
}) {
  const [text, setText] = useState<string | null>(null);
  const take = () => {
    if (text !== null && text.trim() !== value) onChange(text.trim());
    setText(null);
  };
  return (
    <Field
      aria-label={label}
      value={text ?? value}
      style={{ width: '100%' }}
      onChange={(event) => setText(event.target.value)}
      onBlur={take}
      onKeyDown={(event) => {
        if (event.key === 'Enter') take();
        if (event.key === 'Escape') setText(null);
      }}
    />
  );
}
