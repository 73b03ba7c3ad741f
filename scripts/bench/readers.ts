import { playLoad, quantileOf, warmUp, type LoadReport } from '../../tests/campaigns/load.ts';
import type { Running } from '../lib/processes.ts';
import type { Measure } from './measure.ts';

const readers = 100;
const seconds = 60;

/** A hundred people look at the demo account for a minute, each a second after what they saw; then while one works. */
export async function* manyReaders({ url }: Running): AsyncGenerator<Measure, void, undefined> {
  // Everything has been asked for once: that is what a minute of a hundred people is about.
  const warm = quantileOf(await warmUp(url), 0.95);
  yield measureOf('readers-100', warm, await playLoad(url, readers, seconds, false));
  yield measureOf('readers-100-and-one-who-works', warm, await playLoad(url, readers, seconds, true));
}

function measureOf(name: string, alone: number, report: LoadReport): Measure {
  const { calls, errors, median, p95, p99, slowest } = report;
  if (errors.length > 0) process.stderr.write(`${errors[0]}\n`);
  const first = slowest.slice(0, 3).map((one) => `${one.path} ${Math.round(one.p95)}`);
  return {
    name,
    value: p95,
    unit: `ms, 95th of ${calls} answers (median ${Math.round(median)}, 99th ${Math.round(p99)}, ${errors.length} errors; slowest: ${first.join(', ')})`,
    reference: `the same calls by one reader (95th ${Math.round(alone)} ms)`,
    ratio: p95 / alone,
    aim: 'under 300 ms, no error',
  };
}
