import Joi from 'joi';
import { stances } from '../../core/bids/guards.ts';
import { methods } from '../../core/bids/methods.ts';
import { goalScopes, objectives } from '../../core/goals/goals.ts';
import type { CostsCall, GoalCall } from './goals.ts';
import type { PlanRow } from '../../answers/goals.ts';

/** What may be said of goals. */

export const goalScope = Joi.string()
  .valid(...goalScopes)
  .required();
const orNull = <T>(schema: Joi.Schema<T>) => schema.allow(null);
const micros = Joi.number().integer().min(0).max(1e12);
const share = Joi.number().min(-10).max(10);

const ladder = Joi.object({
  bands: Joi.array()
    .max(20)
    .items(
      Joi.object({
        above: Joi.number().min(0).max(1000).required(),
        step: Joi.number().min(-1).max(10).required(),
        orders: Joi.number().min(0).max(1000).required(),
      }),
    )
    .required(),
  noSales: Joi.object({
    clicks: orNull(Joi.number().min(0).max(1e6)).required(),
    spend: orNull(micros).required(),
    step: Joi.alternatives(Joi.number().min(-1).max(1), Joi.string().valid('rest')).required(),
  }).required(),
});

const guards = Joi.object({
  up: Joi.number().min(0).max(1000),
  down: Joi.number().min(0).max(1000),
  overHighestCpc: Joi.number().min(0).max(1000),
  least: Joi.number().min(0).max(1000),
  cooldownDays: Joi.number().min(0).max(1000),
});

export const goalSchema = Joi.object<GoalCall>({
  scope: goalScope,
  key: Joi.string().allow('').max(200).default(''),
  objective: orNull(Joi.string().valid(...objectives)),
  targetAcos: orNull(Joi.number().min(0.001).max(5)),
  targetMargin: orNull(Joi.number().min(-1).max(1)),
  bidFloor: orNull(micros),
  bidCeiling: orNull(micros),
  stance: orNull(Joi.string().valid(...stances)),
  method: orNull(Joi.string().valid(...methods)),
  ladder: orNull(ladder),
  guards: orNull(guards),
  aboveOne: Joi.boolean(),
  confirmed: Joi.boolean(),
});

export const costsSchema = Joi.object<CostsCall>({
  sku: Joi.string().max(200).required(),
  unitCost: orNull(micros).required(),
  feeRate: orNull(share.min(0).max(1)).required(),
  feeFixed: orNull(micros).required(),
  shipping: orNull(micros).required(),
  refundRate: orNull(share.min(0).max(1)).required(),
});

const planRow = Joi.object<PlanRow>({
  month: Joi.string()
    .pattern(/^\d{4}-(0[1-9]|1[0-2])-01$/)
    .required(),
  sku: Joi.string().allow('').max(200).default(''),
  spend: orNull(micros).required(),
  sales: orNull(micros).required(),
  revenue: orNull(micros).required(),
});

export const planSchema = Joi.object<{ rows: PlanRow[] }>({
  rows: Joi.array().items(planRow).min(1).max(20_000).required(),
});
