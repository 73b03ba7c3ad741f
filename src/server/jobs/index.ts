import { randomUUID } from 'node:crypto';
import PgBoss from 'pg-boss';
import { connect, db, type Database, type Transaction } from '../db/connection.ts';
import { config } from '../config.ts';
import { ServiceError } from '../errors.ts';
import { log } from '../log.ts';
import {
  finishJob,
  insertJob,
  jobById,
  noteProgress,
  startJob,
  unfinishedJobs,
  type Job,
  type JobKind,
} from './queries.ts';

/** Long work: kept in `job` with its progress, brought to run by pg-boss, begun again after a restart. */

export interface JobContext {
  sql: Database;
  job: Job;
  /** Keeps progress for whoever watches; throws when the job was cancelled. */
  progress: (values: Record<string, unknown>, important?: boolean) => Promise<void>;
}

export type JobHandler = (context: JobContext) => Promise<unknown>;

class Cancelled extends Error {}

const queue = 'mowing';
const handlers = new Map<JobKind, JobHandler>();
let boss: PgBoss | null = null;

export const handleJobs = (kind: JobKind, handler: JobHandler): void => {
  handlers.set(kind, handler);
};

async function run(jobId: string): Promise<void> {
  const sql = db();
  if (!(await startJob(sql, jobId))) return;
  const job = (await jobById(sql, jobId))!;
  let last = 0;
  const progress: JobContext['progress'] = async (values, important = false) => {
    const now = performance.now();
    if (!important && now - last < 200) return;
    last = now;
    if (!(await noteProgress(sql, jobId, values))) throw new Cancelled();
  };
  let result: unknown;
  try {
    const handler = handlers.get(job.kind);
    if (!handler) throw new Error(`No handler for ${job.kind}`);
    result = await handler({ sql, job, progress });
  } catch (error) {
    if (error instanceof Cancelled) return;
    const known = error instanceof ServiceError;
    if (!known) log.error({ error, jobId, kind: job.kind }, 'job failed');
    const message = known ? error.message : `Something went wrong on our side. ${leftBehind[job.kind]}`;
    const place = known ? { code: error.code, ...error.place } : { code: 'internal' };
    await finishJob(sql, jobId, 'failed', place, message);
    return;
  }
  // What it did stands by now: whatever becomes of its report, it has not failed.
  try {
    await finishJob(sql, jobId, 'done', result, null);
  } catch (error) {
    log.error({ error, jobId, kind: job.kind }, 'result of a job could not be kept');
    await finishJob(sql, jobId, 'done', null, 'It is done; what it has to tell could not be kept.');
  }
}

/** What is true of the account after a job of each kind fell. */
const leftBehind: Record<JobKind, string> = {
  load: 'Nothing of the file was loaded.',
  load_package:
    'Parts that were loaded before are whole, the others were not loaded; the package can be loaded again.',
  fetch: 'Reports that were loaded before are whole; fetch again for the rest.',
  advance: 'Reports that were loaded before are whole; fetch again for the rest.',
  send: 'What the marketplace answered is kept; go on from the ledger, nothing goes twice.',
  steer: 'θ stays as it was.',
};

/** Starts the queue on our own database connection and takes up what a stopped server left. */
export async function startJobs(): Promise<void> {
  const sql = db();
  // pg-boss brings its own BEGIN and COMMIT: one connection of its own keeps them together.
  const own = connect(config.databaseUrl, 1);
  boss = new PgBoss({
    db: {
      executeSql: async (text: string, values?: unknown[]) => ({
        rows: [
          ...(await own.unsafe(text, (values ?? []).map((value) => value ?? null) as never[])),
        ] as never[],
      }),
    },
    supervise: true,
    schedule: false,
  });
  boss.on('error', (error) => {
    log.error({ error }, 'job queue');
  });
  await boss.start();
  await boss.createQueue(queue);
  await boss.work<{ jobId: string }>(queue, { pollingIntervalSeconds: 0.5, batchSize: 1 }, async ([work]) => {
    if (work) await run(work.data.jobId);
  });
  for (const { job_id: jobId } of await unfinishedJobs(sql)) await push(jobId);
}

/** Brings a planned job to run. What was planned and not pushed before the server stopped runs after its start. */
export async function push(jobId: string): Promise<void> {
  if (!boss) throw new Error('The job queue is not running.');
  await boss.send(queue, { jobId }, { retryLimit: 0, expireInHours: 4 });
}

/** Plans a job within a transaction, so that it is there exactly when what asked for it is; `push` follows its commit. */
export async function plan(
  sql: Database | Transaction,
  accountId: number,
  kind: JobKind,
  payload: Record<string, unknown>,
): Promise<string> {
  const jobId = randomUUID();
  await insertJob(sql, { job_id: jobId, account_id: accountId, kind, payload });
  return jobId;
}

export async function enqueue(
  accountId: number,
  kind: JobKind,
  payload: Record<string, unknown>,
): Promise<string> {
  const jobId = await plan(db(), accountId, kind, payload);
  await push(jobId);
  return jobId;
}
