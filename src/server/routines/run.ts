import type { Effect } from '../../core/effect/types.ts';
import { addDays, daysBetween, type Day } from '../../core/metrics/days.ts';
import { money } from '../../core/metrics/format.ts';
import { maturity } from '../../core/metrics/maturity.ts';
import { Allowance, heldBack, type Held } from '../../core/routines/choose.ts';
import { narrowingOf } from '../../core/routines/narrow.ts';
import { lookedAt, stopReason } from '../../core/routines/safety.ts';
import { routineProblem, type Routine } from '../../core/routines/routine.ts';
import { getAccount, settling } from '../account/account.ts';
import { addLines } from '../changes/open.ts';
import { unusualClicks } from '../changes/unusual.queries.ts';
import type { NewLine } from '../changes/lines.queries.ts';
import { routinesStopped } from '../changes/sheets.queries.ts';
import { db, type Transaction } from '../db/connection.ts';
import { ServiceError } from '../errors.ts';
import { enqueue } from '../jobs/jobs.ts';
import { draftFindings } from '../round/index.ts';
import { offerOf, type Offered } from './candidates.ts';
import {
  begunRun,
  endRun,
  giveWay,
  insertItems,
  insertRunSheet,
  routineForecasts,
  settledOrders,
  standing,
  stopItself,
  sureness,
  usedInWeek,
  type ItemRow,
  type KeptRoutine,
  type RunSummary,
  type Standing,
} from './queries.ts';
import { clashes, touchOf } from '../../core/trials/trials.ts';
import { triedTouches } from '../trials/index.ts';
import { stageOffer } from './stages.ts';

/** One run of one routine: a round by itself, that leaves nothing half-done wherever it is stopped. */

/** Items that are kept of what was left alone, beside all that was acted on. */
const mostLeft = 2000;

/** Lines that are drafted at once, in the order of their worth: no limit of a run lets more through. */
const mostDrafted = 5000;

export const bylineOf = (name: string): string => `Routine “${name}”`;

interface Found {
  offered: Offered;
  held: Held | null;
  lines: NewLine[];
}

const spendOf = (lines: readonly NewLine[]): number =>
  lines.reduce((sum, { effect }) => sum + Math.abs(effect?.spend ?? 0), 0);

const effectOf = (lines: readonly NewLine[]): Effect | null =>
  lines.find(({ effect }) => effect !== null)?.effect ?? null;

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
      one.held = inTrial(one.lines, tried) ?? changedLately(one.lines, offer.changedOn, settings.wait, today);
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
    const summary = summaryOf(found, taken, offer.decided, settings, window);
    const items = itemsOf(found, settings.reach.how === 'propose' ? 'proposed' : 'taken');
    if (stages && settings.reach.how !== 'propose') await stages.keep(tx);
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
      await insertItems(tx, accountId, runId, items);
      const state = settings.reach.how === 'propose' && taken.found.length > 0 ? 'proposed' : 'nothing';
      await endRun(tx, accountId, runId, { state, summary });
      return null;
    }
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
      await tx`update sheet set state = 'stopped' where account_id = ${accountId} and sheet_id = ${sheetId}`;
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

/** What is tried stays as it is until somebody has decided. */
function inTrial(lines: readonly NewLine[], tried: Awaited<ReturnType<typeof triedTouches>>): Held | null {
  const mine = lines.map((line) =>
    touchOf({
      action: line.action,
      entity: line.entity,
      campaignId: line.campaign_id,
      adGroupId: line.ad_group_id,
      objectId: line.object_id,
    }),
  );
  const trial = tried.find(({ touch }) => mine.some((one) => clashes(one, touch)));
  return trial
    ? { by: 'trial', why: `The trial “${trial.name}” touches it: nothing moves until it is decided.` }
    : null;
}

/** Moves of a campaign move bids along: where one of these was changed a short while ago, all of it waits. */
function changedLately(
  lines: readonly NewLine[],
  changedOn: (field: string) => Day | null,
  wait: number,
  today: Day,
): Held | null {
  for (const { action, entity, object_id: id, field } of lines) {
    const day = action === 'update' ? changedOn(`${entity}:${id}:${field}`) : null;
    if (day !== null && daysBetween(day, today) < wait)
      return {
        by: 'wait',
        why: `A bid that it moves was changed on ${day}; it waits until ${addDays(day, wait)}.`,
      };
  }
  return null;
}

/** Lets through what nothing else sets and limits allow, in the order of worth; says of the others why not. */
async function settle(
  tx: Transaction,
  accountId: number,
  { settings, rank }: KeptRoutine,
  open: Found[],
  allowance: Allowance,
): Promise<{ found: Found[]; isRunaway: boolean }> {
  const keys = open.flatMap(({ lines }) => lines.map(({ conflict_key: key }) => key));
  const others = new Map<string, Standing[]>();
  for (const one of await standing(tx, accountId, keys))
    others.set(one.conflictKey, [...(others.get(one.conflictKey) ?? []), one]);
  const mine = new Set<string>();
  const found: Found[] = [];
  for (const one of open) {
    if (one.lines.length === 0) {
      one.held = { by: 'gone', why: 'Nothing of it is left to do: it stands like that already.' };
      continue;
    }
    const rivals = one.lines.flatMap(({ conflict_key: key }) => others.get(key) ?? []);
    one.held =
      rivalled(rivals, rank, one.lines, mine) ??
      allowance.take({ lines: one.lines.length, spend: spendOf(one.lines) });
    if (one.held) continue;
    if (rivals.length > 0 && settings.reach.how !== 'propose')
      await giveWay(tx, accountId, rivals, settings.name);
    for (const { conflict_key: key } of one.lines) mine.add(key);
    found.push(one);
  }
  return { found, isRunaway: allowance.isRunaway };
}

/** Who sets the same already, where that one goes first. */
function rivalled(
  rivals: readonly Standing[],
  rank: number,
  lines: readonly NewLine[],
  mine: ReadonlySet<string>,
): Held | null {
  const person = rivals.find((one) => one.rank === null);
  if (person) return { by: 'person', why: 'The same stands on a person’s sheet.' };
  const first = rivals.find((one) => one.rank! <= rank || one.state === 'sending');
  if (first) return { by: 'other_routine', why: `“${first.routine}” sets the same, and goes first.` };
  return lines.some(({ conflict_key: key }) => mine.has(key))
    ? { by: 'other_routine', why: 'Another finding of this run, worth more, sets the same.' }
    : null;
}

/** Clicks that may cost over twice their bid are for a person to mean: their campaigns are left. */
async function leaveUnusual(
  tx: Transaction,
  accountId: number,
  sheetId: number,
  found: readonly Found[],
): Promise<boolean> {
  const unusual = new Set(
    (await unusualClicks(tx, accountId, sheetId)).map(({ campaignId }) => String(campaignId)),
  );
  if (unusual.size === 0) return false;
  const groups: string[] = [];
  for (const one of found) {
    if (!one.lines.some(({ campaign_id: id }) => unusual.has(id))) continue;
    one.held = {
      by: 'unusual_click',
      why: 'A click may cost over twice its bid then: a person must mean that.',
    };
    groups.push(one.lines[0]!.group_key);
  }
  await tx`
    update line set state = 'removed'
    where account_id = ${accountId} and sheet_id = ${sheetId} and group_key = any(${groups}::text[])`;
  return true;
}

const beyondLimits: readonly Held['by'][] = ['line_limit', 'spend_limit', 'share_limit', 'unusual_click'];

function summaryOf(
  found: readonly Found[],
  taken: { found: readonly Found[] },
  decided: number,
  settings: Routine,
  window: { from: Day; to: Day },
): RunSummary {
  const lines = taken.found.flatMap((one) => one.lines);
  const beyond = found.filter(({ held }) => held !== null && beyondLimits.includes(held.by)).length;
  return {
    window,
    found: found.length,
    taken: taken.found.length,
    beyond,
    left: found.length - taken.found.length - beyond,
    decided,
    lines: lines.length,
    spend: spendOf(lines),
    worth: taken.found.reduce((sum, { offered }) => sum + offered.worth, 0),
    settings,
  };
}

/** What a run keeps of what it found: all that it acted on or would have, and of what it left those worth most. */
function itemsOf(found: readonly Found[], did: 'taken' | 'proposed' | 'beyond'): Omit<ItemRow, 'position'>[] {
  let left = 0;
  // What was done is read first, then what waits for a person, then what was left alone; each by its worth.
  const order = ({ held }: Found) => (held === null ? 0 : beyondLimits.includes(held.by) ? 1 : 2);
  return [...found]
    .sort((a, b) => order(a) - order(b))
    .flatMap(({ offered, held, lines }) => {
      const isBeyond = held !== null && beyondLimits.includes(held.by);
      const state = held === null ? did : isBeyond ? 'beyond' : 'left';
      if (state === 'left' && ++left > mostLeft) return [];
      return [
        {
          findingKey: offered.key,
          kind: offered.kind,
          subject: offered.subject,
          campaignId: offered.campaignId,
          campaign: offered.campaign,
          did: state,
          heldBy: held?.by ?? null,
          why: held?.why ?? null,
          sentence: offered.kind === 'words' && lines[0] ? lines[0].reason : offered.sentence,
          lines: lines.length,
          worth: offered.worth,
          spend: spendOf(lines),
          effect: effectOf(lines),
        },
      ];
    });
}
