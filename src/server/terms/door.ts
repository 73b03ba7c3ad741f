import Joi from 'joi';

/** What calls about search terms share. */

const day = Joi.string().pattern(/^\d{4}-\d{2}-\d{2}$/);

export interface WindowCall {
  from: string;
  to: string;
}

export const windowKeys = { from: day.required(), to: day.required() };

export const sku = Joi.string().max(200).allow(null).default(null);

/** Texts as people type or paste them: what is wrong with one is said where it is used. */
export const words = Joi.array().items(Joi.string().max(400)).min(1).max(2000);
