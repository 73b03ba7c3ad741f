import { reads } from '../../../../../server/http/http.ts';
import { jobOf } from '../../../../../server/jobs/index.ts';

export const GET = reads(({ accountId, context }) => jobOf(accountId, context.params.id));
