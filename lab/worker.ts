import { families } from './crowd/families.ts';
import { measure } from './measure.ts';
import { playPlaced } from './placements.ts';

/** One market at a time, as the main thread asks for them; `placed`: one with placements. */
process.on('message', ({ family, seed, placed }: { family: number; seed: number; placed?: boolean }) => {
  process.send!(placed ? playPlaced(family, seed) : measure(families[family]!, seed));
});
