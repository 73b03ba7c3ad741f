import { micros } from '../src/core/metrics/money.ts';
import { shippedRoutines } from '../src/core/routines/shipped.ts';
import type { Routine } from '../src/core/routines/routine.ts';
import { families } from './crowd/families.ts';
import { play, rounds, salesAtTarget } from './play.ts';
import { mowing } from './ways/mowing.ts';
import { nothing } from './ways/simple.ts';

/** Shipped routines that move bids, each by itself for twelve weeks on markets whose truth is hidden from it. */

/** Limits are of accounts of a person's own size: a market's are as wide as the market, but for one that keeps them. */
const wide: Routine['limits'] = {
  lines: 100_000,
  weekLines: 100_000,
  spend: micros(1e6),
  weekSpend: micros(1e6),
  share: 1,
};

const named = (name: string): Routine => shippedRoutines.find((one) => one.name === name)!;
const bidRoutines = [
  'Stop spend without orders',
  'Nightly toward target, careful',
  'Weekly bids, evidence',
  'Bands, weekly',
  'Revenue per click, weekly',
] as const;

export const routineWays: readonly { name: string; routine: Routine | null }[] = [
  { name: 'do nothing', routine: null },
  ...bidRoutines.map((name) => ({ name, routine: { ...named(name), limits: wide } })),
  { name: 'Weekly bids, evidence, as shipped', routine: named('Weekly bids, evidence') },
];

export interface RoutinePlay {
  family: string;
  seed: number;
  /** Sales at target over the best that the truth allows, ACOS of the last week over the target, and changes, by way. */
  ways: Record<string, { share: number; acos: number; changes: number }>;
}

export function playRoutines(family: number, seed: number, which = routineWays): RoutinePlay {
  const of = families[family]!;
  const best = salesAtTarget(play(of, seed, 'best'));
  const ways = Object.fromEntries(
    which.map(({ name, routine }) => {
      const played = play(of, seed, routine ? mowing({ name, routine }) : nothing());
      const last = played.weeks.at(-1)!;
      return [
        name,
        {
          share: salesAtTarget(played) / best,
          acos: last.spend / last.sales / played.targetAcos,
          changes: played.weeks.reduce((sum, { changes }) => sum + changes, 0) / rounds,
        },
      ];
    }),
  );
  return { family: of.name, seed, ways };
}

const median = (values: number[]): number => values.sort((a, b) => a - b)[Math.floor(values.length / 2)]!;

export function routinesText(played: readonly RoutinePlay[]): string {
  const names = [...new Set(played.map(({ family }) => family))];
  const head = `| routine | ${names.join(' | ')} | ACOS of the last week over the target | changes a week |`;
  const rows = routineWays.map(({ name }) => {
    const all = played.map(({ ways }) => ways[name]!);
    const cells = names.map((family) =>
      median(played.filter((one) => one.family === family).map(({ ways }) => ways[name]!.share)).toFixed(2),
    );
    return `| ${name} | ${cells.join(' | ')} | ${median(all.map(({ acos }) => acos)).toFixed(2)} | ${median(all.map(({ changes }) => changes)).toFixed(0)} |`;
  });
  return `# Routines in the laboratory

\`npm run lab -- --only=routines\`: markets with hidden truth (see ../lab.md), worked off for twelve weeks by one shipped routine and by nobody else; the product's own judgement, choice and limits.
Sales at target as a share of the best that the truth allows, medians of ${played.length / names.length} markets of each family. Limits are as wide as the market, but for the last row, which has those that it is shipped with.

${head}
|${' --- |'.repeat(names.length + 3)}
${rows.join('\n')}
`;
}
