import { numberIn, reads } from '../../../../../server/http/http.ts';
import { stagesAnswer } from '../../../../../server/routines/index.ts';

/** The budget groups of a routine by their stages. */
export const GET = reads(({ accountId, context }) =>
  stagesAnswer(accountId, numberIn(context, 'id', 'routine')),
);
