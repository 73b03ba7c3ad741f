import { fieldLine, type LineDraft } from '../changes/lines.ts';
import { eighty } from '../effect/forecast.ts';
import type { Effect } from '../effect/types.ts';
import type { Micros } from '../metrics/money.ts';
import { bidMoves, moveLine } from '../placements/lines.ts';
import type { StructureCampaign } from '../structure/ground.ts';
import type { BudgetOption } from './propose.ts';

/** How budgets reach the sheet: as one line, or as the bids of a campaign together, under one key. */

const keyStart = 'budget:';
export const budgetKey = (campaignId: string): string => `${keyStart}${campaignId}`;
export const campaignOfBudgetKey = (key: string): string => key.slice(keyStart.length);
export const isBudgetKey = (key: string): boolean => key.startsWith(keyStart);

type Chosen = Pick<BudgetOption, 'kind' | 'budget' | 'bids'>;

/** How many lines carry it out. */
export const countBudgetLines = (campaign: StructureCampaign, { kind, bids }: Chosen): number =>
  kind === 'lower_bids' ? bidMoves(campaign, () => bids).length : 1;

/** The line that sets a campaign's daily budget. */
export const budgetLine = (
  campaignId: string,
  from: Micros,
  to: Micros,
  note: { reason: string; effect?: Effect | null },
): LineDraft => ({
  ...fieldLine(
    'campaign',
    'daily_budget',
    { campaignId, adGroupId: null },
    campaignId,
    { oldValue: String(from), newValue: String(to) },
    { reason: note.reason },
  ),
  effect: note.effect ?? null,
});

/** Change a week with what is not known of it: what a click sells, and how many there are. */
export function effectOfBudget(
  { clicks, spend, orders, sales }: BudgetOption,
  { earns, earnsSpread }: { earns: Micros; earnsSpread: Micros },
  clicksShare: number,
  margin: number | null,
): Effect {
  const salesSpread = Math.abs(sales) * Math.hypot(clicksShare, earns > 0 ? earnsSpread / earns : 0);
  const share = sales === 0 ? 0 : salesSpread / Math.abs(sales);
  const spreads = {
    clicks: Math.abs(clicks) * clicksShare,
    spend: Math.abs(spend) * clicksShare,
    orders: Math.abs(orders) * share,
    sales: salesSpread,
    profit: margin === null ? null : Math.hypot(margin * salesSpread, Math.abs(spend) * clicksShare),
  };
  return {
    clicks,
    spend,
    orders,
    sales,
    salesLow: sales - eighty * salesSpread,
    salesHigh: sales + eighty * salesSpread,
    profit: margin === null ? null : margin * sales - spend,
    spreads,
  };
}

/** Lines that carry a way out out: the budget, or all bids of the campaign times a factor, which stay together. */
export function budgetDrafts(
  campaign: StructureCampaign,
  { kind, budget, bids }: Chosen,
  { reason, effect }: { reason: string; effect: Effect | null },
): LineDraft[] {
  const { campaignId, dailyBudget } = campaign;
  if (kind !== 'lower_bids') return [budgetLine(campaignId, dailyBudget ?? 0, budget, { reason, effect })];
  const note = { reason, harvest: budgetKey(campaignId) };
  const drafts = bidMoves(campaign, () => bids).map((move) => moveLine(campaignId, move, note));
  const [first] = drafts;
  if (first) first.effect = effect;
  return drafts;
}
