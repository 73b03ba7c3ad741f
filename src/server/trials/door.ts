import Joi from 'joi';
import { decidingFigures, trialControls, type TrialPlan } from '../../core/trials/trials.ts';
import type { TrialAct } from './trials.ts';

/** What a call may say of trials; what a plan must keep to, the core says. */

export const trialSchema = Joi.object<TrialPlan & { lineIds: number[] | null }>({
  name: Joi.string().trim().allow('').max(200).required(),
  days: Joi.number().required(),
  deciding: Joi.string()
    .valid(...decidingFigures)
    .default('gain'),
  control: Joi.string()
    .valid(...trialControls)
    .default('campaigns'),
  harmOrders: Joi.number().allow(null).default(null),
  harmRank: Joi.number().allow(null).default(null),
  lineIds: Joi.array().items(Joi.number().integer().min(1)).min(1).max(200_000).allow(null).required(),
});

export const trialActSchema = Joi.object<TrialAct>({
  act: Joi.string().valid('keep', 'take_back', 'go_on', 'reopen').required(),
  days: Joi.number().integer().min(7).max(84),
});
