import { reads } from '../../../../server/http/http.ts';
import { waitingAnswer } from '../../../../server/routines/index.ts';

/** What routines hold and propose now, and which stopped themselves. */
export const GET = reads(({ accountId }) => waitingAnswer(accountId));
