import { randomUUID } from 'node:crypto';
import { fieldOf, toUnits, type FieldEntity } from '../../core/changes/fields.ts';
import { dependence } from '../../core/changes/lines.ts';
import { units } from '../../core/metrics/money.ts';
import { touchData } from '../account/queries.ts';
import { config } from '../config.ts';
import type { Database, Transaction } from '../db/connection.ts';
import type { JobContext } from '../jobs/jobs.ts';
import type { Marketplace, OutgoingLine } from '../marketplace/connector.ts';
import { marketplaceOf } from '../marketplace/connection.ts';
import { ServiceError } from '../errors.ts';
import { batchesOf, insertBatch, keepAnswers, marketplaceIds } from './batches.queries.ts';
import { keepPictureName, pictureToSend } from './pictures.queries.ts';
import { linesOfSheet, settleLines, type LineRow } from './lines.queries.ts';
import { plannedOf, type Planned } from './planned.queries.ts';
import { routinesStopped, setSheetState, sheetById } from './sheets.queries.ts';
import { stateCounts } from './sheet.queries.ts';

/** What is not made yet goes by this until it is. */
const reference = (kind: string, id: string): string => `new:${kind}-${id}`;

/** What is told of a campaign or ad group that a line makes. */
function valuesOf(line: LineRow, planned: Planned): Record<string, unknown> {
  const amount = units(Number(line.new_value));
  if (planned.entity === 'ad_group') {
    const { status, relatedCategories } = planned.settings;
    return { name: planned.name, status, default_bid: amount, related_categories: relatedCategories };
  }
  const { kind, status, strategy, pacing, startDate, endDate, modifiers } = planned.settings;
  return {
    name: planned.name,
    kind,
    status,
    strategy,
    pacing,
    start_date: startDate,
    end_date: endDate,
    modifiers,
    budget_kind: line.field === 'lifetime_budget' ? 'lifetime' : 'daily',
    budget: amount,
  };
}

/** What lines of a sheet refer to. */
interface Known {
  /** Ids of the marketplace by kind and our own number. */
  ids: Map<string, string>;
  planned: Map<string, Planned>;
}

/** A line in the marketplace's terms; null for a field that it cannot be told to change. */
function outgoing(line: LineRow, { ids, planned }: Known, shop: Marketplace): OutgoingLine | null {
  const idOf = (kind: string, id: string | null) => {
    if (id === null) return null;
    return ids.get(`${kind}:${id}`) ?? (planned.has(`${kind}:${id}`) ? reference(kind, id) : null);
  };
  const field = fieldOf(line.entity, line.field);
  const name = line.action === 'update' ? shop.fieldName(line.entity as FieldEntity, line.field) : line.field;
  if (name === null) return null;
  const isCreative = ['picture', 'title', 'left_out'].includes(line.entity);
  if (isCreative && !shop.picture) return null;
  const own = line.entity === 'campaign' ? line.campaign_id : line.ad_group_id;
  const made = line.action === 'create' ? planned.get(`${line.entity}:${own}`) : undefined;
  if (made) {
    return {
      line_id: String(line.line_id),
      action: 'create',
      entity: line.entity,
      id: null,
      temp_id: reference(made.entity, made.objectId).slice('new:'.length),
      campaign_id: made.entity === 'campaign' ? null : idOf('campaign', line.campaign_id),
      ad_group_id: null,
      field: '',
      old_value: null,
      new_value: null,
      target_kind: null,
      match_type: null,
      expression: null,
      values: valuesOf(line, made),
    };
  }
  return {
    line_id: String(line.line_id),
    action: line.action,
    entity: line.entity,
    id: line.action === 'create' ? null : idOf(line.entity, line.object_id),
    campaign_id: idOf('campaign', line.campaign_id),
    ad_group_id: idOf('ad_group', line.ad_group_id),
    field: name,
    old_value: line.action === 'update' ? toUnits(field, line.old_value) : null,
    // What pictures are called is ours.
    new_value: isCreative && line.action === 'create' ? null : toUnits(field, line.new_value),
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
      lines.sort((a, b) => dependence(a) - dependence(b));
      const list = await plannedOf(tx as Transaction, accountId, sheetId);
      const planned = new Map(list.map((one) => [`${one.entity}:${one.objectId}`, one]));
      const told = lines.map((line) => outgoing(line, { ids, planned }, shop));
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
    // The switch over routines holds between two batches what one of them sends; it goes on once they do.
    if (sheet.run_id !== null && (await routinesStopped(sql, accountId)))
      return sentOf(sql, accountId, sheetId);
    await progress({ doing: 'sending', batch: done, batches: batches.length }, true);
    const told = await withMade(sql, accountId, batch.body as OutgoingLine[]);
    const body = await withPictures(sql, accountId, told, shop);
    const answers = await shop.send(batch.batch_id, body);
    await sql.begin((tx) => keepAnswers(tx as Transaction, accountId, batch.batch_id, today, answers));
    done++;
  }
  await sql.begin(async (tx) => {
    await setSheetState(tx as Transaction, accountId, sheetId, 'sent', today);
    await touchData(tx as Transaction, accountId);
  });
  return sentOf(sql, accountId, sheetId);
}

/**
 * A batch with the ids of what earlier ones have made. Whenever it is sent again it says the same: what it makes itself
 * is known only once it is answered.
 */
async function withMade(sql: Database, accountId: number, lines: OutgoingLine[]): Promise<OutgoingLine[]> {
  const refers = (id: string | null): id is string => id?.startsWith('new:') ?? false;
  if (!lines.some((line) => refers(line.campaign_id) || refers(line.ad_group_id))) return lines;
  const ids = await marketplaceIds(sql, accountId);
  const idOf = (id: string | null) =>
    refers(id) ? (ids.get(id.slice('new:'.length).replace('-', ':')) ?? id) : id;
  return lines.map((line) => ({
    ...line,
    campaign_id: idOf(line.campaign_id),
    ad_group_id: idOf(line.ad_group_id),
  }));
}

/**
 * A batch whose pictures are at the marketplace: their files leave before it, and are called there what it says of them.
 * The same file is the same picture, however often it is sent.
 */
async function withPictures(
  sql: Database,
  accountId: number,
  lines: OutgoingLine[],
  shop: Marketplace,
): Promise<OutgoingLine[]> {
  const numbers = new Set(
    lines.flatMap(({ entity, action, expression }) =>
      action === 'create' && (entity === 'picture' || entity === 'left_out') && expression !== null
        ? [expression.split(' ')[0]!]
        : [],
    ),
  );
  if (numbers.size === 0 || !shop.picture) return lines;
  const names = new Map<string, string>();
  for (const number of numbers) {
    const picture = await pictureToSend(sql, accountId, number);
    if (!picture) continue;
    const name = picture.extId ?? (await shop.picture(picture.bytes, picture.type));
    if (picture.extId === null) await keepPictureName(sql, accountId, number, name);
    names.set(number, name);
  }
  return lines.map((line) => {
    const [number = '', ...rest] = line.expression?.split(' ') ?? [];
    const name = line.entity === 'picture' || line.entity === 'left_out' ? names.get(number) : undefined;
    return name === undefined ? line : { ...line, expression: [name, ...rest].join(' ') };
  });
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
