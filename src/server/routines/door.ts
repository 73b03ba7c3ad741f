import Joi from 'joi';
import { methods } from '../../core/bids/methods.ts';
import { routineKinds, type Routine } from '../../core/routines/routine.ts';
import { thresholdFigures, thresholdMeasures } from '../../core/routines/thresholds.ts';
import type { DryOrder } from './dry.ts';
import type { RunAct } from './routines.ts';

/** What a call may say of routines; what a routine must keep to, the core says. */

const keys = Joi.array().items(Joi.string().min(1).max(200)).max(10_000).required();
const factor = Joi.number().allow(null).required();
const whole = Joi.number().required();
const money = Joi.number().integer().min(0).max(1e15);

export const routineSchema = Joi.object<Routine>({
  name: Joi.string().trim().allow('').max(400).required(),
  scope: Joi.alternatives(
    Joi.object({ of: Joi.valid('account').required() }),
    Joi.object({ of: Joi.valid('products', 'campaigns', 'budget_groups').required(), keys }),
    Joi.object({
      of: Joi.valid('slice').required(),
      id: Joi.string().max(100).required(),
      meaning: Joi.string().max(100_000).required(),
    }),
  ).required(),
  kinds: Joi.array()
    .items(Joi.string().valid(...Object.keys(routineKinds)))
    .unique()
    .required(),
  moves: Joi.string().valid('both', 'raises', 'cuts').required(),
  method: Joi.string()
    .valid(...methods)
    .allow(null)
    .required(),
  thresholds: Joi.array()
    .max(20)
    .items(
      Joi.object({
        figure: Joi.string()
          .valid(...thresholdFigures)
          .required(),
        is: Joi.string().valid('at_least', 'at_most').required(),
        value: Joi.number().required(),
        measure: Joi.string()
          .valid(...thresholdMeasures)
          .required(),
      }),
    )
    .required(),
  days: whole,
  youngest: whole,
  wait: whole,
  grace: whole,
  byHand: whole,
  leastClicks: whole,
  leastImpressions: whole,
  up: factor,
  down: factor,
  leastBid: money.allow(null).required(),
  highestBid: money.allow(null).required(),
  time: Joi.alternatives(
    Joi.object({ on: Joi.valid('figures').required() }),
    Joi.object({
      on: Joi.valid('time').required(),
      weekdays: Joi.array().items(Joi.number().integer().min(0).max(6)).unique().required(),
      at: Joi.string().max(20).allow('').required(),
    }),
  ).required(),
  reach: Joi.alternatives(
    Joi.object({ how: Joi.valid('propose', 'send').required() }),
    Joi.object({ how: Joi.valid('hold').required(), hours: Joi.number().required() }),
  ).required(),
  limits: Joi.object({
    lines: whole,
    weekLines: whole,
    spend: money.required(),
    weekSpend: money.required(),
    share: Joi.number().required(),
  }).required(),
  stages: Joi.object({
    measure: Joi.string().valid('acos', 'margin').required(),
    from: Joi.number().required(),
    to: Joi.number().required(),
    tuning: Joi.number().required(),
    outDays: whole,
    leastOrders: whole,
  })
    .allow(null)
    .required(),
});

export const changeSchema = Joi.object<{ version: number; settings: Routine }>({
  version: Joi.number().integer().min(1).required(),
  settings: routineSchema.required(),
});

export const turnSchema = Joi.object<{ act: 'on' | 'off' | 'remove' | 'bring_back' | 'run' }>({
  act: Joi.string().valid('on', 'off', 'remove', 'bring_back', 'run').required(),
});

export const orderSchema = Joi.object<{ order: number[] }>({
  order: Joi.array().items(Joi.number().integer().min(1)).max(10_000).required(),
});

export const switchSchema = Joi.object<{ isStopped: boolean }>({ isStopped: Joi.boolean().required() });

export const runActSchema = Joi.object<{ act: RunAct }>({
  act: Joi.string().valid('stop', 'hold_again', 'send_now', 'revert', 'accept', 'accept_beyond').required(),
});

const day = Joi.string()
  .pattern(/^\d{4}-\d{2}-\d{2}$/)
  .required();

export const drySchema = Joi.object<DryOrder>({
  settings: routineSchema.required(),
  from: day,
  to: day,
  besides: Joi.number().integer().min(1).allow(null).default(null),
});
