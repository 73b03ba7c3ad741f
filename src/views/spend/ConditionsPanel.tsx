import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import type { GoalsAnswer } from '../../answers/goals.ts';
import type { ConditionsAnswer } from '../../answers/spend.ts';
import {
  conditionFigureNames,
  conditionFigures,
  emptyCondition,
  type Condition,
} from '../../core/placements/conditions.ts';
import { placementName } from '../../core/placements/names.ts';
import { get } from '../../ui/api.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { Choice, Field } from '../../ui/parts/fields.tsx';
import { NumberField } from '../../ui/parts/NumberField.tsx';
import { Panel } from '../../ui/parts/Panel.tsx';
import { sizes } from '../../ui/theme.ts';

interface ConditionsPanelProps {
  answer: ConditionsAnswer;
  placements: readonly string[];
  /** Why the campaign in focus is met. */
  why: string | null;
}

/** The conditions in the order in which they are asked; each is a sentence with fields. */
export function ConditionsPanel({ answer, placements, why }: ConditionsPanelProps) {
  const { changeConditions } = useAct();
  const { conditions, maximumModifier, met } = answer;
  const keep = (next: Condition[]) => void changeConditions(conditions, next);
  const goals = useQuery({ queryKey: ['goals'], queryFn: () => get<GoalsAnswer>('/api/goals') });
  const products = goals.data?.products ?? [];
  const move = (at: number, by: number) => {
    const next = [...conditions];
    const [one] = next.splice(at, 1);
    next.splice(at + by, 0, one!);
    keep(next);
  };
  return (
    <Panel label="Your conditions" width={404}>
      {why !== null && (
        <Typography variant="body2" data-testid="why-sentence" sx={{ mb: 1.5 }}>
          {why}
        </Typography>
      )}
      <Box sx={{ display: 'flex', alignItems: 'center', mb: 0.5 }}>
        <Typography variant="h2" sx={{ mr: 'auto' }}>
          Your conditions
        </Typography>
        <Button
          size="small"
          onClick={() =>
            keep([
              ...conditions,
              {
                ...emptyCondition,
                placement: placements[0] ?? emptyCondition.placement,
                cap: Math.min(emptyCondition.cap, maximumModifier),
              },
            ])
          }
        >
          Add a condition
        </Button>
      </Box>
      <Box sx={{ color: 'text.secondary', mb: 1 }}>
        Asked from the first on: the first that meets a campaign decides what is done with it.
      </Box>
      {conditions.map((condition, at) => (
        <Box
          key={at}
          component="section"
          aria-label={`Condition ${at + 1}`}
          sx={{
            borderTop: 1,
            borderColor: 'divider',
            py: 1,
            fontSize: sizes.table,
            lineHeight: 2,
            opacity: condition.isOn ? 1 : 0.7,
          }}
        >
          <Sentence
            condition={condition}
            placements={placements}
            products={products}
            maximumModifier={maximumModifier}
            onChange={(part) => keep(conditions.map((one, i) => (i === at ? { ...one, ...part } : one)))}
          />
          <Box sx={{ display: 'flex', alignItems: 'center', gap: 0.5 }}>
            <Box sx={{ mr: 'auto', color: 'text.secondary' }} data-met={at}>
              {condition.isOn
                ? `meets ${met.filter(({ rank }) => rank === at).length}`
                : 'not asked while it is off'}
            </Box>
            <Button
              size="small"
              onClick={() => keep(conditions.map((one, i) => (i === at ? { ...one, isOn: !one.isOn } : one)))}
            >
              {condition.isOn ? 'Switch off' : 'Switch on'}
            </Button>
            <Button size="small" disabled={at === 0} onClick={() => move(at, -1)}>
              Earlier
            </Button>
            <Button size="small" disabled={at === conditions.length - 1} onClick={() => move(at, 1)}>
              Later
            </Button>
            <Button
              size="small"
              aria-label={`Remove condition ${at + 1}`}
              onClick={() => keep(conditions.filter((_, i) => i !== at))}
            >
              Remove
            </Button>
          </Box>
        </Box>
      ))}
    </Panel>
  );
}

interface SentenceProps {
  condition: Condition;
  placements: readonly string[];
  products: readonly { sku: string }[];
  maximumModifier: number;
  onChange: (part: Partial<Condition>) => void;
}

function Sentence({ condition, placements, products, maximumModifier, onChange }: SentenceProps) {
  const { placement, figure, is, share, of, leastClicks, days, leaveOut, wait } = condition;
  const { stepUp, stepDown, cap, bids, sku, name } = condition;
  const whole = (
    label: string,
    value: number,
    most: number,
    least: number,
    set: (value: number) => void,
    suffix?: string,
  ) => (
    <NumberField
      label={label}
      value={value}
      digits={0}
      width={most > 500 || suffix !== undefined ? 46 : 34}
      least={least}
      {...(suffix === undefined ? {} : { suffix })}
      onCommit={(next) => next !== null && set(Math.min(most, Math.round(next)))}
    />
  );
  return (
    <>
      <Field
        key={name}
        aria-label="Name of the condition"
        defaultValue={name}
        maxLength={120}
        onBlur={({ target }) => {
          const next = target.value.trim();
          if (next !== '' && next !== name) onChange({ name: next });
        }}
        onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
        style={{ width: '100%', fontWeight: 700 }}
      />
      When{' '}
      <Choice
        aria-label="Figure"
        value={figure}
        onChange={({ target }) => onChange({ figure: target.value as Condition['figure'] })}
      >
        {conditionFigures.map((id) => (
          <option key={id} value={id}>
            {conditionFigureNames[id]}
          </option>
        ))}
      </Choice>{' '}
      on{' '}
      <Choice
        aria-label="Placement"
        value={placement}
        onChange={({ target }) =>
          onChange({ placement: target.value, ...(of === target.value ? { of: null } : {}) })
        }
      >
        {[...new Set([...placements, placement])].map((id) => (
          <option key={id} value={id}>
            {placementName(id)}
          </option>
        ))}
      </Choice>{' '}
      is{' '}
      <Choice
        aria-label="At least or at most"
        value={is}
        onChange={({ target }) => onChange({ is: target.value as Condition['is'] })}
      >
        <option value="at_least">at least</option>
        <option value="at_most">at most</option>
      </Choice>{' '}
      <NumberField
        label="Share, per cent"
        value={Math.round(share * 1000) / 10}
        digits={0}
        width={40}
        suffix="%"
        onCommit={(next) => next !== null && onChange({ share: Math.min(100, next / 100) })}
      />{' '}
      of{' '}
      <Choice
        aria-label="Held against"
        value={of ?? ''}
        onChange={({ target }) => onChange({ of: target.value || null })}
      >
        <option value="">the whole campaign’s</option>
        {[...new Set([...placements, ...(of === null ? [] : [of])])]
          .filter((id) => id !== placement)
          .map((id) => (
            <option key={id} value={id}>
              {placementName(id)}’s
            </option>
          ))}
      </Choice>
      , over {whole('Days looked at', days, 365, 1, (value) => onChange({ days: value }))} days without the
      youngest {whole('Youngest days left out', leaveOut, 60, 0, (value) => onChange({ leaveOut: value }))},
      with {whole('Clicks at least', leastClicks, 1e6, 1, (value) => onChange({ leastClicks: value }))} clicks
      in both: move its modifier as far as that, at most{' '}
      {whole('Points up', stepUp, 1000, 0, (value) => onChange({ stepUp: value }))} points up or{' '}
      {whole('Points down', stepDown, 1000, 0, (value) => onChange({ stepDown: value }))} down, never above{' '}
      {whole('Highest modifier', cap, maximumModifier, 0, (value) => onChange({ cap: value }), '%')}, and bids
      by{' '}
      <NumberField
        label="Bids by, per cent"
        value={Math.round(bids * 1000) / 10}
        digits={0}
        width={34}
        least={-95}
        suffix="%"
        onCommit={(next) => next !== null && onChange({ bids: Math.min(2, next / 100) })}
      />
      . After a change of the campaign wait{' '}
      {whole('Days to wait', wait, 365, 0, (value) => onChange({ wait: value }))} days. For{' '}
      <Choice
        aria-label="For which product"
        value={sku ?? ''}
        onChange={({ target }) => onChange({ sku: target.value || null })}
      >
        <option value="">all products</option>
        {[...new Set([...products.map((one) => one.sku), ...(sku === null ? [] : [sku])])].map((id) => (
          <option key={id} value={id}>
            {id}
          </option>
        ))}
      </Choice>
      .
    </>
  );
}
