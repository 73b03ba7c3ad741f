import type { ScopeName } from '../goals/goals.ts';
import { counted, percent } from '../metrics/format.ts';
import type { TargetsInput } from './types.ts';

/** Goals beyond these are no mistake of ours to correct, but rarely meant. */
const [tightest, loosest] = [0.01, 1];

/**
 * What is odd about an account, in sentences: without them an account with no order, one target, or no price would look
 * merely done. Empty for an account that can be judged as usual.
 */
export function noticesOf(input: TargetsInput): string[] {
  const { evidence, window, adGroups, products, goals } = input;
  const rows = input.targets.filter(({ enabled, adGroupId }) => enabled && adGroups.has(adGroupId));
  const seen = { clicks: 0, orders: 0, sales: 0, impressions: 0 };
  for (const row of input.targets) {
    seen.clicks += row.seenClicks;
    seen.orders += row.seenOrders;
    seen.sales += row.seenSales;
    seen.impressions += row.impressions;
  }
  const notices: string[] = [];
  if (rows.length === 0) notices.push('No target is enabled: there is no bid to judge.');
  if (rows.length === 1)
    notices.push(
      'There is one target: without siblings to learn from, it is judged by its own clicks alone.',
    );
  if (rows.length > 0 && seen.impressions === 0)
    notices.push(
      `Nothing was shown from ${window.from} to ${window.to}: what is proposed rests on what was seen before.`,
    );
  if (seen.clicks > 0 && seen.orders === 0)
    notices.push(
      `No order came from ${counted(seen.clicks, 'click')} since ${evidence.from}: half an order in these is assumed, ` +
        'and the product’s price as its value.',
    );
  const accountValue = seen.orders > 0 && seen.sales > 0;
  const priced = (adGroupId: string): boolean => {
    const { sku } = adGroups.get(adGroupId)!;
    return accountValue || (sku !== null && (products.get(sku)?.price ?? 0) > 0);
  };
  const unpriced = rows.filter(({ adGroupId }) => !priced(adGroupId)).length;
  if (unpriced > 0)
    notices.push(
      `${counted(unpriced, 'target')} cannot be judged: the product has no price and nothing was ever sold, so that ` +
        'nothing tells what a click may earn. Load its price with a products file under Data.',
    );
  for (const goal of goals) {
    if (goal.targetAcos === null) continue;
    const target = percent(goal.targetAcos);
    if (goal.targetAcos < tightest)
      notices.push(
        `The goal of ${target} ${placeOf(goal, input)} lets a click cost next to nothing: bids go to the least that is allowed.`,
      );
    if (goal.targetAcos > loosest)
      notices.push(
        `Under the goal of ${target} ${placeOf(goal, input)} a click may cost more than it sells.`,
      );
  }
  return notices;
}

function placeOf({ scope, key }: ScopeName, { adGroups }: TargetsInput): string {
  if (scope === 'account') return 'of the account';
  const named = [...adGroups.values()].find(({ campaignId }) => campaignId === key)?.campaign;
  return `of ${scope} ${(scope === 'campaign' && named) || key}`;
}
