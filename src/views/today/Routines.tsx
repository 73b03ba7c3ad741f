import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { counted } from '../../core/metrics/format.ts';
import { at } from '../../ui/address.ts';
import { useRoutinesWaiting } from '../../ui/shell/data.ts';
import { RunSaid } from '../../ui/shell/RunSaid.tsx';
import { Section } from './Section.tsx';

/** What runs by itself: what it holds and proposes, and what does not run any more. */
export function Routines() {
  const { data, isError, error } = useRoutinesWaiting();
  return (
    <Section title="Routines" aside={<Link href={at('/routines')}>All of them</Link>}>
      {isError ? (
        <Typography color="error">{error.message}</Typography>
      ) : !data ? (
        <span className="soft">Looking what runs by itself.</span>
      ) : (
        <>
          {data.allStopped && <b>All of them are stopped by the switch.</b>}
          {data.stopped.map(({ routineId, routine, why }) => (
            <div key={routineId}>
              <Link href={at(`/routines?routine=${routineId}`)}>“{routine}”</Link> <b>stopped itself</b>:{' '}
              {why}
            </div>
          ))}
          {data.runs.map((run) => (
            <div key={run.runId}>
              <RunSaid run={run} timeZone={data.timeZone} />
            </div>
          ))}
          {data.runs.length === 0 &&
            (data.on === 0 ? 'None is turned on.' : `${counted(data.on, 'routine')} on; nothing is held.`)}
        </>
      )}
    </Section>
  );
}
