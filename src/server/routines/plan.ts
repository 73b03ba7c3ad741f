import { randomUUID } from 'node:crypto';
import { overtakenLines } from '../changes/sheet.queries.ts';
import { routinesStopped } from '../changes/sheets.queries.ts';
import { db, isUnreachable, type Database, type Transaction } from '../db/connection.ts';
import { log } from '../log.ts';
import type { JobContext } from '../jobs/jobs.ts';
import { enqueue } from '../jobs/jobs.ts';
import { insertJob } from '../jobs/queries.ts';
import { lastDue } from './due.ts';
import { dropFromHeld, heldUntil, leftSheets, linesLeft, moveHeld, stopEmpty } from './held.queries.ts';
import { accountsAtWork, keptRoutines } from './queries.ts';
import { begunRun, endRun, planRun } from './runs.queries.ts';
import { runRoutine } from './run.ts';

/** When routines run, and when the sheets that they hold leave. What is due is written down once, whoever sees it first. */

interface Due {
  routineId: number;
  due: string;
}

/** Writes down what is due, with the job that runs it, both or none; what was written down before is left out. */
async function plan(sql: Database, accountId: number, wanted: readonly Due[]): Promise<number> {
  if (wanted.length === 0) return 0;
  return (await sql.begin(async (begun) => {
    const tx = begun as Transaction;
    const fresh: Due[] = [];
    for (const one of wanted) if (await planRun(tx, accountId, one.routineId, one.due)) fresh.push(one);
    if (fresh.length > 0)
      await insertJob(tx, {
        job_id: randomUUID(),
        account_id: accountId,
        kind: 'routines',
        payload: { due: fresh },
      });
    return fresh.length;
  })) as number;
}

/** What runs after figures came in; `name` is what brought them, so that the same figures make nothing due twice. */
export async function planAfterFigures(sql: Database, accountId: number, name: string): Promise<void> {
  if (await routinesStopped(sql, accountId)) return;
  const due = (await keptRoutines(sql, accountId)).filter(
    ({ isOn, settings }) => isOn && settings.time.on === 'figures',
  );
  await plan(
    sql,
    accountId,
    due.map(({ routineId }) => ({ routineId, due: `figures ${name}` })),
  );
}

/** A run by hand, now. */
export const planByHand = (accountId: number, routineId: number): Promise<number> =>
  plan(db(), accountId, [{ routineId, due: `hand ${randomUUID()}` }]);

/** Due instants sort as their texts do. */
const dueAt = (instant: Date): string => `at ${instant.toISOString()}`;

/** A look at the clock: what is due by time, which sheets have been held long enough, and what a fallen server left. */
export async function lookAtClock(now: Date): Promise<void> {
  const byAccount = new Map<number, Due[]>();
  for (const { accountId, zone, routineId, settings, onSince, lastDue: last } of await accountsAtWork(db())) {
    if (settings.time.on !== 'time') continue;
    const known = last === null ? 0 : Date.parse(last.slice('at '.length));
    const due = lastDue(settings.time, zone, new Date(Math.max(onSince.getTime(), known)), now);
    if (due === null) continue;
    byAccount.set(accountId, [...(byAccount.get(accountId) ?? []), { routineId, due: dueAt(due) }]);
  }
  for (const [accountId, due] of byAccount) await plan(db(), accountId, due);
  for (const { accountId, sheetId } of await heldUntil(db(), now)) await release(accountId, sheetId);
  for (const { accountId, sheetId } of await leftSheets(db())) await enqueue(accountId, 'send', { sheetId });
}

/**
 * Lets a held sheet leave, without lines that were overtaken meanwhile. False when it is held no more, or nothing of it
 * is left: then it is stopped.
 */
export async function release(accountId: number, sheetId: number): Promise<boolean> {
  const leaves = await db().begin(async (begun) => {
    const tx = begun as Transaction;
    await tx`select 1 from account where account_id = ${accountId} for update`;
    if (await routinesStopped(tx, accountId)) return false;
    if (!(await moveHeld(tx, accountId, sheetId, 'held', 'sending'))) return false;
    const behind = await overtakenLines(tx as unknown as Database, accountId, sheetId);
    await dropFromHeld(tx, accountId, sheetId, behind, 'It was changed elsewhere while the sheet was held.');
    if ((await linesLeft(tx, accountId, sheetId)) > 0) return true;
    await stopEmpty(tx, accountId, sheetId);
    return false;
  });
  if (leaves) await enqueue(accountId, 'send', { sheetId });
  return leaves as boolean;
}

/** Runs what is due, those of the highest rank first. */
export async function runDue({ sql, job, progress }: JobContext): Promise<{ runs: number }> {
  const accountId = job.account_id;
  const due = new Map((job.payload.due as Due[]).map((one) => [one.routineId, one.due]));
  let runs = 0;
  for (;;) {
    // Looked at anew before each: ranks and settings may be others by now.
    const next = (await keptRoutines(sql, accountId)).find(({ routineId }) => due.has(routineId));
    if (!next) break;
    const { routineId } = next;
    const name = due.get(routineId)!;
    due.delete(routineId);
    // What was turned off meanwhile runs no more, unless a hand asked for it.
    if (!next.isOn && !name.startsWith('hand ')) {
      await endUnrun(sql, accountId, routineId, name);
      continue;
    }
    await progress({ doing: next.settings.name, step: runs, total: runs + 1 + due.size }, true);
    runs++;
    try {
      await runRoutine(accountId, next, name, new Date());
    } catch (error) {
      if (isUnreachable(error)) throw error;
      // One that fails keeps none of the others from running.
      log.error({ error, accountId, routineId }, 'routine failed');
      const runId = await begunRun(sql, accountId, routineId, name);
      const why = 'Something went wrong on our side; nothing of it was sent. It runs again when it is due.';
      if (runId !== null) await endRun(sql, accountId, runId, { state: 'refused', why, summary: {} });
    }
  }
  for (const [routineId, name] of due) await endUnrun(sql, accountId, routineId, name);
  return { runs };
}

async function endUnrun(sql: Database, accountId: number, routineId: number, due: string): Promise<void> {
  const runId = await begunRun(sql, accountId, routineId, due);
  if (runId === null) return;
  const why = 'It was turned off before it ran.';
  await endRun(sql, accountId, runId, { state: 'stopped', why, summary: {} });
}
