import type { Database } from '../db/connection.ts';
import { log } from '../log.ts';
import { makeBlocks } from './blocks.queries.ts';

const ever = { from: '2000-01-01', to: '2100-12-31' };

/**
 * Makes the blocks that a load took away, beside everything else: nobody waits for them here. Whoever reads a day before
 * its block stands makes it himself.
 */
export function keepBlocks(sql: Database, accountId: number): void {
  void (async () => {
    for (const fact of ['target_day', 'term_day'] as const) await makeBlocks(sql, accountId, fact, ever);
  })().catch((error: unknown) => {
    log.warn({ error, accountId }, 'blocks of days were not made');
  });
}
