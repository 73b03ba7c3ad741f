import Link from '@mui/material/Link';
import Box from '@mui/material/Box';
import { longDay } from '../days.ts';
import { setUrl } from '../hooks/useUrlState.ts';
import { useSeason } from './data.ts';

interface RestsOnSummaryProps {
  kind: 'targets-daily' | 'terms-daily' | 'placements-daily';
  window: { from: string; to: string };
}

/** Says which figures of a window were told as a sum of many days, and which such sums it leaves out. */
export function RestsOnSummary({ kind, window }: RestsOnSummaryProps) {
  const summaries = (useSeason().data?.summaries ?? []).filter(
    (one) => one.kind === kind && one.firstDay <= window.to && one.lastDay >= window.from,
  );
  if (summaries.length === 0) return null;
  const span = ({ firstDay, lastDay }: { firstDay: string; lastDay: string }) =>
    `${longDay(firstDay)} to ${longDay(lastDay)}`;
  const inside = summaries.filter((one) => one.firstDay >= window.from && one.lastDay <= window.to);
  const outside = summaries.filter((one) => !inside.includes(one));
  return (
    <Box component="span" data-testid="rests-on-summary" sx={{ color: 'text.secondary' }}>
      {inside.length > 0 && ` Rests on a summary of ${inside.map(span).join(' and of ')}.`}
      {outside.map((one) => (
        <span key={span(one)}>
          {` A summary of ${span(one)} does not count: `}
          <Link component="button" onClick={() => setUrl({ from: one.firstDay, to: one.lastDay }, true)}>
            look at all of it
          </Link>
          .
        </span>
      ))}
    </Box>
  );
}
