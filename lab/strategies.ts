import type { PlacementsAnswer } from '../src/answers/spend.ts';
import { units } from '../src/core/metrics/money.ts';
import {
  compareStrategies,
  servedBetter,
  strategyCampaigns,
  type StrategyPair,
} from '../src/core/placements/strategies.ts';
import { hands } from './budgets.ts';
import { judgedDays, openQuayside, type QuaysideMarket } from './quayside.ts';
import { Chance } from './random.ts';
import { trueWeeks, type Structure, type TrueWeek } from './truth.ts';

/** What bidding strategies sell of a unit spent, against Quaysides on which all campaigns switch (hidden truth). */

const strategies = ['fixed', 'down_only', 'up_and_down'] as const;

export const strategyMarkets: readonly QuaysideMarket[] = [
  { name: 'as the demo', seed: 20260824, searches: 1, rivals: 1, targetAcos: 0.26 },
  ...[4501, 4502, 4503, 4504, 4505].map((seed) => ({
    name: `another ${seed - 4500}`,
    seed,
    searches: 0.7,
    rivals: seed % 2 === 0 ? 1.3 : 0.9,
    targetAcos: 0.26,
  })),
];
/** Sales per unit spent of so many lives of a week are known to about 2 %. */
const lives = 12;

/** One strategy against another: what Mowing says, and what it is when every campaign has the one or the other. */
interface PairPlayed {
  pair: StrategyPair;
  truth: number;
  /** Standard error of its logarithm. */
  error: number;
}

export interface StrategiesPlayed {
  market: QuaysideMarket;
  campaigns: number;
  pairs: PairPlayed[];
  /** All that is proposed done at once: sales a week of the money that is spent without it. */
  proposed: { campaigns: number; said: number; seen: Mean };
}

/** Over lives, with its standard error. */
interface Mean {
  mean: number;
  error: number;
}

/** Each campaign of a market gets a strategy by lot. */
function drawStrategies(seed: number): () => (typeof strategies)[number] {
  const chance = new Chance(seed);
  return () => strategies[chance.whole(strategies.length)]!;
}

function meanOf(values: readonly number[]): Mean {
  const mean = values.reduce((sum, value) => sum + value, 0) / values.length;
  const squares = values.reduce((sum, value) => sum + (value - mean) ** 2, 0);
  return { mean, error: Math.sqrt(squares / (values.length - 1) / values.length) };
}

/** ln of sales per unit spent under one over that under the other, over the same lives; with its standard error. */
export const logRatio = (one: readonly TrueWeek[], other: readonly TrueWeek[]): Mean =>
  meanOf(one.map((week, at) => Math.log(week.sales / week.spend / (other[at]!.sales / other[at]!.spend))));

/** What the money spent in one world would sell more at the other's sales per unit, over the same lives. */
export const forSameMoney = (changed: readonly TrueWeek[], alone: readonly TrueWeek[]): Mean =>
  meanOf(changed.map(({ sales, spend }, at) => (sales / spend) * alone[at]!.spend - alone[at]!.sales));

export async function playStrategies(
  market: QuaysideMarket,
  database: (name: string) => Promise<string>,
  home: string,
): Promise<StrategiesPlayed> {
  const draw = drawStrategies(market.seed);
  const opened = await openQuayside({ ...market, strategyOf: draw }, database, home);
  const { call, quaysideBooks } = opened;
  try {
    const { days, query } = await judgedDays(opened);
    const answer = await call<PlacementsAnswer>('GET', `/api/1/spend/placements?${query}`);
    const live = (change?: (structure: Structure) => void) =>
      trueWeeks(quaysideBooks, { lives, ...(change ? { change } : {}) });
    const worlds = new Map<string, TrueWeek[]>();
    for (const strategy of strategies)
      worlds.set(
        strategy,
        await live(({ campaigns }) => {
          for (const campaign of campaigns.values()) campaign.strategy = strategy;
        }),
      );
    const rows = strategyCampaigns(answer.campaigns);
    const pairs = compareStrategies(rows);
    const found = servedBetter(rows, pairs, days);
    const alone = await live();
    const changed = await live((structure) => {
      const { strategy } = hands(structure);
      for (const { pair, campaigns } of found)
        for (const { name } of campaigns) strategy(name, pair.strategy);
    });
    process.stdout.write(`Quayside ${market.name}: strategies tried\n`);
    return {
      market,
      campaigns: answer.campaigns.length,
      pairs: pairs.map((pair) => {
        const { mean, error } = logRatio(worlds.get(pair.strategy)!, worlds.get(pair.against)!);
        return { pair, truth: Math.exp(mean), error };
      }),
      proposed: {
        campaigns: found.reduce((sum, { campaigns }) => sum + campaigns.length, 0),
        said: units(found.reduce((sum, { sales }) => sum + sales, 0)),
        seen: forSameMoney(changed, alone),
      },
    };
  } finally {
    await opened.stop();
  }
}

const whole = (value: number): string => value.toFixed(0);
const two = (value: number): string => value.toFixed(2);
const holds = ({ low, high }: Pick<StrategyPair, 'low' | 'high'>, truth: number): boolean =>
  truth >= low && truth <= high;
const told = ({ ratio, low, high }: StrategyPair['switched']): string =>
  `${two(ratio)} (${two(low)} to ${two(high)})`;

export function strategiesText(played: readonly StrategiesPlayed[]): string {
  const all = played.flatMap(({ pairs }) => pairs);
  const inside = all.filter(({ pair, truth }) => holds(pair.switched, truth));
  const beside = all.filter(({ pair, truth }) => holds(pair, truth));
  const sure = all.filter(({ pair }) => pair.chance >= 0.95);
  const right = sure.filter(({ truth }) => truth > 1);
  const proposals = played.map(
    ({ market, proposed: { campaigns, said, seen } }) =>
      `| ${market.name} | ${campaigns} | ${whole(said)} | ${whole(seen.mean)} ± ${whole(seen.error)} |`,
  );
  const total = (of: (one: StrategiesPlayed['proposed']) => number) =>
    whole(played.reduce((sum, { proposed }) => sum + of(proposed), 0));
  const rows = played.flatMap(({ market, campaigns, pairs }) =>
    pairs.map(({ pair, truth, error }) => {
      const names = `${pair.strategy.replaceAll('_', ' ')} against ${pair.against.replaceAll('_', ' ')}`;
      return `| ${market.name} | ${campaigns} | ${names} | ${pair.campaigns} and ${pair.others} | ${told(pair)} | ${two(pair.chance)} | ${told(pair.switched)} | ${two(truth)} ± ${two(truth * error)} |`;
    }),
  );
  return `# Strategies in the laboratory

\`npm run lab -- --only=strategies\`: Quaysides with 60 days behind them, on which each campaign got its strategy by lot. What Mowing says of
one strategy against another (sales of a unit spent as campaigns stand beside each other, the chance that it is better, and what stays of it once they
switch, each with its 80 % interval) is held against ${lives} lives of the next week by the same shoppers in which all campaigns have the one, and in
which all have the other.

What is said of switching holds the truth in ${inside.length} of ${all.length}, what campaigns tell beside each other would in ${beside.length}. Of ${sure.length} said to be better with 95 %, ${right.length} are.

| market | campaigns | strategies | campaigns compared | beside each other | chance | switched | truth |
| --- | --- | --- | --- | --- | --- | --- | --- |
${rows.join('\n')}

All that is proposed done at once, everything else as it is: what the money that is spent without it sells more in a week, in the marketplace's
currency; together ${total(({ said }) => said)} said and ${total(({ seen }) => seen.mean)} seen.

| market | campaigns switched | said | seen |
| --- | --- | --- | --- |
${proposals.join('\n')}
`;
}
