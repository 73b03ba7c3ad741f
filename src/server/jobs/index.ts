/** Long work: queued, watched, cancelled. */

export { enqueue, jobOf } from './jobs.ts';
export { cancelJob, latestJobs } from './queries.ts';
