import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useState } from 'react';
import { counted } from '../../core/metrics/format.ts';
import { addDays } from '../../core/metrics/days.ts';
import { micros } from '../../core/metrics/money.ts';
import { longDay } from '../days.ts';
import { useAct } from '../hooks/useAct.ts';
import { Choice, Field } from './fields.tsx';
import { useSeason } from '../shell/data.ts';
import { NumberField } from './NumberField.tsx';

interface TolerateFormProps {
  rows: readonly { findingKey: string; name: string }[];
  onClose: (done: boolean) => void;
}

const spans = [4, 8, 13, 26];

/** How much of a loss is borne a week, why, and until when. */
export function TolerateForm({ rows, onClose }: TolerateFormProps) {
  const { changeTolerances } = useAct();
  const { data } = useSeason();
  const today = data?.account.today ?? null;
  const [amount, setAmount] = useState<number | null>(null);
  const [reason, setReason] = useState('');
  const [weeks, setWeeks] = useState(8);
  const keep = async () => {
    const until = weeks === 0 || today === null ? null : addDays(today, 7 * weeks);
    const tolerance = { amount: amount === null ? null : micros(amount), reason: reason.trim(), until };
    // A term may stand in several rows: it is borne once.
    const keys = [...new Set(rows.map(({ findingKey }) => findingKey))];
    const done = await changeTolerances(
      keys.map((findingKey) => ({ findingKey, tolerance: null })),
      keys.map((findingKey) => ({ findingKey, tolerance })),
      `${counted(keys.length, 'loss', 'losses')} tolerated.`,
    );
    if (done) onClose(true);
  };
  return (
    <Box
      component="form"
      aria-label="Tolerate"
      sx={{ display: 'flex', gap: 1, alignItems: 'center', flexWrap: 'wrap', typography: 'body2' }}
      onSubmit={(event) => {
        event.preventDefault();
        void keep();
      }}
      onKeyDown={(event) => {
        if (event.key === 'Escape') onClose(false);
      }}
    >
      <span>
        {rows.length === 1 ? `${rows[0]!.name} may lose` : `${counted(rows.length, 'row')} may lose`}
      </span>
      <NumberField
        label="Tolerated a week"
        value={amount}
        placeholder="as now, + 20 %"
        digits={2}
        width={104}
        suffix="a week"
        onCommit={setAmount}
      />
      <Field
        aria-label="Why it is tolerated"
        placeholder="why: to hold its rank"
        value={reason}
        autoFocus
        required
        maxLength={500}
        onChange={({ target }) => setReason(target.value)}
        style={{ width: 220 }}
      />
      <Choice
        aria-label="Tolerated until"
        value={weeks}
        onChange={({ target }) => setWeeks(Number(target.value))}
      >
        {spans.map((span) => (
          <option key={span} value={span}>
            until {today === null ? `${span} weeks from now` : longDay(addDays(today, 7 * span))}
          </option>
        ))}
        <option value={0}>until further notice</option>
      </Choice>
      <Button type="submit" size="small" variant="contained" disabled={reason.trim() === ''}>
        Tolerate
      </Button>
      <Button size="small" onClick={() => onClose(false)}>
        Leave it
      </Button>
    </Box>
  );
}
