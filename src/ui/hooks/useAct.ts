import { useQueryClient, type QueryKey } from '@tanstack/react-query';
import { useSnackbar } from 'notistack';
import { useCallback } from 'react';
import { counted } from '../../core/metrics/format.ts';
import { send } from '../api.ts';
import { useUndo } from '../undo.ts';

interface Accepted {
  groups: string[];
  lines: number;
}

interface ActOptions {
  /** What is read anew once it is done; all of it when left out. */
  refresh?: readonly QueryKey[];
  onFail?: () => void;
}

const later = 7;

/** Calls that change something: their errors are said, and what they did can be taken back with ctrl z. */
export function useAct() {
  const queries = useQueryClient();
  const { enqueueSnackbar } = useSnackbar();
  const push = useUndo((undo) => undo.push);
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
  /** Puts lines onto the sheet; undo takes them off again. */
  const putLines = useCallback(
    (work: () => Promise<Accepted>, label: string, options?: ActOptions): Promise<boolean> =>
      act(
        work,
        ({ groups, lines }) => {
          if (lines === 0) return 'Nothing new had to go onto the sheet.';
          push({ kind: 'accept', label, groups });
          return `${counted(lines, 'line')} added to the sheet. ctrl z takes them back.`;
        },
        options,
      ),
    [act, push],
  );
  /** Skips findings, or puts them off for a week; undo brings them back. `one`: what one of them is called. */
  const decide = useCallback(
    (keys: string[], decision: 'skipped' | 'later', one: string, options?: ActOptions): Promise<boolean> => {
      const label = `${counted(keys.length, one)} ${decision === 'later' ? `put off for ${later} days` : 'skipped'}`;
      return act(
        () => send('POST', '/api/round/decide', { keys, decision, days: later }),
        () => {
          push({ kind: 'decide', label, keys });
          return `${label}. ctrl z takes it back.`;
        },
        options,
      );
    },
    [act, push],
  );
  return { act, putLines, decide, failed };
}
