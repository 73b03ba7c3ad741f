import Joi from 'joi';
import { sendSheet } from '../../../server/changes/index.ts';
import { writes } from '../../../server/http.ts';
import { marketplace } from '../../../server/marketplace/index.ts';

export const POST = writes(Joi.object({}), ({ accountId }) => {
  marketplace();
  return sendSheet(accountId);
});
