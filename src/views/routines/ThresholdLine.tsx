import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import {
  measuresOf,
  thresholdFigures,
  type Threshold,
  type ThresholdFigure,
  type ThresholdMeasure,
} from '../../core/routines/thresholds.ts';
import { Choice } from '../../ui/parts/fields.tsx';
import { NumberField } from '../../ui/parts/NumberField.tsx';

const figureNames: Readonly<Record<ThresholdFigure, string>> = {
  orders: 'orders',
  clicks: 'clicks',
  impressions: 'impressions',
  spend: 'spend',
  sales: 'sales',
  acos: 'ACOS',
};

/** One threshold, as a sentence with fields. */
export function ThresholdLine({
  threshold,
  onChange,
  onRemove,
}: {
  threshold: Threshold;
  onChange: (next: Threshold) => void;
  onRemove: () => void;
}) {
  const { figure, is, value, measure } = threshold;
  const isShare = figure === 'acos' && measure === 'plain';
  const measureNames: Readonly<Record<ThresholdMeasure, string>> = {
    plain: figure === 'acos' ? 'per cent' : figure === 'spend' || figure === 'sales' ? 'in money' : 'in all',
    clicks_per_order: '× clicks an order takes',
    cpc: '× CPC',
    goal: '× its goal',
  };
  return (
    <Box role="group" aria-label={`Threshold of ${figureNames[figure]}`}>
      <Choice
        aria-label="Figure"
        value={figure}
        onChange={({ target }) =>
          onChange({ ...threshold, figure: target.value as ThresholdFigure, measure: 'plain' })
        }
      >
        {thresholdFigures.map((name) => (
          <option key={name} value={name}>
            {figureNames[name]}
          </option>
        ))}
      </Choice>{' '}
      <Choice
        aria-label="At least or at most"
        value={is}
        onChange={({ target }) => onChange({ ...threshold, is: target.value as Threshold['is'] })}
      >
        <option value="at_least">at least</option>
        <option value="at_most">at most</option>
      </Choice>{' '}
      <NumberField
        label="Value"
        value={isShare ? value * 100 : value}
        digits={measure === 'plain' && figure !== 'spend' && figure !== 'sales' ? 0 : 2}
        width={54}
        least={0}
        onCommit={(next) => next !== null && onChange({ ...threshold, value: isShare ? next / 100 : next })}
      />{' '}
      <Choice
        aria-label="Measured in"
        value={measure}
        onChange={({ target }) => onChange({ ...threshold, measure: target.value as ThresholdMeasure })}
      >
        {measuresOf[figure].map((name) => (
          <option key={name} value={name}>
            {measureNames[name]}
          </option>
        ))}
      </Choice>{' '}
      <Button size="small" aria-label={`Remove the threshold of ${figureNames[figure]}`} onClick={onRemove}>
        Remove
      </Button>
    </Box>
  );
}
