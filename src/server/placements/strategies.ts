import { fieldLine } from '../../core/changes/lines.ts';
import { windowDays, type Window } from '../../core/metrics/days.ts';
import { sentenceOfStrategy } from '../../core/placements/explain.ts';
import { compareStrategies, servedBetter, strategyCampaigns } from '../../core/placements/strategies.ts';
import { addDrafts, type Accepted } from '../changes/open.ts';
import { ServiceError } from '../errors.ts';
import { placementRows } from './placements.ts';

/** A strategy that would serve campaigns better than the one that they have. */
export interface StrategyOrder {
  strategy: string;
  against: string;
}

/** Puts the strategy of all campaigns that it would serve better onto the open sheet, as one group. */
export async function acceptStrategies(
  accountId: number,
  window: Window,
  { strategy, against }: StrategyOrder,
): Promise<Accepted> {
  const rows = strategyCampaigns(await placementRows(accountId, window));
  const found = servedBetter(rows, compareStrategies(rows), windowDays(window)).find(
    ({ pair }) => pair.strategy === strategy && pair.against === against,
  );
  if (!found) {
    const message = 'This finding is not there any more: the account has changed. Load the page again.';
    throw new ServiceError(409, 'finding_gone', message, { field: 'strategy' });
  }
  const reason = sentenceOfStrategy(found.pair);
  const drafts = found.campaigns.map(({ campaignId }) =>
    fieldLine(
      'campaign',
      'strategy',
      { campaignId, adGroupId: null },
      campaignId,
      { oldValue: against, newValue: strategy },
      { reason },
    ),
  );
  return addDrafts(accountId, drafts, 'Mowing');
}
