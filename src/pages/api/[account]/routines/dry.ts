import { writes } from '../../../../server/http/http.ts';
import { drySchema, startDry } from '../../../../server/routines/index.ts';

/** Plays a routine over nights of the past, as a job; nothing is changed. */
export const POST = writes(drySchema, ({ accountId, body }) => startDry(accountId, body));
