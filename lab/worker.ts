import { families } from './crowd/families.ts';
import { measure } from './measure.ts';

/** One market at a time, as the main thread asks for them. */
process.on('message', ({ family, seed }: { family: number; seed: number }) => {
  process.send!(measure(families[family]!, seed));
});
