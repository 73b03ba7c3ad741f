import { randomUUID } from 'node:crypto';
import PgBoss from 'pg-boss';
import { connect, db, type Database } from '../db/connection.ts';
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
  try {
    const handler = handlers.get(job.kind);
    if (!handler) throw new Error(`No handler for ${job.kind}`);
    const result = await handler({ sql, job, progress });
    await finishJob(sql, jobId, 'done', result, null);
  } catch (error) {
    if (error instanceof Cancelled) return;
    const known = error instanceof ServiceError;
    if (!known) log.error({ error, jobId, kind: job.kind }, 'job failed');
    const message = known ? error.message : 'Something went wrong on our side; nothing was half-applied.';
    const place = known ? { code: error.code, ...error.place } : { code: 'internal' };
    await finishJob(sql, jobId, 'failed', place, message);
  }
}

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

async function push(jobId: string): Promise<void> {
  if (!boss) throw new Error('The job queue is not running.');
  await boss.send(queue, { jobId }, { retryLimit: 0, expireInHours: 4 });
}

export async function enqueue(
  accountId: number,
  kind: JobKind,
  payload: Record<string, unknown>,
): Promise<string> {
  const jobId = randomUUID();
  await insertJob(db(), { job_id: jobId, account_id: accountId, kind, payload });
  await push(jobId);
  return jobId;
}
