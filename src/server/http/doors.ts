import Joi from 'joi';
import { isDay, windowProblem, type Window } from '../../core/metrics/days.ts';

/** What comes in at many doors alike. */

/** A real day as YYYY-MM-DD. */
export const day = Joi.string().custom((text: string, { message }) =>
  isDay(text) ? text : message({ custom: '{{#label}} is no day: days are written as 2026-11-05' }),
);

/** A window, both ends in it. */
export const window = Joi.object<Window>({ from: day.required(), to: day.required() }).custom(
  (value: Window, { message }) => {
    const wrong = windowProblem(value);
    return wrong === null ? value : message({ custom: wrong });
  },
);
