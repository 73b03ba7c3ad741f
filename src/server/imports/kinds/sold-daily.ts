import { column } from '../files/columns.ts';
import {
  adGroupKey,
  campaignKey,
  mergeAdGroupNames,
  mergeCampaignNames,
} from '../staging/campaigns.queries.ts';
import { openDays, type DayFact } from '../staging/days.ts';
import type { Kind } from './kind.ts';
import { campaign, campaignId, date, sku } from './shared.ts';

const fact: DayFact = {
  fact: 'sold_day',
  staged: {
    campaign: 'text',
    campaign_id: 'text',
    ad_group: 'text',
    ad_group_id: 'text',
    sku: 'text',
    orders: 'integer',
    units: 'integer',
    sales: 'bigint',
  },
  orders: 'orders',
  check: null,
  merge: async (tx, accountId) => {
    await mergeCampaignNames(tx, accountId, 'staged_day');
    await mergeAdGroupNames(tx, accountId, 'staged_day');
    await tx`
      insert into sold_day
      select ${accountId}, s.date, g.id, s.sku, sum(coalesce(s.orders, 0)), sum(coalesce(s.units, s.orders, 0)),
        sum(s.sales)
      from staged_day s join staged_campaign_id c on c.key = ${campaignKey(tx)}
      join staged_ad_group_id g on g.key = ${adGroupKey(tx)}
      group by s.date, g.id, s.sku`;
  },
};

/** What the ads of each ad group sold on each day, product by product: those advertised and others. */
export const soldDaily: Kind = {
  columns: [
    date,
    campaign,
    campaignId,
    column('ad_group', 'text', 'ad group name, adgroup, group, anzeigengruppe', true),
    column('ad_group_id', 'text', 'adgroup id, ad group number'),
    { ...sku, synonyms: [...sku.synonyms, 'sold sku', 'purchased sku'] },
    column('orders', 'count', 'order count, purchases, conversions, bestellungen'),
    column('units', 'count', 'units sold, quantity, items sold'),
    column('sales', 'money', 'revenue, ad sales, ad revenue, turnover, umsatz', true),
    column('currency', 'text', 'currency code'),
  ],
  open: ({ tx, accountId, months }) => openDays(tx, accountId, fact, months),
  analysed: (own) => [own('sold_day')],
};
