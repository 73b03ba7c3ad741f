import { reads } from '../../../../server/http/http.ts';
import { itemsAnswer, itemsWanted } from '../../../../server/routines/index.ts';

/** What routines found and did: of one run (`run`), by what was done (`did`), with a text. */
export const GET = reads(({ accountId, query }) => itemsAnswer(accountId, itemsWanted(query)));
