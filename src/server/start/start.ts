import { runSend } from '../changes/send.ts';
import { isUnreachable } from '../db/connection.ts';
import { migrate } from '../db/migrate.ts';
import { runAdvance, runFetch } from '../fetching/fetch.ts';
import { runLoad } from '../imports/loads.ts';
import { runLoadPackage } from '../imports/package.ts';
import { keepHouse } from './housekeeping.ts';
import { everyMinute, handleJobs, startJobs, type JobHandler } from '../jobs/jobs.ts';
import { lookAtClock, planAfterFigures, runDry, runDue } from '../routines/index.ts';
import { steerAccount } from '../round/learning.ts';

/** What brings figures makes routines due. */
const thenRoutines =
  (handler: JobHandler): JobHandler =>
  async (context) => {
    const result = await handler(context);
    await planAfterFigures(context.sql, context.job.account_id, context.job.job_id);
    return result;
  };

let started: Promise<void> | null = null;
let problem: string | null = null;

/** Why the server could not be brought up though its database is there; null when nothing is known against it. */
export const startProblem = (): string | null => problem;

/** Brings the server up once: migrations, the account, jobs that a stopped server left. Fails while Postgres is away. */
export function start(): Promise<void> {
  started ??= (async () => {
    await migrate();
    handleJobs('fetch', thenRoutines(runFetch));
    handleJobs('advance', thenRoutines(runAdvance));
    handleJobs('load', thenRoutines(runLoad));
    handleJobs('load_package', runLoadPackage);
    handleJobs('send', runSend);
    handleJobs('steer', async ({ sql, job }) => {
      await steerAccount(sql, job.account_id);
    });
    handleJobs('routines', runDue);
    handleJobs('dry_run', runDry);
    await startJobs();
    await everyMinute('clock', lookAtClock);
    keepHouse();
    problem = null;
  })();
  // The next call tries again.
  started.catch((error: Error) => {
    started = null;
    problem = isUnreachable(error) ? null : error.message;
  });
  return started;
}
