import { join, resolve } from 'node:path';
import { backup } from './lib/backup.ts';
import { openCluster } from './lib/cluster.ts';
import { root } from './lib/processes.ts';

// npm run backup -- FOLDER: the database and the files of npm start, checksummed. Mowing may run meanwhile.

const [folder] = process.argv.slice(2);
if (!folder) throw new Error('Say where to: npm run backup -- FOLDER');
const home = process.env.MOWING_HOME ?? join(root, '.data/mowing');
const cluster = await openCluster(home);
try {
  const { sums, files } = await backup(
    await cluster.database('mowing'),
    join(home, 'files'),
    resolve(folder),
  );
  const accounts = sums.account ?? '0 rows';
  process.stdout.write(
    `Backed up ${accounts} of accounts in ${Object.keys(files).length} files under ${resolve(folder)}\n`,
  );
} finally {
  await cluster.stop();
}
