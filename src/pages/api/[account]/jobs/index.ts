import { db } from '../../../../server/db/connection.ts';
import { reads } from '../../../../server/http/http.ts';
import { latestJobs } from '../../../../server/jobs/index.ts';

export const GET = reads(async ({ accountId }) => ({ jobs: await latestJobs(db(), accountId, 20) }));
