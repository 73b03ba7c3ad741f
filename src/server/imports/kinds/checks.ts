import type { RowCheck } from '../files/read.ts';
import { textOf } from '../files/read.ts';

/** What rows of a kind must keep to beyond the types of their columns. */

const words = (text: string): string =>
  text
    .toLowerCase()
    .trim()
    .replace(/[\s-]+/g, '_');

const entities = [
  'budget_group',
  'campaign',
  'placement_modifier',
  'ad_group',
  'product_ad',
  'target',
  'negative',
];

/** Also brings entity and match type into the form in which they are kept. */
export const checkStructure: RowCheck = (values) => {
  const entity = words(textOf(values.entity) ?? '');
  if (!entities.includes(entity))
    return { column: 'entity', reason: `It is none of ${entities.join(', ')}.` };
  if (entity !== 'budget_group' && !values.campaign && !values.campaign_id)
    return { column: 'campaign', reason: 'It names no campaign.' };
  if (['target', 'negative'].includes(entity) && !values.expression)
    return { column: 'expression', reason: 'It has no expression.' };
  values.entity = entity;
  values.match_type = textOf(values.match_type)?.toLowerCase() ?? null;
  return null;
};

const placements = ['top_of_search', 'rest_of_search', 'product_pages', 'category_browse'];

export const checkPlacement: RowCheck = (values) => {
  const placement = words(textOf(values.placement) ?? '');
  if (!placements.includes(placement))
    return { column: 'placement', reason: `It is none of ${placements.join(', ')}.` };
  values.placement = placement;
  return null;
};

export const checkHour: RowCheck = (values) =>
  (values.hour as number) > 23 ? { column: 'hour', reason: 'Hours go from 0 to 23.' } : null;

export const checkRank: RowCheck = (values) => {
  const column = ['organic_rank', 'sponsored_rank'].find((name) => values[name] === 0);
  return column ? { column, reason: 'Positions begin at 1; leave it empty when it was not found.' } : null;
};

export const checkSpan: RowCheck = (values) =>
  (values.start_date as string) > (values.end_date as string)
    ? { column: 'end_date', reason: 'It lies before the first day.' }
    : null;

/** One check after the other; the first that fails speaks. */
export const both =
  (...checks: RowCheck[]): RowCheck =>
  (values) => {
    for (const check of checks) {
      const wrong = check(values);
      if (wrong) return wrong;
    }
    return null;
  };
