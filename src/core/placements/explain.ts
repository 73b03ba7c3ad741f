import { eighty } from '../effect/forecast.ts';
import { counted, money, percent, significant } from '../metrics/format.ts';
import type { Step } from '../round/explain.ts';
import { ownPart } from './beliefs.ts';
import type { PlacedRow, PlacementRow } from './findings.ts';
import { placementName, strategyName } from './names.ts';
import type { BidFactor } from './propose.ts';
import type { StrategyPair } from './strategies.ts';
import type { StreamName } from './streams.ts';

/** Why a campaign's modifiers and bids should move, in words and step by step. */

const sum = <T>(list: readonly T[], of: (one: T) => number): number =>
  list.reduce((all, one) => all + of(one), 0);

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

/** Why campaigns would be served better by another strategy. */
export function sentenceOfStrategy({ strategy, against, ratio, low, high, ...pair }: StrategyPair): string {
  const told = (one: Pick<StrategyPair, 'ratio' | 'low' | 'high'>) =>
    `${one.ratio.toFixed(2)} × (${one.low.toFixed(2)} to ${one.high.toFixed(2)})`;
  return (
    `Of a unit spent ${strategyName(strategy)} sells ${told({ ratio, low, high })} what ${strategyName(against)} does, among ` +
    `${pair.campaigns} and ${pair.others} campaigns that aim alike; once these switch too, about ${told(pair.switched)}.`
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
