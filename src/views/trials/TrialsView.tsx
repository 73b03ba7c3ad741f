import Box from '@mui/material/Box';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import type { TrialRow } from '../../answers/trials.ts';
import { counted, percent } from '../../core/metrics/format.ts';
import { decidingNames } from '../../core/trials/trials.ts';
import { shortDay } from '../../ui/days.ts';
import { setUrl } from '../../ui/hooks/useUrlState.ts';
import { Empty, Failed, ListHead, ListPage, Waiting } from '../../ui/list/ListPage.tsx';
import { TrialResult } from './TrialResult.tsx';
import { useTrials } from './useTrials.ts';

const stateWords = ({ state, passed, days, endsOn }: TrialRow): string =>
  ({
    planned: 'waits on the sheet',
    unsent: 'none of its lines was applied',
    running: `day ${passed} of ${days}`,
    settling: `over on ${shortDay(endsOn!)}, its last days settle`,
    over: 'over: decide',
    kept: 'kept',
    taken_back: 'taken back',
  })[state]!;

/** Changes that are tried: what runs, what is over and waits for a decision, and what was decided. */
export function TrialsView() {
  const trials = useTrials();
  const { data } = trials;
  if (!data)
    return trials.isError ? (
      <Failed error={trials.error} onRetry={() => void trials.refetch()} />
    ) : (
      <Waiting>Looking what came of trials.</Waiting>
    );
  const running = data.trials.filter(({ state }) => state === 'running' || state === 'settling').length;
  const over = data.trials.filter(({ state }) => state === 'over').length;
  return (
    <ListPage
      head={
        <ListHead
          name="trials"
          sentence={
            data.trials.length === 0
              ? 'Nothing is tried. On the open sheet, lines can be made a trial: sent for some days, compared, kept or taken back.'
              : `${counted(running, 'trial')} ${running === 1 ? 'runs' : 'run'}, ${over === 0 ? 'none waits' : over === 1 ? '1 waits' : `${over} wait`} for a decision.`
          }
        />
      }
    >
      {data.trials.length === 0 ? (
        <Empty>No trial yet.</Empty>
      ) : (
        <Box sx={{ overflowY: 'auto', px: 2.25, pb: 3 }}>
          {data.trials.map((trial) => (
            <Box
              component="section"
              key={trial.trialId}
              aria-label={`Trial ${trial.name}`}
              sx={{ py: 1.5, borderBottom: 1, borderColor: 'divider', maxWidth: 820 }}
            >
              <Typography variant="h2">
                {trial.name}{' '}
                <Typography component="span" variant="body2" color="text.secondary">
                  {stateWords(trial)}
                </Typography>
              </Typography>
              <Typography variant="body2" color="text.secondary" sx={{ mb: 0.5 }}>
                {counted(trial.lines, 'line')} in {trial.campaigns.slice(0, 3).join(', ')}
                {trial.campaigns.length > 3 && ` and ${trial.campaigns.length - 3} more`}
                {trial.sentOn && ` since ${shortDay(trial.sentOn)}`}, decided by{' '}
                {decidingNames[trial.deciding]}
                {trial.harmOrders !== null && `, harm: orders down by more than ${percent(trial.harmOrders)}`}
                {trial.harmRank !== null && `, rank by ${trial.harmRank}`}.{' '}
                {trial.sentOn && (
                  <Link
                    component="button"
                    type="button"
                    sx={{ font: 'inherit', verticalAlign: 'baseline' }}
                    onClick={() => setUrl({ sheet: String(trial.sheetId) }, true)}
                  >
                    Its lines
                  </Link>
                )}
              </Typography>
              {trial.sentOn && <TrialResult trial={trial} />}
            </Box>
          ))}
        </Box>
      )}
    </ListPage>
  );
}
