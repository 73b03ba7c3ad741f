import type { Response } from '../effect/response.ts';
import type { Sums } from '../metrics/figures.ts';
import type { Day } from '../metrics/days.ts';
import type { Micros } from '../metrics/money.ts';
import { dry } from '../budgets/propose.ts';
import { earningsOf } from '../budgets/rows.ts';
import { effectiveBid } from '../placements/effective.ts';
import type { StructureCampaign } from '../structure/ground.ts';
import { noCounts, type HourFactors, type WeekCounts } from './beliefs.ts';
import { countMoves } from './lines.ts';
import type { HourGround } from './outcome.ts';
import { proposeSchedule, type HourGuards, type ScheduleProposal } from './propose.ts';
import { flat, meanSchedule, readSchedule, writeSchedule } from '../account/schedule.ts';

/** Campaigns by the time of the week: what each sells when, and the schedule that is proposed (domain, section 10). */

export interface HoursGround {
  today: Day;
  /** Whole weeks of settled days that counts were taken over. */
  weeks: number;
  campaigns: readonly StructureCampaign[];
  counts: ReadonlyMap<string, WeekCounts>;
  factors: ReadonlyMap<string, HourFactors>;
  /** The last day on which a campaign's schedule was changed. */
  changedOn: ReadonlyMap<string, Day>;
  guards: HourGuards;
  response: Response;
  responses?: ReadonlyMap<string, Response>;
}

/** A campaign with its schedule as it is shown. Money in micros. */
export interface HoursRow {
  campaignId: string;
  name: string;
  sku: string | null;
  strategy: string;
  /** As it is written; empty where it is flat. */
  schedule: string;
  /** The last day on which its schedule was changed. */
  changedOn: Day | null;
  targetAcos: number;
  /** What one click may cost at most while the schedule stands at 100 %: dearest bid, highest modifier, strategy. */
  most: Micros;
  adGroups: { id: string; name: string }[];
  /** Over the weeks. */
  sums: Pick<Sums, 'clicks' | 'spend' | 'orders' | 'sales'>;
  proposal: ScheduleProposal | null;
  /** Worth a finding: it gains with a chance of 80 %, and no cooldown holds it. */
  isFinding: boolean;
  /** It would be a finding, but a cooldown holds it. */
  isHeld: boolean;
  /** How many lines carry it out; 0 where it is neither. */
  lines: number;
}

/** Gains less surely than this are chance. */
const sure = 0.8;

/** What a campaign's hours are weighed by; `factors`: what its times sell. */
export function hourGround(
  campaign: StructureCampaign,
  counts: WeekCounts,
  factors: HourFactors,
  { weeks, response, responses }: Pick<HoursGround, 'weeks' | 'response' | 'responses'>,
): HourGround {
  const targets = campaign.adGroups.flatMap((group) => group.targets.map((target) => ({ group, target })));
  const { earns, perClick, mean } = earningsOf(targets.map(({ target }) => target));
  const bids = new Map(
    targets.map(({ group, target }) => [target, (target.row.bid ?? group.defaultBid) * group.modifier]),
  );
  const scheduled = meanSchedule(readSchedule(campaign.schedule ?? '') ?? flat(), counts.clicks);
  const perWeek = (list: readonly number[]) => list.map((one) => (weeks > 0 ? one / weeks : 0));
  return {
    clicks: perWeek(counts.clicks),
    spend: perWeek(counts.spend),
    bid: mean((target) => bids.get(target)!) / scheduled,
    earns,
    perClick,
    theta: mean(({ theta }) => theta),
    isDry: campaign.shown < dry,
    response: responses?.get(campaign.campaignId) ?? response,
    factors,
  };
}

export function sumsOf({ clicks, spend, orders, sales }: WeekCounts): HoursRow['sums'] {
  const sum = (list: readonly number[]) => list.reduce((all, one) => all + one, 0);
  return { clicks: sum(clicks), spend: sum(spend), orders: sum(orders), sales: sum(sales) };
}

/** Every campaign that runs, those with a finding first, by worth, then by spend. */
export function hoursRows(ground: HoursGround): HoursRow[] {
  const worthOf = ({ isFinding, proposal }: HoursRow): Micros => (isFinding ? proposal!.worth : 0);
  return ground.campaigns
    .map((campaign) => hoursRow(campaign, ground))
    .sort((a, b) => worthOf(b) - worthOf(a) || b.sums.spend - a.sums.spend);
}

function mostOf({ adGroups, modifiers, strategy }: StructureCampaign): Micros {
  const bids = adGroups.flatMap(({ targets, defaultBid }) => targets.map(({ row }) => row.bid ?? defaultBid));
  return effectiveBid(Math.max(0, ...bids), Math.max(0, ...Object.values(modifiers)), strategy);
}

function hoursRow(campaign: StructureCampaign, ground: HoursGround): HoursRow {
  const { campaignId, name, strategy, adGroups } = campaign;
  const { today, weeks, guards } = ground;
  const counts = ground.counts.get(campaignId) ?? noCounts();
  const factors = ground.factors.get(campaignId);
  const live = readSchedule(campaign.schedule ?? '') ?? flat();
  const changedOn = ground.changedOn.get(campaignId) ?? null;
  const sums = sumsOf(counts);
  const proposal = factors
    ? proposeSchedule(
        hourGround(campaign, counts, factors, ground),
        live,
        { weeks, clicks: sums.clicks },
        guards,
        changedOn,
        today,
      )
    : null;
  const gains = proposal !== null && proposal.worth > 0 && proposal.chance >= sure;
  const isHeld = gains && proposal.held.includes('cooldown');
  return {
    campaignId,
    name,
    sku: adGroups[0]?.sku ?? null,
    strategy,
    schedule: writeSchedule(live),
    changedOn,
    targetAcos: earningsOf(adGroups.flatMap(({ targets }) => targets)).mean((one) => one.targetAcos),
    most: mostOf(campaign),
    adGroups: adGroups.map(({ adGroupId: id, name: called }) => ({ id, name: called })),
    sums,
    proposal,
    isFinding: gains && !isHeld,
    isHeld,
    lines: gains ? 1 + countMoves(campaign, proposal.beta) : 0,
  };
}
