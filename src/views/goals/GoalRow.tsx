import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import type { GoalAnswer } from '../../answers/goals.ts';
import { largestStep, stances, type Stance } from '../../core/bids/guards.ts';
import { money, percent, significant } from '../../core/metrics/format.ts';
import { micros, units } from '../../core/metrics/money.ts';
import { longDay } from '../../ui/days.ts';
import { Choice, Field } from '../../ui/parts/fields.tsx';
import { sizes } from '../../ui/theme.ts';

/** Tracks of the table of goals. */
export const columns = 'minmax(200px, 1.4fr) 80px 92px 64px 64px 64px 112px minmax(220px, 1.8fr) 76px';

/** A goal as it is set. */
export type Draft = Omit<GoalAnswer, 'theta'>;

const steps = (stance: Stance): string => {
  const { up, down } = largestStep[stance];
  return `× ${significant(up)} up, ÷ ${significant(1 / down)} down`;
};

interface GoalRowProps {
  title: string;
  detail: string;
  scope: GoalAnswer['scope'];
  name: string;
  goal: GoalAnswer | null;
  /** The goal that rules while there is none of its own. */
  wider: GoalAnswer | null;
  margin?: number | null;
  price?: number;
  onSave: (draft: Draft) => void;
  onRemove?: (goal: GoalAnswer) => void;
}

/** One scope: its goal where it has one, else what rules instead, to be changed where it stands. */
export function GoalRow({
  title,
  detail,
  scope,
  name,
  goal,
  wider,
  margin,
  price,
  onSave,
  onRemove,
}: GoalRowProps) {
  const rules = goal ?? wider!;
  const draft = (values: Partial<Draft>): Draft => ({
    scope,
    key: name,
    targetAcos: rules.targetAcos,
    bidFloor: goal?.bidFloor ?? null,
    bidCeiling: goal?.bidCeiling ?? null,
    stance: rules.stance,
    aboveOne: rules.aboveOne,
    ...values,
  });
  const aboveBreakEven = margin != null && rules.targetAcos > margin;
  return (
    <Box
      role="row"
      data-goal={`${scope}:${name}`}
      sx={{
        display: 'grid',
        gridTemplateColumns: columns,
        columnGap: 1.5,
        px: 2.25,
        py: 0.75,
        alignItems: 'center',
        borderTop: 1,
        borderColor: 'divider',
      }}
    >
      <Box role="cell" sx={{ minWidth: 0 }}>
        <b>{title}</b>
        <Typography variant="caption" color="text.secondary" component="div" noWrap title={detail}>
          {detail}
        </Typography>
      </Box>
      <Box role="cell" sx={{ textAlign: 'right' }}>
        {margin != null ? percent(margin) : ''}
      </Box>
      <Box role="cell" sx={{ textAlign: 'right' }}>
        <NumberField
          label={`Target ACOS of ${title}, per cent`}
          value={goal ? goal.targetAcos * 100 : null}
          placeholder={(rules.targetAcos * 100).toFixed(0)}
          suffix="%"
          digits={Number.isInteger(Math.round(rules.targetAcos * 1e4) / 100) ? 0 : 1}
          onCommit={(value) => value !== null && onSave(draft({ targetAcos: value / 100 }))}
        />
        {aboveBreakEven && <Box sx={{ color: 'error.main', fontSize: sizes.tiny }}>above break-even</Box>}
      </Box>
      <Box role="cell" sx={{ textAlign: 'right' }}>
        {price !== undefined ? money(price) : ''}
      </Box>
      {(['bidFloor', 'bidCeiling'] as const).map((field) => (
        <Box role="cell" key={field} sx={{ textAlign: 'right' }}>
          <NumberField
            label={`${field === 'bidFloor' ? 'Bid floor' : 'Bid ceiling'} of ${title}`}
            value={goal?.[field] == null ? null : units(goal[field])}
            placeholder={field === 'bidFloor' ? '0.04' : 'none'}
            digits={2}
            onCommit={(value) => onSave(draft({ [field]: value === null ? null : micros(value) }))}
          />
        </Box>
      ))}
      <Box role="cell">
        <Choice
          aria-label={`Steps of ${title}`}
          value={rules.stance}
          title={steps(rules.stance)}
          onChange={(event) => onSave(draft({ stance: event.target.value as Stance }))}
          sx={{ width: '100%', border: 0, color: goal ? 'text.primary' : 'text.secondary' }}
        >
          {stances.map((stance) => (
            <option key={stance} value={stance} title={steps(stance)}>
              {stance}
            </option>
          ))}
        </Choice>
        <Typography variant="caption" color="text.secondary" component="div">
          {steps(rules.stance)}
        </Typography>
      </Box>
      <Box role="cell" sx={{ fontSize: sizes.small, color: 'text.secondary' }}>
        {goal?.theta ? (
          <>
            <b>{significant(goal.theta.value)}</b> since {longDay(goal.theta.day)}. {goal.theta.reason}
            {goal.theta.outcome === 'wants confirmation' && !goal.aboveOne && (
              <Button
                size="small"
                sx={{ py: 0, display: 'block' }}
                aria-label={`Let θ of ${title} go above 1`}
                onClick={() => onSave(draft({ aboveOne: true }))}
              >
                Let it go above 1
              </Button>
            )}
            {goal.aboveOne && (
              <Button
                size="small"
                sx={{ py: 0, display: 'block' }}
                aria-label={`Hold θ of ${title} at 1 again`}
                onClick={() => onSave(draft({ aboveOne: false }))}
              >
                Allowed above 1: hold it at 1 again
              </Button>
            )}
          </>
        ) : goal ? (
          'starts with the next judging'
        ) : (
          'the account’s'
        )}
      </Box>
      <Box role="cell">
        {goal && onRemove && (
          <Button
            size="small"
            sx={{ py: 0 }}
            aria-label={`Remove the override of ${title}`}
            onClick={() => onRemove(goal)}
          >
            Remove
          </Button>
        )}
      </Box>
    </Box>
  );
}

interface NumberFieldProps {
  label: string;
  value: number | null;
  placeholder: string;
  digits: number;
  suffix?: string;
  onCommit: (value: number | null) => void;
}

/** A number that is kept when it is left or Enter is pressed; what is no number says so and is not kept. */
function NumberField({ label, value, placeholder, digits, suffix, onCommit }: NumberFieldProps) {
  const start = value === null ? '' : value.toFixed(digits);
  const [text, setText] = useState<string | null>(null);
  const shown = text ?? start;
  const number = Number(shown.replace(',', '.'));
  const wrong = shown !== '' && !(Number.isFinite(number) && number > 0);
  const commit = () => {
    if (text !== null && text !== start && !wrong) onCommit(text === '' ? null : number);
    if (!wrong) setText(null);
  };
  return (
    <span>
      <Field
        aria-label={label}
        aria-invalid={wrong}
        inputMode="decimal"
        value={shown}
        placeholder={placeholder}
        onChange={(event) => setText(event.target.value)}
        onBlur={commit}
        onKeyDown={(event) => {
          if (event.key === 'Enter') event.currentTarget.blur();
          if (event.key === 'Escape') setText(null);
        }}
        sx={{
          fontWeight: 700,
          width: 56,
          border: 0,
          borderBottom: 1,
          borderStyle: wrong ? 'solid' : 'dashed',
          borderRadius: 0,
          bgcolor: 'transparent',
        }}
      />
      {suffix && ` ${suffix}`}
    </span>
  );
}
