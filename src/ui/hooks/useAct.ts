import { useQueryClient } from '@tanstack/react-query';
import { useSnackbar } from 'notistack';
import { useCallback } from 'react';
import { counted } from '../../core/metrics/format.ts';
import { useUndo } from '../undo.ts';

interface Accepted {
  groups: string[];
  lines: number;
}

/** Calls that change something: their errors are said, lines of the sheet can be taken back with ctrl z. */
export function useAct() {
  const queries = useQueryClient();
  const { enqueueSnackbar } = useSnackbar();
  const push = useUndo((undo) => undo.push);
  const failed = useCallback(
    (error: unknown) =>
      enqueueSnackbar((error as Error).message, { variant: 'error', autoHideDuration: 8000 }),
    [enqueueSnackbar],
  );
  /** Runs a call; false when it failed. */
  const act = useCallback(
    async (work: () => Promise<unknown>, done: string): Promise<boolean> => {
      try {
        await work();
        if (done !== '') enqueueSnackbar(done);
        await queries.invalidateQueries();
        return true;
      } catch (error) {
        failed(error);
        return false;
      }
    },
    [queries, enqueueSnackbar, failed],
  );
  /** Puts lines onto the sheet; undo takes them off again. */
  const putLines = useCallback(
    async (work: () => Promise<Accepted>, label: string): Promise<boolean> => {
      try {
        const { groups, lines } = await work();
        if (lines > 0) push({ kind: 'accept', label, groups });
        enqueueSnackbar(
          lines === 0
            ? 'Nothing new had to go onto the sheet.'
            : `${counted(lines, 'line')} added to the sheet. ctrl z takes them back.`,
        );
        await queries.invalidateQueries();
        return true;
      } catch (error) {
        failed(error);
        return false;
      }
    },
    [queries, enqueueSnackbar, push, failed],
  );
  return { act, putLines, failed };
}
