import type { JobAnswer } from '../../src/answers/account.ts';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as sleep } from 'node:timers/promises';
import postgres from 'postgres';
import { callApi } from '../../scripts/lib/processes.ts';
import { rowXml, termsHeader, termsRow, writeWorkbook } from '../support/workbooks.ts';
import { Chance } from './chance.ts';

/**
 * Damaged files, as a campaign: right ones that lost, doubled or changed some of their bytes are sent and loaded. A load
 * counts every row once, a refused file leaves nothing behind, and neither is an error of ours.
 */

export interface FilesReport {
  files: number;
  loaded: number;
  refused: number;
  /** Answers of 5xx, and jobs that failed on our side. */
  serverErrors: string[];
  /** Calls or jobs that took longer than they may. */
  hangs: string[];
  /** Loads whose rows do not add up: read = loaded + rejected + totals. */
  unbalanced: string[];
  /** Refused files that changed figures. */
  halfApplied: string[];
  /** Milliseconds of the slowest file. */
  slowest: number;
}

const longest = 5000;

const csvRow = (chance: Chance, number: number): string =>
  `2026-11-${String(1 + chance.below(20)).padStart(2, '0')},Campaign ${chance.below(5)},Group ${chance.below(5)},keyword ${chance.below(9)},broad,some term ${number},${chance.below(900)},${chance.below(9)},${(chance.next() * 9).toFixed(2)},${chance.below(3)},${(chance.next() * 90).toFixed(2)}`;

/** A file that can be loaded, and its name. */
async function rightFile(chance: Chance, folder: string): Promise<{ name: string; bytes: Buffer }> {
  const rows = 1 + chance.below(40);
  if (chance.next() < 0.3) {
    const path = join(folder, 'right.xlsx');
    const body = Array.from({ length: rows }, (_, i) => termsRow(i + 2)).join('');
    await writeWorkbook(path, { rows: rowXml(1, termsHeader) + body });
    return { name: 'terms.xlsx', bytes: readFileSync(path) };
  }
  const head = 'date,campaign,ad_group,target,match_type,term,impressions,clicks,spend,orders,sales';
  const lines = [head, ...Array.from({ length: rows }, (_, i) => csvRow(chance, i))];
  const text = lines.join(chance.of(['\n', '\r\n', '\r']));
  const delimiter = chance.of([',', ';', '\t']);
  const written = chance.next() < 0.5 ? text : text.replaceAll(',', delimiter);
  return {
    name: 'terms.csv',
    bytes: Buffer.from(written, chance.of(['utf8', 'utf16le', 'latin1'] as const)),
  };
}

const inserts = [
  '"',
  '""',
  '\0',
  '\n',
  '\r',
  ',',
  ';',
  '\t',
  '\ufeff',
  'NaN',
  '12-34',
  '1e999',
  '\ud800',
  '=',
];

function damaged(chance: Chance, bytes: Buffer): Buffer {
  let made = bytes;
  for (let times = 1 + chance.below(3); times > 0; times--) {
    const at = chance.below(made.length + 1);
    const to = Math.min(made.length, at + 1 + chance.below(60));
    switch (chance.below(5)) {
      case 0:
        made = Buffer.from(made);
        if (at < made.length) made[at] = made[at]! ^ (1 << chance.below(8));
        break;
      case 1:
        made = made.subarray(0, at);
        break;
      case 2:
        made = Buffer.concat([made.subarray(0, at), made.subarray(to)]);
        break;
      case 3:
        made = Buffer.concat([made.subarray(0, to), made.subarray(at)]);
        break;
      default:
        made = Buffer.concat([made.subarray(0, at), Buffer.from(chance.of(inserts)), made.subarray(at)]);
    }
  }
  return made;
}

/** Sends and loads `count` damaged files into an account of its own of the application at `url`. */
export async function playFiles(
  url: string,
  databaseUrl: string,
  count: number,
  seed: number,
): Promise<FilesReport> {
  const chance = new Chance(seed);
  const folder = mkdtempSync(join(tmpdir(), 'mowing-files-'));
  const sql = postgres(databaseUrl, { max: 1, onnotice: () => undefined });
  const { accountId } = await callApi<{ accountId: number }>(url, 'POST', '/api/accounts', {
    name: `Files ${seed}`,
    currency: 'EUR',
    timeZone: 'UTC',
    targetAcos: 0.3,
  });
  const report: FilesReport = {
    files: count,
    loaded: 0,
    refused: 0,
    serverErrors: [],
    hangs: [],
    unbalanced: [],
    halfApplied: [],
    slowest: 0,
  };
  const figures = async () => {
    const [row] = await sql<{ figures: string }[]>`
      select count(*) || ' ' || coalesce(sum(spend), 0) || ' ' || coalesce(sum(orders), 0) as figures
      from term_day where account_id = ${accountId}`;
    return row!.figures;
  };
  try {
    // The thread that reads files begins with the first one: what that takes is no file's.
    await tryOne(url, accountId, 'begins.csv', Buffer.from('nothing to load'));
    for (let i = 0; i < count; i++) {
      const { name, bytes } = await rightFile(chance, folder);
      const body = damaged(chance, bytes);
      const label = `file ${i} of seed ${seed} (${name}, ${body.length} bytes)`;
      const before = await figures();
      const began = performance.now();
      const outcome = await tryOne(url, accountId, name, body);
      const took = performance.now() - began;
      report.slowest = Math.max(report.slowest, took);
      if (took > longest) report.hangs.push(`${label}: ${Math.round(took)} ms`);
      if (outcome.state === 'error') report.serverErrors.push(`${label}: ${outcome.message}`);
      if (outcome.state === 'loaded') {
        report.loaded++;
        const { rowsRead, rowsLoaded, rowsRejected, rowsTotals } = outcome.result;
        if (rowsRead !== rowsLoaded + rowsRejected + rowsTotals)
          report.unbalanced.push(`${label}: ${JSON.stringify(outcome.result)}`);
      } else {
        report.refused++;
        if ((await figures()) !== before) report.halfApplied.push(label);
      }
    }
    return report;
  } finally {
    await sql.end();
    rmSync(folder, { recursive: true, force: true });
  }
}

interface Rows {
  rowsRead: number;
  rowsLoaded: number;
  rowsRejected: number;
  rowsTotals: number;
}

type Tried = { state: 'loaded'; result: Rows } | { state: 'refused' } | { state: 'error'; message: string };

async function tryOne(url: string, account: number, name: string, body: Buffer): Promise<Tried> {
  const post = (path: string, init: RequestInit) =>
    fetch(`${url}/api/${account}/${path}`, { method: 'POST', ...init });
  const sent = await post(`files?name=${name}`, { body: new Uint8Array(body) });
  const seen = (await sent.json()) as { uploadId: string; kind: string | null; detail?: string };
  if (sent.status >= 500) return { state: 'error', message: `${sent.status} ${seen.detail}` };
  if (!sent.ok) return { state: 'refused' };
  const begun = await post('imports', {
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ uploadId: seen.uploadId, kind: 'terms-daily' }),
  });
  const started = (await begun.json()) as { jobId: string; detail?: string };
  if (begun.status >= 500) return { state: 'error', message: `${begun.status} ${started.detail}` };
  if (!begun.ok) return { state: 'refused' };
  for (;;) {
    const job = await callApi<JobAnswer>(url, 'GET', `/api/${account}/jobs/${started.jobId}`);
    if (job.state === 'done') return { state: 'loaded', result: job.result as Rows };
    if (job.state !== 'failed') {
      await sleep(20);
      continue;
    }
    const code = (job.result as { code?: string } | null)?.code;
    return code === 'internal' || !job.message
      ? { state: 'error', message: `${code}: ${job.message}` }
      : { state: 'refused' };
  }
}
