import { useQueryClient, type QueryKey } from '@tanstack/react-query';
import { useSnackbar } from 'notistack';
import { useCallback } from 'react';
import { counted } from '../../core/metrics/format.ts';
import { send } from '../api.ts';
import { putGoal, undoable, type GoalChange, type GoalValues } from '../undo.ts';

interface Accepted {
  groups: string[];
  lines: number;
}

interface ActOptions {
  /** What is read anew once it is done; all of it when left out. */
  refresh?: readonly QueryKey[];
  onFail?: () => void;
}

interface PutOptions extends ActOptions {
  /** What is said of the lines that were put there. */
  said?: (lines: number) => string;
}

const later = 7;

const added = (lines: number): string =>
  lines === 0
    ? 'Nothing new had to go onto the sheet.'
    : `${counted(lines, 'line')} added to the sheet. ctrl z takes them back.`;

/** Calls that change something: their errors are said, and what they did can be taken back with ctrl z. */
export function useAct() {
  const queries = useQueryClient();
  const { enqueueSnackbar } = useSnackbar();
  const failed = useCallback(
    (error: unknown) =>
      enqueueSnackbar((error as Error).message, { variant: 'error', autoHideDuration: 8000 }),
    [enqueueSnackbar],
  );
  /** Runs a call, and says what `done` makes of its answer; false when it failed. */
  const act = useCallback(
    async <Answer>(
      work: () => Promise<Answer>,
      done: string | ((answer: Answer) => string),
      { refresh, onFail }: ActOptions = {},
    ): Promise<boolean> => {
      try {
        const answer = await work();
        const said = typeof done === 'string' ? done : done(answer);
        if (said !== '') enqueueSnackbar(said);
        if (refresh) await Promise.all(refresh.map((queryKey) => queries.invalidateQueries({ queryKey })));
        else await queries.invalidateQueries();
        return true;
      } catch (error) {
        failed(error);
        onFail?.();
        return false;
      }
    },
    [queries, enqueueSnackbar, failed],
  );
  /** Puts lines onto the sheet by a call; undo takes them off again. */
  const putLines = useCallback(
    (path: string, body: object, label: string, { said = added, ...options }: PutOptions = {}) =>
      act(
        () =>
          undoable(
            { kind: 'accept' },
            label,
            (call) => send<Accepted>('POST', path, body, call),
            ({ groups, lines }) => (lines === 0 ? null : { kind: 'accept', groups }),
          ),
        ({ lines }) => said(lines),
        options,
      ),
    [act],
  );
  /** Skips findings, or puts them off for a week; undo brings them back. `one`: what one of them is called. */
  const decide = useCallback(
    (keys: string[], decision: 'skipped' | 'later', one: string, options?: ActOptions): Promise<boolean> => {
      const label = `${counted(keys.length, one)} ${decision === 'later' ? `put off for ${later} days` : 'skipped'}`;
      return act(
        () =>
          undoable({ kind: 'decide', keys }, label, (call) =>
            send('POST', '/api/round/decide', { keys, decision, days: later }, call),
          ),
        `${label}. ctrl z takes it back.`,
        options,
      );
    },
    [act],
  );
  /** Sets a goal, or (null) takes an override away; undo brings back what was before. */
  const changeGoal = useCallback(
    ({ scope, key, before }: GoalChange, values: GoalValues | null, said: string): Promise<boolean> =>
      act(
        () =>
          undoable({ kind: 'goal', scope, key, before }, 'a goal changed', (call) =>
            putGoal(scope, key, values, call),
          ),
        `${said} ctrl z takes it back.`,
      ),
    [act],
  );
  return { act, putLines, decide, changeGoal, failed };
}
