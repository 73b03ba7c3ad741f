import type { Sums } from '../metrics/figures.ts';
import type { Guards } from '../bids/guards.ts';
import { fieldLine, type LineDraft } from '../changes/lines.ts';
import { eighty } from '../effect/forecast.ts';
import type { Effect } from '../effect/types.ts';
import type { Response } from '../effect/response.ts';
import { counted, money, percent, significant } from '../metrics/format.ts';
import { toStep, type Micros } from '../metrics/money.ts';
import { clamp } from '../metrics/clamp.ts';
import type { Day } from '../metrics/days.ts';
import type { Step } from '../round/explain.ts';
import type { StructureCampaign, StructureTarget } from '../structure/ground.ts';
import { ownPart, placementFactors, type PlacementCounts } from './beliefs.ts';
import { effectiveBid } from './effective.ts';
import { byPlacement, placementName } from './names.ts';
import {
  proposePlacements,
  type BidFactor,
  type ModifierChange,
  type PlacementGuards,
  type PlacementNow,
  type PlacementProposal,
  type Stream,
} from './propose.ts';
import { inStream, streamsOf, type StreamName } from './streams.ts';

/** Campaigns by placement: what each sells, and what is proposed (domain, section 8). */

/** What a campaign has in one placement. */
export interface PlacementFigures extends PlacementCounts {
  /** Over the window. */
  sums: Sums;
  /** At the present modifiers: over the days of the window after they were last changed, all of it if none are left. */
  present: { clicks: number; spend: Micros; days: number };
}

export interface PlacementGround {
  today: Day;
  campaigns: readonly StructureCampaign[];
  figures: ReadonlyMap<string, readonly PlacementFigures[]>;
  /** The last day on which one of a campaign's modifiers was changed. */
  changedOn: ReadonlyMap<string, Day>;
  guards: PlacementGuards;
  response: Response;
  responses?: ReadonlyMap<string, Response>;
}

/** A placement as it stands, without what one may cost there. */
type Standing = PlacementNow & {
  sums: Sums;
  /** Its factor beside the stream's mean. */
  inStream: number;
};

/** One placement of a campaign as it is shown. Money in micros. */
export interface PlacementRow extends Standing {
  /** What a click here may cost at the goal, on the mean; null where the campaign sells nothing that is known. */
  mayCost: Micros | null;
  /** What one click may cost at most: the dearest bid of its targets, modifier and strategy in. */
  most: Micros;
}

/** A campaign with its placements. */
export interface PlacedRow {
  campaignId: string;
  name: string;
  sku: string | null;
  strategy: string;
  targetAcos: number;
  /** What a click of it is expected to sell, micros. */
  earns: Micros;
  streams: Stream[];
  placements: PlacementRow[];
  proposal: PlacementProposal | null;
  /** Worth a finding: it gains with a chance of 80 % and no cooldown holds it. */
  isFinding: boolean;
  /** How many lines carry it out; 0 where there is no finding. */
  lines: number;
}

/** Gains less surely than this are chance. */
const sure = 0.8;

const keyStart = 'placements:';
export const placementKey = (campaignId: string): string => `${keyStart}${campaignId}`;
export const campaignOfKey = (key: string): string => key.slice(keyStart.length);
export const isPlacementKey = (key: string): boolean => key.startsWith(keyStart);

const sum = <T>(list: readonly T[], of: (one: T) => number): number =>
  list.reduce((all, one) => all + of(one), 0);

const targetsOf = ({ adGroups }: StructureCampaign): StructureTarget[] =>
  adGroups.flatMap(({ targets }) => targets);

const bidOf = (campaign: StructureCampaign, { row }: StructureTarget): Micros =>
  row.bid ?? campaign.adGroups.find(({ adGroupId }) => adGroupId === row.adGroupId)?.defaultBid ?? 0;

/** Every campaign that runs and had a click by placement, those with a finding first, by worth and then by spend. */
export function placedRows(ground: PlacementGround): PlacedRow[] {
  const { campaigns, figures } = ground;
  const able = campaigns.filter(({ campaignId }) => (figures.get(campaignId)?.length ?? 0) > 0);
  const streamOf = streamsOf(able, figures);
  const units = able.flatMap(({ campaignId, adGroups }) => {
    const placements = figures.get(campaignId)!;
    const unit = { campaignId, sku: adGroups[0]?.sku ?? '', placements };
    const streams = [...new Set(placements.map(({ placement }) => streamOf(placement)))];
    const parts = streams.map((stream) => ({
      ...unit,
      campaignId: `${campaignId} ${stream}`,
      placements: placements.filter(({ placement }) => streamOf(placement) === stream),
    }));
    return [{ unit, parts }];
  });
  const ofCampaign = placementFactors(units.map(({ unit }) => unit));
  const isOne = units.every(({ parts }) => parts.length === 1);
  const ofStream = isOne ? null : placementFactors(units.flatMap(({ parts }) => parts));
  const rows = able.map((campaign, at) => {
    const placements = figures.get(campaign.campaignId)!;
    const within = ofStream
      ? units[at]!.parts.flatMap((part) => ofStream.get(part.campaignId)!)
      : ofCampaign.get(campaign.campaignId)!;
    const standing = ofCampaign
      .get(campaign.campaignId)!
      .map((whole, p): Standing => {
        const { sums, present, seenClicks, seenOrders } = placements[p]!;
        const part = within.find(({ placement }) => placement === whole.placement)!;
        return {
          ...whole,
          // Modifiers part the money within a stream.
          own: part.own,
          ownSpread: part.ownSpread,
          share: part.share,
          inStream: part.factor,
          stream: streamOf(whole.placement),
          modifier: campaign.modifiers[whole.placement] ?? 0,
          clicks: present.days > 0 ? (present.clicks / present.days) * 7 : 0,
          cpc: present.clicks > 0 ? present.spend / present.clicks : null,
          seenClicks,
          seenOrders,
          sums,
        };
      })
      .sort((a, b) => byPlacement(a.placement, b.placement));
    return placedRow(campaign, standing, ground);
  });
  const worthOf = ({ isFinding, proposal }: PlacedRow) => (isFinding ? proposal!.worth : 0);
  const spendOf = ({ placements }: PlacedRow) => sum(placements, ({ sums }) => sums.spend);
  return rows.sort((a, b) => worthOf(b) - worthOf(a) || spendOf(b) - spendOf(a));
}

/** The mean over targets by their clicks of a week; without a click yet they count alike. */
function meanBy(targets: readonly StructureTarget[]): (of: (one: StructureTarget) => number) => number {
  const weigh = targets.some(({ clicks }) => clicks > 0) ? (one: StructureTarget) => one.clicks : () => 1;
  const weight = sum(targets, weigh);
  return (of) => (weight > 0 ? sum(targets, (one) => weigh(one) * of(one)) / weight : 0);
}

function placedRow(
  campaign: StructureCampaign,
  standing: readonly Standing[],
  { today, guards, changedOn, response, responses }: PlacementGround,
): PlacedRow {
  const { campaignId, name, strategy } = campaign;
  const targets = targetsOf(campaign);
  const streams = [...new Set(standing.map(({ stream }) => stream))].map((stream): Stream => {
    const mean = meanBy(targets.filter((one) => inStream(stream, one)));
    const [earns, value] = [mean((one) => one.earns), mean(({ belief }) => belief.value)];
    return {
      name: stream,
      bid: mean((one) => bidOf(campaign, one)),
      earns,
      perClick: value > 0 ? earns / value : 0,
    };
  });
  const mean = meanBy(targets);
  const targetAcos = mean((one) => one.targetAcos);
  const earns = mean((one) => one.earns);
  const proposal = proposePlacements(
    {
      streams,
      theta: mean(({ theta }) => theta),
      response: responses?.get(campaignId) ?? response,
      placements: standing,
      changedOn: changedOn.get(campaignId) ?? null,
    },
    guards,
    today,
  );
  const isFinding =
    proposal !== null && proposal.worth > 0 && proposal.chance >= sure && !proposal.held.includes('cooldown');
  return {
    campaignId,
    name,
    sku: campaign.adGroups[0]?.sku ?? null,
    strategy,
    targetAcos,
    earns,
    streams,
    placements: standing.map((one) => {
      const reaching = targets.filter((target) => inStream(one.stream, target));
      const dearest = Math.max(0, ...reaching.map((target) => bidOf(campaign, target)));
      return {
        ...one,
        mayCost: earns > 0 ? targetAcos * earns * one.factor : null,
        most: effectiveBid(dearest, one.modifier, strategy),
      };
    }),
    proposal,
    isFinding,
    lines: isFinding ? countLines(campaign, proposal) : 0,
  };
}

/** What a placement sells beside the campaign's mean: "1.43 times the mean (1.21 to 1.66)". */
export function factorSaid({ factor, spread }: Pick<PlacementRow, 'factor' | 'spread'>): string {
  const [low, high] = factorRange({ factor, spread });
  return `${significant(factor)} times the mean (${significant(low)} to ${significant(high)})`;
}

/** The 80 % interval of a factor. */
export const factorRange = ({
  factor,
  spread,
}: Pick<PlacementRow, 'factor' | 'spread'>): [low: number, high: number] => [
  factor * Math.exp(-eighty * spread),
  factor * Math.exp(eighty * spread),
];

const streamWords: Record<StreamName, string> = {
  all: 'bids',
  terms: 'bids on terms',
  items: 'bids on items',
};

/**
 * Factors on bids in words: those of one stream are all of its campaign's where there is no other.
 * @example bidsSaid([{ stream: 'all', beta: 0.82, base: 'rest_of_search' }], 1) // 'bids × 0.82'
 */
export const bidsSaid = (bids: readonly BidFactor[], streams: number): string =>
  bids
    .map(({ stream, beta }) => `${streams > 1 ? streamWords[stream] : 'bids'} × ${significant(beta)}`)
    .join(', ');

/**
 * The same where there is little room.
 * @example bidsShort([{ stream: 'terms', beta: 0.82, base: 'rest_of_search' }], 2) // 'terms × 0.82'
 */
export const bidsShort = (bids: readonly BidFactor[], streams: number): string =>
  bids.map(({ stream, beta }) => `${streams > 1 ? stream : 'bids'} × ${significant(beta)}`).join(', ');

/** Why, in words with the numbers. */
export function sentenceOfPlacements({ placements, proposal, streams }: PlacedRow): string {
  const { bids, chance } = proposal!;
  const told = bids.map(({ stream, base }) => {
    const here = placements.filter((one) => one.stream === stream);
    const best = here.reduce((a, b) => (b.own > a.own ? b : a));
    const lowest = here.find(({ placement }) => placement === base)!;
    return `A click on ${placementName(best.placement)} sells ${factorSaid(best)}, on ${placementName(base)} ${factorSaid(lowest)}.`;
  });
  return (
    `${told.join(' ')} With ${bidsSaid(bids, streams.length)} and modifiers beside them as much is bid on the mean, and goes ` +
    `where it sells. It gains with ${percent(Math.min(chance, 0.99))}.`
  );
}

/** The working, to be redone by hand. */
export function workingOfPlacements(row: PlacedRow): Step[] {
  const { placements, proposal, targetAcos, streams, earns } = row;
  const steps: Step[] = [];
  for (const one of placements) {
    const name = placementName(one.placement);
    steps.push({
      name: `A click on ${name} sells, beside the mean`,
      formula:
        `${counted(one.seenOrders, 'order')} of ${counted(one.seenClicks, 'click')}, beside what ` +
        `the campaign sells; the product’s other campaigns let expect ${significant(one.pooled)}`,
      result: significant(one.factor),
    });
    if (one.mayCost !== null)
      steps.push({
        name: `A click on ${name} may cost`,
        formula: `${percent(targetAcos)} × ${money(earns)} × ${significant(one.factor)}`,
        result: money(one.mayCost),
      });
  }
  for (const { stream, beta, base } of proposal?.bids ?? []) {
    const here = placements.filter((one) => one.stream === stream);
    const lowest = here.find(({ placement }) => placement === base)!;
    const changeOf = (placement: string) => proposal!.modifiers.find((one) => one.placement === placement)!;
    for (const { placement, inStream: factor, own } of here) {
      const { from, to, wanted } = changeOf(placement);
      const name = placementName(placement);
      steps.push(
        {
          name: `Of it the placement’s own: ${name}`,
          formula:
            `${significant(factor)} ^ ${ownPart} beside the other placements that ${stream === 'all' ? 'it is' : `${stream} are`} shown in: ` +
            'which targets are clicked where is not told, so not all of it counts',
          result: significant(own),
        },
        {
          name: `Modifier of ${name}`,
          formula:
            `${significant(own)} ÷ ${significant(lowest.own)} of ${placementName(base)} − 1 = ${wanted} %` +
            (to === wanted ? '' : `, from ${from} % at most 100 points at a time`),
          result: `${to} %`,
        },
      );
    }
    const mean = (name: 'from' | 'to') =>
      sum(here, ({ share, placement }) => share * (1 + changeOf(placement)[name] / 100));
    steps.push({
      name: streams.length > 1 ? `Factor on ${streamWords[stream]}` : 'Factor on bids',
      formula: `${significant(mean('from'))} ÷ ${significant(mean('to'))}, the means of 1 + modifier by clicks, before and after`,
      result: significant(beta),
    });
  }
  return steps;
}

/** Change a week with what is not known of it, as the first line of the finding carries it. */
export function effectOfPlacements({ effect }: PlacementProposal, margin: number | null): Effect {
  const { clicks, spend, orders, sales, low, high, clicksSpread, spendSpread } = effect;
  const salesSpread = (high - low) / (2 * eighty);
  const spreads = {
    clicks: clicksSpread,
    spend: spendSpread,
    orders: sales === 0 ? 0 : Math.abs((salesSpread * orders) / sales),
    sales: salesSpread,
    profit: margin === null ? null : Math.hypot(margin * salesSpread, spendSpread),
  };
  return {
    clicks,
    spend,
    orders,
    sales,
    salesLow: low,
    salesHigh: high,
    profit: margin === null ? null : margin * sales - spend,
    spreads,
  };
}

/** A bid of a campaign times its factor, in whole steps, within what its scope and the marketplace let through. */
export const scaledBid = (bid: Micros, beta: number, { step, floor, ceiling, ...guards }: Guards): Micros =>
  toStep(
    clamp(
      bid * beta,
      Math.min(bid, Math.max(floor, guards.minimumBid)),
      Math.max(bid, Math.min(ceiling, guards.maximumBid)),
    ),
    step,
  );

/** What carries a change out. */
interface Orders {
  bids: readonly BidFactor[];
  modifiers: readonly Pick<ModifierChange, 'placement' | 'to'>[];
}

/** Modifiers that are not as they should be, and bids that move: of targets, or of ad groups for targets without one. */
function movesOf({ modifiers: live, adGroups }: StructureCampaign, { bids, modifiers }: Orders) {
  const betaOf = (target: StructureTarget): number =>
    bids.find(({ stream }) => inStream(stream, target))?.beta ?? 1;
  const placements = modifiers.filter(({ placement, to }) => to !== (live[placement] ?? 0));
  const moved: { adGroupId: string; target: StructureTarget | null; from: Micros; to: Micros }[] = [];
  for (const { adGroupId, targets, defaultBid, guards } of adGroups) {
    for (const target of targets) {
      const from = target.row.bid;
      if (from === null) continue;
      const to = scaledBid(from, betaOf(target), guards);
      if (to !== from) moved.push({ adGroupId, target, from, to });
    }
    const bare = targets.find(({ row }) => row.bid === null);
    const to = bare ? scaledBid(defaultBid, betaOf(bare), guards) : defaultBid;
    if (to !== defaultBid) moved.push({ adGroupId, target: null, from: defaultBid, to });
  }
  return { placements, moved };
}

/** How many lines carry it out. */
function countLines(campaign: StructureCampaign, orders: Orders): number {
  const { placements, moved } = movesOf(campaign, orders);
  return placements.length + moved.length;
}

/**
 * Lines that set modifiers and move the bids of each stream by its factor; they stay together on the sheet. Targets
 * without a bid of their own move by their ad group's default bid.
 */
export function placementDrafts(
  campaign: StructureCampaign,
  orders: Orders,
  { reason, effect }: { reason: string; effect: Effect | null },
): LineDraft[] {
  const { campaignId, modifiers: live } = campaign;
  const { placements, moved } = movesOf(campaign, orders);
  const note = { reason, harvest: placementKey(campaignId) };
  const drafts = [
    ...placements.map(({ placement, to }) =>
      fieldLine(
        'placement_modifier',
        placement,
        { campaignId, adGroupId: null },
        campaignId,
        { oldValue: String(live[placement] ?? 0), newValue: String(to) },
        note,
      ),
    ),
    ...moved.map(({ adGroupId, target, from, to }) => {
      const place = { campaignId, adGroupId };
      const bids = { oldValue: String(from), newValue: String(to) };
      if (!target) return fieldLine('ad_group', 'default_bid', place, adGroupId, bids, note);
      const { targetId, kind, matchType, expression } = target.row;
      return fieldLine('target', 'bid', place, targetId, bids, note, {
        targetKind: kind,
        matchType,
        expression,
      });
    }),
  ];
  const [first] = drafts;
  if (first) first.effect = effect;
  return drafts;
}
