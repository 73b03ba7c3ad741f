import Joi from 'joi';
import { numberIn, reads, writes } from '../../../../../../server/http.ts';
import { negativeList } from '../../../../../../server/terms/door.ts';
import { dropList, listOf, saveList } from '../../../../../../server/terms/negatives.ts';

/** A list with its negatives, its campaigns, and how many are missing there. */
export const GET = reads(({ accountId, context }) => listOf(accountId, numberIn(context, 'id', 'list')));

export const PUT = writes(negativeList, ({ accountId, body, context }) =>
  saveList(accountId, numberIn(context, 'id', 'list'), body),
);

/** Takes the list away; negatives that it put into campaigns stay. */
export const DELETE = writes(Joi.object({}), ({ accountId, context }) =>
  dropList(accountId, numberIn(context, 'id', 'list')),
);
