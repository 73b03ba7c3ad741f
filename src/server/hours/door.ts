import Joi from 'joi';
import { readSchedule } from '../../core/account/schedule.ts';
import type { Window } from '../../core/metrics/days.ts';
import type { HoursScope } from '../engine/hours.ts';
import { ServiceError } from '../errors.ts';
import { day } from '../http/doors.ts';

/** What a call may say of schedules. */

export interface ScheduleOrders {
  /** As they are written; empty for none. */
  schedules: { campaignId: string; schedule: string }[];
  /** Where they come from: drawn by hand, or out of a file. */
  source: 'hand' | 'file';
}

export const scheduleOrderSchema = Joi.object<ScheduleOrders & Window>({
  from: day.required(),
  to: day.required(),
  schedules: Joi.array()
    .items(
      Joi.object({
        campaignId: Joi.string()
          .pattern(/^\d{1,18}$/)
          .required(),
        schedule: Joi.string()
          .allow('')
          .max(5000)
          .required()
          .custom((text: string, helpers) =>
            readSchedule(text) === null ? helpers.error('any.invalid') : text,
          )
          .messages({
            'any.invalid':
              'A schedule has parts like “sunday 0-23 70” (weekday, first to last hour, per cent of the bid), divided by semicolons.',
          }),
      }),
    )
    .unique('campaignId')
    .min(1)
    .max(20_000)
    .required(),
  source: Joi.string().valid('hand', 'file').default('hand'),
});

/** Whole weeks that tell: those of a year at most. */
const [usualWeeks, mostWeeks] = [12, 52];

/** The weeks that an address asks for. */
export function weeksOf(query: URLSearchParams): number {
  const text = query.get('weeks');
  if (text === null) return usualWeeks;
  const weeks = Number(text);
  if (Number.isInteger(weeks) && weeks >= 1 && weeks <= mostWeeks) return weeks;
  throw new ServiceError(422, 'bad_weeks', `Weeks are whole, from 1 to ${mostWeeks}.`, { field: 'weeks' });
}

/** Whose hours an address asks for: `account`, `product:SKU`, `campaign:ID`, `ad_group:ID`. */
export function scopeOf(query: URLSearchParams): HoursScope {
  const text = query.get('of') ?? 'account';
  const [, kind, key = ''] = /^(account|product|campaign|ad_group)(?::(.+))?$/s.exec(text) ?? [];
  const isId = kind === 'campaign' || kind === 'ad_group';
  const isRight =
    kind !== undefined && (kind === 'account' || key !== '') && (!isId || /^\d{1,18}$/.test(key));
  if (isRight) return { kind: kind as HoursScope['kind'], key: kind === 'account' ? '' : key };
  const message = `“${text}” is no scope: account, product:SKU, campaign:ID or ad_group:ID.`;
  throw new ServiceError(422, 'bad_scope', message, { field: 'of' });
}
