import type {
  ItemsAnswer,
  RoutineRow,
  RoutineRun,
  RoutinesAnswer,
  RoutinesWaiting,
  StagesAnswer,
} from '../../answers/routines.ts';
import { addDays } from '../../core/metrics/days.ts';
import { lookedAt } from '../../core/routines/safety.ts';
import { narrowingOf } from '../../core/routines/narrow.ts';
import { shippedRoutines } from '../../core/routines/shipped.ts';
import { routineProblem, type Routine } from '../../core/routines/routine.ts';
import { getAccount, settling } from '../account/account.ts';
import { productsOf } from '../account/queries.ts';
import { revert } from '../changes/index.ts';
import { routinesStopped } from '../changes/sheets.queries.ts';
import { db, type Transaction } from '../db/connection.ts';
import { notFound, ServiceError } from '../errors.ts';
import { slicesOf } from '../explore/index.ts';
import { acceptFindings } from '../round/index.ts';
import { checkScope, meaningOf } from './candidates.ts';
import { clockChanges, nextDue } from './due.ts';
import { planByHand, release } from './plan.ts';
import { budgetGroupNames, campaignNames } from './ground.queries.ts';
import { moveHeld, stopHeldOf } from './held.queries.ts';
import {
  insertRoutine,
  keptRoutines,
  lockRoutines,
  setAllStopped,
  setOn,
  setRank,
  setRemoved,
  updateRoutine,
  type KeptRoutine,
} from './queries.ts';
import {
  findItems,
  latestRuns,
  runById,
  waitingRuns,
  type ItemsWanted,
  type RunRow,
} from './runs.queries.ts';
import { stagedGroups } from './stages.ts';

/** Routines of an account: made, changed, ranked, turned on and off; their runs, and what these hold. */

const mostRuns = 300;

/** Puts down the shipped ones, off, where there never were any. */
async function withShipped(accountId: number): Promise<KeptRoutine[]> {
  const known = await keptRoutines(db(), accountId);
  if (known.length > 0) return known;
  await db().begin(async (begun) => {
    const tx = begun as Transaction;
    if (await lockRoutines(tx, accountId)) return;
    for (const [at, settings] of shippedRoutines.entries())
      await insertRoutine(tx, accountId, at + 1, settings);
  });
  return keptRoutines(db(), accountId);
}

/** Every routine by rank, the newest runs, and what scopes may be chosen of. */
export async function routinesAnswer(accountId: number, now: Date): Promise<RoutinesAnswer> {
  const account = await getAccount(db(), accountId);
  const kept = await withShipped(accountId);
  const routines: RoutineRow[] = [];
  for (const { onSince: _onSince, ...one } of kept) {
    const { time } = one.settings;
    routines.push({
      ...one,
      nextDue:
        one.isOn && time.on === 'time'
          ? (nextDue(time, account.time_zone, now)?.toISOString() ?? null)
          : null,
      clock: time.on === 'time' ? clockChanges(time, account.time_zone, now) : [],
      problem: await problemOf(accountId, one.settings),
    });
  }
  const names = new Map(kept.map(({ routineId, settings }) => [routineId, settings.name]));
  return {
    today: account.today,
    timeZone: account.time_zone,
    allStopped: await routinesStopped(db(), accountId),
    routines,
    runs: (await latestRuns(db(), accountId, mostRuns)).map((run) => runOf(run, names)),
    choices: await choicesOf(accountId),
  };
}

/** Proposals of runs older than this wait for nobody any more, in days. */
const proposedDays = 7;

/** What routines hold, propose, and do no more by themselves: what a person should look at. */
export async function waitingAnswer(accountId: number): Promise<RoutinesWaiting> {
  const account = await getAccount(db(), accountId);
  const kept = await keptRoutines(db(), accountId);
  const names = new Map(kept.map(({ routineId, settings }) => [routineId, settings.name]));
  const runs =
    account.today === null
      ? []
      : await waitingRuns(db(), accountId, addDays(account.today, 1 - proposedDays));
  return {
    timeZone: account.time_zone,
    allStopped: await routinesStopped(db(), accountId),
    on: kept.filter(({ isOn }) => isOn).length,
    runs: runs.map((run) => runOf(run, names)),
    stopped: kept.flatMap(({ routineId, settings: { name }, stoppedWhy }) =>
      stoppedWhy === null ? [] : [{ routineId, routine: name, why: stoppedWhy }],
    ),
  };
}

const runOf = (
  { endedAt: _endedAt, summary: { settings, ...summary }, ...run }: RunRow,
  names: ReadonlyMap<number, string>,
): RoutineRun => ({
  ...run,
  routine: settings?.name ?? names.get(run.routineId) ?? '',
  beganAt: run.beganAt.toISOString(),
  sendAfter: run.state === 'held' ? (run.sendAfter?.toISOString() ?? null) : null,
  summary,
});

/** What speaks against a routine's scope by now; null: nothing. */
async function problemOf(accountId: number, { scope }: Routine): Promise<string | null> {
  try {
    await checkScope(accountId, scope);
    return null;
  } catch (error) {
    if (error instanceof ServiceError && error.code === 'scope_gone') return error.message;
    throw error;
  }
}

async function choicesOf(accountId: number): Promise<RoutinesAnswer['choices']> {
  const campaigns = await campaignNames(db(), accountId);
  const sliced = new Set(['products', 'campaigns', 'ad_groups', 'targets', 'terms']);
  return {
    products: (await productsOf(db(), accountId)).map(({ sku, title }) => ({
      key: sku,
      name: `${sku} ${title}`,
    })),
    campaigns: campaigns
      .map(({ id, name }) => ({ key: id, name }))
      .sort((a, b) => a.name.localeCompare(b.name)),
    budgetGroups: await budgetGroupNames(db(), accountId),
    slices: (await slicesOf(accountId))
      .filter(({ body }) => sliced.has(body.level))
      .map(({ id, name, body }) => ({ key: id, name, meaning: meaningOf(body) })),
  };
}

function check(settings: Routine): Routine {
  const problem = routineProblem(settings);
  if (problem) throw new ServiceError(422, 'bad_routine', problem.message, { field: problem.field });
  return { ...settings, name: settings.name.trim() };
}

async function refuseSameName(
  tx: Transaction,
  accountId: number,
  name: string,
  but: number | null,
): Promise<void> {
  const same = (await keptRoutines(tx, accountId)).some(
    (one) => one.routineId !== but && one.settings.name.toLowerCase() === name.toLowerCase(),
  );
  if (same)
    throw new ServiceError(409, 'same_name', `There is a routine “${name}” already: choose another name.`, {
      field: 'name',
    });
}

/** Makes a routine, off, with the last rank. */
export async function makeRoutine(accountId: number, wanted: Routine): Promise<{ routineId: number }> {
  const settings = check(wanted);
  await withShipped(accountId);
  return (await db().begin(async (begun) => {
    const tx = begun as Transaction;
    await lockRoutines(tx, accountId);
    await refuseSameName(tx, accountId, settings.name, null);
    const last = (await keptRoutines(tx, accountId)).at(-1)?.rank ?? 0;
    return { routineId: await insertRoutine(tx, accountId, last + 1, settings) };
  })) as { routineId: number };
}

/** Changes a routine that is as its changer saw it. */
export async function changeRoutine(
  accountId: number,
  routineId: number,
  version: number,
  wanted: Routine,
): Promise<void> {
  const settings = check(wanted);
  await db().begin(async (begun) => {
    const tx = begun as Transaction;
    await lockRoutines(tx, accountId);
    await refuseSameName(tx, accountId, settings.name, routineId);
    if ((await updateRoutine(tx, accountId, routineId, version, settings)) > 0) return;
    const known = (await keptRoutines(tx, accountId)).some((one) => one.routineId === routineId);
    if (!known) throw notFound(`routine ${routineId}`);
    const message =
      'Somebody changed this routine meanwhile. Load the page again; nothing of yours was kept.';
    throw new ServiceError(409, 'routine_changed', message);
  });
}

/** The routines in another order: all of them are named, each once, so that no two have one rank. */
export async function rankRoutines(accountId: number, order: readonly number[]): Promise<void> {
  await db().begin(async (begun) => {
    const tx = begun as Transaction;
    await lockRoutines(tx, accountId);
    const known = (await keptRoutines(tx, accountId)).map(({ routineId }) => routineId);
    const twice = order.find((id, at) => order.indexOf(id) !== at);
    if (twice !== undefined)
      throw new ServiceError(422, 'same_rank', 'A routine is named twice: each has a rank of its own.', {
        field: 'order',
      });
    if (order.length !== known.length || known.some((id) => !order.includes(id)))
      throw new ServiceError(
        409,
        'routines_changed',
        'There are other routines by now. Load the page again.',
        {
          field: 'order',
        },
      );
    for (const [at, id] of order.entries()) await setRank(tx, accountId, id, at + 1);
  });
}

/** Turns a routine on, unless its scope has gone; or off, and stops what it holds. */
export async function turnRoutine(accountId: number, routineId: number, isOn: boolean): Promise<void> {
  const routine = (await keptRoutines(db(), accountId)).find((one) => one.routineId === routineId);
  if (!routine) throw notFound(`routine ${routineId}`);
  if (isOn) {
    const problem = await problemOf(accountId, routine.settings);
    if (problem) throw new ServiceError(422, 'scope_gone', problem, { field: 'scope' });
  } else await stopHeldOf(db(), accountId, routineId);
  await setOn(db(), accountId, routineId, isOn);
}

/** Takes a routine away, and stops what it holds; or brings it back. Its runs stay in the log. */
export async function removeRoutine(accountId: number, routineId: number, isRemoved: boolean): Promise<void> {
  if ((await setRemoved(db(), accountId, routineId, isRemoved)) === 0)
    throw notFound(`routine ${routineId}${isRemoved ? '' : ' that was taken away'}`);
  if (isRemoved) await stopHeldOf(db(), accountId, routineId);
}

/** Stops all routines at once, or lets them go on. */
export const switchRoutines = (accountId: number, isStopped: boolean): Promise<void> =>
  setAllStopped(db(), accountId, isStopped);

/** Runs a routine now, on or off: how far it goes is its own. */
export async function runNow(accountId: number, routineId: number): Promise<void> {
  const known = (await keptRoutines(db(), accountId)).some((one) => one.routineId === routineId);
  if (!known) throw notFound(`routine ${routineId}`);
  if (await routinesStopped(db(), accountId))
    throw new ServiceError(409, 'all_stopped', 'All routines are stopped. Let them go on first.');
  await planByHand(accountId, routineId);
}

export type RunAct = 'stop' | 'hold_again' | 'send_now' | 'revert' | 'accept' | 'accept_beyond';

/**
 * What a person does with a run: stops what it holds, holds it again, sends it now, takes back what it sent, or takes what
 * it only proposed, or what was beyond its limits, onto the open sheet.
 */
export async function actOnRun(
  accountId: number,
  runId: number,
  act: RunAct,
): Promise<{ groups: string[]; lines: number }> {
  const run = await runById(db(), accountId, runId);
  if (!run) throw notFound(`run ${runId}`);
  const nothing = { groups: [], lines: 0 };
  const late = (message: string) => new ServiceError(409, 'run_moved_on', message);
  switch (act) {
    case 'stop':
      if (run.sheetId === null || !(await moveHeld(db(), accountId, run.sheetId, 'held', 'stopped')))
        throw late('It is not held any more: it was sent or stopped meanwhile.');
      return nothing;
    case 'hold_again':
      if (run.sheetId === null || !(await moveHeld(db(), accountId, run.sheetId, 'stopped', 'held')))
        throw late('It is not stopped any more.');
      return nothing;
    case 'send_now':
      if (await routinesStopped(db(), accountId))
        throw new ServiceError(409, 'all_stopped', 'All routines are stopped. Let them go on first.');
      if (run.sheetId === null || !(await release(accountId, run.sheetId)))
        throw late(
          'It is not held any more, or all of it was changed elsewhere meanwhile: nothing was sent.',
        );
      return nothing;
    case 'revert':
      if (run.state !== 'sent' || run.sheetId === null) throw late('Only what was sent is taken back.');
      return revert(accountId, run.sheetId, null);
    case 'accept':
    case 'accept_beyond': {
      const { window, settings } = run.summary;
      const { items } = await findItems(db(), accountId, {
        text: '',
        did: null,
        runId,
        offset: 0,
        limit: 5000,
      });
      const keys = items
        .filter(({ did, kind }) => did === (act === 'accept' ? 'proposed' : 'beyond') && kind !== 'stages')
        .map(({ findingKey }) => findingKey);
      if (!window || keys.length === 0) throw late('It has proposed nothing that could be taken.');
      // As it was proposed: by the method and within the limits that the run had.
      return acceptFindings(
        accountId,
        window,
        keys,
        {},
        settings ? { narrowing: narrowingOf(settings) } : {},
      );
    }
  }
}

/** Items of one run, or of all, that hold a text. */
export const itemsAnswer = (accountId: number, wanted: ItemsWanted): Promise<ItemsAnswer> =>
  findItems(db(), accountId, wanted);

/** Budget groups of a routine by their stages, as of today. */
export async function stagesAnswer(accountId: number, routineId: number): Promise<StagesAnswer> {
  const routine = (await keptRoutines(db(), accountId)).find((one) => one.routineId === routineId);
  if (!routine) throw notFound(`routine ${routineId}`);
  const account = await getAccount(db(), accountId);
  const { settledTo } = await settling(db(), account);
  if (settledTo === null) return { groups: [] };
  const window = lookedAt(routine.settings, account.today!, settledTo);
  const groups = await stagedGroups(accountId, routine.settings, window, account.today!);
  return {
    groups: groups.map(({ group, shares, staged, rows, budgets }) => ({
      ...group,
      shares,
      campaigns: staged.map((one) => {
        const row = rows.find(({ campaignId }) => campaignId === one.campaignId)!;
        const becomes = budgets.find(({ campaignId }) => campaignId === one.campaignId)?.to ?? null;
        const { clicks, spend, orders, sales } = row.sums;
        return { ...one, budget: row.budget, becomes, clicks, spend, orders, sales };
      }),
    })),
  };
}
