import { randomUUID } from 'node:crypto';
import { setTimeout as sleep } from 'node:timers/promises';
import PgBoss from 'pg-boss';
import { afterwards, connect, db, isUnreachable, type Database } from '../db/connection.ts';
import { config } from '../config.ts';
import { notFound, ServiceError } from '../errors.ts';
import { log } from '../log.ts';
import { noteWrite } from '../account/stamp.ts';
import {
  beat,
  finishJob,
  insertJob,
  jobById,
  noteProgress,
  startJob,
  unheldJobs,
  type Job,
  type JobKind,
} from './queries.ts';

/**
 * Long work: kept in `job` with its progress, brought to run by pg-boss in one lane an account. Whoever runs a job gives
 * a sign of life every few seconds; one without is begun again, by this server or the next. See docs/decisions/011.
 */

export interface JobContext {
  sql: Database;
  job: Job;
  /** Keeps progress for whoever watches; throws when the job was cancelled. */
  progress: (values: Record<string, unknown>, important?: boolean) => Promise<void>;
}

export type JobHandler = (context: JobContext) => Promise<unknown>;

class Cancelled extends Error {}

/** Ours among the servers that may hold jobs. */
const holder = randomUUID();
const beatEvery = 2000;
const sweepEvery = 2000;
/** A job that was begun so often without an end is not begun again. */
const mostStarts = 6;

const handlers = new Map<JobKind, JobHandler>();
const lanes = new Map<number, Promise<string>>();
/** Jobs that wait in a lane of this server. */
const pushed = new Set<string>();
let boss: PgBoss | null = null;

export const handleJobs = (kind: JobKind, handler: JobHandler): void => {
  handlers.set(kind, handler);
};

interface Work {
  accountId: number;
  jobId: string;
}

/** Runs a job to its end; while Postgres is away it waits, and begins the job again. */
async function run({ accountId, jobId }: Work): Promise<void> {
  for (let pause = 250; ; pause = Math.min(5000, pause * 2)) {
    try {
      return await attempt(accountId, jobId);
    } catch (error) {
      if (!isUnreachable(error)) throw error;
      log.warn({ error, jobId }, 'database out of reach; the job is begun again');
      await sleep(pause);
    }
  }
}

async function attempt(accountId: number, jobId: string): Promise<void> {
  const sql = db();
  const job = await startJob(sql, accountId, jobId, holder);
  if (!job) return;
  const end = (state: 'done' | 'failed', result: unknown, message: string | null) => {
    noteWrite(accountId);
    return finishJob(sql, job, holder, state, result, message);
  };
  if (job.starts > mostStarts) {
    const message = `It was begun ${mostStarts} times and never came to an end. ${leftBehind[job.kind]}`;
    return end('failed', { code: 'never_ends' }, message);
  }
  const pulse = setInterval(() => {
    beat(sql, job, holder).catch((error: unknown) => {
      log.warn({ error, jobId }, 'sign of life');
    });
  }, beatEvery);
  let result: unknown;
  try {
    result = await handled(sql, job);
  } catch (error) {
    if (error instanceof Cancelled) return;
    if (isUnreachable(error)) throw error;
    const known = error instanceof ServiceError;
    if (!known) log.error({ error, jobId, kind: job.kind }, 'job failed');
    const message = known ? error.message : `Something went wrong on our side. ${leftBehind[job.kind]}`;
    const place = known ? { code: error.code, ...error.place } : { code: 'internal' };
    return await end('failed', place, message);
  } finally {
    clearInterval(pulse);
  }
  // What it did stands by now: whatever becomes of its report, it has not failed.
  try {
    await end('done', result, null);
  } catch (error) {
    if (isUnreachable(error)) throw error;
    log.error({ error, jobId, kind: job.kind }, 'result of a job could not be kept');
    await end('done', null, 'It is done; what it has to tell could not be kept.');
  }
}

function handled(sql: Database, job: Job): Promise<unknown> {
  const handler = handlers.get(job.kind);
  if (!handler) throw new Error(`No handler for ${job.kind}`);
  let last = 0;
  const progress: JobContext['progress'] = async (values, important = false) => {
    const now = performance.now();
    if (!important && now - last < 200) return;
    last = now;
    // Parts of it may stand already.
    noteWrite(job.account_id);
    if (!(await noteProgress(sql, job, holder, values))) throw new Cancelled();
  };
  return handler({ sql, job, progress });
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
  routines: 'Nothing of it was sent; what ran before is whole.',
  dry_run: 'Nothing was changed by it.',
};

/** Starts the queue on our own database connection, and takes up what a stopped server left. */
export async function startJobs(): Promise<void> {
  // pg-boss brings its own BEGIN and COMMIT: one connection of its own keeps them together.
  const own = connect(config.databaseUrl, 1, { jsonIsText: true });
  const started = new PgBoss({
    db: {
      executeSql: async (text: string, values?: unknown[]) => ({
        rows: [
          ...(await own.unsafe(text, (values ?? []).map((value) => value ?? null) as never[])),
        ] as never[],
      }),
    },
    supervise: true,
    schedule: true,
  });
  started.on('error', (error) => {
    log.error({ error }, 'job queue');
  });
  try {
    await started.start();
  } catch (error) {
    await own.end({ timeout: 1 }).catch(() => undefined);
    throw error;
  }
  boss = started;
  await sweep();
  setInterval(() => {
    sweep().catch((error: unknown) => {
      log.warn({ error }, 'jobs could not be looked through');
    });
  }, sweepEvery).unref();
}

/** Calls back at the start and once a minute, on one of the servers that share the database. */
export async function everyMinute(name: string, act: (now: Date) => Promise<void>): Promise<void> {
  const queue = boss!;
  await queue.createQueue(name);
  // What came due while no server ran is not left for another minute.
  await queue.send(name, {}, { singletonSeconds: 5 });
  await queue.work(name, { pollingIntervalSeconds: 2 }, async () => {
    try {
      await act(new Date());
    } catch (error) {
      // The next minute looks again.
      log.warn({ error }, name);
    }
  });
  await queue.schedule(name, '* * * * *');
}

/** The queue is at work. */
export const jobsAreUp = (): boolean => boss !== null;

/** Brings to run what nobody works on. */
async function sweep(): Promise<void> {
  for (const { account_id, job_id } of await unheldJobs(db())) await push(account_id, job_id);
}

/** The queue of an account and who works it off, one job after the other; resolves to the worker's name. */
function laneOf(accountId: number, queue: PgBoss): Promise<string> {
  let lane = lanes.get(accountId);
  if (!lane) {
    lane = (async () => {
      const name = laneName(accountId);
      await queue.createQueue(name);
      return queue.work<Work>(name, { pollingIntervalSeconds: 2, batchSize: 1 }, async ([work]) => {
        if (!work) return;
        try {
          await run(work.data);
        } finally {
          pushed.delete(work.data.jobId);
          // Told once that there is work, it takes one job and rests: what waits behind it is looked for at once.
          void lane?.then((worker) => {
            queue.notifyWorker(worker);
          });
        }
      });
    })();
    lanes.set(accountId, lane);
    lane.catch(() => lanes.delete(accountId));
  }
  return lane;
}

const laneName = (accountId: number) => `account-${accountId}`;

/** Brings a planned job to run once it stands. Should that fail, the next sweep does it. */
const push = (accountId: number, jobId: string): Promise<void> =>
  afterwards(async () => {
    if (!boss || pushed.has(jobId)) return;
    pushed.add(jobId);
    try {
      const worker = await laneOf(accountId, boss);
      await boss.send(laneName(accountId), { accountId, jobId }, { retryLimit: 0, expireInHours: 12 });
      boss.notifyWorker(worker);
    } catch (error) {
      pushed.delete(jobId);
      log.warn({ error, jobId }, 'job could not be handed on yet');
    }
  });

/** Plans a job: it is there exactly when what asked for it is, and runs from then on. */
export async function enqueue(
  accountId: number,
  kind: JobKind,
  payload: Record<string, unknown>,
): Promise<string> {
  const jobId = randomUUID();
  await insertJob(db(), { job_id: jobId, account_id: accountId, kind, payload });
  await push(accountId, jobId);
  return jobId;
}

/** A job of the account by what an address calls it. */
export async function jobOf(accountId: number, id = ''): Promise<Job> {
  const job = /^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$/.test(id)
    ? await jobById(db(), accountId, id)
    : undefined;
  if (!job) throw notFound(`job ${id.slice(0, 40)}`);
  return job;
}
