import { runSend } from '../changes/send.ts';
import { isUnreachable } from '../db/connection.ts';
import { migrate } from '../db/migrate.ts';
import { runAdvance, runFetch } from '../fetching/fetch.ts';
import { runLoad } from '../imports/loads.ts';
import { runLoadPackage } from '../imports/package.ts';
import { keepHouse } from './housekeeping.ts';
import { handleJobs, startJobs } from '../jobs/jobs.ts';
import { steerAccount } from '../round/learning.ts';

let started: Promise<void> | null = null;
let problem: string | null = null;

/** Why the server could not be brought up though its database is there; null when nothing is known against it. */
export const startProblem = (): string | null => problem;

/** Brings the server up once: migrations, the account, jobs that a stopped server left. Fails while Postgres is away. */
export function start(): Promise<void> {
  started ??= (async () => {
    await migrate();
    handleJobs('fetch', runFetch);
    handleJobs('advance', runAdvance);
    handleJobs('load', runLoad);
    handleJobs('load_package', runLoadPackage);
    handleJobs('send', runSend);
    handleJobs('steer', async ({ sql, job }) => {
      await steerAccount(sql, job.account_id);
    });
    await startJobs();
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
