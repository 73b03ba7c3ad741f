import type { BudgetsAnswer } from '../src/answers/spend.ts';
import { railOf, splitGround } from '../src/core/budgets/rules.ts';
import type { BudgetOption } from '../src/core/budgets/propose.ts';
import { splitter } from '../src/core/budgets/split.ts';
import { judgedDays, openQuayside, type QuaysideMarket } from './quayside.ts';
import { trueWeeks, type Structure, type TrueWeek } from './truth.ts';

/** What to do about budgets that run dry, each way lived over by the same shoppers at Quaysides (hidden truth). */

export const budgetMarkets: readonly (QuaysideMarket & { budgets: number })[] = [
  { name: 'as the demo', seed: 20260824, searches: 1, rivals: 1, targetAcos: 0.26, budgets: 1 },
  { name: 'tight budgets', seed: 4301, searches: 1, rivals: 1, targetAcos: 0.26, budgets: 0.5 },
  { name: 'high goal', seed: 4302, searches: 0.7, rivals: 1, targetAcos: 0.5, budgets: 0.5 },
  { name: 'cheap rivals', seed: 4303, searches: 0.7, rivals: 0.7, targetAcos: 0.3, budgets: 0.6 },
];
const lives = 16;

export type Name = 'clicks' | 'spend' | 'sales' | 'worth';
export type Sums = Record<Name, number>;

/** One way beside nothing done: what it was said to change in a week, and what it changed, with standard errors. */
interface Tried {
  way: string;
  said: Sums | null;
  seen: Sums;
  errors: Sums;
}

export interface BudgetsPlayed {
  market: QuaysideMarket & { budgets: number };
  theta: number;
  dry: number;
  campaigns: number;
  week: TrueWeek;
  caught: number;
  tried: Tried[];
}

export async function playBudgets(
  market: (typeof budgetMarkets)[number],
  database: (name: string) => Promise<string>,
  home: string,
): Promise<BudgetsPlayed> {
  const opened = await openQuayside(market, database, home);
  const { call, quaysideBooks } = opened;
  try {
    const { query } = await judgedDays(opened);
    const answer = await call<BudgetsAnswer>('GET', `/api/1/spend/budgets?${query}`);
    const played = await tryWays(market, answer, (trial) => trueWeeks(quaysideBooks, { lives, ...trial }));
    process.stdout.write(`Quayside ${market.name}: budgets tried\n`);
    return played;
  } finally {
    await opened.stop();
  }
}

/** Sets budgets, schedules, strategies and bids of campaigns, found by their names, where a week is lived from. */
export function hands(structure: Structure) {
  const byName = new Map([...structure.campaigns.values()].map((one) => [one.name, one]));
  return {
    budget: (name: string, micros: number) => {
      byName.get(name)!.dailyBudget = micros / 1e6;
    },
    schedule: (name: string, schedule: string) => {
      byName.get(name)!.schedule = schedule;
    },
    strategy: (name: string, strategy: string) => {
      byName.get(name)!.strategy = strategy;
    },
    bids: (name: string, factor: number) => {
      const { id } = byName.get(name)!;
      for (const target of structure.targets.values())
        if (structure.adGroups.get(target.adGroupId)!.campaignId === id && target.bid !== null)
          target.bid = Math.max(0.04, Math.round(target.bid * factor * 100) / 100);
    },
  };
}

async function tryWays(
  market: (typeof budgetMarkets)[number],
  answer: BudgetsAnswer,
  live: (trial: { change?: (structure: Structure) => void }) => Promise<TrueWeek[]>,
): Promise<BudgetsPlayed> {
  const rows = answer.campaigns.filter(({ budget }) => budget !== null);
  const spend = rows.reduce((sum, row) => sum + row.sums.spend, 0);
  const theta = rows.reduce((sum, row) => sum + row.theta * row.sums.spend, 0) / spend;
  const found = rows.filter(({ proposal }) => proposal !== null && proposal.chosen.kind !== 'slack');
  const optionsOf = (kind: BudgetOption['kind'] | null) =>
    found.flatMap(({ name, proposal }) => {
      const option = kind === null ? proposal!.chosen : proposal!.options.find((one) => one.kind === kind);
      return option ? [{ name, ...option }] : [];
    });
  const take = (options: ({ name: string } & BudgetOption)[]) => (structure: Structure) => {
    const { budget, bids } = hands(structure);
    for (const option of options)
      if (option.kind === 'raise') budget(option.name, option.budget);
      else bids(option.name, option.bids);
  };
  const saidOf = (options: readonly BudgetOption[]): Sums => {
    const total = (of: (one: BudgetOption) => number) => options.reduce((sum, one) => sum + of(one), 0);
    return {
      clicks: total((one) => one.clicks),
      spend: total((one) => one.spend) / 1e6,
      sales: total((one) => one.sales) / 1e6,
      worth: total((one) => one.worth) / 1e6,
    };
  };
  const group = answer.groups.find(({ scope }) => scope === 'account')!;
  const { members, rules } = splitGround(group, rows, new Map(), answer.minimumBudget, answer.today);
  const split = splitter(members, { ...rules, total: rules.total })();
  const names = new Map(rows.map(({ campaignId, name }) => [campaignId, name]));
  const setAll = (budgets: readonly { campaignId: string; budget: number }[]) => (structure: Structure) => {
    for (const { campaignId, budget } of budgets) hands(structure).budget(names.get(campaignId)!, budget);
  };
  const ways: { way: string; said: Sums | null; change: (structure: Structure) => void }[] = [
    { way: 'as proposed', said: saidOf(optionsOf(null)), change: take(optionsOf(null)) },
    {
      way: 'bids lowered everywhere',
      said: saidOf(optionsOf('lower_bids')),
      change: take(optionsOf('lower_bids')),
    },
    {
      way: 'budgets raised, under the goal',
      said: saidOf(optionsOf('raise')),
      change: take(optionsOf('raise')),
    },
    { way: 'the total split anew', said: null, change: setAll(split.parts) },
    {
      way: 'budgets as rails',
      said: null,
      change: setAll(members.map((member) => ({ campaignId: member.campaignId, budget: railOf(member) }))),
    },
    {
      way: 'no budget binds',
      said: null,
      change: setAll(rows.map(({ campaignId }) => ({ campaignId, budget: 1e9 }))),
    },
  ];
  const alone = await live({});
  const tried: Tried[] = [];
  for (const { way, said, change } of ways)
    tried.push({ way, said, ...beside(await live({ change }), alone, theta) });
  const mean = (name: keyof TrueWeek) => alone.reduce((sum, week) => sum + week[name], 0) / alone.length;
  const missed = rows.reduce((sum, row) => sum + row.lost.clicks, 0);
  return {
    market,
    theta,
    dry: found.length,
    campaigns: rows.length,
    week: { clicks: mean('clicks'), spend: mean('spend'), orders: mean('orders'), sales: mean('sales') },
    caught: missed > 0 ? rows.reduce((sum, row) => sum + row.lost.clicks * row.caught, 0) / missed : 0,
    tried,
  };
}

/** Differences of the same lives, with their standard errors. */
export function beside(weeks: readonly TrueWeek[], alone: readonly TrueWeek[], theta: number) {
  const of = (name: Name, week: TrueWeek) =>
    name === 'worth' ? theta * week.sales - week.spend : week[name];
  const seen = {} as Sums;
  const errors = {} as Sums;
  for (const name of ['clicks', 'spend', 'sales', 'worth'] as const) {
    const differences = weeks.map((week, at) => of(name, week) - of(name, alone[at]!));
    const mean = differences.reduce((sum, one) => sum + one, 0) / differences.length;
    seen[name] = mean;
    errors[name] = Math.sqrt(
      differences.reduce((sum, one) => sum + (one - mean) ** 2, 0) /
        (differences.length - 1) /
        differences.length,
    );
  }
  return { seen, errors };
}

const round = (value: number): string => value.toFixed(0);

export function budgetsText(played: readonly BudgetsPlayed[]): string {
  const parts = played.map(({ market, theta, dry, campaigns, week, caught, tried }) => {
    const rows = tried.map(({ way, said, seen, errors }) => {
      const cell = (name: Name) =>
        `${said ? `${round(said[name])} / ` : ''}${round(seen[name])} ± ${round(errors[name])}`;
      return `| ${way} | ${cell('clicks')} | ${cell('spend')} | ${cell('sales')} | ${cell('worth')} |`;
    });
    return `## ${market.name}

Budgets ${market.budgets} times the demo's, goal ${round(market.targetAcos * 100)} %, θ ${theta.toFixed(2)}: ${dry} of ${campaigns} campaigns run dry. A week as it stands:
${round(week.clicks)} clicks, ${round(week.spend)} spent, ${round(week.sales)} sold. Of what is missed Mowing takes ${round(caught * 100)} % for caught by others of the product.

| way | clicks | spend | sales | worth at θ |
| --- | --- | --- | --- | --- |
${rows.join('\n')}`;
  });
  return `# Budgets in the laboratory

\`npm run lab -- --only=budgets\`: Quaysides with 60 days behind them. What Mowing says about budgets is tried where they stand, each way over
${lives} lives of the next week by the same shoppers as with nothing done; what changes a week (said / seen ± standard error).

${parts.join('\n\n')}
`;
}
