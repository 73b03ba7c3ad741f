import type { FileKind, Inspection } from '../../answers/imports.ts';
import { mkdir, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { stringify } from 'csv-stringify/sync';
import { getAccount, settling } from '../account/account.ts';
import { updateAccount, upsertProducts } from '../account/queries.ts';
import { maturity, oldestRestated } from '../../core/metrics/maturity.ts';
import { micros } from '../../core/metrics/money.ts';
import { filesOf } from '../account/files.ts';
import { keepBlocks } from '../facts/keep.ts';
import type { JobContext } from '../jobs/jobs.ts';
import { mapHeaders } from '../imports/files/columns.ts';
import { fileKinds } from '../imports/kinds/index.ts';
import { ServiceError } from '../errors.ts';
import { inspectFile, loadFile } from '../imports/guarded.ts';
import { marketplaceOf } from '../marketplace/connection.ts';
import type { ReportKind } from '../marketplace/connector.ts';
import { afterFigures } from '../round/learning.ts';
import { daysToFetch, setStructureVersion } from './queries.ts';

/**
 * Days are restated until they are this old: the marketplace's attribution window. What the targets tell is fetched
 * for longer, so that a slower marketplace is learned (domain, section 4); once it was, everything is.
 */
const finalAge = 14;
const learnedAge = oldestRestated;

const reports: ReportKind[] = [
  'targets-daily',
  'terms-daily',
  'placements-daily',
  'products-daily',
  'campaign-hours',
  'sold-daily',
  'ranks-daily',
];

/** Beyond this share of a day's orders nothing is fetched again. */
const finalShare = 0.995;

interface StepResult {
  name: string;
  rowsLoaded: number;
  rowsRejected: number;
  firstDay: string | null;
  lastDay: string | null;
}

/**
 * Fetches structure, products and the days that are missing or not final. Every step is a transaction of its own:
 * stopped and begun again, it goes on with what is missing.
 */
export async function runFetch({
  sql,
  job,
  progress,
}: JobContext): Promise<{ steps: StepResult[]; today: string }> {
  const accountId = job.account_id;
  const shop = await marketplaceOf(accountId);
  const steps: StepResult[] = [];
  const total = reports.length + 2;
  const report = (doing: string) => progress({ step: steps.length, total, doing, steps }, true);
  const folder = join(filesOf(accountId), `fetch-${job.job_id}`);
  await mkdir(folder, { recursive: true });
  try {
    await report('account and products');
    const [account, limits, products] = [await shop.account(), await shop.limits(), await shop.products()];
    await updateAccount(sql, accountId, {
      currency: account.currency,
      time_zone: account.timeZone,
      source: shop.name,
      today: account.today,
      limits: { ...limits, wallet: (await shop.wallet?.()) ?? null },
    });
    await upsertProducts(sql, accountId, products.map(inMicros));
    steps.push({
      name: 'products',
      rowsLoaded: products.length,
      rowsRejected: 0,
      firstDay: null,
      lastDay: null,
    });

    const load = async (kind: FileKind, path: string, whole: boolean) => {
      const layout = await layoutOf(kind, path);
      if (!layout) {
        steps.push({ name: kind, rowsLoaded: 0, rowsRejected: 0, firstDay: null, lastDay: null });
        return;
      }
      const order = {
        accountId,
        jobId: job.job_id,
        source: shop.name,
        path,
        fileName: `${kind}.csv`,
        layout,
        choices: {
          kind,
          mapping: mapHeaders(fileKinds[kind].columns, layout.headers),
          dateOrder: 'ymd',
          decimalMark: '.',
        } as const,
        asOf: account.today,
        whole,
      };
      const result = await loadFile(order, new Date(), ({ bytes }) =>
        progress({ bytes, bytesTotal: layout.bytes }),
      );
      const { rowsLoaded, rowsRejected, firstDay, lastDay } = result;
      steps.push({ name: kind, rowsLoaded, rowsRejected, firstDay, lastDay });
    };

    await report('structure');
    const structure = await shop.structure();
    const path = join(folder, 'structure.csv');
    const columns = fileKinds.structure.columns.map(({ name }) => name);
    await writeFile(path, stringify(structure.rows, { header: true, columns }));
    await load('structure', path, true);
    await setStructureVersion(sql, accountId, structure.version);

    const stored = await getAccount(sql, accountId);
    const { curve } = await settling(sql, stored);
    const age = maturity(curve, finalAge) < finalShare ? learnedAge : finalAge;
    // A marketplace takes its time for a report: all are asked for at once, and loaded one after the other.
    const asked: { kind: ReportKind; file: Promise<string> | null }[] = [];
    for (const kind of reports) {
      const restated = kind === 'targets-daily' ? learnedAge : age;
      const days = await daysToFetch(sql, accountId, kind, account.firstDay, account.today, restated);
      const path = join(folder, `${kind}.csv`);
      asked.push({ kind, file: days && shop.report(kind, days.from, days.to, path).then(() => path) });
    }
    // Whichever fails first is told; the others end before their folder goes.
    const ended = Promise.allSettled(asked.map(({ file }) => file));
    try {
      for (const { kind, file } of asked) {
        await report(kind);
        if (file) await load(kind, await file, false);
        else steps.push({ name: kind, rowsLoaded: 0, rowsRejected: 0, firstDay: null, lastDay: null });
      }
    } finally {
      await ended;
    }
    await report('learning from the figures');
    await afterFigures(sql, accountId);
    keepBlocks(sql, accountId);
    await report('done');
    return { steps, today: account.today };
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** How a report is written; null when nothing happened on its days: a marketplace then tells headers alone. */
async function layoutOf(kind: FileKind, path: string): Promise<Inspection | null> {
  try {
    return await inspectFile(path, `${kind}.csv`);
  } catch (error) {
    if (error instanceof ServiceError && error.code === 'no_rows') return null;
    throw error;
  }
}

const moneyOfProduct = ['price', 'unit_cost', 'fee_fixed', 'shipping'];

/** A product as the marketplace tells it, its money as we keep it. */
const inMicros = (product: Record<string, unknown>): Record<string, unknown> => ({
  ...product,
  ...Object.fromEntries(
    moneyOfProduct.map((name) => [name, product[name] == null ? null : micros(Number(product[name]))]),
  ),
});

/** Demo only: lets the marketplace live some days, then fetches what happened. */
export async function runAdvance(context: JobContext): Promise<unknown> {
  const days = Number(context.job.payload.days);
  const goal = String(context.job.payload.until ?? '');
  const shop = await marketplaceOf(context.job.account_id);
  const { today } = await shop.account();
  // Begun again after a restart, it lives only the days that are left.
  const left = goal ? Math.max(0, Math.round((Date.parse(goal) - Date.parse(today)) / 864e5)) : days;
  for (let day = 0; day < left; day++) {
    await context.progress({ doing: 'letting time pass', day, days: left }, true);
    await shop.advance(1);
  }
  return runFetch(context);
}
