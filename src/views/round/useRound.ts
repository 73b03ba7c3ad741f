import { useQuery, useQueryClient, type Query } from '@tanstack/react-query';
import { useCallback, useMemo, useState } from 'react';
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

  const [leaving, setLeaving] = useState<ReadonlySet<string>>(none);

  /**
   * Rows leave with the key that decides them, so that the next key means the next row. They stay away whatever is read
   * while their call is unanswered; what was asked before its answer may not know of it and is asked anew.
   */
  const leave = useCallback(
    async (keys: string[], to: Decided, call: Promise<boolean>, settles = false) => {
      setLeaving((old) => new Set([...old, ...keys]));
      const isDone = await call;
      const gone = new Set(keys);
      const queryKey = ['round'];
      const isRead = { queryKey, predicate: ({ state }: Query) => state.data !== undefined };
      const isOld = !isDone || settles || queries.isFetching(isRead) > 0;
      void queries.cancelQueries(isRead);
      if (isDone)
        queries.setQueriesData<WiderAnswer>(isRead, (old) => old && told(without(old, gone), old, to));
      setLeaving((old) => new Set([...old].filter((key) => !gone.has(key))));
      if (isOld) void queries.invalidateQueries({ queryKey });
    },
    [queries],
  );

  const accept = useCallback(
    (keys: string[], adjustments: Adjustments) => {
      if (!window) return;
      const call = putLines(
        '/api/round/accept',
        { ...window, keys, adjustments },
        `${counted(keys.length, 'finding')} accepted`,
        { refresh: [['sheet']] },
      );
      // A phrase settles the terms that hold it.
      const settles = keys.some((key) => !key.startsWith('target:'));
      void leave(keys, 'onSheet', call, settles);
    },
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [window?.from, window?.to, leave],
  );

  const decide = useCallback(
    (keys: string[], decision: 'skipped' | 'later') =>
      void leave(keys, decision, put(keys, decision, 'finding', { refresh: [] })),
    [put, leave],
  );

  const answer = useMemo(() => round.data && without(round.data, leaving), [round.data, leaving]);
  const others = useMemo(() => wider.data && without(wider.data, leaving), [wider.data, leaving]);
  return { round, wider, answer, others, accept, decide };
}

/** Where a finding went. */
type Decided = 'later' | 'skipped' | 'onSheet';

const none: ReadonlySet<string> = new Set();

const without = <T extends WiderAnswer>(answer: T, gone: ReadonlySet<string>): T =>
  gone.size === 0 ? answer : { ...answer, findings: answer.findings.filter(({ key }) => !gone.has(key)) };

/** What left an answer is counted among what was decided. */
const told = <T extends WiderAnswer>(now: T, old: T, to: Decided): T => ({
  ...now,
  [to]: now[to] + old.findings.length - now.findings.length,
});
