import { mkdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { playFiles } from '../tests/campaigns/files.ts';
import { playHands } from '../tests/campaigns/hands.ts';
import { playKills } from '../tests/campaigns/kills.ts';
import { playLoad } from '../tests/campaigns/load.ts';
import { playRequests } from '../tests/campaigns/requests.ts';
import { startStack, type Stack } from '../tests/support/stack.ts';
import { memoryOf } from './bench/measure.ts';
import { build } from './lib/build.ts';
import { startCluster } from './lib/cluster.ts';
import { root } from './lib/processes.ts';
import { seed as seedDatabases } from './lib/seed.ts';

// The long form of the campaigns among the tests, against the built application: kills, several hands on one sheet,
// damaged files, wrong calls, many readers. --kills=N --hands=N --files=N --requests=N --load=SECONDS --seed=N; 0 leaves
// one out. One JSON object a campaign; figures, with what was found.

const option = (name: string, usual: number): number =>
  Number(process.argv.find((argument) => argument.startsWith(`--${name}=`))?.slice(name.length + 3) ?? usual);
const seed = option('seed', 1);

interface Campaign {
  name: string;
  size: number;
  /** Whether the account's reports are loaded. */
  fetched: boolean;
  play: (stack: Stack, size: number) => Promise<object>;
  env?: NodeJS.ProcessEnv;
}

const campaigns: Campaign[] = [
  {
    name: 'kills',
    size: option('kills', 200),
    fetched: true,
    play: (stack, size) => playKills(stack, size, seed),
    env: { MOWING_BATCH_LINES: '10' },
  },
  {
    name: 'hands',
    size: option('hands', 2000),
    fetched: true,
    play: (stack, size) => playHands(stack, size, seed),
    env: { MOWING_BATCH_LINES: '20' },
  },
  {
    name: 'requests',
    size: option('requests', 10_000),
    fetched: true,
    play: ({ url }, size) => playRequests(url, size, seed),
  },
  {
    name: 'files',
    size: option('files', 10_000),
    fetched: false,
    play: ({ url, databaseUrl }, size) => playFiles(url, databaseUrl, size, seed),
  },
  {
    name: 'load',
    size: option('load', 120),
    fetched: true,
    play: ({ url }, size) => playLoad(url, 100, size, true),
  },
];

/** Of what was found, at most this many are told; more of the same tell nothing new. */
const shortened = (report: object): object =>
  Object.fromEntries(
    Object.entries(report).map(([name, value]: [string, unknown]) => {
      if (typeof value === 'number') return [name, Math.round(value)];
      return [name, Array.isArray(value) ? { count: value.length, first: value.slice(0, 20) } : value];
    }),
  );

const home = join(root, '.data/campaign');
rmSync(home, { recursive: true, force: true });
mkdirSync(home, { recursive: true });
const cluster = await startCluster(home);
try {
  process.env.MOWING_TEST_SERVER = await cluster.database('postgres');
  process.env.MOWING_TEST_SCENARIO = await seedDatabases(home, cluster.database, build());
  for (const { name, size, fetched, play, env } of campaigns) {
    if (size === 0) continue;
    const stack = await startStack(fetched, env);
    let most = 0;
    const watch = setInterval(() => (most = Math.max(most, memoryOf(stack.application.child.pid!))), 500);
    try {
      const figures = shortened(await play(stack, size));
      const lives = stack.application.child.exitCode === null;
      process.stdout.write(
        `${JSON.stringify({ campaign: name, seed, ...figures, peakMiB: Math.round(most), lives })}\n`,
      );
    } finally {
      clearInterval(watch);
      await stack.stop();
    }
  }
} finally {
  await cluster.stop();
  rmSync(home, { recursive: true, force: true });
  rmSync(join(root, '.data/test-files'), { recursive: true, force: true });
}
