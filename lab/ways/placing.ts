import type { Response } from '../../src/core/effect/response.ts';
import { windowEnding, type Day } from '../../src/core/metrics/days.ts';
import { micros, type Micros } from '../../src/core/metrics/money.ts';
import { dayWeights, evidenceDays } from '../../src/core/metrics/weights.ts';
import { placementFactors, type PlacementCounts } from '../../src/core/placements/beliefs.ts';
import { placementGuards, proposePlacements } from '../../src/core/placements/propose.ts';
import type { View } from '../crowd/view.ts';

/** What was believed of targets: theta, and what a click of each sells, micros and orders. */
interface Believed {
  theta: number;
  earns: readonly Micros[];
  perClick: readonly number[];
}

/** As little as a finding needs (findings.ts). */
const sure = 0.8;

/** Moves modifiers and bids of campaigns together, through the product's own core, out of what reports tell. */
export class Placing {
  private readonly changedOn = new Map<number, Day>();

  /** Click-weighted mean of 1 + modifier over 30 days. */
  modifierOf({ market, today }: View, campaign: number): number {
    let [clicks, raised] = [0, 0];
    for (let day = Math.max(0, today - 29); day <= today; day++)
      for (let place = 0; place < market.placeCount; place++) {
        const row = campaign * market.placeCount + place;
        const here = market.days[day]!.placeClicks[row]!;
        clicks += here;
        raised += here * (1 + market.modifiers[row]!);
      }
    return clicks > 0 ? raised / clicks : 1;
  }

  /** What each campaign had in each placement over the days of evidence. */
  private counts(view: View, campaign: number): PlacementCounts[] {
    const { market } = view;
    const to = view.dayOf(view.settledTo);
    const weights = dayWeights(
      windowEnding(to, evidenceDays),
      windowEnding(to, 30),
      view.dayOf(view.today),
      view.curve,
    );
    const first = view.settledTo - weights.length + 1;
    return Array.from({ length: market.placeCount }, (_, place): PlacementCounts => {
      const counts = { placement: String(place), n: 0, y: 0, seenClicks: 0, seenOrders: 0 };
      weights.forEach(({ n, y }, at) => {
        if (first + at < 0) return;
        const row = campaign * market.placeCount + place;
        const clicks = market.days[first + at]!.placeClicks[row]!;
        const orders = view.placeOrders[first + at]![row]!;
        counts.n += clicks * n;
        counts.y += orders * y;
        counts.seenClicks += clicks;
        counts.seenOrders += orders;
      });
      return counts;
    });
  }

  /** Sets modifiers, and puts the bids that move with them into `bids`. */
  move(
    view: View,
    bids: Map<number, number>,
    response: Response,
    { theta, earns, perClick }: Believed,
  ): void {
    const { market, today } = view;
    const campaigns = new Map<number, number[]>();
    for (const { id, campaign } of market.targets)
      campaigns.set(campaign, [...(campaigns.get(campaign) ?? []), id]);
    const counted = [...campaigns].map(([campaign, ids]) => ({
      campaignId: String(campaign),
      sku: String(market.targets[ids[0]!]!.product),
      placements: this.counts(view, campaign),
    }));
    const factors = placementFactors(counted);
    for (const { campaignId, placements } of counted) {
      const campaign = Number(campaignId);
      const ids = campaigns.get(campaign)!;
      const weight = new Map(
        ids.map((id) => [id, view.sums(id, view.settledTo - 29, view.settledTo).clicks]),
      );
      const clicks = [...weight.values()].reduce((sum, n) => sum + n, 0);
      if (clicks === 0) continue;
      const over = (of: (id: number) => number) =>
        ids.reduce((sum, id) => sum + weight.get(id)! * of(id), 0) / clicks;
      const changed = this.changedOn.get(campaign) ?? null;
      const since = Math.max(today - 29, changed === null ? 0 : today - 6);
      const proposal = proposePlacements(
        {
          streams: [
            {
              name: 'all',
              bid: over((id) => micros(market.targets[id]!.bid)),
              earns: over((id) => earns[id]!),
              perClick: over((id) => perClick[id]!),
            },
          ],
          theta,
          response,
          changedOn: changed,
          placements: factors.get(campaignId)!.map((factor, place) => {
            const row = campaign * market.placeCount + place;
            let [here, spend] = [0, 0];
            for (let day = since; day <= today; day++) {
              here += market.days[day]!.placeClicks[row]!;
              spend += micros(market.days[day]!.placeSpend[row]!);
            }
            return {
              ...factor,
              stream: 'all' as const,
              modifier: Math.round(market.modifiers[row]! * 100),
              clicks: (here / (today - since + 1)) * 7,
              cpc: here > 0 ? spend / here : null,
              seenClicks: placements[place]!.seenClicks,
              seenOrders: placements[place]!.seenOrders,
            };
          }),
        },
        { ...placementGuards, maximumModifier: 600 },
        view.dayOf(today),
      );
      if (!proposal || proposal.worth <= 0 || proposal.chance < sure || proposal.held.includes('cooldown'))
        continue;
      const { beta } = proposal.bids[0]!;
      proposal.modifiers.forEach(({ to }, place) => {
        market.modifiers[campaign * market.placeCount + place] = to / 100;
      });
      for (const id of ids) {
        const bid = bids.get(id) ?? market.targets[id]!.bid;
        if (bid > 0) bids.set(id, bid * beta);
      }
      this.changedOn.set(campaign, view.dayOf(today));
    }
  }
}
