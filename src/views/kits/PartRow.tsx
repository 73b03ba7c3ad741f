import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { changeOf } from '../../core/kits/plan.ts';
import { strategies, type Part, type PartState, type Strategy } from '../../core/kits/recipe.ts';
import type { RunningAdGroup } from '../../core/kits/running.ts';
import type { BudgetKind, PartEdit, PlannedPart } from '../../core/kits/types.ts';
import { count, counted, money } from '../../core/metrics/format.ts';
import { Choice, Field } from '../../ui/parts/fields.tsx';
import { sizes } from '../../ui/theme.ts';
import { Inside } from './Inside.tsx';
import { MoneyField } from '../../ui/parts/MoneyField.tsx';
import { number, stateNames } from './parts.tsx';

const columns = '92px minmax(120px, 1fr) 92px 76px 78px 98px 84px';
const strategyNames: Record<Strategy, string> = {
  fixed: 'fixed',
  down_only: 'down only',
  up_and_down: 'up and down',
};

export const row = {
  display: 'grid',
  gridTemplateColumns: columns,
  columnGap: 1,
  alignItems: 'center',
  px: 1,
} as const;

export const Problem = ({ text, stops }: { text: string; stops: boolean }) => (
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
  running: readonly RunningAdGroup[];
  budgetKind: BudgetKind;
  edit: PartEdit;
  problems: readonly { text: string; stops: boolean }[];
  onEdit: (edit: PartEdit) => void;
}

/** One part of a plan, each value to be changed where it stands. */
export function PartRow({ sku, part, planned, running, budgetKind, edit, problems, onEdit }: PartRowProps) {
  const [isOpen, setOpen] = useState(false);
  const state = edit.state ?? part.state;
  const isOtherBudget = budgetKind === 'lifetime' && planned?.stands?.dailyBudget != null;
  const stops = problems.some((one) => one.stops);
  const inside = planned
    ? planned.targets.length + planned.negatives.length + planned.archives.length + planned.creatives.length
    : 0;
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
              {planned.stands ? (
                <Stands
                  label={`What is ${part.name} of ${sku}`}
                  planned={planned}
                  running={running}
                  onChoose={(stands) => onEdit({ stands })}
                />
              ) : (
                <NameField
                  label={`Name of ${part.name} of ${sku}`}
                  value={planned.name}
                  onChange={(name) => onEdit({ name })}
                />
              )}
            </span>
            <span role="cell">
              {planned.stands?.dailyBudget === null ? (
                'of its own'
              ) : (
                <MoneyField
                  label={`Budget of ${part.name} of ${sku}`}
                  value={planned.budget}
                  isWrong={stops}
                  width={84}
                  onChange={(budget) => onEdit({ budget: budget ?? undefined })}
                />
              )}
            </span>
            <span role="cell">
              {planned.stands ? (
                <Mark change={changeOf(planned)} />
              ) : (
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
              )}
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
      {planned && (planned.stands ? planned.stale.length > 0 || isOtherBudget : running.length > 0) && (
        <div role="row">
          <Box
            role="cell"
            sx={{ display: 'flex', gap: 1.5, px: 1, pb: 0.5, fontSize: sizes.small, color: 'text.secondary' }}
          >
            {!planned.stands && (
              <label>
                {part.name} is{' '}
                <Stands
                  label={`What is ${part.name} of ${sku}`}
                  planned={planned}
                  running={running}
                  onChoose={(stands) => onEdit({ stands })}
                />
              </label>
            )}
            {isOtherBudget && <span>Its budget is one a day.</span>}
            {planned.stale.length > 0 && (
              <label>
                <input
                  type="checkbox"
                  aria-label={`Refresh ${part.name} of ${sku}`}
                  checked={edit.refresh === true}
                  onChange={({ target }) => onEdit({ refresh: target.checked })}
                />{' '}
                refresh: {counted(planned.stale.length, 'target')} that no longer{' '}
                {planned.stale.length === 1 ? 'fits' : 'fit'} its page
              </label>
            )}
          </Box>
        </div>
      )}
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
            <Inside
              planned={planned}
              label={`Bid of all of ${part.name} of ${sku}`}
              bid={edit.bid ?? null}
              onBid={(bid) => onEdit({ bid: bid ?? undefined })}
            />
          </div>
        </div>
      )}
    </Box>
  );
}

/** What happens to a part that stands. */
const Mark = ({ change }: { change: ReturnType<typeof changeOf> }) => (
  <Box
    component="span"
    sx={{ color: change === 'same' ? 'text.secondary' : 'primary.main', fontWeight: 600 }}
  >
    {change === 'same' ? 'stays' : 'gets more'}
  </Box>
);

interface StandsProps {
  label: string;
  planned: PlannedPart;
  running: readonly RunningAdGroup[];
  /** Null: it is made anew. */
  onChoose: (adGroupId: string | null) => void;
}

/** Which ad group of the product is this part already; the guess can be corrected. */
const Stands = ({ label, planned, running, onChoose }: StandsProps) => (
  <Choice
    aria-label={label}
    value={planned.stands?.adGroupId ?? ''}
    style={{ width: planned.stands ? '100%' : undefined }}
    onChange={({ target }) => onChoose(target.value || null)}
  >
    <option value="">made anew</option>
    {running.map(({ adGroupId, campaign, name }) => (
      <option key={adGroupId} value={adGroupId}>
        {campaign === name ? name : `${campaign}, ${name}`}
      </option>
    ))}
  </Choice>
);

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
