import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import type { RoutineRow, RoutinesAnswer } from '../../answers/routines.ts';
import { routineProblem, type Routine } from '../../core/routines/routine.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { setUrl } from '../../ui/hooks/useUrlState.ts';
import { Panel, Part } from '../../ui/parts/Panel.tsx';
import { DryPart } from './DryPart.tsx';
import { RoutineForm } from './RoutineForm.tsx';
import { StagesPart } from './StagesPart.tsx';
import { instantSaid } from '../../ui/days.ts';
import { runSaid } from './words.ts';

interface RoutinePanelProps {
  answer: RoutinesAnswer;
  /** Null: it is being made. */
  row: RoutineRow | null;
  start: Routine;
  onTurn?: () => void;
  onMove?: (by: number) => void;
  onRun?: () => void;
  onClose?: () => void;
  onMade?: (settings: Routine) => Promise<boolean>;
}

/** A routine as sentences with fields; what is changed is kept by a press, and can be played over the past before. */
export function RoutinePanel({ answer, row, start, ...on }: RoutinePanelProps) {
  const { changeRoutine } = useAct();
  const [draft, setDraft] = useState(start);
  const isChanged = row === null || JSON.stringify(draft) !== JSON.stringify(start);
  const problem = routineProblem(draft);
  const keep = async () => {
    if (row === null) {
      if (await on.onMade!(draft)) on.onClose!();
      return;
    }
    const path = `/api/routines/${row.routineId}`;
    const { version } = row;
    await changeRoutine(
      { method: 'PUT', path, body: { version, settings: draft } },
      `“${draft.name}” changed`,
      { method: 'PUT', path, body: { version: version + 1, settings: start } },
    );
  };
  const remove = () => {
    const path = `/api/routines/${row!.routineId}`;
    void changeRoutine(
      { method: 'POST', path, body: { act: 'remove' } },
      `“${start.name}” taken away; its runs stay in the log`,
      { method: 'POST', path, body: { act: 'bring_back' } },
    );
  };
  const last = row && answer.runs.filter(({ routineId }) => routineId === row.routineId).slice(0, 4);
  return (
    <Panel label="Routine" width={430}>
      <Typography variant="h2" sx={{ mb: 0.5 }}>
        {row ? start.name : 'New routine'}
      </Typography>
      {row && (
        <>
          {(row.stoppedWhy ?? row.problem) && (
            <Typography variant="body2" color="error" role="status" sx={{ mb: 1 }}>
              {row.stoppedWhy ?? row.problem}
            </Typography>
          )}
          <Box sx={{ display: 'flex', gap: 0.75, flexWrap: 'wrap', mb: 1 }}>
            <Button variant="contained" size="small" onClick={on.onTurn}>
              {row.isOn ? 'Turn off' : 'Turn on'}
            </Button>
            <Button variant="outlined" size="small" onClick={on.onRun} disabled={answer.allStopped}>
              Run now
            </Button>
            <Button
              size="small"
              aria-label="Higher rank"
              disabled={row.rank === 1}
              onClick={() => on.onMove!(-1)}
            >
              Higher
            </Button>
            <Button
              size="small"
              aria-label="Lower rank"
              disabled={row.rank === answer.routines.length}
              onClick={() => on.onMove!(1)}
            >
              Lower
            </Button>
            <Button size="small" onClick={remove}>
              Take away
            </Button>
          </Box>
        </>
      )}
      <RoutineForm draft={draft} choices={answer.choices} timeZone={answer.timeZone} onChange={setDraft} />
      {isChanged && (
        <Box
          sx={{
            position: 'sticky',
            bottom: -14,
            bgcolor: (theme) => theme.palette.roles.panel,
            borderTop: 1,
            borderColor: 'divider',
            py: 1,
            mt: 1,
            zIndex: 2,
          }}
        >
          {problem && (
            <Typography variant="body2" color="error" role="alert" sx={{ mb: 0.5 }}>
              {problem.message}
            </Typography>
          )}
          <Button variant="contained" size="small" disabled={problem !== null} onClick={() => void keep()}>
            {row ? 'Keep the changes' : 'Make it'}
          </Button>{' '}
          <Button size="small" onClick={() => (row ? setDraft(start) : on.onClose!())}>
            {row ? 'Discard them' : 'Do not'}
          </Button>
        </Box>
      )}
      {row?.clock.map((line) => (
        <Typography key={line} variant="body2" color="text.secondary" sx={{ mt: 0.5 }}>
          {line}
        </Typography>
      ))}
      <DryPart
        today={answer.today}
        draft={draft}
        saved={row && isChanged ? row.routineId : null}
        isPlayable={problem === null}
      />
      {row && start.kinds.includes('stages') && <StagesPart routineId={row.routineId} />}
      {last && last.length > 0 && (
        <Part title="Its last runs">
          {last.map((run) => (
            <Box key={run.runId} sx={{ display: 'flex', gap: 1, alignItems: 'baseline' }}>
              <Box component="span" sx={{ color: 'text.secondary', width: 110, flexShrink: 0 }}>
                {instantSaid(run.beganAt, answer.timeZone)}
              </Box>
              <Box component="span" sx={{ flex: 1 }}>
                {runSaid(run, answer.timeZone)}
              </Box>
              <Button
                size="small"
                onClick={() => setUrl({ part: 'runs', run: String(run.runId), routine: null }, true)}
              >
                Look
              </Button>
            </Box>
          ))}
        </Part>
      )}
    </Panel>
  );
}
