import { db } from '../db/connection.ts';
import { jobsAreUp } from '../jobs/jobs.ts';
import { marketplaceState } from '../marketplace/connection.ts';
import { start, startProblem } from './start.ts';

export interface Health {
  ok: boolean;
  /** The process that answers: whoever started it can tell it from another one at its port. */
  pid: number;
  database: 'up' | 'out of reach';
  /** Migrations are done and the queue of jobs is at work. */
  jobs: 'up' | 'not started';
  /** Why it is not at work though its database is there. */
  problem: string | null;
  /** Its being away stops fetching and sending, nothing else. */
  marketplace: 'up' | 'out of reach' | 'none';
}

const patience = 3000;

const within = <T>(work: Promise<T>, otherwise: T): Promise<T> =>
  Promise.race([work, new Promise<T>((done) => setTimeout(() => done(otherwise), patience).unref())]).catch(
    () => otherwise,
  );

/** Asks every part whether it is there; brings the server up when it was not yet. */
export async function healthOf(): Promise<Health> {
  const database = await within<Health['database']>(
    db()`select 1`.then(() => 'up'),
    'out of reach',
  );
  if (database === 'up') await within(start(), undefined);
  const jobs = jobsAreUp() ? 'up' : 'not started';
  const marketplace = await within<Health['marketplace']>(marketplaceState(), 'out of reach');
  return {
    ok: database === 'up' && jobs === 'up',
    pid: process.pid,
    database,
    jobs,
    problem: startProblem(),
    marketplace,
  };
}
