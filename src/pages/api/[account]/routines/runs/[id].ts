import { numberIn, writes } from '../../../../../server/http/http.ts';
import { actOnRun, runActSchema } from '../../../../../server/routines/index.ts';

/** Stops what a run holds, holds it again, sends it now, takes it back, or takes what it proposes. */
export const POST = writes(runActSchema, ({ accountId, body, context }) =>
  actOnRun(accountId, numberIn(context, 'id', 'run'), body.act),
);
