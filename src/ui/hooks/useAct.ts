import { useQueryClient, type QueryKey } from '@tanstack/react-query';
import { useSnackbar } from 'notistack';
import Button from '@mui/material/Button';
import { createElement, useCallback } from 'react';
import type { BudgetLimit, BudgetRule } from '../../core/budgets/rules.ts';
import type { Condition } from '../../core/placements/conditions.ts';
import type { TrialPlan } from '../../core/trials/trials.ts';
import type { Note } from '../../answers/today.ts';
import type { GoalValues, PlanRow } from '../../answers/goals.ts';
import type { Window } from '../../core/metrics/days.ts';
import { counted } from '../../core/metrics/format.ts';
import { ApiError, send } from '../api.ts';
import {
  putGoal,
  undoable,
  type Costs,
  type GoalChange,
  type RoutineCall,
  type ToleranceEntry,
} from '../undo.ts';

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
  const { enqueueSnackbar, closeSnackbar } = useSnackbar();
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
  /** Makes a trial of lines of the open sheet (null: of all); undo takes it away, the lines stay. */
  const makeTrial = useCallback(
    (plan: TrialPlan, lineIds: readonly number[] | null) =>
      act(
        () =>
          undoable(
            { kind: 'trial_made', trialId: null },
            `trial “${plan.name}” made`,
            (call) =>
              send<{ trialId: number; lines: number }>('POST', '/api/trials', { ...plan, lineIds }, call),
            ({ trialId }) => ({ kind: 'trial_made', trialId }),
          ),
        ({ lines }) => `“${plan.name}” will try ${counted(lines, 'line')}. ctrl z takes it away.`,
      ),
    [act],
  );
  /** Keeps a trial, takes it back, or lets it go on for some more days; undo opens it again as it was. */
  const decideTrial = useCallback(
    (
      trial: { trialId: number; name: string; days: number },
      decision: 'keep' | 'take_back' | 'go_on',
      more = 14,
    ) => {
      const { trialId, name, days } = trial;
      const label = {
        keep: `“${name}” kept`,
        take_back: `“${name}” taken back`,
        go_on: `“${name}” goes on for ${more} more days`,
      }[decision];
      return act(
        () =>
          undoable(
            { kind: 'trial_decided', trialId, days, groups: [] },
            label,
            (call) =>
              send<Accepted>(
                'POST',
                `/api/trials/${trialId}`,
                { act: decision, ...(decision === 'go_on' ? { days: more } : {}) },
                call,
              ),
            ({ groups }) => ({ kind: 'trial_decided', trialId, days, groups }),
          ),
        ({ lines }) =>
          `${label}.${lines > 0 ? ` ${counted(lines, 'line')} on the sheet: send them.` : ''} ctrl z takes it back.`,
      );
    },
    [act],
  );
  /** Changes a routine, or what a run of one holds; undo makes the call that brings back how it was. */
  const changeRoutine = useCallback(
    <Answer>(
      { method, path, body }: RoutineCall,
      label: string,
      back: RoutineCall | ((answer: Answer) => RoutineCall),
    ): Promise<boolean> =>
      act(
        () =>
          undoable(
            { kind: 'routine', back: typeof back === 'function' ? null : back },
            label,
            (call) => send<Answer>(method, path, body, call),
            (answer) => ({ kind: 'routine', back: typeof back === 'function' ? back(answer) : back }),
          ),
        `${label}. ctrl z takes it back.`,
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
  /**
   * Says something of a goal, or (null) takes an override away; undo brings back what was before. What may not be meant
   * is asked first.
   */
  const changeGoal = useCallback(
    async (
      { scope, key, before }: GoalChange,
      values: (Partial<GoalValues> & { confirmed?: boolean }) | null,
      said: string,
    ): Promise<boolean> => {
      const put = (all: typeof values) =>
        undoable({ kind: 'goal', scope, key, before }, 'a goal changed', (call) =>
          putGoal(scope, key, all, call),
        );
      const done = `${said} ctrl z takes it back.`;
      let isAsked = false;
      const kept = await act(
        () =>
          put(values).catch((error: unknown) => {
            if (!(error instanceof ApiError) || error.code !== 'wants_confirmation' || !values) throw error;
            isAsked = true;
            const confirm = () => void act(() => put({ ...values, confirmed: true }), done);
            enqueueSnackbar(`${error.message} Nothing was kept.`, {
              variant: 'warning',
              autoHideDuration: 20_000,
              action: (id) =>
                createElement(
                  Button,
                  {
                    color: 'inherit',
                    size: 'small',
                    onClick: () => {
                      closeSnackbar(id);
                      confirm();
                    },
                  },
                  'Keep it all the same',
                ),
            });
          }),
        () => (isAsked ? '' : done),
      );
      return kept && !isAsked;
    },
    [act, enqueueSnackbar, closeSnackbar],
  );
  /** Sets what a product costs; undo brings back what was before. */
  const changeCosts = useCallback(
    (before: Costs, costs: Costs): Promise<boolean> =>
      act(
        () =>
          undoable({ kind: 'costs', before }, 'costs changed', (call) =>
            send('PUT', '/api/goals/costs', costs, call),
          ),
        'Costs kept. ctrl z takes it back.',
      ),
    [act],
  );
  /** Plans months, all or none; undo brings back what was planned before. */
  const changePlan = useCallback(
    (before: PlanRow[], rows: PlanRow[]): Promise<boolean> =>
      act(
        () =>
          undoable({ kind: 'plan', before }, 'the plan changed', (call) =>
            send('PUT', '/api/goals/plan', { rows }, call),
          ),
        'Plan kept. ctrl z takes it back.',
      ),
    [act],
  );
  /** Sets or ends tolerances; undo brings back what was before. */
  const changeTolerances = useCallback(
    (before: ToleranceEntry[], entries: ToleranceEntry[], said: string): Promise<boolean> =>
      act(
        () =>
          undoable({ kind: 'tolerances', before }, said.replace(/\.$/, ''), (call) =>
            send('PUT', '/api/idle/tolerances', { entries }, call),
          ),
        `${said} ctrl z takes it back.`,
      ),
    [act],
  );
  /** Sets the share of spend that is set aside to learn; undo brings back what was before. */
  const changeTestingShare = useCallback(
    (before: number, share: number): Promise<boolean> =>
      act(
        () =>
          undoable({ kind: 'testing', before }, 'the share for tests changed', (call) =>
            send('PUT', '/api/goals/testing', { share }, call),
          ),
        'Share kept. ctrl z takes it back.',
      ),
    [act],
  );
  /** Sets what is said of a total that campaigns share; undo brings back what was said before. */
  const changeBudgetRule = useCallback(
    (before: BudgetRule, rule: BudgetRule): Promise<boolean> =>
      act(
        () =>
          undoable({ kind: 'budget_rule', before }, 'what is said of a total changed', (call) =>
            send('PUT', '/api/spend/budgets/rules', rule, call),
          ),
        'Kept. ctrl z takes it back.',
      ),
    [act],
  );
  /** Puts a list of conditions on placements in the place of the one before; undo brings that back. */
  const changeConditions = useCallback(
    (before: Condition[], conditions: Condition[]): Promise<boolean> =>
      act(
        () =>
          undoable({ kind: 'conditions', before }, 'conditions changed', (call) =>
            send('PUT', '/api/spend/placements/conditions', { conditions }, call),
          ),
        'Kept. ctrl z takes it back.',
      ),
    [act],
  );
  /** Sets what one campaign gets of a total; undo brings back what was said before. */
  const changeBudgetLimit = useCallback(
    (before: BudgetLimit, limit: BudgetLimit): Promise<boolean> =>
      act(
        () =>
          undoable({ kind: 'budget_limit', before }, 'what a campaign gets of a total changed', (call) =>
            send('PUT', '/api/spend/budgets/limits', limit, call),
          ),
        'Kept. ctrl z takes it back.',
      ),
    [act],
  );
  /** Notes what happened; undo removes it again. */
  const addNote = useCallback(
    (note: Omit<Note, 'noteId' | 'name'>): Promise<boolean> =>
      act(
        () =>
          undoable(
            { kind: 'note_added', noteId: null },
            'a note',
            (call) => send<{ noteId: number }>('POST', '/api/notes', note, call),
            ({ noteId }) => ({ kind: 'note_added', noteId }),
          ),
        'Noted. ctrl z takes it back.',
      ),
    [act],
  );
  const removeNote = useCallback(
    (note: Note): Promise<boolean> =>
      act(
        () =>
          undoable({ kind: 'note_removed', note }, 'a note removed', (call) =>
            send('DELETE', `/api/notes/${note.noteId}`, {}, call),
          ),
        'Removed. ctrl z brings it back.',
      ),
    [act],
  );
  /** Makes a report on a window, and answers its number; null when it failed. Undo removes it. */
  const makeReport = useCallback(
    async (window: Window): Promise<number | null> => {
      let made: number | null = null;
      await act(
        () =>
          undoable(
            { kind: 'report_made', reportId: null },
            'a report',
            async (call) => {
              const answer = await send<{ reportId: number }>('POST', '/api/reports', window, call);
              made = answer.reportId;
              return answer;
            },
            ({ reportId }) => ({ kind: 'report_made', reportId }),
          ),
        'Made: its figures stay as they are now.',
      );
      return made;
    },
    [act],
  );
  /** Writes the words of a report; undo brings back those before. */
  const writeReport = useCallback(
    (reportId: number, before: string, words: string): Promise<boolean> =>
      act(
        () =>
          undoable({ kind: 'report_words', reportId, words: before }, 'words of a report', (call) =>
            send('PUT', `/api/reports/${reportId}`, { words }, call),
          ),
        'Words kept. ctrl z takes it back.',
      ),
    [act],
  );
  /** Removes a report; undo brings it back with its words. */
  const removeReport = useCallback(
    (reportId: number, words: string): Promise<boolean> =>
      act(
        () =>
          undoable({ kind: 'report_words', reportId, words }, 'a report removed', (call) =>
            send('DELETE', `/api/reports/${reportId}`, {}, call),
          ),
        'Removed. ctrl z brings it back.',
      ),
    [act],
  );
  return {
    act,
    putLines,
    makeTrial,
    decideTrial,
    changeRoutine,
    decide,
    changeGoal,
    changeCosts,
    changePlan,
    changeTolerances,
    changeTestingShare,
    changeBudgetRule,
    changeConditions,
    changeBudgetLimit,
    addNote,
    makeReport,
    writeReport,
    removeReport,
    removeNote,
    failed,
  };
}
