import { windowOf } from '../../../../../server/account/index.ts';
import { reads, writes } from '../../../../../server/http/http.ts';
import {
  acceptConditions,
  conditionOrderSchema,
  conditionsAnswer,
  conditionsSchema,
  setConditions,
} from '../../../../../server/placements/index.ts';

/** Conditions of one's own on placements, in their order, and which campaigns they meet (?from&to: the window of Where). */
export const GET = reads(async ({ accountId, query }) =>
  conditionsAnswer(accountId, await windowOf(accountId, query.get('from'), query.get('to'))),
);

/** Keeps a list of conditions in the place of the one before. */
export const PUT = writes(conditionsSchema, ({ accountId, body }) =>
  setConditions(accountId, body.conditions),
);

/** Puts what they make of campaigns onto the open sheet, all or none. */
export const POST = writes(conditionOrderSchema, async ({ accountId, body: { from, to, campaignIds } }) =>
  acceptConditions(accountId, await windowOf(accountId, from, to), campaignIds),
);
