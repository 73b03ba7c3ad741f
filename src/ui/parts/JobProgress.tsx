import type { JobAnswer } from '../../answers/account.ts';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import LinearProgress from '@mui/material/LinearProgress';
import Typography from '@mui/material/Typography';
import { useRef } from 'react';
import { send } from '../api.ts';

const number = (value: unknown): number => (typeof value === 'number' ? value : 0);

/** Share done, 0 to 1, out of what jobs tell; null while it is not known. */
export function shareDone(job: JobAnswer): number | null {
  const { progress } = job;
  if (job.state === 'done') return 1;
  const pairs: [string, string][] = [
    ['bytes', 'total'],
    ['step', 'total'],
    ['batch', 'batches'],
    ['day', 'days'],
  ];
  for (const [done, all] of pairs) {
    if (number(progress[all]) > 0 && progress[done] !== undefined) {
      return Math.min(1, number(progress[done]) / number(progress[all]));
    }
  }
  return null;
}

const seconds = (ms: number): string => {
  const s = Math.max(1, Math.round(ms / 1000));
  return s < 90 ? `${s} s` : `${Math.round(s / 60)} min`;
};

/** Progress of long work with time left; it goes on when the page is left. */
export function JobProgress({
  job,
  title,
  cancellable,
}: {
  job: JobAnswer;
  title: string;
  cancellable: boolean;
}) {
  const started = useRef(performance.now());
  const share = shareDone(job);
  const passed = performance.now() - started.current;
  const left = share !== null && share > 0.05 && share < 1 ? seconds((passed / share) * (1 - share)) : null;
  const doing = String(
    job.progress.doing ?? job.progress.step ?? (job.state === 'waiting' ? 'waiting to begin' : ''),
  );
  return (
    <Box role="status" sx={{ maxWidth: 560 }}>
      <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 2 }}>
        <Typography variant="body2" sx={{ fontWeight: 700 }}>
          {title}
        </Typography>
        <Typography variant="body2" color="text.secondary">
          {doing}
          {share !== null && `, ${Math.round(share * 100)} %`}
          {left && `, about ${left} left`}
        </Typography>
        {cancellable && (
          <Button
            size="small"
            onClick={() => void send('POST', `/api/jobs/${job.job_id}/cancel`).catch(() => undefined)}
          >
            Cancel
          </Button>
        )}
      </Box>
      <LinearProgress
        aria-label={title}
        variant={share === null ? 'indeterminate' : 'determinate'}
        value={(share ?? 0) * 100}
        sx={{ mt: 0.5, height: 3 }}
      />
    </Box>
  );
}
