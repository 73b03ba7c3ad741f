import { randomUUID } from 'node:crypto';
import { units } from '../../core/metrics/money.ts';
import { touchData } from '../account/queries.ts';
import { config } from '../config.ts';
import type { Database, Transaction } from '../db/connection.ts';
import type { JobContext } from '../jobs/jobs.ts';
import type { OutgoingLine } from '../marketplace/connector.ts';
import { marketplaceOf } from '../marketplace/connection.ts';
import { ServiceError } from '../errors.ts';
import {
  batchesOf,
  insertBatch,
  keepAnswers,
  linesOfSheet,
  marketplaceIds,
  setSheetState,
  sheetById,
  type LineRow,
} from './queries.ts';
import { stateCounts } from './sheet.queries.ts';

/** Money leaves as the marketplace writes it: currency units as text. */
const outgoingValue = (field: string, value: string | null): string | null =>
  value !== null && (field === 'bid' || field === 'daily_budget') ? String(units(Number(value))) : value;

function outgoing(line: LineRow, ids: Map<string, string>): OutgoingLine {
  const idOf = (kind: string, id: string | null) => (id === null ? null : (ids.get(`${kind}:${id}`) ?? null));
  return {
    line_id: String(line.line_id),
    action: line.action,
    entity: line.entity,
    id: line.action === 'create' ? null : idOf(line.entity, line.object_id),
    campaign_id: idOf('campaign', line.campaign_id),
    ad_group_id: idOf('ad_group', line.ad_group_id),
    field: line.field,
    old_value: line.action === 'update' ? outgoingValue(line.field, line.old_value) : null,
    new_value: outgoingValue(line.field, line.new_value),
    target_kind: line.target_kind,
    match_type: line.match_type,
    expression: line.expression,
  };
}

/**
 * Sends a sheet in batches. Each batch is kept with its key before it leaves; a batch without an answer - the
 * connection was cut, the server stopped - is sent again under the same key, which the marketplace answers
 * without applying anything twice.
 */
export async function runSend({
  sql,
  job,
  progress,
}: JobContext): Promise<{ sheetId: number; applied: number; refused: number }> {
  const accountId = job.account_id;
  const sheetId = Number(job.payload.sheetId);
  const sheet = await sheetById(sql, accountId, sheetId);
  if (!sheet) throw new ServiceError(404, 'not_found', `There is no sheet ${sheetId}.`);
  // Begun again after a stop between the last answer and its own end: everything has been kept.
  if (sheet.state === 'sent') return sentOf(sql, accountId, sheetId);
  const shop = await marketplaceOf(accountId);
  const { today } = await shop.account();
  if ((await batchesOf(sql, accountId, sheetId)).length === 0) {
    await sql.begin(async (tx) => {
      const ids = await marketplaceIds(tx as Transaction, accountId);
      const lines = await linesOfSheet(tx as Transaction, accountId, sheetId, { state: 'open' });
      for (let i = 0; i < lines.length; i += config.batchLines) {
        const part = lines.slice(i, i + config.batchLines);
        const body = part.map((line) => outgoing(line, ids));
        const lineIds = part.map((line) => line.line_id);
        await insertBatch(
          tx as Transaction,
          accountId,
          sheetId,
          randomUUID(),
          i / config.batchLines,
          body,
          lineIds,
        );
      }
    });
  }
  const batches = await batchesOf(sql, accountId, sheetId);
  let done = batches.filter((batch) => batch.answered_at !== null).length;
  for (const batch of batches) {
    if (batch.answered_at !== null) continue;
    await progress({ doing: 'sending', batch: done, batches: batches.length }, true);
    const answers = await shop.send(batch.batch_id, batch.body as OutgoingLine[]);
    await sql.begin((tx) => keepAnswers(tx as Transaction, accountId, batch.batch_id, today, answers));
    done++;
  }
  await sql.begin(async (tx) => {
    await setSheetState(tx as Transaction, accountId, sheetId, 'sent', today);
    await touchData(tx as Transaction, accountId);
  });
  return sentOf(sql, accountId, sheetId);
}

async function sentOf(sql: Database, accountId: number, sheetId: number) {
  const { applied, refused } = await stateCounts(sql, accountId, sheetId);
  return { sheetId, applied, refused };
}
