import { numberIn, writes } from '../../../../../server/http/http.ts';
import {
  changeRoutine,
  changeSchema,
  removeRoutine,
  runNow,
  turnRoutine,
  turnSchema,
} from '../../../../../server/routines/index.ts';

/** Changes a routine as its changer saw it. */
export const PUT = writes(changeSchema, ({ accountId, body, context }) =>
  changeRoutine(accountId, numberIn(context, 'id', 'routine'), body.version, body.settings),
);

/** Turns it on or off, takes it away or brings it back, or runs it now. */
export const POST = writes(turnSchema, ({ accountId, body: { act }, context }) => {
  const id = numberIn(context, 'id', 'routine');
  if (act === 'run') return runNow(accountId, id);
  if (act === 'remove' || act === 'bring_back') return removeRoutine(accountId, id, act === 'remove');
  return turnRoutine(accountId, id, act === 'on');
});
