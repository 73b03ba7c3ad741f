import Box from '@mui/material/Box';
import type { Routine } from '../../core/routines/routine.ts';
import { Choice } from '../../ui/parts/fields.tsx';
import { NumberField } from '../../ui/parts/NumberField.tsx';
import { Whole } from './numbers.tsx';

/** The range that stages go by, and what each has. */
export function StagesFields({
  draft,
  onChange,
}: {
  draft: Routine;
  onChange: (part: Partial<Routine>) => void;
}) {
  const stages = draft.stages!;
  const set = (part: Partial<typeof stages>) => onChange({ stages: { ...stages, ...part } });
  const share = (label: string, value: number, take: (value: number) => void, least = -100) => (
    <NumberField
      label={label}
      value={Math.round(value * 1000) / 10}
      digits={0}
      width={40}
      least={least}
      suffix="%"
      onCommit={(next) => next !== null && take(next / 100)}
    />
  );
  return (
    <Box>
      A campaign earns while its{' '}
      <Choice
        aria-label="Measure of the range"
        value={stages.measure}
        onChange={({ target }) => set({ measure: target.value as 'acos' | 'margin' })}
      >
        <option value="acos">ACOS</option>
        <option value="margin">margin after ads</option>
      </Choice>{' '}
      lies within {share('Range from', stages.from, (from) => set({ from }))} to{' '}
      {share('Range to', stages.to, (to) => set({ to }))}; out of it for{' '}
      <Whole label="Days out of the range" value={stages.outDays} onChange={(outDays) => set({ outDays })} />{' '}
      days it goes back to tuning. Judged from{' '}
      <Whole
        label="Orders at least"
        value={stages.leastOrders}
        onChange={(leastOrders) => set({ leastOrders })}
      />{' '}
      orders on. Of what research leaves, tuning has{' '}
      {share('Share of tuning', stages.tuning, (tuning) => set({ tuning }), 0)}.
    </Box>
  );
}
