import { useMemo } from 'react';
import type { RoutineRun } from '../../answers/routines.ts';
import { send } from '../../ui/api.ts';
import { useAct } from '../../ui/hooks/useAct.ts';

/** What a person does with a run. */
export interface RunActs {
  stop: (run: RoutineRun) => void;
  holdAgain: (run: RoutineRun) => void;
  sendNow: (run: RoutineRun) => void;
  revert: (run: RoutineRun) => void;
  /** Takes what it proposed, or what was beyond its limits, onto the open sheet. */
  accept: (run: RoutineRun, which: 'accept' | 'accept_beyond') => void;
}

export function useRunActs(): RunActs {
  const { act, changeRoutine, putLines } = useAct();
  return useMemo(() => {
    const path = ({ runId }: RoutineRun) => `/api/routines/runs/${runId}`;
    const call = (run: RoutineRun, name: string) => ({
      method: 'POST' as const,
      path: path(run),
      body: { act: name },
    });
    return {
      stop: (run) =>
        void changeRoutine(
          call(run, 'stop'),
          `What “${run.routine}” held is stopped`,
          call(run, 'hold_again'),
        ),
      holdAgain: (run) =>
        void changeRoutine(call(run, 'hold_again'), `“${run.routine}” holds it again`, call(run, 'stop')),
      sendNow: (run) =>
        void act(
          () => send('POST', path(run), { act: 'send_now' }),
          `What “${run.routine}” held is on its way. Once it was sent, it can be taken back.`,
        ),
      revert: (run) => void putLines(path(run), { act: 'revert' }, `run of “${run.routine}” taken back`),
      accept: (run, which) =>
        void putLines(path(run), { act: which }, `findings of “${run.routine}” accepted`),
    };
  }, [act, changeRoutine, putLines]);
}
