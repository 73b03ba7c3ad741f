import Joi from 'joi';
import { numberIn, reads, writes } from '../../../../../../server/http/http.ts';
import { negativeList, dropList, listOf, saveList } from '../../../../../../server/terms/index.ts';

/** A list with its negatives, its campaigns, and how many are missing there. */
export const GET = reads(({ accountId, context }) => listOf(accountId, numberIn(context, 'id', 'list')));

export const PUT = writes(negativeList, ({ accountId, body, context }) =>
  saveList(accountId, numberIn(context, 'id', 'list'), body),
);

/** Takes the list away; negatives that it put into campaigns stay. */
export const DELETE = writes(Joi.object({}), ({ accountId, context }) =>
  dropList(accountId, numberIn(context, 'id', 'list')),
);
