import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useCallback } from 'react';
import { counted } from '../../core/metrics/format.ts';
import type { Window } from '../../core/metrics/days.ts';
import { get } from '../../ui/api.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import type { WiderAnswer } from '../../answers/round.ts';
import type { Adjustments, RoundAnswer } from './types.ts';

/** The round of a window, and what can be decided in it. Rows leave at once; an error brings them back. */
export function useRound(window: Window | null) {
  const queries = useQueryClient();
  const { putLines, decide: put } = useAct();
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
  const back = { onFail: () => void queries.invalidateQueries({ queryKey: ['round'] }) };

  const accept = useCallback(
    (keys: string[], adjustments: Adjustments) => {
      if (!window) return;
      leave(keys);
      // A phrase settles the terms that hold it.
      const settles = keys.some((key) => !key.startsWith('target:'));
      void putLines(
        '/api/round/accept',
        { ...window, keys, adjustments },
        `${counted(keys.length, 'finding')} accepted`,
        { refresh: settles ? [['sheet'], ['round']] : [['sheet']], ...back },
      );
    },
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [window?.from, window?.to],
  );

  const decide = useCallback(
    (keys: string[], decision: 'skipped' | 'later') => {
      leave(keys);
      void put(keys, decision, 'finding', { refresh: [], ...back });
    },
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [window?.from, window?.to],
  );

  return { round, wider, accept, decide };
}
