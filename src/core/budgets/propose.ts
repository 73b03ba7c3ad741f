import normal from '@stdlib/stats-base-dists-normal-cdf';
import type { Response } from '../effect/response.ts';
import { elasticityOver } from '../effect/response.ts';
import { daysBetween, type Day } from '../metrics/days.ts';
import type { Micros } from '../metrics/money.ts';
import { spendUnder } from './lost.ts';

/** What to do about a budget that runs dry, or lies idle (domain, section 9). */

export type BudgetKind = 'raise' | 'lower_bids' | 'slack';

/** A campaign and its daily budget as they stand. Money in micros. */
export interface BudgetNow {
  budget: Micros;
  /** What its days would have spent with budget all day. */
  full: readonly Micros[];
  /** For which part of its clicks' time it had budget; null where that is not told. */
  shown: number | null;
  cpc: Micros;
  /** What a click is expected to sell, and the standard deviation of that. */
  earns: Micros;
  earnsSpread: Micros;
  /** What of its clicks its product's other campaigns catch while it is without budget, and what these pay for a click. */
  caught: number;
  cpcOthers: Micros;
  /** Orders a click. */
  perClick: number;
  targetAcos: number;
  theta: number;
  response: Response;
  /** The last day on which the budget was changed. */
  changedOn: Day | null;
}

/** What one way out does to the product's campaigns together in a week. Money in micros. */
export interface BudgetOption {
  kind: BudgetKind;
  /** The budget then, and the factor on all bids. */
  budget: Micros;
  bids: number;
  /** Of the campaign alone: what its others caught of it is no gain. */
  own: number;
  clicks: number;
  spend: Micros;
  orders: number;
  sales: Micros;
  worth: Micros;
}

export interface BudgetProposal {
  chosen: BudgetOption;
  /** All ways that were compared, the chosen one first. */
  options: BudgetOption[];
  /** Chance that it gains at the price of money, and that the campaign is over its goal. */
  chance: number;
  over: number;
  held: readonly ('cooldown' | 'largest step')[];
}

export interface BudgetGuards {
  /** The marketplace's least daily budget. */
  minimumBudget: Micros;
  cooldownDays: number;
  /** A budget is raised to so many times itself at most. */
  largestRaise: number;
  /** Bids are lowered to this part at least. */
  largestCut: number;
}

export const budgetGuards: Omit<BudgetGuards, 'minimumBudget' | 'cooldownDays'> = {
  largestRaise: 2,
  largestCut: 0.5,
};

/** A budget is meant to last: so much above what a full day spends on the mean. */
export const headroom = 1.2;
/** A campaign with budget for less than this part of its time is dry. */
export const dry = 0.97;
/** A budget of twice the dearest day is idle, once so many days tell it. */
const idle = { times: 2, left: 1.5, days: 14 };
/** Budgets are set in steps of ten cents. */
const step = 100_000;

export const upToStep = (budget: Micros): Micros => Math.ceil(budget / step - 1e-9) * step;

const week = 7;
const cuts = Array.from({ length: 50 }, (_, at) => 1 - at / 100);

/** What a budget and a factor on the bids do in a week, beside what stands. */
export function optionOf(
  { budget: now, full, cpc, earns, perClick, theta, response, caught, cpcOthers }: BudgetNow,
  kind: BudgetKind,
  budget: Micros,
  bids: number,
): BudgetOption {
  const clicksBy = bids ** elasticityOver(response, bids);
  const cpcBy = bids ** response.cpc;
  const days = bids === 1 ? full : full.map((day) => day * clicksBy * cpcBy);
  const before = spendUnder(now, full);
  const after = spendUnder(budget, days);
  const own = week * (after / (cpc * cpcBy) - before / cpc);
  const clicks = own * (1 - caught);
  const spend = week * (after - before) - caught * own * cpcOthers;
  const sales = clicks * earns;
  return {
    kind,
    budget,
    bids,
    own,
    clicks,
    spend,
    orders: clicks * perClick,
    sales,
    worth: theta * sales - spend,
  };
}

/**
 * Raises the budget to what a full day spends and a fifth more, or lowers the bids so far that the same money buys most clicks,
 * whichever is worth more; over the goal the budget is never raised. A budget that is twice the dearest day is idle, and
 * what is idle may go elsewhere. Null where it stands right.
 */
export function proposeBudget(now: BudgetNow, guards: BudgetGuards, today: Day): BudgetProposal | null {
  const { budget, full, shown, cpc, earns, earnsSpread, theta, targetAcos, changedOn } = now;
  if (full.length === 0 || budget <= 0) return null;
  const below = (price: number) =>
    earnsSpread > 0 ? normal(cpc / price, earns, earnsSpread) : cpc / price > earns ? 1 : 0;
  const over = below(targetAcos);
  const isHeld = changedOn !== null && daysBetween(changedOn, today) < guards.cooldownDays;
  if (shown === null || shown >= dry) {
    const most = Math.max(...full);
    if (full.length < idle.days || budget < idle.times * most) return null;
    const to = Math.max(guards.minimumBudget, upToStep(idle.left * most));
    if (to >= budget) return null;
    const chosen = optionOf(now, 'slack', to, 1);
    return { chosen, options: [chosen], chance: 1, over, held: isHeld ? ['cooldown'] : [] };
  }
  const mean = full.reduce((sum, day) => sum + day, 0) / full.length;
  const wanted = Math.max(upToStep(headroom * mean), Math.min(budget + step, upToStep(Math.max(...full))));
  const most = upToStep(guards.largestRaise * budget);
  const to = Math.min(wanted, most);
  const options: BudgetOption[] = [];
  if (over <= 0.5 && to > budget) options.push(optionOf(now, 'raise', to, 1));
  const lowered = cuts
    .filter((bids) => bids < 1 && bids >= guards.largestCut)
    .map((bids) => optionOf(now, 'lower_bids', budget, bids))
    // Cuts beyond that are a question of the bids' own worth, not of the budget.
    .reduce((best, one) => (one.own > best.own ? one : best));
  options.push(lowered);
  options.sort((a, b) => b.worth - a.worth);
  const [chosen] = options as [BudgetOption];
  if (chosen.worth <= 0) return null;
  return {
    chosen,
    options,
    // Lower bids buy more clicks for the same money whatever they sell.
    chance: chosen.kind === 'raise' ? 1 - below(theta) : 1,
    over,
    held: [
      ...(isHeld ? (['cooldown'] as const) : []),
      ...(chosen.kind === 'raise' && wanted > most ? (['largest step'] as const) : []),
    ],
  };
}
