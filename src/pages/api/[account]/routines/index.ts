import { reads, writes } from '../../../../server/http/http.ts';
import {
  makeRoutine,
  orderSchema,
  rankRoutines,
  routineSchema,
  routinesAnswer,
} from '../../../../server/routines/index.ts';

/** Routines by rank with their newest runs. */
export const GET = reads(({ accountId }) => routinesAnswer(accountId, new Date()));

/** Makes a routine, off. */
export const POST = writes(routineSchema, ({ accountId, body }) => makeRoutine(accountId, body));

/** Puts all of them in another order. */
export const PUT = writes(orderSchema, ({ accountId, body }) => rankRoutines(accountId, body.order));
