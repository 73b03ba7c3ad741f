import { mkdirSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { restore } from './lib/backup.ts';
import { refuseIfUsed, startCluster } from './lib/cluster.ts';
import { root } from './lib/processes.ts';

// npm run restore -- FOLDER: a backup into a home that holds nothing yet (MOWING_HOME); npm start goes on from there.

const [folder] = process.argv.slice(2);
if (!folder) throw new Error('Say from where: npm run restore -- FOLDER');
const home = process.env.MOWING_HOME ?? join(root, '.data/mowing');
refuseIfUsed(home);
mkdirSync(join(home, 'files'), { recursive: true });
const cluster = await startCluster(home);
try {
  const { made, sums } = await restore(
    resolve(folder),
    await cluster.database('mowing'),
    join(home, 'files'),
  );
  process.stdout.write(
    `Restored what was backed up at ${made}: ${Object.keys(sums).length} tables, all sums the same\n`,
  );
} finally {
  await cluster.stop();
}
