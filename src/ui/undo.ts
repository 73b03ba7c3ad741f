import { create } from 'zustand';
import { createJSONStorage, persist } from 'zustand/middleware';
import type { GoalAnswer, GoalValues, PlanRow } from '../answers/goals.ts';
import type { BudgetLimit, BudgetRule } from '../core/budgets/rules.ts';
import type { Condition } from '../core/placements/conditions.ts';
import type { Note } from '../answers/today.ts';
import type { Lane } from '../core/lanes/lanes.ts';
import type { Day } from '../core/metrics/days.ts';
import type { Micros } from '../core/metrics/money.ts';
import { openAccount } from './address.ts';
import { ApiError, send } from './api.ts';

/** How what was done is taken back. Lines on the sheet by the call that put them there, or by the groups it answered. */
type Way =
  | { kind: 'accept'; groups?: string[] }
  | { kind: 'decide'; keys: string[] }
  | { kind: 'remove'; lineIds: number[] }
  | { kind: 'lanes'; before: Lane[] | null }
  | ({ kind: 'goal' } & GoalChange)
  | { kind: 'costs'; before: Costs }
  | { kind: 'plan'; before: PlanRow[] }
  | { kind: 'tolerances'; before: ToleranceEntry[] }
  | { kind: 'testing'; before: number }
  | { kind: 'report_made'; reportId: number | null }
  | { kind: 'report_words'; reportId: number; words: string }
  | { kind: 'note_added'; noteId: number | null }
  | { kind: 'note_removed'; note: Note }
  | { kind: 'budget_rule'; before: BudgetRule }
  | { kind: 'budget_limit'; before: BudgetLimit }
  | { kind: 'conditions'; before: Condition[] }
  /** The call that brings back how a routine, or a run of one, was; null: none yet. */
  | { kind: 'routine'; back: RoutineCall | null }
  | { kind: 'trial_made'; trialId: number | null }
  | { kind: 'trial_decided'; trialId: number; days: number; groups: string[] };

/** A call about routines. */
export interface RoutineCall {
  method: 'POST' | 'PUT';
  path: string;
  body: object;
}

/** What is tolerated of one row; null: nothing. Without an amount: what it loses now, and a fifth more. */
export interface ToleranceEntry {
  findingKey: string;
  tolerance: { amount: Micros | null; reason: string; until: Day | null; since?: Day } | null;
}

/** What a product costs: money in micros, rates as shares; null: unknown. */
export interface Costs {
  sku: string;
  unitCost: Micros | null;
  feeRate: number | null;
  feeFixed: Micros | null;
  shipping: Micros | null;
  refundRate: number | null;
}

/** What can be taken back with ctrl z, newest last. Kept for the browser tab, over reloads and pages. */
export type Step = Way & {
  label: string;
  /** The Idempotency-Key of the call that did it. */
  call: string;
};

export interface GoalChange {
  scope: GoalAnswer['scope'];
  key: string;
  /** Null where it had no goal of its own. */
  before: GoalValues | null;
}

interface UndoState {
  steps: Step[];
}

const remembered = 50;

export const useUndo = create<UndoState>()(
  persist((): UndoState => ({ steps: [] }), {
    name: `mowing-undo-${openAccount()}`,
    storage: createJSONStorage(() => sessionStorage),
    version: 1,
  }),
);

const change = (to: (steps: Step[]) => Step[]) => useUndo.setState(({ steps }) => ({ steps: to(steps) }));
const drop = (call: string) => change((steps) => steps.filter((step) => step.call !== call));

/** Calls of this page that have not been answered. */
const atWork = new Map<string, Promise<unknown>>();

/** A call without an answer may have been done all the same. */
const isUnanswered = (error: unknown) => error instanceof ApiError && error.status === 0;

/**
 * Makes a call that can be taken back. Its step is kept *before* it is made: a page that is left meanwhile forgets
 * nothing. `settled`: what the answer makes of the step; null when nothing was done.
 */
export async function undoable<Answer>(
  way: Way,
  label: string,
  run: (call: string) => Promise<Answer>,
  settled: (answer: Answer) => Way | null = () => way,
): Promise<Answer> {
  const call = crypto.randomUUID();
  change((steps) => [...steps, { ...way, label, call }].slice(-remembered));
  const running = run(call);
  atWork.set(call, running);
  try {
    const answer = await running;
    const now = settled(answer);
    if (now === null) drop(call);
    else change((steps) => steps.map((step) => (step.call === call ? { ...now, label, call } : step)));
    return answer;
  } catch (error) {
    if (!isUnanswered(error)) drop(call);
    throw error;
  } finally {
    atWork.delete(call);
  }
}

async function takeBack(step: Step): Promise<void> {
  switch (step.kind) {
    case 'accept':
      return send('POST', '/api/sheet/undo', step.groups ? { groups: step.groups } : { call: step.call });
    case 'decide':
      return send('POST', '/api/round/decide', { keys: step.keys, decision: null });
    case 'lanes':
      return putLanes(step.before);
    case 'goal':
      // What stood before was meant.
      return putGoal(step.scope, step.key, step.before && { ...step.before, confirmed: true });
    case 'costs':
      return send('PUT', '/api/goals/costs', step.before);
    case 'plan':
      return send('PUT', '/api/goals/plan', { rows: step.before });
    case 'report_made':
      return step.reportId === null ? undefined : send('DELETE', `/api/reports/${step.reportId}`, {});
    case 'report_words':
      return send('PUT', `/api/reports/${step.reportId}`, { words: step.words });
    case 'note_added':
      return step.noteId === null ? undefined : send('DELETE', `/api/notes/${step.noteId}`, {});
    case 'note_removed': {
      const { noteId, day, toDay, scope, object, body } = step.note;
      return send('PUT', `/api/notes/${noteId}`, { day, toDay, scope, object, body });
    }
    case 'budget_rule':
      return send('PUT', '/api/spend/budgets/rules', step.before);
    case 'budget_limit':
      return send('PUT', '/api/spend/budgets/limits', step.before);
    case 'conditions':
      return send('PUT', '/api/spend/placements/conditions', { conditions: step.before });
    case 'routine':
      return step.back ? send(step.back.method, step.back.path, step.back.body) : undefined;
    case 'trial_made':
      return step.trialId === null ? undefined : send('DELETE', `/api/trials/${step.trialId}`, {});
    case 'trial_decided':
      if (step.groups.length > 0) await send('POST', '/api/sheet/undo', { groups: step.groups });
      return send('POST', `/api/trials/${step.trialId}`, { act: 'reopen', days: step.days });
    case 'testing':
      return send('PUT', '/api/goals/testing', { share: step.before });
    case 'tolerances':
      return send('PUT', '/api/idle/tolerances', { entries: step.before });
    case 'remove':
      return send('POST', '/api/sheet/lines', { lineIds: step.lineIds, back: true });
  }
}

async function undoNewest(): Promise<string | null> {
  const newest = useUndo.getState().steps.at(-1);
  if (!newest) return null;
  await atWork.get(newest.call)?.catch(() => undefined);
  // Its answer may have said that nothing was done, or what its groups are.
  const step = useUndo.getState().steps.find(({ call }) => call === newest.call);
  if (!step) return undoNewest();
  try {
    await takeBack(step);
  } catch (error) {
    if (!isUnanswered(error)) drop(step.call);
    throw error;
  }
  drop(step.call);
  return step.label;
}

let before: Promise<unknown> = Promise.resolve();

/** Takes the newest step back, after those that are being taken back; its label, or null when there is none. */
export function undoLast(): Promise<string | null> {
  const undone = before.then(undoNewest);
  before = undone.catch(() => undefined);
  return undone;
}

/** Puts a whole set of lanes in the place of the one before; null: the account has none of its own. */
export const putLanes = (lanes: Lane[] | null, call?: string): Promise<void> =>
  send('PUT', '/api/lanes', { lanes }, call);

const goalSettings = [
  'objective',
  'targetAcos',
  'targetMargin',
  'bidFloor',
  'bidCeiling',
  'stance',
  'method',
  'ladder',
  'guards',
  'aboveOne',
] as const satisfies readonly (keyof GoalValues)[];

/** What is set of a goal, without what has come of it; null where there is none. */
export const valuesOf = (goal: GoalAnswer | undefined): GoalValues | null =>
  goal ? (Object.fromEntries(goalSettings.map((name) => [name, goal[name]])) as unknown as GoalValues) : null;

/** Says something of a goal (what is left out stays), or takes an override away. `confirmed`: what it asks is meant. */
export const putGoal = (
  scope: GoalAnswer['scope'],
  key: string,
  values: (Partial<GoalValues> & { confirmed?: boolean }) | null,
  call?: string,
): Promise<void> =>
  values
    ? send('PUT', '/api/goals', { scope, key, ...values }, call)
    : send('DELETE', `/api/goals?scope=${scope}&key=${encodeURIComponent(key)}`, {}, call);
