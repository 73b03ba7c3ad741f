import { create } from 'zustand';
import { createJSONStorage, persist } from 'zustand/middleware';
import type { Lane } from '../core/lanes/lanes.ts';
import { openAccount } from './address.ts';
import { send } from './api.ts';

/** What can be taken back with ctrl z, newest last. Kept for the browser tab, over reloads and pages. */
export type Step =
  | { kind: 'accept'; label: string; groups: string[] }
  | { kind: 'decide'; label: string; keys: string[] }
  | { kind: 'remove'; label: string; lineIds: number[] }
  | { kind: 'lanes'; label: string; before: Lane[] | null }
  | { kind: 'goal'; label: string; scope: string; key: string; before: GoalValues | null };

/** A goal as it is set: target ACOS as a share, floor and ceiling in micros. */
export interface GoalValues {
  targetAcos: number;
  bidFloor: number | null;
  bidCeiling: number | null;
}

interface UndoState {
  steps: Step[];
  push: (step: Step) => void;
  pop: () => Step | undefined;
}

export const useUndo = create<UndoState>()(
  persist(
    (set, read) => ({
      steps: [],
      push: (step) => set((state) => ({ steps: [...state.steps, step].slice(-50) })),
      pop: () => {
        const steps = read().steps;
        set({ steps: steps.slice(0, -1) });
        return steps[steps.length - 1];
      },
    }),
    { name: `mowing-undo-${openAccount()}`, storage: createJSONStorage(() => sessionStorage) },
  ),
);

/** Takes the newest step back; its label, or null when there is none. */
export async function undoLast(): Promise<string | null> {
  const step = useUndo.getState().pop();
  if (!step) return null;
  if (step.kind === 'accept') await send('POST', '/api/sheet/undo', { groups: step.groups });
  else if (step.kind === 'decide')
    await send('POST', '/api/round/decide', { keys: step.keys, decision: null });
  else if (step.kind === 'lanes') await putLanes(step.before);
  else if (step.kind === 'goal') await putGoal(step.scope, step.key, step.before);
  else await send('POST', '/api/sheet/lines', { lineIds: step.lineIds, back: true });
  return step.label;
}

/** Puts a whole set of lanes in the place of the one before; null: the account has none of its own. */
export const putLanes = (lanes: Lane[] | null): Promise<unknown> => send('PUT', '/api/lanes', { lanes });

/** Sets a goal, or takes an override away. */
export const putGoal = (scope: string, key: string, values: GoalValues | null): Promise<unknown> =>
  values
    ? send('PUT', '/api/goals', { scope, key, ...values })
    : send('DELETE', `/api/goals?scope=${scope}&key=${encodeURIComponent(key)}`);
