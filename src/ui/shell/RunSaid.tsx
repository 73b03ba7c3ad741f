import Box from '@mui/material/Box';
import Link from '@mui/material/Link';
import type { RoutineRun } from '../../answers/routines.ts';
import { counted } from '../../core/metrics/format.ts';
import { at } from '../address.ts';
import { instantSaid } from '../days.ts';

interface RunSaidProps {
  run: RoutineRun;
  timeZone: string;
}

/** What a run holds or proposes, in a sentence that leads to it. */
export const RunSaid = ({ run, timeZone }: RunSaidProps) => {
  const { lines = 0, taken = 0 } = run.summary;
  return (
    <Box component="span">
      <Link color="inherit" href={at(`/routines?part=runs&run=${run.runId}`)}>
        “{run.routine}”
      </Link>{' '}
      {run.state === 'held'
        ? `holds ${counted(lines, 'line')}${run.sendAfter === null ? '' : ` and sends ${lines === 1 ? 'it' : 'them'} ${instantSaid(run.sendAfter, timeZone)} unless stopped`}.`
        : `proposed ${counted(taken, 'finding')} ${instantSaid(run.beganAt, timeZone)}.`}
    </Box>
  );
};
