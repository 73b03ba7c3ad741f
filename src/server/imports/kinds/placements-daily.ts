import { column } from '../files/columns.ts';
import type { RowCheck } from '../files/read.ts';
import { textOf } from '../files/read.ts';
import { campaignKey, mergeCampaignNames } from '../staging/campaigns.queries.ts';
import { openDays, sumOfFigures, type DayFact } from '../staging/days.ts';
import { stagedFigures } from '../staging/tables.ts';
import { both, checkSpan } from '../staging/spans.ts';
import { openSummary } from '../staging/summaries.ts';
import type { Kind } from './kind.ts';
import { campaign, campaignId, date, figures, span } from './shared.ts';
import { words } from './words.ts';

const placements = ['top_of_search', 'rest_of_search', 'product_pages', 'category_browse'];

/** Also brings the placement into the form in which it is kept. */
const checkPlacement: RowCheck = (values) => {
  const placement = words(textOf(values.placement) ?? '');
  if (!placements.includes(placement))
    return { column: 'placement', reason: `It is none of ${placements.join(', ')}.` };
  values.placement = placement;
  return null;
};

const fact: DayFact = {
  fact: 'placement_day',
  staged: { campaign: 'text', campaign_id: 'text', placement: 'text', ...stagedFigures },
  orders: 'orders',
  check: checkPlacement,
  merge: async (tx, accountId) => {
    await mergeCampaignNames(tx, accountId, 'staged_day');
    await tx`
      insert into placement_day
      select ${accountId}, s.date, c.id, s.placement, ${sumOfFigures(tx)}
      from staged_day s join staged_campaign_id c on c.key = ${campaignKey(tx)}
      group by s.date, c.id, s.placement`;
  },
};

/** What each campaign did in each placement on each day. */
export const placementsDaily: Kind = {
  columns: [
    date,
    campaign,
    campaignId,
    column('placement', 'text', 'ad placement, position', true),
    ...figures,
    column('bidding_strategy', 'text', 'strategy'),
    ...span,
  ],
  open: ({ tx, accountId, months }) => openDays(tx, accountId, fact, months),
  openSummary: ({ tx, accountId }) =>
    openSummary(tx, accountId, 'placements-daily', both(checkSpan, checkPlacement)),
  analysed: (own) => [own('placement_day')],
};
