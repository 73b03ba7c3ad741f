import { readsKept, writes } from '../../../../server/http/http.ts';
import { setTestingShare, testingOf, testingSchema } from '../../../../server/testing/index.ts';

/** What is set aside to learn, what is tried, and what was learned. */
export const GET = readsKept(({ accountId }) => testingOf(accountId));

/** Sets the share of spend that is set aside: 0 to 0.5. */
export const PUT = writes(testingSchema, ({ accountId, body }) => setTestingShare(accountId, body.share));
