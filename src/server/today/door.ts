import Joi from 'joi';
import type { Window } from '../../core/metrics/days.ts';
import { day } from '../http/doors.ts';
import type { NoteRow } from '../account/notes.queries.ts';

/** What a call may say of days. */

export const noteSchema = Joi.object<NoteRow>({
  day: day.required(),
  toDay: day.default(Joi.ref('day')),
  scope: Joi.string().valid('account', 'product', 'campaign').default('account'),
  object: Joi.string().allow('').max(200).default(''),
  body: Joi.string().trim().min(1).max(500).required(),
});

export const reportSchema = Joi.object<Window>({ from: day.required(), to: day.required() });

export const wordsSchema = Joi.object<{ words: string }>({
  words: Joi.string().allow('').max(20_000).required(),
});
