import type { Database, Transaction } from '../db/connection.ts';
import { ServiceError } from '../errors.ts';
import { FactLoad } from './facts.ts';
import type { Layout } from './inspect.ts';
import type { FileKind } from './kinds.ts';
import { analyse, insertImport, lockAccount, noteDays, touchAccount } from './merge.queries.ts';
import { replaceDays } from './other.queries.ts';
import { readFile, textOf, type Choices, type Reading, type Rejected, type Values } from './read.ts';
import { RejectFile } from './rejects.ts';
import { addStructureRows, mergeStructure, stageStructure } from './structure.queries.ts';

/** One file to load: where it lies, how it is laid out, what its columns mean. */
export interface LoadOrder {
  accountId: number;
  jobId: string | null;
  /** 'file', or the name of the marketplace. */
  source: string;
  path: string;
  fileName: string;
  layout: Layout;
  choices: Choices;
  /** The account's day on which the report was made: its days' ages count from here. Null: from its last day. */
  asOf: string | null;
  /** A structure that is the whole account archives what it does not name. */
  whole: boolean;
}

export interface LoadResult {
  importId: number;
  kind: FileKind;
  fileName: string;
  rowsRead: number;
  rowsLoaded: number;
  rowsRejected: number;
  rowsTotals: number;
  firstDay: string | null;
  lastDay: string | null;
  daysReplaced: number;
  rejectedFile: string | null;
  /** The first rejected rows, to show at once. */
  rejected: Rejected[];
}

export type Progress = (done: { bytes: number; step: string }) => Promise<void> | void;

/**
 * Loads one file in one transaction: read, staged, merged, days replaced. Cut anywhere, it leaves nothing behind;
 * done twice, it changes nothing.
 */
export async function loadFile(
  sql: Database,
  order: LoadOrder,
  now: Date,
  progress: Progress,
): Promise<LoadResult> {
  const rejects = new RejectFile(order.layout.headers, order.jobId, order.choices.kind);
  try {
    const loaded = (await sql.begin(async (tx) => {
      await lockAccount(tx, order.accountId);
      const kind = order.choices.kind;
      const outcome =
        kind === 'targets-daily' || kind === 'terms-daily'
          ? await loadFacts(tx, order, now, rejects, progress)
          : kind === 'structure'
            ? await loadStructure(tx, order, rejects, progress)
            : await loadOther(tx, order, now, rejects, progress);
      if (outcome.reading.rowsRead === 0) {
        throw new ServiceError(422, 'no_rows', 'The file has headers and no rows below them.', {
          file: order.fileName,
        });
      }
      const rowsLoaded = outcome.reading.rowsRead - outcome.reading.rowsRejected - outcome.reading.rowsTotals;
      if (rowsLoaded === 0) {
        const first = rejects.first[0];
        const message = first
          ? `No row could be loaded. Row ${first.row}${first.column ? `, column ${first.column}` : ''}: ${first.reason}`
          : 'The file has no rows but totals.';
        throw new ServiceError(422, 'nothing_loaded', message, { file: order.fileName });
      }
      await touchAccount(tx, order.accountId, outcome.lastDay);
      const rejectedFile = await rejects.close();
      const result = {
        kind,
        fileName: order.fileName,
        rowsRead: outcome.reading.rowsRead,
        rowsLoaded,
        rowsRejected: outcome.reading.rowsRejected,
        rowsTotals: outcome.reading.rowsTotals,
        firstDay: outcome.firstDay,
        lastDay: outcome.lastDay,
        daysReplaced: outcome.daysReplaced,
        rejectedFile,
        rejected: rejects.first,
      };
      const importId = await insertImport(tx, {
        account_id: order.accountId,
        job_id: order.jobId,
        source: order.source,
        kind,
        file_name: order.fileName,
        state: 'loaded',
        rows_read: result.rowsRead,
        rows_loaded: rowsLoaded,
        rows_rejected: result.rowsRejected,
        rows_totals: result.rowsTotals,
        first_day: result.firstDay,
        last_day: result.lastDay,
        days_replaced: result.daysReplaced,
        message: null,
        rejected_file: rejectedFile,
        finished_at: now,
      });
      return { importId, ...result };
    })) as LoadResult;
    await analyse(sql, order.choices.kind);
    return loaded;
  } catch (error) {
    await rejects.drop();
    throw error;
  }
}

interface Outcome {
  reading: Reading;
  firstDay: string | null;
  lastDay: string | null;
  daysReplaced: number;
}

async function loadFacts(
  tx: Transaction,
  order: LoadOrder,
  now: Date,
  rejects: RejectFile,
  progress: Progress,
): Promise<Outcome> {
  const facts = await FactLoad.open(
    tx,
    order.accountId,
    order.choices.kind === 'terms-daily' ? 'term_day' : 'target_day',
  );
  let reading: Reading;
  try {
    reading = await readFile(
      order.path,
      order.layout,
      order.choices,
      (values) => facts.add(values),
      (rejected) => rejects.add(rejected),
      (bytes) => progress({ bytes, step: 'reading' }),
    );
  } catch (error) {
    await facts.abandon();
    throw error;
  }
  await progress({ bytes: reading.bytes, step: 'merging' });
  const days = await facts.finish();
  const firstDay = days[0]?.day ?? null;
  const lastDay = days[days.length - 1]?.day ?? null;
  const asOf = order.asOf ?? lastDay ?? now.toISOString().slice(0, 10);
  const daysReplaced = await noteDays(tx, order.accountId, order.choices.kind, asOf, now, days);
  return { reading, firstDay, lastDay, daysReplaced };
}

async function loadStructure(
  tx: Transaction,
  order: LoadOrder,
  rejects: RejectFile,
  progress: Progress,
): Promise<Outcome> {
  await stageStructure(tx);
  const known = [
    'budget_group',
    'campaign',
    'placement_modifier',
    'ad_group',
    'product_ad',
    'target',
    'negative',
  ];
  let rows: Values[] = [];
  let refused = 0;
  const flush = async () => {
    await addStructureRows(tx, rows);
    rows = [];
  };
  const reading = await readFile(
    order.path,
    order.layout,
    order.choices,
    async (values, row) => {
      const entity = textOf(values.entity)?.toLowerCase().replace(/\s+/g, '_') ?? '';
      const reason = !known.includes(entity)
        ? `It is none of ${known.join(', ')}.`
        : entity !== 'budget_group' && !values.campaign && !values.campaign_id
          ? 'It names no campaign.'
          : ['target', 'negative'].includes(entity) && !values.expression
            ? 'It has no expression.'
            : null;
      if (reason) {
        refused++;
        const cells = order.layout.headers.map((header) => {
          const name = Object.keys(order.choices.mapping).find(
            (column) => order.layout.headers[order.choices.mapping[column] ?? -1] === header,
          );
          return name ? String(values[name] ?? '') : '';
        });
        await rejects.add({ row, column: 'entity', value: entity, reason, cells });
        return;
      }
      rows.push({ ...values, entity, match_type: textOf(values.match_type)?.toLowerCase() ?? null });
      if (rows.length >= 5000) await flush();
    },
    (rejected) => rejects.add(rejected),
    (bytes) => progress({ bytes, step: 'reading' }),
  );
  reading.rowsRejected += refused;
  await flush();
  await progress({ bytes: reading.bytes, step: 'merging' });
  const [account] = await tx<{ today: string | null }[]>`
    select today from account where account_id = ${order.accountId}`;
  const day = order.asOf ?? account?.today ?? new Date().toISOString().slice(0, 10);
  await mergeStructure(tx, order.accountId, day, order.whole);
  return { reading, firstDay: null, lastDay: null, daysReplaced: 0 };
}

/** Placements and products by day: small reports that only the marketplace sends. */
async function loadOther(
  tx: Transaction,
  order: LoadOrder,
  now: Date,
  rejects: RejectFile,
  progress: Progress,
): Promise<Outcome> {
  const rows: Values[] = [];
  const reading = await readFile(
    order.path,
    order.layout,
    order.choices,
    (values) => {
      rows.push(values);
    },
    (rejected) => rejects.add(rejected),
    (bytes) => progress({ bytes, step: 'reading' }),
  );
  const days = await replaceDays(tx, order.accountId, order.choices.kind, rows);
  const list = days.map(({ day }) => day);
  const asOf = order.asOf ?? list[list.length - 1] ?? now.toISOString().slice(0, 10);
  const daysReplaced = await noteDays(tx, order.accountId, order.choices.kind, asOf, now, days);
  return { reading, firstDay: list[0] ?? null, lastDay: list[list.length - 1] ?? null, daysReplaced };
}
