import { median, quantile } from 'd3';
import { placedFamilies } from './crowd/families.ts';
import { play, salesAtTarget } from './play.ts';
import { mowing } from './ways/mowing.ts';

/** One market with placements, played without and with what is proposed of them: sales at target. */
export interface PlacedPlay {
  family: string;
  seed: number;
  without: number;
  with: number;
  /** The same of the last four weeks. */
  lateWithout: number;
  lateWith: number;
}

/** Plays a market of a placed family both ways; everything else is accepted in both. */
export function playPlaced(family: number, seed: number): PlacedPlay {
  const chosen = placedFamilies[family]!;
  const [plain, placed] = [false, true].map((placements) =>
    play(chosen, seed, mowing({ name: placements ? 'placements' : 'bids alone', placements })),
  ) as [ReturnType<typeof play>, ReturnType<typeof play>];
  const late = (one: typeof plain) => salesAtTarget({ ...one, weeks: one.weeks.slice(-4) });
  return {
    family: chosen.name,
    seed,
    without: salesAtTarget(plain),
    with: salesAtTarget(placed),
    lateWithout: late(plain),
    lateWith: late(placed),
  };
}

const two = (value: number | undefined): string => (value ?? NaN).toFixed(3);

/** What moving modifiers and bids together brings, as a page; seeds above `tunedSeeds` were kept aside. */
export function placementsText(plays: readonly PlacedPlay[], tunedSeeds: number): string {
  const rows = (list: readonly PlacedPlay[]) =>
    placedFamilies.map(({ name }) => {
      const own = list.filter(({ family }) => family === name);
      const whole = own.map((one) => one.with / one.without);
      const late = own.map((one) => one.lateWith / one.lateWithout);
      const mean = whole.reduce((sum, ratio) => sum + ratio, 0) / whole.length;
      return `| ${[
        name,
        own.length,
        `${two(median(whole))} (${two(quantile(whole, 0.1))} to ${two(quantile(whole, 0.9))})`,
        two(mean),
        two(median(late)),
        whole.filter((ratio) => ratio > 1).length,
      ].join(' | ')} |`;
    });
  const table = (list: readonly PlacedPlay[]) =>
    [
      '| markets | played | sales at target, with over without: median (10th to 90th) | mean | last four weeks | sold more |',
      '| --- | --- | --- | --- | --- | --- |',
      ...rows(list),
    ].join('\n');
  return `# Placements in the laboratory

\`npm run lab -- --only=placements\` plays markets of the independent kind ([lab.md](../lab.md)) in which every target is shown in
three placements. Each placement costs and sells otherwise, by product and campaign; better targets are found at the top more often, and no
report tells which. Twelve weeks, everything that Mowing proposes for bids accepted, once without and once with what it proposes
for placements: modifiers and bids together (domain, section 8), at most 100 points and one change in 7 days.

## Kept aside: seeds ${tunedSeeds + 1} and up

${table(plays.filter(({ seed }) => seed > tunedSeeds))}

## Looked at while building: seeds 1 to ${tunedSeeds}

${table(plays.filter(({ seed }) => seed <= tunedSeeds))}
`;
}
