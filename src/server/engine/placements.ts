import { dayWeights } from '../../core/metrics/weights.ts';
import type { Objects } from '../../core/account/store.ts';
import type { Window } from '../../core/metrics/days.ts';
import { effectOfMove, placementDrafts } from '../../core/placements/lines.ts';
import { placedRows, type PlacedRow } from '../../core/placements/findings.ts';
import { sentenceOfPlacements } from '../../core/placements/explain.ts';
import { placementGuards, type BidFactor, type ModifierChange } from '../../core/placements/propose.ts';
import type { SinceStrategy } from '../../core/placements/strategies.ts';
import type { StructureCampaign } from '../../core/structure/ground.ts';
import type { LineDraft } from '../../core/changes/lines.ts';
import type { JudgeInput } from '../../core/round/types.ts';
import { placementsAsPlayed } from '../../core/routines/as-played.ts';
import type { Database } from '../db/connection.ts';
import { fieldChanged } from '../facts/hours.queries.ts';
import { modifiersChanged, placementFigures, sinceStrategies } from '../facts/placements.queries.ts';
import { campaignsOf } from './campaigns.ts';
import type { Edition } from './edition.ts';
import type { ExploreEngine } from './engine.ts';
import type { JudgingEngine } from './judging.ts';
import type { PastGround } from './past.ts';

/** Modifiers of one campaign and factors on its bids, as somebody wants them; left out, as they are proposed. */
export interface PlacementOrder {
  campaignId: string;
  bids?: Pick<BidFactor, 'stream' | 'beta'>[];
  modifiers?: Pick<ModifierChange, 'placement' | 'to'>[];
}

export interface Placed {
  rows: PlacedRow[];
  campaigns: Map<string, StructureCampaign>;
  marginOf: (sku: string | null) => number | null;
}

/** Judges campaigns by placement. */
export class PlacementsEngine {
  private readonly known = new WeakMap<JudgeInput, Promise<Placed | null>>();

  constructor(
    private readonly sql: Database,
    private readonly tables: ExploreEngine,
    private readonly judging: JudgingEngine,
  ) {}

  /** Campaigns by placement as JSON (`PlacedRow[]`); null while there are no settled figures. */
  async rows(edition: Edition, window: Window, about: PlacementLimits): Promise<string | null> {
    const placed = await this.placed(edition, window, about);
    return placed && JSON.stringify(placed.rows);
  }

  /** The lines that carry orders out, by campaign; one that is not there, or that nothing is proposed for, is left out. */
  async drafts(
    edition: Edition,
    window: Window,
    about: PlacementLimits,
    orders: readonly PlacementOrder[],
  ): Promise<[campaignId: string, drafts: LineDraft[]][]> {
    const placed = await this.placed(edition, window, about);
    if (!placed) return [];
    const rows = new Map(placed.rows.map((row) => [row.campaignId, row]));
    return orders.flatMap(({ campaignId, bids = [], modifiers }): [string, LineDraft[]][] => {
      const row = rows.get(campaignId);
      const campaign = placed.campaigns.get(campaignId);
      if (!row || !campaign) return [];
      if (modifiers) {
        const wanted = { bids: bids.map((one) => ({ ...one, base: '' })), modifiers };
        return [[campaignId, placementDrafts(campaign, wanted, { reason: '', effect: null })]];
      }
      return row.proposal ? [[campaignId, placedDrafts(placed, row)]] : [];
    });
  }

  private async placed(edition: Edition, window: Window, about: PlacementLimits): Promise<Placed | null> {
    const input = await this.judging.grounds(edition, window, false);
    if (!input) return null;
    let pending = this.known.get(input);
    if (!pending) {
      pending = this.tables
        .load(edition)
        .then((account) => account && placedBy(this.sql, edition.accountId, account.objects, input, about));
      this.known.set(input, pending);
      pending.catch(() => this.known.delete(input));
    }
    return pending;
  }
}

/** Campaigns by placement, as the account stands; `past`: as it stood on a night, and as far as it was known by then. */
export async function placedBy(
  sql: Database,
  accountId: number,
  objects: Objects,
  input: JudgeInput,
  { curve, maximumModifier }: PlacementLimits,
  past: PastGround | null = null,
): Promise<Placed> {
  const { today, window, evidence, products, response, responses } = input;
  const changedOn = past ? past.changedOn('placement_modifier', '') : await modifiersChanged(sql, accountId);
  const weights = dayWeights(evidence, window, today, curve);
  const since = past ? past.stoodOn('placement_modifier', '') : changedOn;
  // Postgres sums while campaigns are laid out. Of a night of the past no strategies are compared.
  const [figures, sinceStrategy, campaigns] = await Promise.all([
    placementFigures(sql, accountId, window, weights, since, past?.known),
    past
      ? new Map<string, SinceStrategy>()
      : sinceStrategies(sql, accountId, window, await fieldChanged(sql, accountId, 'strategy')),
    campaignsOf(sql, accountId, objects, input),
  ]);
  for (const [id, moves] of past?.moves ?? []) {
    const own = figures.get(id);
    if (own) figures.set(id, placementsAsPlayed(own, moves, responses?.get(id) ?? response));
  }
  const rows = placedRows({
    today,
    campaigns,
    figures,
    changedOn,
    sinceStrategy,
    guards: { ...placementGuards, cooldownDays: input.guards.cooldownDays, maximumModifier },
    response,
    ...(responses ? { responses } : {}),
  });
  return {
    rows,
    campaigns: new Map(campaigns.map((one) => [one.campaignId, one])),
    marginOf: (sku) => (sku === null ? null : (products.get(sku)?.margin ?? null)),
  };
}

/** The lines that carry out what is proposed for a campaign. */
export function placedDrafts(placed: Placed, row: PlacedRow): LineDraft[] {
  const effect = effectOfMove(row.proposal!, placed.marginOf(row.sku));
  const campaign = placed.campaigns.get(row.campaignId)!;
  return placementDrafts(campaign, row.proposal!, { reason: sentenceOfPlacements(row), effect });
}

/** What the marketplace allows, and the account's maturity. */
export interface PlacementLimits {
  curve: readonly number[];
  maximumModifier: number;
}
