import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import type { TrialRow } from '../../answers/trials.ts';
import { count, counted, money, signedDecimal, signedMoney, significant } from '../../core/metrics/format.ts';
import { controlNames } from '../../core/trials/trials.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { smallTable } from '../../ui/parts/smallTable.ts';

const verdictWords = {
  better: 'Better',
  worse: 'Worse',
  undecided: 'Undecided',
  harm: 'Does harm',
} as const;

/** What came of a trial: in a sentence and figure by figure, and what can be done about it. */
export function TrialResult({ trial }: { trial: TrialRow }) {
  const { decideTrial } = useAct();
  const { compared, rank, verdict, state, control, controls } = trial;
  const isOpen = state === 'running' || state === 'settling' || state === 'over';
  const tone = verdict === 'better' ? 'info.main' : verdict === 'undecided' ? 'text.primary' : 'error.main';
  return (
    <Box data-testid="trial-result" data-verdict={verdict}>
      <Typography variant="body2">
        {state !== 'running' && state !== 'planned' && (
          <Box component="b" sx={{ color: tone }}>
            {verdictWords[verdict]}.{' '}
          </Box>
        )}
        {trial.said} {controls > 0 && `Beside ${counted(controls, 'campaign')} of which nothing was changed.`}
        {control === 'weekdays' && trial.said !== '' && `Beside ${controlNames.weekdays}.`}
      </Typography>
      {compared?.effect && (
        <Box component="table" sx={{ ...smallTable, mt: 0.5, maxWidth: 560 }}>
          <thead>
            <tr>
              <th scope="col">a week</th>
              <th scope="col">before</th>
              <th scope="col">expected</th>
              <th scope="col">since</th>
              <th scope="col">difference, eight times of ten within</th>
            </tr>
          </thead>
          <tbody>
            {(
              [
                ['clicks', (value: number) => count(Math.round(value)), signedDecimal],
                ['spend', money, signedMoney],
                ['orders', significant, signedDecimal],
                ['sales', money, signedMoney],
              ] as const
            ).map(([name, text, signed]) => (
              <tr key={name}>
                <th scope="row">{name}</th>
                <td>{text(compared.before[name])}</td>
                <td>{text(compared.expected[name])}</td>
                <td>{text(compared.after[name])}</td>
                <td>
                  <b>{signed(compared.effect![name].value)}</b> ({signed(compared.effect![name].low)} to{' '}
                  {signed(compared.effect![name].high)})
                </td>
              </tr>
            ))}
          </tbody>
        </Box>
      )}
      {rank && (
        <Typography variant="body2" color={rank.fell ? 'error' : 'text.primary'}>
          Organic rank: {significant(rank.before)} → {significant(rank.after)}.
        </Typography>
      )}
      {isOpen && (
        <Box sx={{ display: 'flex', gap: 1, mt: 0.75 }}>
          <Button size="small" variant="outlined" onClick={() => void decideTrial(trial, 'keep')}>
            Keep it
          </Button>
          <Button size="small" variant="outlined" onClick={() => void decideTrial(trial, 'take_back')}>
            Take it back
          </Button>
          {trial.days <= 70 && (
            <Button size="small" onClick={() => void decideTrial(trial, 'go_on')}>
              Go on for 14 days
            </Button>
          )}
        </Box>
      )}
    </Box>
  );
}
