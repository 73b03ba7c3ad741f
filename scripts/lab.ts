import { mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fork } from 'node:child_process';
import { fileURLToPath } from 'node:url';
import { families, placedFamilies } from '../lab/crowd/families.ts';
import { budgetMarkets, budgetsText, playBudgets } from '../lab/budgets.ts';
import { hourMarkets, hoursText, playHours } from '../lab/hours.ts';
import { placementsText, type PlacedPlay } from '../lab/placements.ts';
import { playStrategies, strategiesText, strategyMarkets } from '../lab/strategies.ts';
import { wayNames, type Measured } from '../lab/measure.ts';
import { salesAtTarget } from '../lab/play.ts';
import { routinesText, type RoutinePlay } from '../lab/routines.ts';
import { playQuayside, quaysideMarkets, type QuaysidePlayed } from '../lab/quayside.ts';
import {
  coveragePicture,
  reportText,
  sharesPicture,
  tunedSeeds,
  weeksPicture,
  type Through,
} from '../lab/report.ts';
import { playThrough } from '../lab/through.ts';
import { build } from './lib/build.ts';
import { startCluster } from './lib/cluster.ts';
import { root } from './lib/processes.ts';

// The laboratory: all markets through the core, some through the running product; docs/lab.md and its pictures.
// npm run lab -- --seeds=20 --through=6; --only=placements plays markets with placements (docs/lab/placements.md),
// --only=budgets, hours and strategies try what is said of them on Quaysides (docs/lab/budgets.md, hours.md, strategies.md),
// --only=routines has markets worked off by routines (docs/lab/routines.md)

const option = (name: string, usual: number): number =>
  Number(process.argv.find((argument) => argument.startsWith(`--${name}=`))?.split('=')[1] ?? usual);
const seeds = option('seeds', 20);
const throughCount = option('through', families.length);
const began = performance.now();

const isPlacements = process.argv.includes('--only=placements');
const isRoutines = process.argv.includes('--only=routines');
const tasks = Array.from({ length: seeds }, (_, seed) =>
  (isPlacements ? placedFamilies : families).map((_, family) => ({
    family,
    seed: seed + 1,
    kind: isPlacements ? 'placements' : isRoutines ? 'routines' : 'ways',
  })),
).flat();
const measured: Measured[] = [];
const placed: PlacedPlay[] = [];
const routines: RoutinePlay[] = [];

/** One process that takes market after market. */
function work(): Promise<void> {
  return new Promise((resolve, reject) => {
    const worker = fork(fileURLToPath(new URL('../lab/worker.ts', import.meta.url)), {
      execArgv: ['--import', 'tsx'],
    });
    const next = () => {
      const task = tasks.shift();
      if (task) worker.send(task);
      else {
        worker.disconnect();
        resolve();
      }
    };
    worker.on('message', (result: Measured | PlacedPlay | RoutinePlay) => {
      if ('lateWith' in result) placed.push(result);
      else if ('targetAcos' in result) measured.push(result);
      else routines.push(result);
      const played = measured.length + placed.length + routines.length;
      if (played % 10 === 0) process.stdout.write(`${played} markets played\n`);
      next();
    });
    worker.once('error', reject);
    process.once('exit', () => worker.kill());
    next();
  });
}

const through: Through[] = [];
const quaysides: QuaysidePlayed[] = [];
/** One market of each family, the first that is kept aside, through the running product. */
async function throughProduct(): Promise<void> {
  if (throughCount === 0) return;
  await build();
  const home = join(root, '.data/lab');
  rmSync(home, { recursive: true, force: true });
  const cluster = await startCluster(home);
  for (const signal of ['SIGINT', 'SIGTERM'] as const)
    process.once(signal, () => void cluster.stop().then(() => process.exit(1)));
  try {
    for (const [i, family] of families.slice(0, throughCount).entries()) {
      const seed = Math.min(seeds, 11);
      const played = await playThrough(
        family,
        seed,
        await cluster.database(`lab_${i}`),
        join(home, `files-${i}`),
      );
      through.push({ family: family.name, seed, core: NaN, product: salesAtTarget(played), played });
      process.stdout.write(`${family.name} ${seed} played through the product\n`);
    }
    for (const market of quaysideMarkets) {
      quaysides.push(await playQuayside(market, cluster.database, home));
      process.stdout.write(`Quayside ${market.name} played through the product\n`);
    }
  } finally {
    await cluster.stop();
    rmSync(home, { recursive: true, force: true });
  }
}

/** Plays the Quaysides of one question, one after the other, and writes its page. */
async function onQuaysides<Market, Played>(
  name: string,
  markets: readonly Market[],
  play: (market: Market, database: (name: string) => Promise<string>, home: string) => Promise<Played>,
  text: (played: Played[]) => string,
): Promise<never> {
  await build();
  const home = join(root, `.data/lab-${name}`);
  rmSync(home, { recursive: true, force: true });
  const cluster = await startCluster(home);
  const played: Played[] = [];
  try {
    for (const market of markets.slice(0, option('markets', markets.length)))
      played.push(await play(market, cluster.database, home));
  } finally {
    await cluster.stop();
    rmSync(home, { recursive: true, force: true });
  }
  writeFileSync(join(root, `docs/lab/${name}.md`), text(played));
  process.exit(0);
}

if (process.argv.includes('--only=budgets'))
  await onQuaysides('budgets', budgetMarkets, playBudgets, budgetsText);
if (process.argv.includes('--only=hours')) await onQuaysides('hours', hourMarkets, playHours, hoursText);
if (process.argv.includes('--only=strategies'))
  await onQuaysides('strategies', strategyMarkets, playStrategies, strategiesText);
if (isRoutines) {
  await Promise.all([work(), work()]);
  routines.sort((a, b) => a.seed - b.seed);
  mkdirSync(join(root, 'docs/lab'), { recursive: true });
  writeFileSync(join(root, 'docs/lab/routines.md'), routinesText(routines));
  process.exit(0);
}
if (isPlacements) {
  await Promise.all([work(), work()]);
  placed.sort((a, b) => a.seed - b.seed);
  writeFileSync(join(root, 'docs/lab/placements.md'), placementsText(placed, tunedSeeds));
  process.exit(0);
}
await Promise.all([work(), throughProduct().then(work)]);
measured.sort((a, b) => a.seed - b.seed);
for (const one of through) {
  const market = measured.find(({ family, seed }) => family === one.family && seed === one.seed)!;
  one.core = market.ways[wayNames.all]!.share;
  one.product /= market.best;
}
const folder = join(root, 'docs/lab');
mkdirSync(folder, { recursive: true });
const seconds = (performance.now() - began) / 1000;
writeFileSync(join(root, 'docs/lab.md'), reportText(measured, through, quaysides, seconds));
writeFileSync(join(folder, 'shares.svg'), sharesPicture(measured));
writeFileSync(
  join(folder, 'acos.svg'),
  weeksPicture(
    measured,
    'Mowing, all accepted: ACOS over the target, medians',
    ({ ways, targetAcos }, week) => ways[wayNames.all]!.acos[week]! / targetAcos,
    0.7,
    1.6,
  ),
);
writeFileSync(
  join(folder, 'theta.svg'),
  weeksPicture(
    measured,
    'Mowing, all accepted: theta over the target, medians',
    ({ ways, targetAcos }, week) => (ways[wayNames.all]!.theta[week] ?? NaN) / targetAcos,
    1,
    6,
  ),
);
writeFileSync(join(folder, 'coverage.svg'), coveragePicture(measured));
process.stdout.write(`Done in ${Math.round(seconds)} s: docs/lab.md\n`);
