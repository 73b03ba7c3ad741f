import Joi from 'joi';
import type { AccountCall } from './accounts.ts';

/** What comes in when accounts are made and changed, checked. */

const currencies = new Set(Intl.supportedValuesOf('currency'));
const zones = new Set([...Intl.supportedValuesOf('timeZone'), 'UTC']);

const oneOf = (known: ReadonlySet<string>, what: string) =>
  Joi.string().custom((text: string, { message }) =>
    known.has(text) ? text : message({ custom: `“${text.slice(0, 40)}” is no ${what} that is known.` }),
  );

const name = Joi.string().trim().min(1).max(80);
const currency = oneOf(currencies, 'currency');
const timeZone = oneOf(zones, 'time zone');

export const newAccount = Joi.object<AccountCall>({
  name: name.required(),
  currency: currency.default('EUR'),
  timeZone: timeZone.default('UTC'),
  targetAcos: Joi.number().min(0.001).max(5).default(0.3),
  marketplace: Joi.object({
    kind: Joi.string().valid('quayside').required(),
    address: Joi.string()
      .uri({ scheme: ['http', 'https'] })
      .max(300)
      .allow(null)
      .default(null),
    secret: Joi.string().max(300).allow(null).default(null),
  })
    .allow(null)
    .default(null),
});

export const settings = Joi.object<Pick<AccountCall, 'name' | 'currency' | 'timeZone'>>({
  name: name.required(),
  currency: currency.required(),
  timeZone: timeZone.required(),
});
