import { readSchedule, flat } from '../account/schedule.ts';
import type { Played } from '../account/as-of.ts';
import type { Objects } from '../account/store.ts';
import type { CampaignDay } from '../budgets/hours.ts';
import { lostOf } from '../budgets/lost.ts';
import { respond, type Response } from '../effect/response.ts';
import type { WeekCounts } from '../hours/beliefs.ts';
import type { Micros } from '../metrics/money.ts';
import type { PlacementFigures } from '../placements/findings.ts';

/**
 * Figures of campaigns as they would be under changes that were only played (domain, section 16): what was really reported
 * came under other modifiers, budgets and schedules, and is brought to those that stand by the night that is played.
 */

/** How a campaign stands by what was played, beside how it really stood. */
export interface CampaignMoves {
  /** What it bids on the mean of its clicks, modifiers in, over what it bid. */
  raise: number;
  /** The same in each placement; not named: as `bids`. */
  placements: Record<string, number>;
  /** Bids alone. */
  bids: number;
  /** Daily, micros; null where it is as it stood. */
  budget: Micros | null;
  /** As they are written; null where it is as it stood. */
  schedule: { stood: string; now: string } | null;
}

/** Clicks of a window, by place. */
interface Clicks {
  targets: ArrayLike<number>;
  placements: ArrayLike<number>;
}

const bidsOf = ({ adGroups, targets }: Objects): ((at: number) => Micros) => {
  const defaults = adGroups.map(({ fields }) => Number(fields.default_bid ?? 0));
  return (at) => targets[at]!.bid ?? defaults[targets[at]!.adGroup]!;
};

/** Campaigns of which something was played, by id. `stood`, `now`: see `AsOf`. */
export function movesOf(
  played: readonly Played[],
  stood: Objects,
  now: Objects,
  clicks: Clicks,
): Map<string, CampaignMoves> {
  const places = new Map(now.campaigns.map(({ id }, at) => [id, at]));
  const adGroups = new Map(now.adGroups.map(({ id, campaign }) => [id, campaign]));
  const touched = new Set<number>();
  const targets = new Set<string>();
  for (const { entity, objectId } of played) {
    if (entity === 'target') targets.add(objectId);
    const at = entity === 'ad_group' ? adGroups.get(objectId) : places.get(objectId);
    if (at !== undefined && entity !== 'target') touched.add(at);
  }
  const campaignOf = (at: number) => now.adGroups[now.targets[at]!.adGroup]!.campaign;
  if (targets.size > 0)
    now.targets.forEach(({ id }, at) => {
      if (targets.has(id)) touched.add(campaignOf(at));
    });
  if (touched.size === 0) return new Map();
  const sums = new Map([...touched].map((at) => [at, { stood: 0, now: 0 }]));
  const [was, is] = [bidsOf(stood), bidsOf(now)];
  now.targets.forEach((_, at) => {
    const sum = sums.get(campaignOf(at));
    if (!sum) return;
    // A target without a click yet counts, but hardly.
    const weight = clicks.targets[at]! + 0.01;
    sum.stood += weight * was(at);
    sum.now += weight * is(at);
  });
  const raises = new Map([...touched].map((at) => [at, { stood: 0, now: 0 }]));
  const byPlacement = new Map<number, Record<string, number>>();
  const stoodAt = new Map(
    stood.placements.map((one) => [`${one.campaign} ${one.placement}`, one.modifier ?? 0]),
  );
  now.placements.forEach(({ campaign, placement, modifier }, at) => {
    const sum = raises.get(campaign);
    if (!sum) return;
    const [before, after] = [stoodAt.get(`${campaign} ${placement}`) ?? 0, modifier ?? 0];
    const weight = (clicks.placements[at] ?? 0) + 0.01;
    sum.stood += weight * (100 + before);
    sum.now += weight * (100 + after);
    const known = byPlacement.get(campaign) ?? {};
    byPlacement.set(campaign, { ...known, [placement]: (100 + after) / (100 + before) });
  });
  const ratioOf = (sum: { stood: number; now: number } | undefined) =>
    sum && sum.stood > 0 && sum.now > 0 ? sum.now / sum.stood : 1;
  return new Map(
    [...touched].map((at): [string, CampaignMoves] => {
      const bids = ratioOf(sums.get(at));
      const [before, after] = [stood.campaigns[at]!.fields, now.campaigns[at]!.fields];
      const [budget, schedule] = [Number(after.daily_budget ?? 0), String(after.schedule ?? '')];
      return [
        now.campaigns[at]!.id,
        {
          bids,
          raise: bids * ratioOf(raises.get(at)),
          placements: Object.fromEntries(
            Object.entries(byPlacement.get(at) ?? {}).map(([placement, ratio]) => [placement, bids * ratio]),
          ),
          budget: budget > 0 && budget !== Number(before.daily_budget ?? 0) ? budget : null,
          schedule:
            schedule === String(before.schedule ?? '')
              ? null
              : { stood: String(before.schedule ?? ''), now: schedule },
        },
      ];
    }),
  );
}

/** What placements have at their present modifiers, as if those that were played stood. */
export const placementsAsPlayed = (
  figures: readonly PlacementFigures[],
  moves: CampaignMoves,
  response: Response,
): PlacementFigures[] =>
  figures.map((one) => ({
    ...one,
    present: {
      ...one.present,
      ...respond(one.present, moves.placements[one.placement] ?? moves.bids, response),
    },
  }));

/** Days of a campaign as its bids and its budget would have made them. `budget`: in force on them, micros; null: none. */
export function daysAsPlayed(
  days: readonly CampaignDay[],
  { raise, budget: played }: CampaignMoves,
  stoodBudget: Micros | null,
  response: Response,
): CampaignDay[] {
  const budget = played ?? stoodBudget;
  const { full } = lostOf(days);
  return days.map((one, at) => {
    if (one.clicks <= 0 || one.spend <= 0) return one;
    const whole = { clicks: (one.clicks * full[at]!) / one.spend, spend: full[at]! };
    const moved = respond(whole, raise, response);
    // A day that lasted told no minutes without budget: it still did, under as much.
    const part = budget === null || moved.spend <= budget ? 1 : budget / moved.spend;
    const time = one.shown + one.missed;
    const grown = (moved.clicks * part) / one.clicks;
    return {
      day: one.day,
      clicks: one.clicks * grown,
      spend: moved.spend * part,
      orders: one.orders * grown,
      sales: one.sales * grown,
      minutes: one.minutes === null ? null : Math.round(part * 24 * 60),
      shown: part * time,
      missed: (1 - part) * time,
    };
  });
}

/** Hours of the week as a schedule that was played would have made them; what is off keeps what it had while it was not. */
export function hoursAsPlayed(counts: WeekCounts, moves: CampaignMoves, response: Response): WeekCounts {
  const [stood, now] = [moves.schedule?.stood, moves.schedule?.now].map(
    (text) => readSchedule(text ?? '') ?? flat(),
  );
  const on = (percent: number) => (percent === 0 ? 100 : percent);
  const made = counts.clicks.map((clicks, at) =>
    respond({ clicks, spend: counts.spend[at]! }, (moves.raise * on(now![at]!)) / on(stood![at]!), response),
  );
  const grown = made.map(({ clicks }, at) => (counts.clicks[at]! > 0 ? clicks / counts.clicks[at]! : 1));
  const scaled = (list: readonly number[]) => list.map((one, at) => one * grown[at]!);
  return {
    clicks: made.map(({ clicks }) => clicks),
    spend: made.map(({ spend }) => spend),
    orders: scaled(counts.orders),
    grown: scaled(counts.grown),
    sales: scaled(counts.sales),
  };
}
