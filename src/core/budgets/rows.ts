import type { Sums } from '../metrics/figures.ts';
import type { Belief } from '../evidence/verdict.ts';
import type { Response } from '../effect/response.ts';
import type { Day } from '../metrics/days.ts';
import type { Micros } from '../metrics/money.ts';
import type { StructureCampaign, StructureTarget } from '../structure/ground.ts';
import type { CampaignDay } from './hours.ts';
import { countBudgetLines } from './lines.ts';
import { lostOf } from './lost.ts';
import { proposeBudget, type BudgetGuards, type BudgetNow, type BudgetProposal } from './propose.ts';

/** Campaigns by their budgets: how long they last, what was missed, and what is proposed (domain, section 9). */

export interface BudgetGround {
  today: Day;
  campaigns: readonly StructureCampaign[];
  days: ReadonlyMap<string, readonly CampaignDay[]>;
  /** The last day on which a campaign's budget was changed. */
  changedOn: ReadonlyMap<string, Day>;
  guards: BudgetGuards;
  response: Response;
  responses?: ReadonlyMap<string, Response>;
  /** Campaigns that find terms and items. */
  research: ReadonlySet<string>;
  /** What a click of its product's other campaigns costs; null without one. */
  othersCpc: (campaignId: string) => Micros | null;
  /** What its product's other campaigns catch of what a campaign misses, 0 to 1. */
  caught: (campaignId: string) => number;
  /** The first day on which anything is known of a campaign. */
  since: ReadonlyMap<string, Day>;
}

/** A campaign with its budget as it is shown. Money in micros. */
export interface BudgetRow {
  campaignId: string;
  name: string;
  sku: string | null;
  /** A day; null where its budget is of another kind. */
  budget: Micros | null;
  isResearch: boolean;
  since: Day | null;
  /** Day by day: what it spent, and the minutes with budget left, null where not told. */
  days: { day: Day; spend: Micros; minutes: number | null }[];
  /** What each of these days would have spent with budget all day. */
  full: Micros[];
  /** For which part of its clicks' time it had budget; null where minutes are not told. */
  shown: number | null;
  /** What its product's other campaigns catch of the clicks that it misses, 0 to 1. */
  caught: number;
  /** Of a week: clicks and sales missed, and their standard deviations. */
  lost: { clicks: number; clicksSpread: number; sales: Micros; salesSpread: Micros };
  /** Of these days. */
  sums: Pick<Sums, 'clicks' | 'spend' | 'orders' | 'sales'>;
  /** What a click costs and is expected to sell, with its standard deviation. */
  cpc: Micros | null;
  earns: Micros;
  earnsSpread: Micros;
  targetAcos: number;
  theta: number;
  proposal: BudgetProposal | null;
  /** Worth a finding: a budget that runs dry, no cooldown holds it, it gains with a chance of 80 %. */
  isFinding: boolean;
  /** It would be a finding, but a cooldown holds it. */
  isHeld: boolean;
  /** How many lines carry it out; 0 where nothing is proposed. */
  lines: number;
}

/** Gains less surely than this are chance. */
const sure = 0.8;
/** What is known of a campaign's mean is never better than so many orders more than it had. */
const sharedOrders = 10;
const week = 7;

/** Of what a click sells: that of orders per click, shape / rate^2, times the value of one squared. */
const varianceOf = ({ gamma: { shape, rate }, value }: Belief): number => (shape / rate ** 2) * value ** 2;

/** What a click of a campaign is expected to sell, over its targets by their clicks. */
export function earningsOf(targets: readonly StructureTarget[]): {
  earns: Micros;
  spread: Micros;
  perClick: number;
  mean: (of: (one: StructureTarget) => number) => number;
} {
  const weigh = targets.some(({ clicks }) => clicks > 0) ? (one: StructureTarget) => one.clicks : () => 1;
  const weight = targets.reduce((sum, one) => sum + weigh(one), 0);
  const mean = (of: (one: StructureTarget) => number) =>
    weight > 0 ? targets.reduce((sum, one) => sum + weigh(one) * of(one), 0) / weight : 0;
  const earns = mean((one) => one.earns);
  const value = mean((one) => one.value);
  const own =
    weight > 0
      ? targets.reduce((sum, one) => sum + (weigh(one) / weight) ** 2 * varianceOf(one.belief), 0)
      : 0;
  const orders = targets.reduce((sum, { row }) => sum + row.y, 0);
  return {
    earns,
    spread: Math.max(Math.sqrt(own), earns / Math.sqrt(orders + sharedOrders)),
    perClick: value > 0 ? earns / value : 0,
    mean,
  };
}

/** Every campaign that runs, those with a finding first, by worth, then by spend. */
export function budgetRows(ground: BudgetGround): BudgetRow[] {
  const worthOf = ({ isFinding, proposal }: BudgetRow) => (isFinding ? proposal!.chosen.worth : 0);
  return ground.campaigns
    .map((campaign) => budgetRow(campaign, ground))
    .sort((a, b) => worthOf(b) - worthOf(a) || b.sums.spend - a.sums.spend);
}

const sumOf = (days: readonly CampaignDay[], of: (one: CampaignDay) => number): number =>
  days.reduce((sum, one) => sum + of(one), 0);

/** A campaign's budget as ways out of it are weighed; null where nothing can be said: no daily budget, no click. */
export function budgetNow(
  { campaignId, dailyBudget, adGroups }: StructureCampaign,
  { days, changedOn, response, responses, caught, othersCpc }: BudgetGround,
): BudgetNow | null {
  const { full, shown, cpc } = lostOf(days.get(campaignId) ?? []);
  const { earns, spread, perClick, mean } = earningsOf(adGroups.flatMap(({ targets }) => targets));
  if (dailyBudget === null || cpc === null || earns <= 0) return null;
  return {
    budget: dailyBudget,
    full,
    shown,
    cpc,
    earns,
    earnsSpread: spread,
    caught: caught(campaignId),
    cpcOthers: othersCpc(campaignId) ?? cpc,
    perClick,
    targetAcos: mean((one) => one.targetAcos),
    theta: mean((one) => one.theta),
    response: responses?.get(campaignId) ?? response,
    changedOn: changedOn.get(campaignId) ?? null,
  };
}

function budgetRow(campaign: StructureCampaign, ground: BudgetGround): BudgetRow {
  const { campaignId, name, adGroups, dailyBudget } = campaign;
  const days = ground.days.get(campaignId) ?? [];
  const { full, shown, cpc, clicks: missed, spread } = lostOf(days);
  const { earns, spread: earnsSpread, mean } = earningsOf(adGroups.flatMap(({ targets }) => targets));
  const now = budgetNow(campaign, ground);
  const proposal = now && proposeBudget(now, ground.guards, ground.today);
  const gains = proposal !== null && proposal.chosen.kind !== 'slack' && proposal.chance >= sure;
  const isHeld = gains && proposal.held.includes('cooldown');
  const perWeek = days.length > 0 ? week / days.length : 0;
  const [clicks, clicksSpread] = [missed * perWeek, spread * perWeek];
  return {
    campaignId,
    name,
    sku: adGroups[0]?.sku ?? null,
    budget: dailyBudget,
    isResearch: ground.research.has(campaignId),
    since: ground.since.get(campaignId) ?? null,
    days: days.map(({ day, spend, minutes }) => ({ day, spend, minutes })),
    full: full.map(Math.round),
    shown,
    caught: ground.caught(campaignId),
    lost: {
      clicks,
      clicksSpread,
      sales: clicks * earns,
      salesSpread: Math.hypot(clicksSpread * earns, clicks * earnsSpread),
    },
    sums: {
      clicks: sumOf(days, (one) => one.clicks),
      spend: sumOf(days, (one) => one.spend),
      orders: sumOf(days, (one) => one.orders),
      sales: sumOf(days, (one) => one.sales),
    },
    cpc,
    earns,
    earnsSpread,
    targetAcos: mean((one) => one.targetAcos),
    theta: mean((one) => one.theta),
    proposal,
    isFinding: gains && !isHeld,
    isHeld,
    lines: proposal === null ? 0 : countBudgetLines(campaign, proposal.chosen),
  };
}
