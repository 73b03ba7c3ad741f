import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { build } from './lib/build.ts';
import { startCluster } from './lib/cluster.ts';
import { root, startApplication } from './lib/processes.ts';
import { Stops } from './lib/stops.ts';

// Starts Mowing for real use; Ctrl-C stops it. Everything it knows lies under .data/mowing (MOWING_HOME), or in the
// Postgres that DATABASE_URL names.

const home = process.env.MOWING_HOME ?? join(root, '.data/mowing');
const say = (text: string) => process.stdout.write(`${text}\n`);
const stops = new Stops();

try {
  mkdirSync(join(home, 'files'), { recursive: true });
  say('Starting Postgres');
  const cluster = await startCluster(home);
  stops.add(cluster.stop);
  say('Building the application, when it changed');
  await build();
  const port = Number(process.env.PORT ?? 4321);
  const application = await startApplication(
    { MOWING_DATABASE_URL: await cluster.database('mowing'), MOWING_DATA_DIR: join(home, 'files') },
    port,
  );
  stops.add(() => application.stop());
  say(`\nMowing is ready: ${application.url}`);
  say('Ctrl-C stops it; what it knows is kept for the next start.');
  application.child.once('exit', () => {
    if (!stops.begun) say('The application has ended unexpectedly; stopping.');
    void stops.all(1);
  });
} catch (error) {
  say(`\n${error instanceof Error ? error.message : String(error)}`);
  await stops.all(1);
}
