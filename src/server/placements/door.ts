import Joi from 'joi';
import type { Window } from '../../core/metrics/days.ts';
import { day } from '../http/doors.ts';
import { conditionFigures, type Condition } from '../../core/placements/conditions.ts';
import type { HandOrder } from './placements.ts';
import type { StrategyOrder } from './strategies.ts';

export const placementOrderSchema = Joi.object<HandOrder & Window>({
  from: day.required(),
  to: day.required(),
  campaignId: Joi.string()
    .pattern(/^\d{1,18}$/)
    .required(),
  bids: Joi.array()
    .items(
      Joi.object({
        stream: Joi.string().valid('all', 'terms', 'items').required(),
        beta: Joi.number().greater(0).max(10).required(),
      }),
    )
    .unique('stream')
    .default([]),
  modifiers: Joi.array()
    .items(Joi.object({ placement: Joi.string().max(100).required(), to: Joi.number().integer().required() }))
    .unique('placement')
    .max(20)
    .required(),
  confirmed: Joi.boolean(),
});

const strategy = Joi.string().max(100).required();

export const strategyOrderSchema = Joi.object<StrategyOrder & Window>({
  from: day.required(),
  to: day.required(),
  strategy,
  against: strategy,
});

const placement = Joi.string().max(100);
const points = Joi.number().integer().min(0).max(1000).required();

export const conditionsSchema = Joi.object<{ conditions: Condition[] }>({
  conditions: Joi.array()
    .items(
      Joi.object<Condition>({
        name: Joi.string().trim().min(1).max(120).required(),
        isOn: Joi.boolean().required(),
        sku: Joi.string().max(200).allow(null).required(),
        placement: placement.required(),
        figure: Joi.string()
          .valid(...conditionFigures)
          .required(),
        is: Joi.string().valid('at_least', 'at_most').required(),
        share: Joi.number().greater(0).max(100).required(),
        of: placement.allow(null).required(),
        leastClicks: Joi.number().integer().min(1).max(1_000_000).required(),
        days: Joi.number().integer().min(1).max(365).required(),
        leaveOut: Joi.number().integer().min(0).max(60).required(),
        wait: Joi.number().integer().min(0).max(365).required(),
        stepUp: points,
        stepDown: points,
        cap: Joi.number().integer().min(0).required(),
        bids: Joi.number().greater(-1).max(2).required(),
      }),
    )
    .max(50)
    .required(),
});

export const conditionOrderSchema = Joi.object<Window & { campaignIds: string[] }>({
  from: day.required(),
  to: day.required(),
  campaignIds: Joi.array()
    .items(Joi.string().pattern(/^\d{1,18}$/))
    .unique()
    .min(1)
    .max(10_000)
    .required(),
});
