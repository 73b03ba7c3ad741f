import { windowOf } from '../../../../../server/account/index.ts';
import {
  hoursAnswer,
  scheduleOrderSchema,
  setSchedules,
  weeksOf,
} from '../../../../../server/hours/index.ts';
import { readsKept, writes } from '../../../../../server/http/http.ts';

/** Running campaigns by the time of the week (?from&to&weeks), those with a finding first. */
export const GET = readsKept(async ({ accountId, query }) =>
  hoursAnswer(accountId, await windowOf(accountId, query.get('from'), query.get('to')), weeksOf(query)),
);

/** Puts schedules onto the open sheet, all or none. */
export const POST = writes(scheduleOrderSchema, async ({ accountId, body: { from, to, ...orders } }) =>
  setSchedules(accountId, await windowOf(accountId, from, to), orders),
);
