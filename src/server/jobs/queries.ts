import type { Database, Transaction } from '../db/connection.ts';
import { storable, storableText } from '../db/storable.ts';

export type JobKind =
  'fetch' | 'load' | 'load_package' | 'send' | 'advance' | 'steer' | 'routines' | 'dry_run';
export type JobState = 'waiting' | 'running' | 'done' | 'failed' | 'cancelled';

export interface Job {
  job_id: string;
  account_id: number;
  kind: JobKind;
  payload: Record<string, unknown>;
  state: JobState;
  progress: Record<string, unknown>;
  result: unknown;
  message: string | null;
  created_at: Date;
  finished_at: Date | null;
  /** How often it was begun. */
  starts: number;
}

/** Without a sign of life for so long, a job counts as left by its server. */
const leaseSeconds = 10;

export async function insertJob(
  sql: Database | Transaction,
  job: Pick<Job, 'job_id' | 'account_id' | 'kind' | 'payload'>,
): Promise<void> {
  await sql`
    insert into job (account_id, job_id, kind, payload, state, created_at)
    values (${job.account_id}, ${job.job_id}, ${job.kind}, ${sql.json(job.payload as never)}, 'waiting', now())`;
}

export async function jobById(sql: Database, accountId: number, jobId: string): Promise<Job | undefined> {
  const [job] = await sql<Job[]>`select * from job where account_id = ${accountId} and job_id = ${jobId}`;
  return job;
}

export async function latestJobs(sql: Database, accountId: number, limit: number): Promise<Job[]> {
  return sql<Job[]>`
    select * from job where account_id = ${accountId} order by created_at desc limit ${limit}`;
}

/** Jobs that nobody works on: not begun, or left by a server that fell. */
export async function unheldJobs(sql: Database): Promise<{ account_id: number; job_id: string }[]> {
  return sql`
    select account_id, job_id from job
    where state = 'waiting'
       or state = 'running' and (beat_at is null or beat_at < now() - make_interval(secs => ${leaseSeconds}))
    order by created_at`;
}

/** The job, when this call began it; undefined when it is finished, was cancelled, or another server holds it. */
export async function startJob(
  sql: Database,
  accountId: number,
  jobId: string,
  holder: string,
): Promise<Job | undefined> {
  const [job] = await sql<Job[]>`
    update job set state = 'running', holder = ${holder}, beat_at = now(), starts = starts + 1
    where account_id = ${accountId} and job_id = ${jobId}
      and (state = 'waiting'
        or state = 'running' and (holder = ${holder} or beat_at is null
          or beat_at < now() - make_interval(secs => ${leaseSeconds})))
    returning *`;
  return job;
}

/** Keeps what a job decided for itself, so that it goes on the same way when it is begun again. */
export async function keepPayload(sql: Database, job: Job, payload: Record<string, unknown>): Promise<void> {
  await sql`
    update job set payload = ${sql.json(payload as never)}
    where account_id = ${job.account_id} and job_id = ${job.job_id}`;
}

/** A sign of life. */
export async function beat(sql: Database, job: Job, holder: string): Promise<void> {
  await sql`
    update job set beat_at = now()
    where account_id = ${job.account_id} and job_id = ${job.job_id} and holder = ${holder} and state = 'running'`;
}

/** Keeps the progress; false when the job was cancelled meanwhile, or another server took it over. */
export async function noteProgress(
  sql: Database,
  job: Job,
  holder: string,
  progress: Record<string, unknown>,
): Promise<boolean> {
  const rows = await sql`
    update job set progress = progress || ${sql.json(storable(progress) as never)}, beat_at = now()
    where account_id = ${job.account_id} and job_id = ${job.job_id} and holder = ${holder} and state = 'running'
    returning 1`;
  return rows.length > 0;
}

export async function finishJob(
  sql: Database,
  job: Job,
  holder: string,
  state: 'done' | 'failed',
  result: unknown,
  message: string | null,
): Promise<void> {
  await sql`
    update job set state = ${state}, result = ${sql.json(storable(result) as never)},
      message = ${message === null ? null : storableText(message)},
      finished_at = now()
    where account_id = ${job.account_id} and job_id = ${job.job_id} and holder = ${holder} and state = 'running'`;
}

export async function cancelJob(sql: Database, accountId: number, jobId: string): Promise<boolean> {
  const rows = await sql`
    update job set state = 'cancelled', finished_at = now(), message = 'Cancelled.'
    where account_id = ${accountId} and job_id = ${jobId} and state in ('waiting', 'running') returning 1`;
  return rows.length > 0;
}
