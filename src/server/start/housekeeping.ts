import { readdir, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { clearRemoved } from '../account/accounts.ts';
import { config } from '../config.ts';
import { db } from '../db/connection.ts';
import { forgetAnswered } from '../http/idempotency.ts';
import { log } from '../log.ts';

/** What is kept for a while only: uploads, what a stopped job left in its folder, answers of calls. */

const hour = 3600_000;
const uploadAge = 7 * 24 * hour;

/** Uploads that nobody loaded, or that were loaded long ago, and folders of jobs that have ended. */
export async function removeOldFiles(folder: string, now: Date): Promise<string[]> {
  const before = now.getTime() - uploadAge;
  const removed: string[] = [];
  for (const name of await readdir(folder).catch(() => [])) {
    if (!/^(upload|fetch|package)-|\.part$/.test(name)) continue;
    const path = join(folder, name);
    const about = await stat(path).catch(() => null);
    if (!about || about.mtimeMs >= before) continue;
    await rm(path, { recursive: true, force: true });
    removed.push(name);
  }
  return removed;
}

async function keepOnce(): Promise<void> {
  await forgetAnswered(db());
  await clearRemoved(db());
  await db()`delete from upload where created_at < ${new Date(Date.now() - uploadAge)}`;
  for (const name of await readdir(config.dataDir).catch(() => [])) {
    if (name.startsWith('account-')) await removeOldFiles(join(config.dataDir, name), new Date());
  }
}

/** Tidies now, and every hour from now on. */
export function keepHouse(): void {
  const tidy = () => {
    keepOnce().catch((error: unknown) => {
      log.warn({ error }, 'housekeeping');
    });
  };
  tidy();
  setInterval(tidy, hour).unref();
}
