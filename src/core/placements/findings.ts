import { scheduleFactor } from '../account/schedule.ts';
import { countLines } from './lines.ts';
import type { Sums } from '../metrics/figures.ts';
import type { Response } from '../effect/response.ts';
import type { Micros } from '../metrics/money.ts';
import type { Day } from '../metrics/days.ts';
import type { StructureCampaign, StructureTarget } from '../structure/ground.ts';
import { placementFactors, type PlacementCounts } from './beliefs.ts';
import { effectiveBid } from './effective.ts';
import { byPlacement } from './names.ts';
import {
  proposePlacements,
  type PlacementGuards,
  type PlacementNow,
  type PlacementProposal,
  type Stream,
} from './propose.ts';
import type { Aim, SinceStrategy } from './strategies.ts';
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
  /** Of campaigns whose strategy was changed within the window, or since. */
  sinceStrategy?: ReadonlyMap<string, SinceStrategy>;
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
  /** Null where its strategy is older than the window. */
  sinceStrategy: SinceStrategy | null;
  /** By how much its schedule may raise a bid; 1 where it raises none. */
  scheduled: number;
  /** What it aims with, mostly: campaigns that aim alike are like. */
  aim: Aim;
  targetAcos: number;
  /** What a click of it is expected to sell, micros. */
  earns: Micros;
  streams: Stream[];
  placements: PlacementRow[];
  proposal: PlacementProposal | null;
  /** Worth a finding: it gains with a chance of 80 % and no cooldown holds it. */
  isFinding: boolean;
  /** It would be a finding, but a cooldown holds it. */
  isHeld: boolean;
  /** How many lines carry it out; 0 where it is neither. */
  lines: number;
}

/** Gains less surely than this are chance. */
const sure = 0.8;

const sum = <T>(list: readonly T[], of: (one: T) => number): number =>
  list.reduce((all, one) => all + of(one), 0);

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
        // Written out: a row that is spread is slow to make and to read.
        return {
          placement: whole.placement,
          factor: whole.factor,
          spread: whole.spread,
          pooled: whole.pooled,
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

const aimOfTarget = ({ row: { kind, matchType } }: StructureTarget): Aim =>
  kind === 'automatic'
    ? 'automatic'
    : kind !== 'keyword'
      ? 'items'
      : matchType === 'exact'
        ? 'exact'
        : 'wide';

function mostly(weight: Record<Aim, number>): Aim {
  return (Object.keys(weight) as Aim[]).reduce((a, b) => (weight[b] > weight[a] ? b : a));
}

const noMeans = () => ({ bid: 0, earns: 0, value: 0, targetAcos: 0, theta: 0 });

/** Means over targets by their clicks of a week; without a click yet they count alike. */
class Means {
  private count = 0;
  private clicks = 0;
  private readonly alike = noMeans();
  private readonly byClicks = noMeans();
  /** The dearest of their bids. */
  dearest: Micros = 0;

  add(target: StructureTarget, bid: Micros): void {
    this.count++;
    this.clicks += target.clicks;
    this.sum(this.alike, target, bid, 1);
    if (target.clicks > 0) this.sum(this.byClicks, target, bid, target.clicks);
    if (bid > this.dearest) this.dearest = bid;
  }

  of(name: keyof ReturnType<typeof noMeans>): number {
    if (this.clicks > 0) return this.byClicks[name] / this.clicks;
    return this.count > 0 ? this.alike[name] / this.count : 0;
  }

  private sum(
    into: ReturnType<typeof noMeans>,
    { earns, value, targetAcos, theta }: StructureTarget,
    bid: Micros,
    weight: number,
  ): void {
    into.bid += weight * bid;
    into.earns += weight * earns;
    into.value += weight * value;
    into.targetAcos += weight * targetAcos;
    into.theta += weight * theta;
  }
}

/** What a campaign's targets are on the mean, all of them and in each of these streams, and what it aims with. */
function meansOf(
  { kind, adGroups }: StructureCampaign,
  streams: readonly StreamName[],
): { all: Means; byStream: Map<StreamName, Means>; aim: Aim } {
  const all = new Means();
  const byStream = new Map(streams.map((name) => [name, name === 'all' ? all : new Means()]));
  const parts = streams.filter((name) => name !== 'all');
  const weight = { automatic: 0, exact: 0, wide: 0, items: 0 };
  for (const { targets, defaultBid } of adGroups)
    for (const target of targets) {
      const bid = target.row.bid ?? defaultBid;
      all.add(target, bid);
      for (const name of parts) if (inStream(name, target)) byStream.get(name)!.add(target, bid);
      weight[aimOfTarget(target)] += target.clicks + 1;
    }
  return { all, byStream, aim: kind === 'automatic' ? 'automatic' : mostly(weight) };
}

function placedRow(
  campaign: StructureCampaign,
  standing: readonly Standing[],
  { today, guards, changedOn, sinceStrategy, response, responses }: PlacementGround,
): PlacedRow {
  const { campaignId, name, strategy } = campaign;
  const scheduled = scheduleFactor(campaign.schedule);
  const { all, byStream, aim } = meansOf(campaign, [...new Set(standing.map(({ stream }) => stream))]);
  const streams = [...byStream].map(([name, means]): Stream => {
    const [earns, value] = [means.of('earns'), means.of('value')];
    return { name, bid: means.of('bid'), earns, perClick: value > 0 ? earns / value : 0 };
  });
  const targetAcos = all.of('targetAcos');
  const earns = all.of('earns');
  const proposal = proposePlacements(
    {
      streams,
      theta: all.of('theta'),
      response: responses?.get(campaignId) ?? response,
      placements: standing,
      changedOn: changedOn.get(campaignId) ?? null,
    },
    guards,
    today,
  );
  const gains = proposal !== null && proposal.worth > 0 && proposal.chance >= sure;
  const isHeld = gains && proposal.held.includes('cooldown');
  return {
    campaignId,
    name,
    sku: campaign.adGroups[0]?.sku ?? null,
    strategy,
    sinceStrategy: sinceStrategy?.get(campaignId) ?? null,
    scheduled,
    aim,
    targetAcos,
    earns,
    streams,
    placements: standing.map((one) => ({
      ...one,
      mayCost: earns > 0 ? targetAcos * earns * one.factor : null,
      most: effectiveBid(byStream.get(one.stream)!.dearest, one.modifier, strategy, scheduled),
    })),
    proposal,
    isFinding: gains && !isHeld,
    isHeld,
    lines: gains ? countLines(campaign, proposal) : 0,
  };
}
