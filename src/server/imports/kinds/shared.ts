import type { Column } from '../../../answers/imports.ts';
import { column, zero } from '../files/columns.ts';

/** Columns that several kinds of files have. */

export const date = column('date', 'date', 'day, report date, datum', true);
export const campaign = column('campaign', 'text', 'campaign name, kampagne', true);
export const campaignId = column('campaign_id', 'text', 'campaign number, campaign key');
export const span: readonly Column[] = [
  column('start_date', 'date', 'start, from, first day, period start'),
  column('end_date', 'date', 'end, to, until, last day, period end'),
];
export const sku = column('sku', 'text', 'seller sku, article, article number', true);
export const figures: readonly Column[] = [
  column('impressions', 'count', 'impr, views, shown, impressionen', true),
  column('clicks', 'count', 'click, klicks', true),
  column('spend', 'money', 'cost, costs, ad spend, ad cost, kosten, ausgaben', true),
  column('orders', 'count', 'order count, purchases, conversions, bestellungen'),
  column('units', 'count', 'units sold, quantity, items sold'),
  column('sales', 'money', 'revenue, ad sales, ad revenue, turnover, umsatz'),
]
  .map(zero)
  .concat(column('currency', 'text', 'currency code'));
/** Which target a row is about, and when. */
export const target: readonly Column[] = [
  date,
  campaign,
  campaignId,
  column('campaign_kind', 'text', 'campaign type'),
  column('ad_group', 'text', 'ad group name, adgroup, group, anzeigengruppe', true),
  column('ad_group_id', 'text', 'adgroup id, ad group number'),
  column('target', 'text', 'keyword, keyword or target, keyword text, expression, bid on', true),
  column('target_id', 'text', 'keyword id, target number'),
  column('target_kind', 'text', 'target type, kind of target'),
  column('match_type', 'text', 'match, matching, match kind'),
  ...span,
];
