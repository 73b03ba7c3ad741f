import { addDays } from '../../core/metrics/days.ts';
import { money } from '../../core/metrics/format.ts';
import { maturity } from '../../core/metrics/maturity.ts';
import { changeName } from '../../core/account/as-of.ts';
import { Allowance, changedLately, heldBack } from '../../core/routines/choose.ts';
import { narrowingOf } from '../../core/routines/narrow.ts';
import { lookedAt, stopReason } from '../../core/routines/safety.ts';
import { routineProblem } from '../../core/routines/routine.ts';
import { getAccount, settling } from '../account/account.ts';
import { addLines } from '../changes/open.ts';
import { routinesStopped } from '../changes/sheets.queries.ts';
import type { NewLine } from '../changes/lines.queries.ts';
import { db, type Transaction } from '../db/connection.ts';
import { ServiceError } from '../errors.ts';
import { enqueue } from '../jobs/jobs.ts';
import { draftFindings } from '../round/index.ts';
import { triedTouches } from '../trials/index.ts';
import { offerOf } from './candidates.ts';
import { routineForecasts, settledOrders, sureness } from './ground.queries.ts';
import { forgetPlanned, giveWay, insertRunSheet, stopEmpty } from './held.queries.ts';
import { stopItself, type KeptRoutine } from './queries.ts';
import { begunRun, endRun, insertItems, usedInWeek, type RunSummary } from './runs.queries.ts';
import { inTrial, leaveUnusual, settle, type Found } from './settle.ts';
import { stageOffer } from './stages.ts';
import { itemsOf, summaryOf } from './told.ts';

/** One run of one routine: a round by itself, that leaves nothing half-done wherever it is stopped. */

/** Lines that are drafted at once, in the order of their worth: no limit of a run lets more through. */
const mostDrafted = 5000;

/** Fields that lines change, by `changeName`. */
const touchesOf = (lines: readonly NewLine[]): string[] =>
  lines.flatMap(({ action, entity, object_id: id, field }) =>
    action === 'update' ? [changeName(entity, id!, field)] : [],
  );

export const bylineOf = (name: string): string => `Routine “${name}”`;

/** Why it must not act now; null where nothing speaks against it. */
async function stopsFor(accountId: number, { settings }: KeptRoutine, now: Date): Promise<string | null> {
  const problem = routineProblem(settings);
  if (problem) return problem.message;
  const account = await getAccount(db(), accountId);
  if (account.today === null) return 'There are no figures yet.';
  const known = await sureness(db(), accountId, account.today);
  const { curve, age } = await settling(db(), account);
  return stopReason({
    today: account.today,
    newest: known.newest,
    hoursSince: known.loadedAt ? (now.getTime() - known.loadedAt.getTime()) / 3_600_000 : null,
    settled: await settledOrders(db(), accountId, age, addDays(account.today, -28)),
    settledShare: maturity(curve, age),
    lastTalk: {
      failed: known.job?.state === 'failed',
      message: known.job?.message ?? null,
      applied: known.applied,
      refused: known.refused,
    },
    forecasts: await routineForecasts(db(), accountId, bylineOf(settings.name)),
    byClock: settings.time.on === 'time',
  });
}

/**
 * Runs a routine for what made it due, once: begun again after a fall, it goes on where nothing was written yet, and does
 * nothing where something was.
 */
export async function runRoutine(
  accountId: number,
  routine: KeptRoutine,
  due: string,
  now: Date,
): Promise<void> {
  const runId = await begunRun(db(), accountId, routine.routineId, due);
  if (runId === null) return;
  const { settings } = routine;
  const stopped = await stopsFor(accountId, routine, now);
  if (stopped !== null) return refuse(accountId, routine, runId, stopped, {});
  try {
    await act(accountId, routine, runId, now);
  } catch (error) {
    // What a person must look at stops the routine; what is nobody's fault is tried again by the job.
    if (!(error instanceof ServiceError) || error.status >= 500) throw error;
    await refuse(accountId, routine, runId, error.message, { settings });
  }
}

async function refuse(
  accountId: number,
  { routineId, settings }: KeptRoutine,
  runId: number,
  why: string,
  summary: RunSummary,
): Promise<void> {
  await db().begin(async (begun) => {
    const tx = begun as Transaction;
    await stopItself(tx, accountId, routineId, why);
    await endRun(tx, accountId, runId, { state: 'refused', why, summary: { settings, ...summary } });
  });
}

async function act(accountId: number, routine: KeptRoutine, runId: number, now: Date): Promise<void> {
  const { settings } = routine;
  const account = await getAccount(db(), accountId);
  const { settledTo } = await settling(db(), account);
  const today = account.today!;
  if (settledTo === null) throw new ServiceError(422, 'no_figures', 'No day has settled yet.');
  const window = lookedAt(settings, today, settledTo);
  const offer = await offerOf(accountId, settings, window, today);
  const stages = settings.kinds.includes('stages')
    ? await stageOffer(accountId, settings, window, today, bylineOf(settings.name))
    : null;
  const found: Found[] = offer.offered.map((offered) => ({
    offered,
    held: heldBack(offered, settings, today),
    lines: [],
  }));
  const open = found.filter(({ held }) => held === null).slice(0, mostDrafted);
  const drafted = await draftFindings(
    accountId,
    window,
    open.map(({ offered }) => offered.key),
    {},
    { by: bylineOf(settings.name), narrowing: narrowingOf(settings) },
  );
  const sendsAt =
    settings.reach.how === 'hold' ? new Date(now.getTime() + settings.reach.hours * 3_600_000) : null;
  const tried = await triedTouches(accountId);
  const week = await usedInWeek(db(), accountId, routine.routineId, runId, addDays(today, -6));
  const sheet = await db().begin(async (begun) => {
    const tx = begun as Transaction;
    // Runs, and the switch over them, take turns.
    await tx`select 1 from account where account_id = ${accountId} for update`;
    if (await routinesStopped(tx, accountId)) {
      await endRun(tx, accountId, runId, {
        state: 'stopped',
        why: 'All routines were stopped by the switch.',
        summary: { window, settings },
      });
      return null;
    }
    await drafted.complete(tx);
    const byKey = new Map<string, NewLine[]>();
    for (const line of drafted.rows)
      byKey.set(line.finding_key!, [...(byKey.get(line.finding_key!) ?? []), line]);
    for (const one of open) {
      one.lines = byKey.get(one.offered.key) ?? [];
      one.held =
        inTrial(one.lines, tried) ??
        changedLately(touchesOf(one.lines), offer.changedOn, settings.wait, today);
    }
    // The money of stages comes before what they do with it.
    found.unshift(...(stages?.found ?? []));
    open.unshift(...(stages?.found ?? []).filter(({ held }) => held === null));
    const free = open.filter(({ held }) => held === null);
    const taken = await settle(
      tx,
      accountId,
      routine,
      free,
      new Allowance(settings.limits, week, offer.weekSpend),
    );
    const isSent = settings.reach.how !== 'propose' && !taken.isRunaway;
    await forgetPlanned(
      tx,
      accountId,
      open.filter(({ held }) => !isSent || held !== null).flatMap(({ lines }) => lines),
    );
    const summary = summaryOf(found, taken, offer.decided, settings, window);
    if (taken.isRunaway) {
      const why = `It would move more than the account spends, ${money(offer.weekSpend)} a week. Nothing was sent; look at what it found, and narrow it.`;
      await stopItself(tx, accountId, routine.routineId, why);
      await insertItems(tx, accountId, runId, itemsOf(found, 'beyond'));
      await endRun(tx, accountId, runId, {
        state: 'refused',
        why,
        summary: { ...summary, taken: 0, lines: 0, spend: 0 },
      });
      return null;
    }
    if (settings.reach.how === 'propose' || taken.found.length === 0) {
      const isProposed = settings.reach.how === 'propose';
      if (stages && !isProposed) await stages.keep(tx);
      await insertItems(tx, accountId, runId, itemsOf(found, isProposed ? 'proposed' : 'taken'));
      const state = isProposed && taken.found.length > 0 ? 'proposed' : 'nothing';
      await endRun(tx, accountId, runId, { state, summary });
      return null;
    }
    await giveWay(tx, accountId, taken.giving, settings.name);
    if (stages) await stages.keep(tx);
    const state = sendsAt ? 'held' : 'sending';
    const sheetId = await insertRunSheet(tx, accountId, runId, state, sendsAt);
    await addLines(
      tx,
      accountId,
      sheetId,
      taken.found.flatMap(({ lines }) => lines),
    );
    const unusual = await leaveUnusual(tx, accountId, sheetId, taken.found);
    await insertItems(tx, accountId, runId, itemsOf(found, 'taken'));
    const left = taken.found.filter(({ held }) => held === null);
    if (left.length === 0) {
      await stopEmpty(tx, accountId, sheetId);
      await endRun(tx, accountId, runId, {
        state: 'nothing',
        summary: summaryOf(found, { found: left }, offer.decided, settings, window),
      });
      return null;
    }
    await endRun(tx, accountId, runId, {
      state,
      sheetId,
      summary: unusual ? summaryOf(found, { found: left }, offer.decided, settings, window) : summary,
    });
    return sendsAt ? null : sheetId;
  });
  if (sheet !== null) await enqueue(accountId, 'send', { sheetId: sheet });
}
