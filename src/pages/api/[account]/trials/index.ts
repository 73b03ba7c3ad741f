import { makeTrial, trialSchema, trialsAnswer } from '../../../../server/trials/index.ts';
import { readsKept, writes } from '../../../../server/http/http.ts';

/** Trials with what came of them so far, the newest first. */
export const GET = readsKept(({ accountId }) => trialsAnswer(accountId));

/** Makes a trial of lines of the open sheet; `lineIds` null: of all of them. */
export const POST = writes(trialSchema, ({ accountId, body }) => makeTrial(accountId, body));
