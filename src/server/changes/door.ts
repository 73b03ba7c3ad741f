import Joi from 'joi';
import { lineFilters, lineOrders, type LineView } from '../../core/changes/sheet.ts';
import { check } from '../http/http.ts';

/** What calls say of the lines that they want. */

export interface PageWanted {
  view: LineView;
  from: number;
  count: number;
}

const page = Joi.object<LineView & { from: number; count: number }>({
  show: Joi.string()
    .valid(...lineFilters)
    .default('all'),
  find: Joi.string().allow('').max(200).default(''),
  order: Joi.string()
    .valid(...lineOrders)
    .default('place'),
  from: Joi.number().integer().min(0).max(10_000_000).default(0),
  count: Joi.number().integer().min(1).max(1000).default(200),
}).options({ stripUnknown: true });

/** The view and part of a sheet that a query asks for. */
export function pageWanted(query: URLSearchParams): PageWanted {
  const { from, count, ...view } = check(page, Object.fromEntries(query) as never);
  return { view, from, count };
}
