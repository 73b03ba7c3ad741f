import { clamp } from '../metrics/clamp.ts';
import type { Micros } from '../metrics/money.ts';

/** Points at which clicks are read between the lowest bid and the highest. */
const points = 48;

/**
 * What bids of one target are worth a week when each click is paid by what the last bid for it was (domain, section 12),
 * for any way in which clicks follow bids: with clicks C(b) and a click worth w, w C(b) minus the integral of x dC(x) is
 * (w - b) C(b) plus the integral of C from the lowest bid on. It is highest at b = w, and goes on from there as the
 * integral alone. The closed form of `worthOfBid` is that of one elasticity; from a floor to a living bid there is none.
 */
export class WorthCurve {
  private readonly bids: number[] = [];
  private readonly clicks: number[] = [];
  /** Integral of clicks up to each of them. */
  private readonly area: number[] = [];

  /** Effective bids, micros; `clicksAt`: clicks a week, never fewer at a higher bid. */
  constructor(
    private readonly clicksAt: (bid: Micros) => number,
    readonly least: Micros,
    readonly most: Micros,
  ) {
    const growth = Math.max(most / least, 1) ** (1 / points);
    let [bid, clicks, area] = [least, clicksAt(least), 0];
    for (let i = 0; i <= points; i++) {
      this.bids.push(bid);
      this.clicks.push(clicks);
      this.area.push(area);
      const next = bid * growth;
      const there = clicksAt(next);
      area += areaBetween([bid, clicks], [next, there]);
      [bid, clicks] = [next, there];
    }
  }

  /** A week at a bid, where a click is worth so much; micros, counted from the lowest bid. */
  at(bid: Micros, click: Micros): Micros {
    return (click - bid) * this.clicksAt(bid) + this.areaTo(bid);
  }

  /** A week at the best of the bids. */
  best(click: Micros): Micros {
    return this.at(clamp(click, this.least, this.most), click);
  }

  private areaTo(bid: Micros): number {
    const { bids, clicks, area, least } = this;
    if (bid <= least) return 0;
    const growth = Math.log(bids[1]! / least);
    const at = growth > 0 ? Math.min(points - 1, Math.floor(Math.log(bid / least) / growth)) : 0;
    return area[at]! + areaBetween([bids[at]!, clicks[at]!], [bid, this.clicksAt(bid)]);
  }
}

/** Integral of clicks between two bids, one elasticity holding between them: straight lines are off where clicks rise steeply. */
function areaBetween([low, few]: [Micros, number], [high, many]: [Micros, number]): number {
  if (few <= 0 || many <= 0 || high <= low) return ((few + many) / 2) * (high - low);
  const elasticity = Math.log(many / few) / Math.log(high / low);
  return (high * many - low * few) / (elasticity + 1);
}
