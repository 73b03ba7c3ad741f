import { amountFields, choiceFields } from '../../core/changes/fields.ts';
import { levels } from '../../core/account/levels.ts';
import Joi from 'joi';
import { operators, type Condition } from '../../core/explore/conditions.ts';
import type { Edit } from '../../core/edits/edits.ts';
import { window as windowSchema } from '../http/doors.ts';
import type { EditRequest, TableRequest } from './tables.ts';
import { dimensions, type Cut } from '../../core/explore/tabulate.ts';

/** What comes in at the doors of Explore, checked. */

const plain = Joi.object({
  column: Joi.string().required(),
  is: Joi.string()
    .valid(...operators)
    .required(),
  value: Joi.alternatives(Joi.number(), Joi.string().allow(''), Joi.array().items(Joi.string())),
  times: Joi.string(),
  not: Joi.boolean(),
});
/** Conditions are looked through for every row: how many there may be, and how deep in one another. */
const mostConditions = 200;
const deepest = 8;

function tooMuch(condition: unknown): string | null {
  let count = 0;
  let level: unknown[] = [condition];
  for (let depth = 0; level.length > 0; depth++) {
    if (depth > deepest) return `conditions lie at most ${deepest} deep in one another`;
    const next: unknown[] = [];
    for (const one of level) {
      if (++count > mostConditions) return `there are at most ${mostConditions} conditions at once`;
      const { all, any } = (one ?? {}) as { all?: unknown; any?: unknown };
      for (const list of [all, any])
        if (Array.isArray(list)) next.push(...(list as unknown[]).slice(0, 1000));
    }
    level = next;
  }
  return null;
}

const list = Joi.array().items(Joi.link('#condition')).max(50);
const one = Joi.alternatives<Condition>(
  Joi.object({ all: list.required() }),
  Joi.object({ any: list.required() }),
  plain,
).id('condition');

/** A condition, counted before it is looked at closely. */
export const condition = Joi.any<Condition>().custom((value: unknown, { message }) => {
  const wrong = tooMuch(value);
  if (wrong !== null) return message({ custom: `{{#label}}: ${wrong}` });
  const { error, value: checked } = one.validate(value);
  if (error) return message({ custom: `{{#label}}: ${error.message.replace(/[{}]/g, '')}` });
  return checked;
});

const level = Joi.string().valid(...levels);
export const within = Joi.object({ level: level.required(), id: Joi.string().required() }).allow(null);

export const tableKeys = {
  level: level.required(),
  within: within.default(null),
  where: condition.allow(null).default(null),
  sort: Joi.string().allow(null).default(null),
  descending: Joi.boolean().default(true),
  columns: Joi.array().items(Joi.string()).max(60).default([]),
  window: windowSchema.allow(null).default(null),
  comparison: windowSchema.allow(null).default(null),
};

const dimension = Joi.string()
  .valid(...dimensions)
  .required();

export type CrossTabCall = Pick<TableRequest, 'within' | 'where' | 'window' | 'comparison'> & Cut;

export const crossTabKeys = {
  within: tableKeys.within,
  where: tableKeys.where,
  window: tableKeys.window,
  comparison: tableKeys.comparison,
  rows: dimension,
  columns: dimension.invalid(Joi.ref('rows')),
  separator: Joi.string().allow('').max(5).default(''),
  part: Joi.number().integer().min(0).max(20).default(0),
};

const number = Joi.number().required();
const edit = Joi.alternatives<Edit>(
  Joi.object({
    field: Joi.string()
      .valid(...amountFields)
      .required(),
    how: Joi.string().valid('set', 'percent', 'amount').required(),
    value: number,
  }),
  Joi.object({ field: 'bid', how: Joi.string().valid('rpc', 'rest').required() }),
  Joi.object({ field: 'bid', how: Joi.string().valid('cpc').required(), value: number.positive() }),
  Joi.object({
    field: Joi.string()
      .valid(...choiceFields)
      .required(),
    to: Joi.string().max(40).allow(null).required(),
  }),
  Joi.object({
    field: 'negative',
    matchType: Joi.string().valid('negative_exact', 'negative_phrase').required(),
    scope: Joi.string().valid('ad_group', 'campaign').required(),
  }),
  Joi.object({ field: Joi.string().valid('lane').required() }),
);

export const editSchema = Joi.object<TableRequest & EditRequest>({
  ...tableKeys,
  edit: edit.required(),
  keys: Joi.array().items(Joi.string()).max(300_000).allow(null).default(null),
  values: Joi.object().pattern(Joi.string(), Joi.number().min(0)).allow(null).default(null),
  keepGuards: Joi.boolean().default(true),
});
