import Joi from 'joi';
import { usualKit, type KitBody } from '../../core/kits/kit.ts';
import { togethers } from '../../core/kits/profit.ts';
import {
  automaticModes,
  partKinds,
  partStates,
  sources,
  strategies,
  type Part,
  type Recipe,
} from '../../core/kits/recipe.ts';
import { budgetKinds, pacings } from '../../core/kits/types.ts';
import { day } from '../http/doors.ts';

/** What a call may say of kits. Money in micros. */

const amount = Joi.number().integer().min(0).max(1e15);
const text = (most: number) => Joi.string().trim().max(most);

const part = Joi.object<Part>({
  name: text(60).min(1).required(),
  kind: Joi.string()
    .valid(...partKinds)
    .required(),
  modes: Joi.array()
    .items(Joi.string().valid(...automaticModes))
    .unique()
    .required(),
  purpose: text(60).allow('').required(),
  share: Joi.number().greater(0).max(1000).required(),
  strategy: Joi.string()
    .valid(...strategies)
    .required(),
  modifiers: Joi.object().pattern(Joi.string().max(60), Joi.number().min(0).max(900)).required(),
  firstBid: Joi.alternatives(
    Joi.object({ way: Joi.string().valid('evidence').required() }),
    Joi.object({ way: Joi.string().valid('range').required(), at: Joi.number().min(0).max(1).required() }),
    Joi.object({ way: Joi.string().valid('fixed').required(), bid: amount.required() }),
  ).required(),
  source: Joi.string()
    .valid(...sources)
    .required(),
  state: Joi.string()
    .valid(...partStates)
    .required(),
});

/** A recipe as its file holds it. */
export const recipeSchema = Joi.object<Recipe>({
  name: text(80).min(1).required(),
  pattern: text(200).min(1).required(),
  parts: Joi.array().items(part).min(1).max(40).required(),
});

const edit = Joi.object({
  state: Joi.string().valid(...partStates),
  name: Joi.string().max(400).allow(''),
  budget: amount,
  strategy: Joi.string().valid(...strategies),
  bid: amount,
  stands: Joi.string().max(40).allow(null),
  refresh: Joi.boolean(),
});

/** A kit as it is kept while it is made: what is wrong with it is said by its plan. */
export const kitBody = Joi.object<KitBody>({
  name: text(120).min(1).required(),
  skus: Joi.array().items(Joi.string().max(200)).max(200).unique().required(),
  recipe: recipeSchema.required(),
  together: Joi.string()
    .valid(...togethers)
    .default(usualKit.together),
  budget: amount.required(),
  budgetKind: Joi.string()
    .valid(...budgetKinds)
    .default(usualKit.budgetKind),
  pacing: Joi.string()
    .valid(...pacings)
    .default(usualKit.pacing),
  startDate: day.allow(null).required(),
  endDate: day.allow(null).required(),
  startPaused: Joi.boolean().required(),
  keywords: Joi.array()
    .items(Joi.object({ text: Joi.string().max(400).required(), bid: amount.allow(null).required() }))
    .max(20_000)
    .required(),
  items: Joi.array()
    .items(Joi.object({ itemCode: Joi.string().max(60).required(), bid: amount.allow(null).required() }))
    .max(5000)
    .required(),
  categories: Joi.array()
    .items(
      Joi.object({
        category: text(120).min(1).required(),
        fromOwnPrice: Joi.boolean().required(),
        toOwnRating: Joi.boolean().required(),
        brand: text(120).min(1).allow(null).required(),
      }),
    )
    .max(100)
    .default([]),
  completes: Joi.boolean().default(usualKit.completes),
  pictures: Joi.array()
    .items(
      Joi.object({ id: Joi.string().hex().length(64).required(), name: Joi.string().max(200).required() }),
    )
    .unique('id')
    .max(20)
    .default([]),
  titles: Joi.array().items(Joi.string().max(400)).max(20).default([]),
  leftOut: Joi.array().items(Joi.string().max(600)).max(400).default([]),
  lists: Joi.array().items(Joi.number().integer().min(1)).max(100).unique().default([]),
  excluded: Joi.array().items(Joi.string().max(400)).max(1000).required(),
  codes: Joi.object().pattern(Joi.string(), text(80).min(1)).required(),
  edits: Joi.object().pattern(Joi.string(), Joi.object().pattern(Joi.string(), edit)).required(),
});

export const kitEdit = Joi.object<{ version: number; body: KitBody }>({
  version: Joi.number().integer().min(1).required(),
  body: kitBody.required(),
});

export const kitNew = Joi.object<{ kitId: string; body: KitBody }>({
  kitId: Joi.string().uuid().required(),
  body: kitBody.required(),
});

export const kitSend = Joi.object<{ version: number }>({
  version: Joi.number().integer().min(1).required(),
});
