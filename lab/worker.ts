import { families } from './crowd/families.ts';
import { measure } from './measure.ts';
import { playPlaced } from './placements.ts';
import { playRoutines } from './routines.ts';

/** What is played on a market: all ways, placements, or routines. */
export type Kind = 'ways' | 'placements' | 'routines';

/** One market at a time, as the main thread asks for them. */
process.on('message', ({ family, seed, kind }: { family: number; seed: number; kind: Kind }) => {
  process.send!(
    kind === 'placements'
      ? playPlaced(family, seed)
      : kind === 'routines'
        ? playRoutines(family, seed)
        : measure(families[family]!, seed),
  );
});
