import type { TrialRow, TrialsAnswer } from '../../answers/trials.ts';
import { addDays, windowEnding } from '../../core/metrics/days.ts';
import { counted } from '../../core/metrics/format.ts';
import {
  clashes,
  daysRun,
  planProblem,
  touchOf,
  trialState,
  type Touch,
  type TrialPlan,
} from '../../core/trials/trials.ts';
import { weekdaysProblem, type TriedLine } from '../../core/trials/weekdays.ts';
import { getAccount, marginOf, settling } from '../account/account.ts';
import { productsOf } from '../account/queries.ts';
import { budgetRowsOf } from '../budgets/index.ts';
import { revert, undoGroups } from '../changes/index.ts';
import { withOpenSheet } from '../changes/open.ts';
import { db, type Transaction } from '../db/connection.ts';
import { notFound, ServiceError } from '../errors.ts';
import { measured, schedulesOf, type MeasureAbout } from './measure.ts';
import {
  decideTrial,
  insertTrial,
  keptTrials,
  linesToTry,
  removeTrial,
  trialLines,
  untoldHours,
  type KeptTrial,
  type OpenTrialLine,
  type TrialLine,
} from './queries.ts';

/** Trials: lines that are sent for some days, compared with what nobody touched, and decided upon. */

async function aboutOf(accountId: number): Promise<MeasureAbout | null> {
  const account = await getAccount(db(), accountId);
  const { curve, settledTo } = await settling(db(), account);
  if (account.today === null || settledTo === null) return null;
  const margins = new Map((await productsOf(db(), accountId)).map((row) => [row.sku, marginOf(row)]));
  const rows = new Map(
    (await budgetRowsOf(accountId, windowEnding(settledTo, 30))).map((row) => [row.campaignId, row]),
  );
  return {
    today: account.today,
    settledTo,
    curve,
    moneyOf: (campaignId) => {
      const row = rows.get(campaignId);
      if (!row) return null;
      const margin = row.sku === null ? null : (margins.get(row.sku) ?? null);
      return { targetAcos: row.targetAcos, margin, spend: row.sums.spend };
    },
  };
}

/** Every trial with what came of it so far, the newest first. */
export async function trialsAnswer(accountId: number): Promise<TrialsAnswer> {
  const kept = await keptTrials(db(), accountId);
  const { today } = await getAccount(db(), accountId);
  if (kept.length === 0) return { today, trials: [] };
  const about = await aboutOf(accountId);
  const lines = await trialLines(db(), accountId);
  const trials: TrialRow[] = [];
  for (const trial of kept)
    trials.push(
      await rowOfTrial(
        accountId,
        trial,
        lines.filter(({ trialId }) => trialId === trial.trialId),
        about,
      ),
    );
  return { today, trials };
}

async function rowOfTrial(
  accountId: number,
  trial: KeptTrial,
  lines: readonly TrialLine[],
  about: MeasureAbout | null,
): Promise<TrialRow> {
  const { decided: _decided, ...plan } = trial;
  const applied = lines.filter(({ state }) => state === 'applied');
  const sentOn = applied[0]?.sentOn ?? null;
  const state = about
    ? trialState(
        trial,
        { sentOn, waits: lines.some(({ state: one }) => one !== 'applied') },
        about.today,
        about.settledTo,
      )
    : 'planned';
  const counts = applied.length > 0 ? applied : lines;
  const row: TrialRow = {
    ...plan,
    state,
    sentOn,
    endsOn: sentOn && addDays(sentOn, trial.days),
    passed: sentOn && about ? daysRun(sentOn, trial.days, about.today) : 0,
    sheetId: lines[0]?.sheetId ?? 0,
    lines: counts.length,
    campaigns: [...new Set(counts.map(({ campaign }) => campaign))],
    controls: 0,
    compared: null,
    harm: null,
    rank: null,
    verdict: 'undecided',
    said: '',
  };
  return sentOn && about ? { ...row, ...(await measured(accountId, trial, applied, sentOn, about)) } : row;
}

/** What trials touch that are not decided yet, by the trial's name. */
export async function triedTouches(accountId: number): Promise<{ name: string; touch: Touch }[]> {
  const open = new Map(
    (await keptTrials(db(), accountId)).flatMap(({ trialId, name, decided }) =>
      decided === null ? [[trialId, name] as const] : [],
    ),
  );
  return (await trialLines(db(), accountId)).flatMap((line) => {
    const name = open.get(line.trialId);
    return name === undefined ? [] : [{ name, touch: touchOf(line) }];
  });
}

/** Trials that ask for a decision: their time is over, or they do harm. */
export async function dueTrials(accountId: number): Promise<TrialRow[]> {
  return (await trialsAnswer(accountId)).trials.filter(isDue);
}

export const isDue = ({ state, verdict }: TrialRow): boolean =>
  state === 'over' || ((state === 'running' || state === 'settling') && verdict === 'harm');

/** Makes a trial of lines of the open sheet: all that belongs to them goes with them. Clashes are told here. */
export async function makeTrial(
  accountId: number,
  { lineIds, ...plan }: TrialPlan & { lineIds: number[] | null },
): Promise<{ trialId: number; lines: number }> {
  const problem = planProblem(plan);
  if (problem) throw new ServiceError(422, 'bad_trial', problem.message, { field: problem.field });
  return withOpenSheet(accountId, async (tx, sheetId) => {
    const meant = await linesToTry(tx, accountId, sheetId, lineIds);
    if (meant.length === 0) {
      const message = 'None of these lines is on the open sheet any more. Load it again.';
      throw new ServiceError(409, 'lines_gone', message);
    }
    const taken = meant.find(({ trialId }) => trialId !== null);
    const trials = new Map((await keptTrials(tx, accountId)).map((one) => [one.trialId, one]));
    if (taken) {
      const message = `One of these lines is in the trial “${trials.get(taken.trialId!)?.name ?? ''}” already.`;
      throw new ServiceError(409, 'trial_clash', message);
    }
    const apart = plan.control === 'weekdays' ? await apartProblem(tx, accountId, meant) : null;
    if (apart) throw new ServiceError(422, 'bad_trial', apart, { field: 'control' });
    const mine = meant.map(touchOf);
    const lines = await trialLines(tx, accountId);
    for (const line of lines) {
      const other = trials.get(line.trialId);
      if (!other || other.decided !== null) continue;
      const touch = touchOf(line);
      if (!mine.some((one) => clashes(one, touch))) continue;
      const message =
        `The trial “${other.name}” touches ${touch.object === null ? `all of ${line.campaign}` : `the same in ${line.campaign}`} ` +
        'already: each would count what the other does. Decide on that one first, or leave these lines out.';
      throw new ServiceError(409, 'trial_clash', message, { field: line.campaignId });
    }
    const ids = meant.map(({ lineId }) => lineId);
    return { trialId: await insertTrial(tx, accountId, plan, ids), lines: ids.length };
  });
}

/** Why lines cannot be compared with other weekdays of their own campaigns; null where they can. */
async function apartProblem(
  tx: Transaction,
  accountId: number,
  meant: readonly OpenTrialLine[],
): Promise<string | null> {
  const problem = weekdaysProblem(meant.map(triedOf));
  if (problem) return problem;
  const [untold] = await untoldHours(tx, accountId, [...new Set(meant.map(({ campaignId }) => campaignId))]);
  if (untold === undefined) return null;
  const { campaign } = meant.find(({ campaignId }) => campaignId === untold)!;
  return `Nothing is told of the hours of ${campaign}. Load campaign-hours, or compare with campaigns that stand still.`;
}

const triedOf = (line: OpenTrialLine): TriedLine => ({
  ...line,
  ...(schedulesOf(line) ?? { from: null, to: null }),
});

/** Takes away a trial that was not sent; its lines stay on the sheet. */
export async function dropTrial(accountId: number, trialId: number): Promise<void> {
  const dropped = await withOpenSheet(accountId, (tx) => removeTrial(tx, accountId, trialId));
  if (dropped === 0) {
    const message = 'This trial was sent, or is not there any more: a trial that runs is kept or taken back.';
    throw new ServiceError(409, 'trial_sent', message);
  }
}

export interface TrialAct {
  act: 'keep' | 'take_back' | 'go_on' | 'reopen';
  /** More days, for going on; all of them, for opening it again. */
  days?: number;
}

/**
 * Keeps what was tried, takes it back by lines on the open sheet, or lets it go on for more days; `reopen` takes such a
 * decision back, to the days that it had.
 */
export async function actOnTrial(
  accountId: number,
  trialId: number,
  { act, days = 14 }: TrialAct,
): Promise<{ groups: string[]; lines: number }> {
  const { trials, today } = await trialsAnswer(accountId);
  const trial = trials.find((one) => one.trialId === trialId);
  if (!trial || today === null) throw notFound(`trial ${trialId}`);
  const isEnded = trial.state === 'kept' || trial.state === 'taken_back';
  const isSent = trial.sentOn !== null;
  if (!isSent || (isEnded && act !== 'reopen')) {
    const message = isSent
      ? `This trial is ${trial.state.replace('_', ' ')} already: somebody was there first. Load the page again.`
      : 'This trial was not sent yet.';
    throw new ServiceError(409, 'trial_decided', message);
  }
  const more = act === 'go_on' ? trial.days + days : act === 'reopen' ? days : trial.days;
  if (more > 84)
    throw new ServiceError(
      422,
      'bad_trial',
      `A trial lasts 84 days at most; this one has ${counted(trial.days, 'day')}.`,
      {
        field: 'days',
      },
    );
  const decided = act === 'keep' ? 'kept' : act === 'take_back' ? 'taken_back' : null;
  const lineIds = (await trialLines(db(), accountId)).flatMap((line) =>
    line.trialId === trialId && line.state === 'applied' ? [line.lineId] : [],
  );
  const back =
    act === 'take_back' ? await revert(accountId, trial.sheetId, lineIds) : { groups: [], lines: 0 };
  if ((await decideTrial(db(), accountId, trialId, { decided, days: more, today })) === 0) {
    // Whoever was first has decided: nothing of this one stays on the sheet.
    if (back.lines > 0) await undoGroups(accountId, back.groups, false);
    throw new ServiceError(
      409,
      'trial_decided',
      'Somebody has decided on this trial meanwhile. Load the page again.',
    );
  }
  return back;
}
