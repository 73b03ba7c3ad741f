import { appendFileSync, mkdtempSync, mkdirSync, readFileSync, readdirSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, expect, test } from 'vitest';
import { backup, restore, sumsOf } from '../../scripts/lib/backup.ts';
import { startCluster, type Cluster } from '../../scripts/lib/cluster.ts';
import { makeDatabase } from '../support/stack.ts';

const clusters: Cluster[] = [];
afterAll(async () => {
  for (const cluster of clusters) await cluster.stop();
});

const folder = () => mkdtempSync(join(tmpdir(), 'mowing-'));

test('a backup is restored into another cluster with every sum the same; damage is told by its file', async () => {
  const source = await makeDatabase('mowing_seed');
  const files = folder();
  mkdirSync(join(files, 'account-1'));
  writeFileSync(join(files, 'account-1/rejected-x-terms-daily.csv'), 'date\n');
  const kept = join(folder(), 'kept');
  const made = await backup(source, files, kept);
  expect(Object.keys(made.files)).toEqual(['database.dump', 'files/account-1/rejected-x-terms-daily.csv']);
  expect(made.sums.term_day).toMatch(/^\d{4,} rows, spend \d+$/);
  await expect(backup(source, files, kept)).rejects.toThrow('holds something already');

  const other = await startCluster(folder());
  clusters.push(other);
  const target = await other.database('mowing');
  const newFiles = join(folder(), 'files');
  await restore(kept, target, newFiles);
  expect(await sumsOf(target)).toEqual(await sumsOf(source));
  expect(readFileSync(join(newFiles, 'account-1/rejected-x-terms-daily.csv'), 'utf8')).toBe('date\n');
  await expect(restore(kept, target, join(folder(), 'files'))).rejects.toThrow('is not empty');

  appendFileSync(join(kept, 'database.dump'), 'x');
  await expect(restore(kept, await other.database('second'), join(folder(), 'files'))).rejects.toThrow(
    'database.dump is not as it was written',
  );
  expect(readdirSync(kept).sort()).toEqual(['backup.json', 'database.dump', 'files']);
});
