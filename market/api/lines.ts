import Joi from 'joi';
import { limits } from '../world/account.ts';
import { words } from '../world/matching.ts';

export const entities = [
  'campaign',
  'ad_group',
  'product_ad',
  'placement_modifier',
  'target',
  'negative',
  'picture',
  'title',
  'left_out',
] as const;
export type Entity = (typeof entities)[number];

/** One line of a batch: one field of one object, or one created or archived object. */
export interface ChangeLine {
  line_id: string;
  action: 'create' | 'update' | 'archive';
  entity: Entity;
  id?: string | null;
  /** A name of the sender's own for what this line makes: later lines of the batch may refer to it, as `new:NAME`. */
  temp_id?: string | null;
  campaign_id?: string | null;
  ad_group_id?: string | null;
  field?: string | null;
  old_value?: string | null;
  new_value?: string | null;
  target_kind?: string | null;
  match_type?: string | null;
  expression?: string | null;
  /** The fields of a campaign or ad group that is made. */
  values?: Record<string, unknown> | null;
}

export interface LineAnswer {
  line_id: string;
  state: 'applied' | 'refused';
  id?: string;
  code?: string;
  message?: string;
  live_value?: string;
}

const text = Joi.string().allow('', null);

export const batchSchema = Joi.object<{ idempotency_key: string; lines: ChangeLine[] }>({
  idempotency_key: Joi.string().min(8).max(200).required(),
  lines: Joi.array()
    .items(
      Joi.object({
        line_id: Joi.string().required(),
        action: Joi.string().valid('create', 'update', 'archive').required(),
        entity: Joi.string()
          .valid(...entities)
          .required(),
        id: text,
        temp_id: text,
        campaign_id: text,
        ad_group_id: text,
        field: text,
        old_value: text,
        new_value: text,
        target_kind: text,
        match_type: text,
        expression: text,
        values: Joi.object().allow(null),
      }),
    )
    .min(1)
    .max(limits.batch_lines)
    .required(),
});

/** Why a line is not applied. */
export class Refusal extends Error {
  constructor(
    readonly code: string,
    message: string,
    readonly live?: string,
  ) {
    super(message);
  }
}

export const refuse = (code: string, message: string, live?: string): never => {
  throw new Refusal(code, message, live);
};

export function readNumber(value: unknown, field: string): number {
  const number = Number(value);
  if (value === null || value === undefined || value === '' || !Number.isFinite(number))
    refuse(
      'bad_value',
      `${field} "${value === null || value === undefined ? '' : String(value)}" is not a number.`,
    );
  return number;
}

export function checkBid(value: unknown): number {
  const bid = readNumber(value, 'Bid');
  if (bid < limits.minimum_bid)
    refuse('bid_below_minimum', `Bid ${bid} is below the least bid of ${limits.minimum_bid.toFixed(2)}.`);
  if (bid > limits.maximum_bid) refuse('bid_above_maximum', `Bid ${bid} is above ${limits.maximum_bid}.`);
  if (Math.abs(bid * 100 - Math.round(bid * 100)) > 1e-6)
    refuse('bid_step', `Bid ${bid} is not in steps of ${limits.bid_step}.`);
  return bid;
}

export function checkKeyword(expression: string): void {
  if (expression.length > limits.keyword_characters)
    refuse('keyword_too_long', `A keyword has at most ${limits.keyword_characters} characters.`);
  if (words(expression).length === 0) refuse('keyword_empty', 'A keyword needs a letter or digit.');
  if (words(expression).length > limits.keyword_words)
    refuse('keyword_too_many_words', `A keyword has at most ${limits.keyword_words} words.`);
  if (!new RegExp(limits.keyword_pattern, 'u').test(expression))
    refuse('keyword_characters', "A keyword holds letters, digits, spaces and ' - & . + only.");
}

export function checkBudget(value: unknown, kind: 'daily' | 'lifetime'): number {
  const budget = readNumber(value, 'Budget');
  const least = kind === 'daily' ? limits.minimum_budget : limits.minimum_lifetime_budget;
  if (budget < least) refuse('budget_below_minimum', `A ${kind} budget is at least ${least.toFixed(2)}.`);
  return budget;
}

export function readDay(value: unknown): string {
  const day = typeof value === 'string' ? value : '';
  const time = Date.parse(`${day}T00:00:00Z`);
  if (!/^\d{4}-\d\d-\d\d$/.test(day) || new Date(time).toISOString().slice(0, 10) !== day)
    refuse('bad_value', `"${day}" is not a day.`);
  return day;
}

/** A day, or none. */
export const readDayOrNone = (value: unknown): string | null =>
  value === null || value === undefined || value === '' ? null : readDay(value);
