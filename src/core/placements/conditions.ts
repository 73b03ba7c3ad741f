import { clamp } from '../metrics/clamp.ts';
import { addDays, windowEnding, type Day, type Window } from '../metrics/days.ts';
import { acos, cpc, cvr, revenuePerClick, roas, total, type Sums } from '../metrics/figures.ts';
import { percent, significant } from '../metrics/format.ts';
import { placementName } from './names.ts';

/**
 * Conditions of one's own on placements, beside what is proposed by evidence: when a placement's figure is at least or
 * at most a share of its campaign's, or of another placement's, its modifier moves by as much, within steps.
 */

export const conditionFigures = ['rpc', 'cvr', 'roas', 'acos', 'cpc'] as const;
export type ConditionFigure = (typeof conditionFigures)[number];

export const conditionFigureNames: Record<ConditionFigure, string> = {
  rpc: 'Sales per click',
  cvr: 'CVR',
  roas: 'ROAS',
  acos: 'ACOS',
  cpc: 'CPC',
};

/** Less of it is better: a placement above the share is lowered, not raised. */
const isCost = (figure: ConditionFigure): boolean => figure === 'acos' || figure === 'cpc';

export interface Condition {
  name: string;
  isOn: boolean;
  /** Null: all campaigns. */
  sku: string | null;
  placement: string;
  figure: ConditionFigure;
  is: 'at_least' | 'at_most';
  /** 1.2: 120 % of what it is held against. */
  share: number;
  /** Null: against all of the campaign; else against a placement of it. */
  of: string | null;
  /** Clicks that both must have. */
  leastClicks: number;
  /** Days looked at, up to so many before the youngest. */
  days: number;
  leaveOut: number;
  /** Days that nothing is done after a modifier of the campaign was changed. */
  wait: number;
  /** Largest steps, in points, and the highest modifier, per cent. */
  stepUp: number;
  stepDown: number;
  cap: number;
  /** Bids of the campaign move too, by this share; 0: they stay. */
  bids: number;
}

export const emptyCondition: Condition = {
  name: 'Sells better there',
  isOn: true,
  sku: null,
  placement: 'top_of_search',
  figure: 'rpc',
  is: 'at_least',
  share: 1.2,
  of: null,
  leastClicks: 30,
  days: 30,
  leaveOut: 3,
  wait: 7,
  stepUp: 30,
  stepDown: 30,
  cap: 200,
  bids: 0,
};

/** The days that a condition looks at; `last`: the last of which figures are known. */
export const daysOf = ({ days, leaveOut }: Pick<Condition, 'days' | 'leaveOut'>, last: Day): Window =>
  windowEnding(addDays(last, -leaveOut), days);

/** A campaign as conditions see it. `sumsOf`: sums of each placement over days. */
export interface ConditionCampaign {
  campaignId: string;
  sku: string | null;
  /** Per cent, of each placement that the campaign has. */
  modifiers: Readonly<Record<string, number>>;
  changedOn: Day | null;
  sumsOf: (window: Window) => ReadonlyMap<string, Sums>;
}

/** What a condition makes of a campaign that it meets. */
export interface Met {
  campaignId: string;
  /** Place of the condition in its list. */
  rank: number;
  /** The figure, what it is held against, and their ratio; infinite where a placement that cost money sold nothing. */
  figure: number;
  against: number;
  ratio: number;
  clicks: number;
  from: number;
  to: number;
  /** Factor on the bids of the campaign; 1: they stay. */
  beta: number;
  /** The day from which on it may be changed again; null: now. */
  waitsTo: Day | null;
  /** Conditions further down that meet the campaign too: this one goes before them. */
  others: number[];
}

const nothing: Sums = { impressions: 0, clicks: 0, spend: 0, orders: 0, units: 0, sales: 0 };

const figureOf = (figure: ConditionFigure, sums: Sums): number | null => {
  switch (figure) {
    case 'rpc':
      return revenuePerClick(sums);
    case 'cvr':
      return cvr(sums);
    case 'roas':
      return roas(sums);
    case 'acos':
      return acos(sums);
    case 'cpc':
      return cpc(sums);
  }
};

/**
 * What one condition makes of a campaign; null where it is not met, would change nothing, or its figures are too few.
 * In proportion: the placement is worth (1 + modifier) x ratio, or over it for a cost, within the steps and the cap.
 */
export function meets(
  condition: Condition,
  campaign: ConditionCampaign,
  last: Day,
): Omit<Met, 'rank' | 'others' | 'waitsTo'> | null {
  const { isOn, sku, placement, of, figure, is, share, leastClicks, stepUp, stepDown, cap, bids } = condition;
  const from = campaign.modifiers[placement];
  if (!isOn || from === undefined || (sku !== null && sku !== campaign.sku)) return null;
  const sums = campaign.sumsOf(daysOf(condition, last));
  const own = sums.get(placement) ?? nothing;
  const other = of === null ? total([...sums.values()]) : (sums.get(of) ?? nothing);
  if (own.clicks < leastClicks || other.clicks < leastClicks) return null;
  const [value, against] = [figureOf(figure, own), figureOf(figure, other)];
  // Without a figure to hold it against nothing is met.
  if (value === null || against === null || !Number.isFinite(against) || against <= 0) return null;
  const ratio = value / against;
  if (is === 'at_least' ? ratio < share : ratio > share) return null;
  const worth = isCost(figure) ? 1 / ratio : ratio;
  const wanted = Number.isFinite(worth) ? ((1 + from / 100) * worth - 1) * 100 : Infinity;
  const to = Math.round(clamp(clamp(wanted, from - stepDown, from + stepUp), 0, Math.max(cap, 0)));
  if (to === from && bids === 0) return null;
  return {
    campaignId: campaign.campaignId,
    figure: value,
    against,
    ratio,
    clicks: own.clicks,
    from,
    to,
    beta: 1 + bids,
  };
}

/** What conditions make of campaigns: of each the first that it meets; campaigns that none meets are left out. */
export function metBy(
  conditions: readonly Condition[],
  campaigns: readonly ConditionCampaign[],
  last: Day,
  today: Day,
): Met[] {
  return campaigns.flatMap((campaign): Met[] => {
    const found = conditions.flatMap((condition, rank) => {
      const met = meets(condition, campaign, last);
      return met ? [{ ...met, rank }] : [];
    });
    const [first, ...others] = found;
    if (!first) return [];
    const { wait } = conditions[first.rank]!;
    const free = campaign.changedOn === null ? null : addDays(campaign.changedOn, wait);
    return [
      {
        ...first,
        waitsTo: free !== null && free > today ? free : null,
        others: others.map(({ rank }) => rank),
      },
    ];
  });
}

const figureText = (figure: ConditionFigure, value: number): string =>
  figure === 'acos' || figure === 'cvr'
    ? percent(value)
    : figure === 'roas'
      ? significant(value)
      : significant(value / 1e6);

/** Why, in a sentence: "CVR on top of search is 12 %, 150 % of the campaign's 8 %, from 143 clicks." */
export const sentenceOfMet = ({ placement, figure, of, name }: Condition, met: Met): string =>
  `“${name}”: ${conditionFigureNames[figure]} on ${placementName(placement)} is ${
    Number.isFinite(met.figure) ? figureText(figure, met.figure) : 'without end, it sold nothing'
  }, ${Number.isFinite(met.ratio) ? `${percent(met.ratio)} of ` : 'against '}${
    of === null ? 'the campaign’s' : `${placementName(of)}’s`
  } ${figureText(figure, met.against)}, from ${met.clicks} clicks.`;
