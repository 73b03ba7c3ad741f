import { randomUUID } from 'node:crypto';
import { fieldOf, toUnits } from '../../core/changes/fields.ts';
import { touchData } from '../account/queries.ts';
import { config } from '../config.ts';
import type { Database, Transaction } from '../db/connection.ts';
import type { JobContext } from '../jobs/jobs.ts';
import type { Marketplace, OutgoingLine } from '../marketplace/connector.ts';
import { marketplaceOf } from '../marketplace/connection.ts';
import { ServiceError } from '../errors.ts';
import { batchesOf, insertBatch, keepAnswers, marketplaceIds } from './batches.queries.ts';
import { linesOfSheet, settleLines, type LineRow } from './lines.queries.ts';
import { setSheetState, sheetById } from './sheets.queries.ts';
import { stateCounts } from './sheet.queries.ts';

/** A line in the marketplace's terms; null for a field that it cannot be told to change. */
function outgoing(line: LineRow, ids: Map<string, string>, shop: Marketplace): OutgoingLine | null {
  const idOf = (kind: string, id: string | null) => (id === null ? null : (ids.get(`${kind}:${id}`) ?? null));
  const field = fieldOf(line.entity, line.field);
  const name = line.action === 'update' ? shop.fieldName(line.entity, line.field) : line.field;
  if (name === null) return null;
  return {
    line_id: String(line.line_id),
    action: line.action,
    entity: line.entity,
    id: line.action === 'create' ? null : idOf(line.entity, line.object_id),
    campaign_id: idOf('campaign', line.campaign_id),
    ad_group_id: idOf('ad_group', line.ad_group_id),
    field: name,
    old_value: line.action === 'update' ? toUnits(field, line.old_value) : null,
    new_value: toUnits(field, line.new_value),
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
      const told = lines.map((line) => outgoing(line, ids, shop));
      await refuseUntold(
        tx as Transaction,
        accountId,
        shop.name,
        lines.filter((_, i) => told[i] === null),
      );
      const leaving = told.filter((line) => line !== null);
      for (let i = 0; i < leaving.length; i += config.batchLines) {
        const body = leaving.slice(i, i + config.batchLines);
        const lineIds = body.map((line) => Number(line.line_id));
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

/** Fields that a marketplace does not know leave no server: their lines come back refused, with the reason. */
async function refuseUntold(
  tx: Transaction,
  accountId: number,
  shop: string,
  lines: LineRow[],
): Promise<void> {
  if (lines.length === 0) return;
  const refused = lines.map(({ line_id, entity, field }) => {
    const label = fieldOf(entity, field)?.label.toLowerCase() ?? field;
    return { line_id, state: 'refused', message: `${shop} lets no ${label} be changed.` };
  });
  await settleLines(tx, accountId, refused);
}

async function sentOf(sql: Database, accountId: number, sheetId: number) {
  const { applied, refused } = await stateCounts(sql, accountId, sheetId);
  return { sheetId, applied, refused };
}
