import type { ImportsAnswer } from '../../answers/imports.ts';
import { db } from '../db/connection.ts';
import { fileKindNames, fileKinds } from './kinds/index.ts';
import { freshness, latestImports } from './queries.ts';

const mostShown = 60;

/** What was loaded of late, how fresh each kind of report is, and what kinds of files there are. */
export async function importsOf(accountId: number): Promise<ImportsAnswer> {
  const imports = await latestImports(db(), accountId, mostShown);
  const fresh = await freshness(db(), accountId);
  return {
    imports: imports.map((row) => ({ ...row, finished_at: row.finished_at.toISOString() })),
    freshness: fresh.map((row) => ({ ...row, loaded_at: row.loaded_at.toISOString() })),
    kinds: Object.fromEntries(
      fileKindNames.map((kind) => [kind, fileKinds[kind].columns]),
    ) as ImportsAnswer['kinds'],
  };
}
