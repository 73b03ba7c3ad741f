import Joi from 'joi';
import type { Window } from '../../core/metrics/days.ts';
import { day } from '../http/doors.ts';
import type { HandOrder } from './placements.ts';

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
