import { expectedWeek, setBest } from './crowd/best.ts';
import type { Family } from './crowd/families.ts';
import { Market } from './crowd/market.ts';
import { View } from './crowd/view.ts';
import type { Way } from './ways/simple.ts';

export interface Week {
  spend: number;
  sales: number;
  changes: number;
  theta: number | null;
}

export interface Played {
  way: string;
  targetAcos: number;
  weeks: Week[];
}

export const rounds = 12;

/** Sales at the target: over it, as many are taken off as a smaller spend would have lost, twice the overrun. */
export function salesAtTarget({ weeks, targetAcos }: Played): number {
  const spend = weeks.reduce((sum, week) => sum + week.spend, 0);
  const sales = weeks.reduce((sum, week) => sum + week.sales, 0);
  const over = spend / (targetAcos * Math.max(1e-9, sales));
  return over > 1 ? sales / over ** 2 : sales;
}

/** Plays one way of working on one market for twelve weeks; weeks are scored by what is to be expected of them. */
export function play(family: Family, seed: number, way: Way | 'best'): Played {
  const market = new Market(family, seed);
  const view = new View(market);
  const weeks: Week[] = [];
  view.fetch();
  for (let round = 0; round < rounds; round++) {
    let changes = 0;
    const apply = (bids: Map<number, number>) => {
      for (const [target, bid] of bids) {
        const rounded = market.rounded(bid);
        if (rounded !== market.targets[target]!.bid) changes++;
        market.targets[target]!.bid = rounded;
      }
    };
    let theta: number | null = null;
    if (way === 'best') theta = setBest(market);
    else if (!way.nightly) {
      apply(way.decide(view));
      theta = way.theta?.() ?? null;
    }
    let [spend, sales] = [0, 0];
    for (let day = 0; day < 7; day++) {
      if (way !== 'best' && way.nightly) {
        view.fetch();
        apply(way.decide(view));
      }
      const week = expectedWeek(market);
      spend += week.spend / 7;
      sales += week.sales / 7;
      market.live();
    }
    view.fetch();
    weeks.push({ spend, sales, changes, theta });
  }
  return { way: way === 'best' ? 'best' : way.name, targetAcos: market.targetAcos, weeks };
}
