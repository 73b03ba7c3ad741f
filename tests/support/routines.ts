import { callApi } from '../../scripts/lib/processes.ts';
import type { ItemsAnswer, RoutineRow, RoutineRun, RoutinesAnswer } from '../../src/answers/routines.ts';
import type { Routine } from '../../src/core/routines/routine.ts';
import { newRoutine } from '../../src/core/routines/shipped.ts';
import { callQuayside, type Stack } from './stack.ts';

/** Routines as tests work with them. */
export function routinesOf(stack: () => Stack) {
  const call = <T>(method: string, path: string, body?: unknown) =>
    callApi<T>(stack().url, method, `/api/1/${path}`, body);
  const all = () => call<RoutinesAnswer>('GET', 'routines');
  const routine = async (name: string): Promise<RoutineRow> =>
    (await all()).routines.find(({ settings }) => settings.name === name)!;
  const runs = async (name: string): Promise<RoutineRun[]> =>
    (await all()).runs.filter((run) => run.routine === name);
  /** Waits until no job of the account is under way and no run either. */
  const settled = async (): Promise<void> => {
    for (;;) {
      const { jobs } = await call<{ jobs: { state: string }[] }>('GET', 'jobs');
      const areJobs = jobs.some(({ state }) => state === 'waiting' || state === 'running');
      const isRunning = ({ state }: RoutineRun) => state === 'running' || state === 'sending';
      if (!areJobs && !(await all()).runs.some(isRunning)) return;
      await new Promise((done) => setTimeout(done, 200));
    }
  };
  const turn = async (name: string, act: 'on' | 'off' | 'run' | 'remove' | 'bring_back') =>
    call('POST', `routines/${(await routine(name)).routineId}`, { act });
  return {
    call,
    all,
    routine,
    runs,
    settled,
    turn,
    make: (name: string, more: Partial<Routine>) =>
      call<{ routineId: number }>('POST', 'routines', { ...newRoutine(name), ...more }),
    change: async (name: string, more: Partial<Routine>) => {
      const { routineId, version, settings } = await routine(name);
      await call('PUT', `routines/${routineId}`, { version, settings: { ...settings, ...more } });
    },
    /** Runs it now and waits; its newest run. */
    run: async (name: string): Promise<RoutineRun> => {
      await turn(name, 'run');
      await settled();
      return (await runs(name))[0]!;
    },
    act: (runId: number, act: string) =>
      call<{ groups: string[]; lines: number }>('POST', `routines/runs/${runId}`, { act }),
    items: async (runId: number, did?: string) =>
      (await call<ItemsAnswer>('GET', `routines/log?run=${runId}&limit=500${did ? `&did=${did}` : ''}`))
        .items,
    days: async (count: number) => {
      await callQuayside(stack().quayside, 'POST', '/clock/advance', { days: count });
      await call('POST', 'fetch', {});
      await settled();
    },
  };
}
