import Joi from 'joi';
import { accountSettings, changeSettings, removeAccount, settings } from '../../../server/account/index.ts';
import { reads, writes } from '../../../server/http/http.ts';

export const GET = reads(({ accountId }) => accountSettings(accountId));

/** Name, currency and time zone. */
export const PUT = writes(settings, ({ accountId, body }) => changeSettings(accountId, body));

/** Removes the account with everything in it, when its name is given. */
export const DELETE = writes(
  Joi.object<{ name: string }>({ name: Joi.string().max(200).required() }),
  ({ accountId, body }) => removeAccount(accountId, body.name),
);
