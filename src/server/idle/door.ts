import Joi from 'joi';
import type { ToleranceCall } from './tolerances.ts';

const day = Joi.string().pattern(/^\d{4}-\d{2}-\d{2}$/);

export const tolerancesSchema = Joi.object<ToleranceCall>({
  entries: Joi.array()
    .min(1)
    .max(50_000)
    .items(
      Joi.object({
        findingKey: Joi.string().max(1000).required(),
        tolerance: Joi.object({
          amount: Joi.number().integer().min(10_000).max(1e12).allow(null).required(),
          reason: Joi.string().trim().min(1).max(500).required(),
          until: day.allow(null).required(),
          since: day,
        })
          .allow(null)
          .required(),
      }),
    )
    .required(),
});
