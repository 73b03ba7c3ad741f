import Joi from 'joi';
import { day } from '../http/doors.ts';
import type { NegativeList, NegativesCall } from './negatives.ts';

/** What calls about search terms share. */

export interface WindowCall {
  from: string;
  to: string;
}

export const windowKeys = { from: day.required(), to: day.required() };

export const sku = Joi.string().max(200).allow(null).default(null);

/** Texts as people type or paste them: what is wrong with one is said where it is used. */
export const words = Joi.array().items(Joi.string().max(400)).min(1).max(2000);

const negativeType = Joi.string().valid('negative_exact', 'negative_phrase', 'negative_item');

/** Ten thousand lines at once are fine; what is wrong with one of them is said of it. */
export const negativesCall = Joi.object<NegativesCall>({
  scope: Joi.string().valid('ad_group', 'campaign', 'product', 'list', 'account').required(),
  ids: Joi.array().items(Joi.string()).max(20_000).default([]),
  texts: Joi.array().items(Joi.string().allow('')).min(1).max(50_000).required(),
  matchType: negativeType.required(),
});

export const negativeList = Joi.object<NegativeList>({
  name: Joi.string().trim().min(1).max(80).required(),
  entries: Joi.array()
    .items(Joi.object({ matchType: negativeType.required(), expression: Joi.string().max(5000).required() }))
    .max(50_000)
    .required(),
  campaignIds: Joi.array().items(Joi.string()).max(20_000).default([]),
});
