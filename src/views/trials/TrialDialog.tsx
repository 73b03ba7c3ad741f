import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { counted, percent } from '../../core/metrics/format.ts';
import {
  controlNames,
  decidingFigures,
  decidingNames,
  planProblem,
  trialControls,
  type TrialPlan,
} from '../../core/trials/trials.ts';
import { send } from '../../ui/api.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { Choice, Field } from '../../ui/parts/fields.tsx';
import { NumberField } from '../../ui/parts/NumberField.tsx';
import { sizes } from '../../ui/theme.ts';
import { useTrials } from './useTrials.ts';

/** Lines that are to be tried; null: all of the sheet. */
export interface Tried {
  lineIds: number[] | null;
  lines: number;
  title: string;
}

/** Asks how lines are to be tried: for how long, by what figure, and what would be harm. */
export function TrialDialog({ tried, onClose }: { tried: Tried; onClose: () => void }) {
  const { makeTrial } = useAct();
  const [plan, setPlan] = useState<TrialPlan>({
    name: tried.title,
    days: 21,
    deciding: 'gain',
    control: 'campaigns',
    harmOrders: 0.2,
    harmRank: null,
  });
  const set = (part: Partial<TrialPlan>) => setPlan((old) => ({ ...old, ...part }));
  const problem = planProblem(plan);
  const make = () =>
    void makeTrial({ ...plan, name: plan.name.trim() }, tried.lineIds).then((done) => done && onClose());
  return (
    <Dialog open onClose={onClose} maxWidth="sm" fullWidth>
      <DialogTitle>Try {counted(tried.lines, 'line')}</DialogTitle>
      <DialogContent sx={{ display: 'grid', gap: 1.25, fontSize: sizes.text }}>
        <Typography>
          They are sent with the sheet, and compared with what is not changed meanwhile. When the time is over
          you keep them or take them back.
        </Typography>
        <Box>
          Called{' '}
          <Field
            aria-label="Name of the trial"
            value={plan.name}
            autoFocus
            onChange={({ target }) => set({ name: target.value })}
            style={{ width: 300 }}
          />
        </Box>
        <Box>
          For{' '}
          <NumberField
            label="Days"
            value={plan.days}
            digits={0}
            suffix="days after it is sent"
            width={44}
            onCommit={(value) => set({ days: Math.round(value ?? 0) })}
          />
        </Box>
        <Box>
          Compared with{' '}
          <Choice
            aria-label="Compared with"
            value={plan.control}
            onChange={({ target }) => set({ control: target.value as TrialPlan['control'] })}
          >
            {trialControls.map((id) => (
              <option key={id} value={id}>
                {controlNames[id]}
              </option>
            ))}
          </Choice>
          {plan.control === 'weekdays' && (
            <Typography variant="body2" color="text.secondary">
              For schedules that move some weekdays and leave others: what moves all days alike counts for
              neither.
            </Typography>
          )}
        </Box>
        <Box>
          Decided by{' '}
          <Choice
            aria-label="What decides"
            value={plan.deciding}
            onChange={({ target }) => set({ deciding: target.value as TrialPlan['deciding'] })}
          >
            {decidingFigures.map((id) => (
              <option key={id} value={id}>
                {decidingNames[id]}
              </option>
            ))}
          </Choice>
        </Box>
        <Box>
          Harm is when orders are surely down by more than{' '}
          <NumberField
            label="Orders that may be lost, per cent"
            value={plan.harmOrders === null ? null : Math.round(plan.harmOrders * 100)}
            digits={0}
            placeholder="any"
            suffix="%"
            width={44}
            onCommit={(value) => set({ harmOrders: value === null ? null : value / 100 })}
          />{' '}
          or the organic rank falls by{' '}
          <NumberField
            label="Positions that may be lost"
            value={plan.harmRank}
            digits={1}
            placeholder="any"
            suffix="positions"
            width={44}
            onCommit={(harmRank) => set({ harmRank })}
          />
          . It is looked at every day, and said before the time is over.
        </Box>
        {problem && (
          <Typography color="error" role="alert">
            {problem.message}
          </Typography>
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Leave it</Button>
        <Button variant="contained" disabled={problem !== null} onClick={make}>
          Make it a trial
        </Button>
      </DialogActions>
    </Dialog>
  );
}

/** Trials whose lines wait on the sheet. */
export function PlannedTrials() {
  const { data } = useTrials();
  const { act } = useAct();
  const planned = (data?.trials ?? []).filter(({ state }) => state === 'planned');
  return planned.map(({ trialId, name, lines, days, deciding, control, harmOrders }) => (
    <Typography key={trialId} variant="body2" data-testid="planned-trial">
      <b>Trial “{name}”</b>: {counted(lines, 'line')} for {days} days once sent, compared with{' '}
      {controlNames[control]}, decided by {decidingNames[deciding]}
      {harmOrders !== null && `, harm when orders are down by more than ${percent(harmOrders)}`}.{' '}
      <Button
        size="small"
        sx={{ py: 0 }}
        onClick={() =>
          void act(
            () => send('DELETE', `/api/trials/${trialId}`, {}),
            `“${name}” is no trial any more; its lines stay on the sheet.`,
          )
        }
      >
        No trial
      </Button>
    </Typography>
  ));
}
