import Joi from 'joi';
import type { BudgetLimit, BudgetRule } from '../../core/budgets/rules.ts';
import type { Window } from '../../core/metrics/days.ts';
import type { Micros } from '../../core/metrics/money.ts';
import { day } from '../http/doors.ts';

/** What a call may say of budgets. Money in micros, a day. */

const most = 1e12;
const campaignId = Joi.string()
  .pattern(/^\d{1,18}$/)
  .required();
const amount = Joi.number().integer().min(0).max(most).allow(null).required();

export interface BudgetOrders {
  budgets: { campaignId: string; budget: Micros }[];
  /** Where they come from: set by hand, split from a total, or out of a file. */
  source: 'hand' | 'split' | 'file';
}

export const budgetOrderSchema = Joi.object<BudgetOrders & Window>({
  from: day.required(),
  to: day.required(),
  budgets: Joi.array()
    .items(Joi.object({ campaignId, budget: Joi.number().integer().min(0).max(most).required() }))
    .unique('campaignId')
    .min(1)
    .max(20_000)
    .required(),
  source: Joi.string().valid('hand', 'split', 'file').default('hand'),
});

export const ruleSchema = Joi.object<BudgetRule>({
  scope: Joi.string().valid('account', 'product', 'budget_group').required(),
  object: Joi.string().allow('').max(200).default(''),
  total: Joi.number().integer().greater(0).max(most).allow(null).required().messages({
    'number.greater': 'A total of nothing would stop every campaign: set one above 0.00, or none.',
  }),
  least: amount,
  most: amount,
  researchShare: Joi.number().min(0).max(1).allow(null).required(),
  researchCap: amount,
  graceDays: Joi.number().integer().min(1).max(90).allow(null).required(),
  graceLeast: amount,
});

export const limitSchema = Joi.object<BudgetLimit>({ campaignId, least: amount, most: amount });
