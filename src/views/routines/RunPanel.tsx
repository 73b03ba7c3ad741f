import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useRef, useState } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import type { RoutineItem, RoutineRun } from '../../answers/routines.ts';
import { count, counted, signedMoney } from '../../core/metrics/format.ts';
import { isRoutineKind, routineKinds } from '../../core/routines/routine.ts';
import { at } from '../../ui/address.ts';
import { Choice, Field } from '../../ui/parts/fields.tsx';
import { Panel } from '../../ui/parts/Panel.tsx';
import { itemsQuery, mostItems, useItems } from './useRoutines.ts';
import type { RunActs } from './useRunActs.ts';
import { instantSaid } from '../../ui/days.ts';
import { didNames, runSaid, summarySaid } from './words.ts';

interface RunPanelProps {
  run: RoutineRun;
  timeZone: string;
  acts: RunActs;
}

/** One run: what it looked at, what it found, what it did about each and why, in the sentences of the round. */
export function RunPanel({ run, timeZone, acts }: RunPanelProps) {
  const [did, setDid] = useState<string | null>(null);
  const [text, setText] = useState('');
  const find = useRef<HTMLInputElement>(null);
  const order = { runId: run.runId, did, text };
  const asked = useItems(order, run.state);
  useHotkeys('slash', (event) => (event.preventDefault(), find.current?.select()));
  const { state, summary } = run;
  return (
    <Panel label="Run" width={430}>
      <Typography variant="h2">
        {run.routine}{' '}
        <Typography component="span" variant="body2" color="text.secondary">
          {instantSaid(run.beganAt, timeZone)}, {runSaid(run, timeZone)}
        </Typography>
      </Typography>
      <Typography variant="body2" data-testid="run-sentence" sx={{ my: 0.75 }}>
        {summarySaid(run)}
      </Typography>
      <Box sx={{ display: 'flex', gap: 0.75, flexWrap: 'wrap', mb: 1 }}>
        {state === 'held' && (
          <>
            <Button size="small" variant="contained" onClick={() => acts.stop(run)}>
              Stop it
            </Button>
            <Button size="small" variant="outlined" onClick={() => acts.sendNow(run)}>
              Send {counted(summary.lines ?? 0, 'line')} now
            </Button>
          </>
        )}
        {state === 'stopped' && run.sheetId !== null && (
          <Button size="small" variant="outlined" onClick={() => acts.holdAgain(run)}>
            Hold it again
          </Button>
        )}
        {state === 'sent' && (
          <>
            <Button size="small" variant="outlined" onClick={() => acts.revert(run)}>
              Take the run back
            </Button>
            <Button size="small" href={at(`/ledger?sheet=${run.sheetId}`)}>
              Its sheet, and what it did
            </Button>
          </>
        )}
        {state === 'proposed' && (
          <Button size="small" variant="contained" onClick={() => acts.accept(run, 'accept')}>
            Add {counted(summary.lines ?? 0, 'line')} to the sheet
          </Button>
        )}
        {(summary.beyond ?? 0) > 0 && (
          <Button size="small" onClick={() => acts.accept(run, 'accept_beyond')}>
            Add what is beyond its limits
          </Button>
        )}
      </Box>
      <Box sx={{ display: 'flex', gap: 0.75, alignItems: 'center', mb: 0.75 }}>
        <Field
          ref={find}
          type="search"
          aria-label="Find in what it found"
          placeholder="Find  /"
          value={text}
          onChange={({ target }) => setText(target.value)}
          style={{ width: 130 }}
        />
        <Choice
          aria-label="What became of them"
          value={did ?? ''}
          onChange={({ target }) => setDid(target.value || null)}
        >
          <option value="">all it found</option>
          {Object.entries(didNames).map(([id, name]) => (
            <option key={id} value={id}>
              {name}
            </option>
          ))}
        </Choice>
        <Link href={at(`/api/routines/file?format=csv&${itemsQuery(order)}`)} download sx={{ ml: 'auto' }}>
          As CSV
        </Link>
      </Box>
      {asked.isError ? (
        <Typography color="error">{asked.error.message}</Typography>
      ) : asked.data ? (
        <>
          {asked.data.count === 0 && <Typography variant="body2">Nothing of it is like that.</Typography>}
          {asked.data.items.map((item) => (
            <Item key={item.position} item={item} />
          ))}
          {asked.data.count > asked.data.items.length && (
            <Typography variant="body2" color="text.secondary" sx={{ py: 1 }}>
              {count(mostItems)} of {count(asked.data.count)} are shown; find, or take the file.
            </Typography>
          )}
        </>
      ) : (
        <Typography variant="body2">Looking what it found.</Typography>
      )}
    </Panel>
  );
}

const Item = ({
  item: { kind, subject, campaign, did, why, sentence, worth, lines },
}: {
  item: RoutineItem;
}) => (
  <Box component="article" data-did={did} sx={{ borderTop: 1, borderColor: 'divider', py: 0.6 }}>
    <Box sx={{ display: 'flex', gap: 1, alignItems: 'baseline' }}>
      <Box sx={{ flex: 1, minWidth: 0, overflowWrap: 'anywhere' }}>
        <b>{subject}</b> <span>{campaign}</span>
      </Box>
      <Box
        component="span"
        sx={{
          whiteSpace: 'nowrap',
          color: did === 'taken' || did === 'proposed' ? 'text.primary' : 'text.secondary',
        }}
      >
        {didNames[did]}
        {lines > 1 && `, ${lines} lines`}
      </Box>
    </Box>
    <Typography variant="body2">{sentence}</Typography>
    <Typography variant="body2" color="text.secondary">
      {isRoutineKind(kind) ? routineKinds[kind] : kind}, worth {signedMoney(worth)} a week. {why}
    </Typography>
  </Box>
);
