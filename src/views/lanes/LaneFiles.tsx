import type { LaneMapAnswer } from '../../answers/lanes.ts';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import Typography from '@mui/material/Typography';
import { useSnackbar } from 'notistack';
import { useRef, useState } from 'react';
import { at } from '../../ui/address.ts';
import { count } from '../../core/metrics/format.ts';
import type { Lane } from '../../core/lanes/lanes.ts';
import { upload } from '../../ui/api.ts';
import { laneKey, plainLane } from './useLanes.ts';

interface LaneFilesProps {
  answer: LaneMapAnswer;
  onSave: (lanes: Lane[], label: string) => Promise<string | null>;
}

interface ReadLanes {
  lanes: Lane[];
  problems: { row: number; column: string; message: string }[];
}

/** A set that could stand in the place of the one in force, and where it comes from. */
interface Offer extends ReadLanes {
  title: string;
  label: string;
}

/** Proposes a full set, loads one from a file, saves the one in force: each is looked at before it counts. */
export function LaneFiles({ answer, onSave }: LaneFilesProps) {
  const { enqueueSnackbar } = useSnackbar();
  const [offer, setOffer] = useState<Offer | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const file = useRef<HTMLInputElement>(null);
  const propose = () =>
    setOffer({
      title: 'Lanes read from your products and names',
      label: `${count(answer.proposed.length)} proposed lanes kept`,
      lanes: answer.proposed,
      problems: [],
    });
  const read = async (chosen: File) => {
    try {
      const { lanes, problems } = await upload<ReadLanes>('/api/lanes/file', chosen);
      const label = `${count(lanes.length)} lanes loaded`;
      setOffer({ title: `Lanes in ${chosen.name}`, label, lanes, problems });
    } catch (error) {
      enqueueSnackbar((error as Error).message, { variant: 'error', autoHideDuration: 8000 });
    }
  };
  const take = async () => {
    if (!offer) return;
    const wrong = await onSave(offer.lanes, offer.label);
    setProblem(wrong);
    if (wrong === null) setOffer(null);
  };
  return (
    <>
      <Button size="small" onClick={propose}>
        Propose lanes
      </Button>
      <Button size="small" onClick={() => file.current?.click()}>
        Load
      </Button>
      <input
        ref={file}
        type="file"
        accept=".csv,text/csv"
        aria-label="File of lanes"
        hidden
        onChange={(event) => {
          const chosen = event.target.files?.[0];
          event.target.value = '';
          if (chosen) void read(chosen);
        }}
      />
      <Button size="small" href={at('/api/lanes/file')} download="lanes.csv">
        Save as CSV
      </Button>
      {offer && (
        <Dialog
          open
          onClose={() => setOffer(null)}
          maxWidth="sm"
          fullWidth
          onKeyDown={(event) => event.stopPropagation()}
        >
          <DialogTitle>{offer.title}</DialogTitle>
          <DialogContent>
            <Difference answer={answer} lanes={offer.lanes} />
            {offer.problems.length > 0 && (
              <Typography variant="body2" sx={{ mt: 1.5, fontWeight: 700 }}>
                {count(offer.problems.length)} rows can’t be lanes and are left out:
              </Typography>
            )}
            {offer.problems.slice(0, 12).map(({ row, column, message }) => (
              <Typography key={`${row} ${column}`} variant="body2" color="error">
                Row {row}, {column}: {message}
              </Typography>
            ))}
            {problem && (
              <Typography role="alert" color="error" variant="body2">
                {problem}
              </Typography>
            )}
          </DialogContent>
          <DialogActions>
            <Button onClick={() => setOffer(null)}>Cancel</Button>
            <Button variant="contained" disabled={offer.lanes.length === 0} onClick={() => void take()}>
              Put these {count(offer.lanes.length)} lanes in place
            </Button>
          </DialogActions>
        </Dialog>
      )}
    </>
  );
}

/** What a set would change against the one in force. */
function Difference({ answer, lanes }: { answer: LaneMapAnswer; lanes: readonly Lane[] }) {
  const name = (id: string) => answer.adGroups.find((one) => one.id === id)?.name ?? id;
  const before = new Map(answer.lanes.map((lane) => [laneKey(lane), JSON.stringify(plainLane(lane))]));
  const keys = new Set(lanes.map(laneKey));
  const fresh = lanes.filter((lane) => !before.has(laneKey(lane)));
  const changed = lanes.filter((lane) => {
    const old = before.get(laneKey(lane));
    return old !== undefined && !sameLane(JSON.parse(old) as Lane, lane);
  });
  const gone = answer.lanes.filter((lane) => !keys.has(laneKey(lane)));
  const list = (title: string, some: readonly Lane[]) =>
    some.length > 0 && (
      <>
        <Typography variant="body2" sx={{ mt: 1, fontWeight: 700 }}>
          {count(some.length)} {title}
        </Typography>
        {some.slice(0, 30).map((lane) => (
          <Typography key={laneKey(lane)} variant="body2">
            {name(lane.source)} → {name(lane.destination)}, {lane.kind === 'item' ? 'items' : lane.matchType}
          </Typography>
        ))}
      </>
    );
  return (
    <>
      {fresh.length + changed.length + gone.length === 0 && (
        <Typography variant="body2">
          {answer.saved
            ? 'The lanes in force are these already.'
            : 'These lanes are in force; keeping them makes them yours.'}
        </Typography>
      )}
      {list('new', fresh)}
      {list('changed', changed)}
      {list('removed', gone)}
    </>
  );
}

const sameLane = (a: Lane, b: Lane): boolean =>
  (Object.keys(b) as (keyof Lane)[]).every((name) => a[name] === b[name]);
