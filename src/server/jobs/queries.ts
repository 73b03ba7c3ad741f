import type { Database, Transaction } from '../db/connection.ts';
import { storable, storableText } from '../db/storable.ts';

export type JobKind = 'fetch' | 'load' | 'load_package' | 'send' | 'advance' | 'steer';
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
}

export async function insertJob(
  sql: Database | Transaction,
  job: Pick<Job, 'job_id' | 'account_id' | 'kind' | 'payload'>,
): Promise<void> {
  await sql`
    insert into job (account_id, job_id, kind, payload, state, created_at)
    values (${job.account_id}, ${job.job_id}, ${job.kind}, ${sql.json(job.payload as never)}, 'waiting', now())`;
}

export async function jobById(sql: Database, jobId: string): Promise<Job | undefined> {
  const [job] = await sql<Job[]>`select * from job where job_id = ${jobId}`;
  return job;
}

export async function latestJobs(sql: Database, accountId: number, limit: number): Promise<Job[]> {
  return sql<Job[]>`
    select * from job where account_id = ${accountId} order by created_at desc limit ${limit}`;
}

/** Jobs that a stopped server left: they begin again. */
export async function unfinishedJobs(sql: Database): Promise<{ job_id: string }[]> {
  return sql`select job_id from job where state in ('waiting', 'running') order by created_at`;
}

/** True when this call started it; false when it is finished or was cancelled meanwhile. */
export async function startJob(sql: Database, jobId: string): Promise<boolean> {
  const rows = await sql`
    update job set state = 'running' where job_id = ${jobId} and state in ('waiting', 'running') returning 1`;
  return rows.length > 0;
}

/** Keeps the progress; false when the job was cancelled meanwhile. */
export async function noteProgress(
  sql: Database,
  jobId: string,
  progress: Record<string, unknown>,
): Promise<boolean> {
  const rows = await sql`
    update job set progress = progress || ${sql.json(storable(progress) as never)}
    where job_id = ${jobId} and state = 'running' returning 1`;
  return rows.length > 0;
}

export async function finishJob(
  sql: Database,
  jobId: string,
  state: 'done' | 'failed',
  result: unknown,
  message: string | null,
): Promise<void> {
  await sql`
    update job set state = ${state}, result = ${sql.json(storable(result) as never)},
      message = ${message === null ? null : storableText(message)},
      finished_at = now()
    where job_id = ${jobId} and state = 'running'`;
}

export async function cancelJob(sql: Database, jobId: string): Promise<boolean> {
  const rows = await sql`
    update job set state = 'cancelled', finished_at = now(), message = 'Cancelled.'
    where job_id = ${jobId} and state in ('waiting', 'running') returning 1`;
  return rows.length > 0;
}
