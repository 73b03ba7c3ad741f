import { writes } from '../../../../server/http/http.ts';
import { switchRoutines, switchSchema } from '../../../../server/routines/index.ts';

/** Stops all routines at once, or lets them go on. */
export const POST = writes(switchSchema, ({ accountId, body }) => switchRoutines(accountId, body.isStopped));
