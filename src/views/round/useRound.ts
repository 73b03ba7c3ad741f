import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useSnackbar } from 'notistack';
import { useCallback } from 'react';
import type { Window } from '../../core/metrics/days.ts';
import { get, send } from '../../ui/api.ts';
import { useUndo } from '../../ui/undo.ts';
import type { WiderAnswer } from '../../answers/round.ts';
import type { Adjustments, RoundAnswer } from './types.ts';

/** The round of a window, and what can be decided in it. Rows leave at once; an error brings them back. */
export function useRound(window: Window | null) {
  const queries = useQueryClient();
  const { enqueueSnackbar } = useSnackbar();
  const push = useUndo((state) => state.push);
  const queryKey = ['round', window?.from, window?.to];
  const round = useQuery({
    queryKey,
    queryFn: () => get<RoundAnswer>(`/api/round/queue?from=${window!.from}&to=${window!.to}`),
    enabled: window !== null,
    staleTime: 60_000,
  });

  const widerKey = ['round', 'wider', window?.from, window?.to];
  const wider = useQuery({
    queryKey: widerKey,
    queryFn: () => get<WiderAnswer>(`/api/round/wider?from=${window!.from}&to=${window!.to}`),
    enabled: window !== null && round.isSuccess,
    staleTime: 60_000,
  });

  const leave = (keys: string[]) => {
    const gone = new Set(keys);
    const without = <T extends WiderAnswer>(old: T | undefined) =>
      old && { ...old, findings: old.findings.filter((row) => !gone.has(row.key)) };
    queries.setQueryData<RoundAnswer>(queryKey, without);
    queries.setQueryData<WiderAnswer>(widerKey, without);
  };
  const failed = (error: Error) => {
    enqueueSnackbar(error.message, { variant: 'error', autoHideDuration: 8000 });
    void queries.invalidateQueries({ queryKey: ['round'] });
  };

  const accept = useCallback(
    async (keys: string[], adjustments: Adjustments) => {
      if (!window) return;
      leave(keys);
      try {
        const { groups, lines } = await send<{ groups: string[]; lines: number }>(
          'POST',
          '/api/round/accept',
          {
            ...window,
            keys,
            adjustments,
          },
        );
        const label = `${keys.length} finding${keys.length === 1 ? '' : 's'} accepted`;
        push({ kind: 'accept', label, groups });
        enqueueSnackbar(`${lines} line${lines === 1 ? '' : 's'} added to the sheet. ctrl z takes them back.`);
        void queries.invalidateQueries({ queryKey: ['sheet'] });
        // A phrase settles the terms that hold it.
        if (keys.some((key) => !key.startsWith('target:')))
          void queries.invalidateQueries({ queryKey: ['round'] });
      } catch (error) {
        failed(error as Error);
      }
    },
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [window?.from, window?.to],
  );

  const decide = useCallback(
    async (keys: string[], decision: 'skipped' | 'later') => {
      leave(keys);
      try {
        await send('POST', '/api/round/decide', { keys, decision, days: 7 });
        const count = `${keys.length} finding${keys.length === 1 ? '' : 's'}`;
        const label = decision === 'later' ? `${count} put off for 7 days` : `${count} skipped`;
        push({ kind: 'decide', label, keys });
        enqueueSnackbar(`${label}. ctrl z takes it back.`);
      } catch (error) {
        failed(error as Error);
      }
    },
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [window?.from, window?.to],
  );

  return { round, wider, accept, decide };
}
