import { column } from '../files/columns.ts';
import { campaignKey, mergeCampaignNames } from '../staging/campaigns.queries.ts';
import { openDays, sumOfFigures, type DayFact } from '../staging/days.ts';
import { stagedFigures } from '../staging/tables.ts';
import type { Kind } from './kind.ts';
import { campaign, campaignId, date, figures } from './shared.ts';

const fact: DayFact = {
  fact: 'campaign_hour',
  staged: {
    hour: 'smallint',
    campaign: 'text',
    campaign_id: 'text',
    ...stagedFigures,
    minutes_in_budget: 'smallint',
  },
  orders: 'orders',
  check: ({ hour }) => ((hour as number) > 23 ? { column: 'hour', reason: 'Hours go from 0 to 23.' } : null),
  merge: async (tx, accountId) => {
    await mergeCampaignNames(tx, accountId, 'staged_day');
    await tx`
      insert into campaign_hour
      select ${accountId}, s.date, s.hour, c.id, ${sumOfFigures(tx)}, max(s.minutes_in_budget)
      from staged_day s join staged_campaign_id c on c.key = ${campaignKey(tx)}
      group by s.date, s.hour, c.id`;
  },
};

/** What each campaign did in each hour. */
export const campaignHours: Kind = {
  columns: [
    date,
    column('hour', 'count', 'hour of day, stunde', true),
    campaign,
    campaignId,
    ...figures,
    column('minutes_in_budget', 'count', 'minutes within budget'),
  ],
  open: ({ tx, accountId, months }) => openDays(tx, accountId, fact, months),
  analysed: (own) => [own('campaign_hour')],
};
