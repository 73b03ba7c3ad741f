import type { Family } from './crowd/families.ts';
import type { View } from './crowd/view.ts';
import { play, salesAtTarget, type Played } from './play.ts';
import { mowing, type Belief, type Said } from './ways/mowing.ts';
import { bands, nothing, revenuePerClick, tenPercentNightly } from './ways/simple.ts';

/** Ends of the buckets of weighted clicks that coverage is told for. */
export const buckets = [5, 20, 50, 150, Infinity] as const;

/** How well beliefs held: counts of intervals and of those that held the truth, by clicks; verdicts; expected sales. */
export interface Held {
  inside: number[];
  all: number[];
  under: { said: number; right: number };
  /** Sum of expected over sum of true revenue, weighted by clicks. */
  expected: number;
  truth: number;
}

/** Sales a week that raises and cuts were said to change, and truly did. */
export type Bias = Record<'raise' | 'cut', { said: number; truth: number }>;

/** One market as all ways play it. */
export interface Measured {
  family: string;
  seed: number;
  targetAcos: number;
  best: number;
  ways: Record<
    string,
    {
      share: number;
      spend: number;
      sales: number;
      changes: number;
      acos: number[];
      sold: number[];
      theta: (number | null)[];
    }
  >;
  held: Held;
  bias: Bias;
}

export const wayNames = {
  all: 'Mowing, all accepted',
  forty: 'Mowing, 40 a week',
  half: 'Mowing, half never sent',
} as const;

const noHeld = (): Held => ({
  inside: buckets.map(() => 0),
  all: buckets.map(() => 0),
  under: { said: 0, right: 0 },
  expected: 0,
  truth: 0,
});

function watch(held: Held, said: Belief[], view: View): void {
  const { market } = view;
  for (const { target, n, low, high, mean, verdict, cpc } of said) {
    if (n <= 0) continue;
    const truth = market.revenueOf(market.targets[target]!);
    const bucket = buckets.findIndex((end) => n < end);
    held.all[bucket]!++;
    if (truth >= low && truth <= high) held.inside[bucket]!++;
    held.expected += mean * n;
    held.truth += truth * n;
    if (verdict !== 'under' || cpc === null) continue;
    held.under.said++;
    if (cpc / truth <= market.targetAcos) held.under.right++;
  }
}

function compare(bias: Bias, said: Said[], { market }: View): void {
  for (const { target: id, from, to, sales } of said) {
    const target = market.targets[id]!;
    const revenue = market.revenueOf(target);
    const kind = bias[to > from ? 'raise' : 'cut'];
    kind.said += sales;
    kind.truth += (market.week(target, to).clicks - market.week(target, from).clicks) * revenue;
  }
}

/** Plays every way of working on one market. */
export function measure(family: Family, seed: number): Measured {
  const best = play(family, seed, 'best');
  const sold = salesAtTarget(best);
  const held = noHeld();
  const bias: Bias = { raise: { said: 0, truth: 0 }, cut: { said: 0, truth: 0 } };
  const plays: Played[] = [
    nothing(),
    bands(),
    revenuePerClick(),
    tenPercentNightly(),
    mowing({
      name: wayNames.all,
      watch: (said, view) => watch(held, said, view),
      forecast: (said, view) => compare(bias, said, view),
    }),
    mowing({ name: wayNames.forty, most: 40 }),
    mowing({ name: wayNames.half, sent: 0.5 }),
  ].map((way) => play(family, seed, way));
  const sum = (played: Played, name: 'spend' | 'sales' | 'changes') =>
    played.weeks.reduce((total, week) => total + week[name], 0);
  return {
    family: family.name,
    seed,
    targetAcos: best.targetAcos,
    best: sold,
    ways: Object.fromEntries(
      [...plays, best].map((played) => [
        played.way,
        {
          share: salesAtTarget(played) / sold,
          spend: sum(played, 'spend'),
          sales: sum(played, 'sales'),
          changes: sum(played, 'changes'),
          acos: played.weeks.map((week) => week.spend / Math.max(1e-9, week.sales)),
          sold: played.weeks.map((week) => week.sales),
          theta: played.weeks.map((week) => week.theta),
        },
      ]),
    ),
    held,
    bias,
  };
}

/** What the simple ways reach at best on a market. */
export const bestSimple = ({ ways }: Measured): number =>
  Math.max(...['do nothing', 'bands', 'revenue per click', '10 % nightly'].map((name) => ways[name]!.share));

export const coverage = (held: readonly Held[], bucket?: number): number => {
  const add = (list: (held: Held) => number[]) =>
    held.reduce(
      (sum, one) =>
        sum +
        list(one).reduce((total, count, i) => total + (bucket === undefined || i === bucket ? count : 0), 0),
      0,
    );
  return (
    add(({ inside }) => inside) /
    Math.max(
      1,
      add(({ all }) => all),
    )
  );
};
