import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import Typography from '@mui/material/Typography';
import { useRef, useState, type ReactNode } from 'react';
import { count, counted } from '../../core/metrics/format.ts';
import { at } from '../address.ts';
import { upload } from '../api.ts';
import { useAct } from '../hooks/useAct.ts';

/** What is wrong with a row of a file. */
interface Problem {
  row: number;
  column: string;
  message: string;
}

interface FileOfferProps<Read extends { problems: Problem[] }, Change> {
  /** One of what the file holds: "budget". */
  noun: string;
  /** Names the field that takes it: "A file of budgets". */
  label: string;
  /** Where the file comes from, and is read. */
  saved: string;
  reads: string;
  changesOf: (read: Read) => readonly Change[];
  /** A change in a line, and its key. */
  line: (change: Change) => ReactNode;
  keyOf: (change: Change) => string;
  /** What taking them does: "Add 3 budgets to the sheet". */
  takes: (count: string) => string;
  /** Takes the changes; false where that was refused. */
  onTake: (changes: readonly Change[]) => Promise<boolean>;
}

/** So many rows of a file are shown; all of them count. */
const shown = 100;

/** Saves values to a file and loads them from one: what it would change is looked at before it counts. */
export function FileOffer<Read extends { problems: Problem[] }, Change>(props: FileOfferProps<Read, Change>) {
  const { noun, label, saved, reads, changesOf, line, keyOf, takes, onTake } = props;
  const { failed } = useAct();
  const [offer, setOffer] = useState<{ name: string; read: Read } | null>(null);
  const file = useRef<HTMLInputElement>(null);
  const read = async (chosen: File) => {
    try {
      setOffer({ name: chosen.name, read: await upload<Read>(reads, chosen) });
    } catch (error) {
      failed(error);
    }
  };
  const changes = offer ? changesOf(offer.read) : [];
  const problems = offer?.read.problems ?? [];
  const take = async () => {
    if (await onTake(changes)) setOffer(null);
  };
  return (
    <>
      <Button size="small" onClick={() => file.current?.click()}>
        Load
      </Button>
      <input
        ref={file}
        type="file"
        hidden
        accept=".csv,text/csv"
        aria-label={label}
        onChange={({ target }) => {
          const [chosen] = target.files ?? [];
          if (chosen) void read(chosen);
          target.value = '';
        }}
      />
      <Button size="small" href={at(saved)} download>
        Save
      </Button>
      <Dialog open={offer !== null} onClose={() => setOffer(null)} maxWidth="sm" fullWidth>
        {offer && (
          <>
            <DialogTitle>
              {counted(2, noun)
                .replace(/^2 /, '')
                .replace(/^./, (first) => first.toUpperCase())}{' '}
              in {offer.name}
            </DialogTitle>
            <DialogContent>
              <Typography>
                {changes.length === 0
                  ? `No ${noun} would change.`
                  : `${counted(changes.length, noun)} would change.`}
              </Typography>
              <ul>
                {changes.slice(0, shown).map((change) => (
                  <li key={keyOf(change)}>{line(change)}</li>
                ))}
                {changes.length > shown && <li>and {count(changes.length - shown)} more</li>}
              </ul>
              {problems.length > 0 && (
                <>
                  <Typography color="error">
                    {counted(problems.length, 'row')} cannot be read and{' '}
                    {problems.length === 1 ? 'is' : 'are'} left out:
                  </Typography>
                  <ul>
                    {problems.slice(0, shown).map(({ row, column, message }) => (
                      <li key={`${row} ${column}`}>
                        Line {row}, {column}: {message}
                      </li>
                    ))}
                  </ul>
                </>
              )}
            </DialogContent>
            <DialogActions>
              <Button onClick={() => setOffer(null)}>Leave it</Button>
              <Button variant="contained" disabled={changes.length === 0} onClick={() => void take()}>
                {takes(counted(changes.length, noun))}
              </Button>
            </DialogActions>
          </>
        )}
      </Dialog>
    </>
  );
}
