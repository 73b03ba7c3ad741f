import { createWriteStream, readFileSync, writeFileSync } from 'node:fs';
import { mkdtemp } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { Readable } from 'node:stream';
import postgres from 'postgres';
import { afterAll, beforeAll, expect, test } from 'vitest';
import yazl from 'yazl';
import { callApi, waitForJob } from '../../scripts/lib/processes.ts';
import { workbookRows } from '../../src/server/imports/files/workbook.ts';
import { startStack, type Stack } from '../support/stack.ts';
import { rowXml, termsHeader, termsRow, writeWorkbook } from '../support/workbooks.ts';

/** Files that are wrong on purpose: each gets a clear refusal in short time, and the server goes on. */

let stack: Stack;
let folder: string;
beforeAll(async () => {
  // So little memory that a file which wants more than its size suggests is soon at its end.
  stack = await startStack(false, { MOWING_FILE_MEMORY: '200' });
  folder = await mkdtemp(join(tmpdir(), 'mowing-'));
});
afterAll(() => stack.stop());

interface Answer {
  status: number;
  body: { code?: string; detail?: string; uploadId: string; kind: string };
}

async function send(path: string, name: string): Promise<Answer> {
  const sent = await fetch(`${stack.url}/api/1/files?name=${name}`, {
    method: 'POST',
    body: readFileSync(path),
    signal: AbortSignal.timeout(60_000),
  });
  return { status: sent.status, body: (await sent.json()) as Answer['body'] };
}

/** What becomes of a file: refused when looked at, failed when loaded, or done. */
async function fate(path: string, name = 'book.xlsx'): Promise<string> {
  const { status, body } = await send(path, name);
  if (status !== 200) {
    expect(status, body.detail).toBe(422);
    return body.code!;
  }
  const { uploadId, kind } = body;
  const call =
    kind === undefined
      ? callApi<{ jobId: string }>(stack.url, 'POST', '/api/1/imports/package', { uploadId })
      : callApi<{ jobId: string }>(stack.url, 'POST', '/api/1/imports', { uploadId, kind });
  return call
    .then(({ jobId }) => waitForJob(stack.url, jobId))
    .then(
      ({ state }) => state,
      (error: Error) => error.message,
    );
}

const header = rowXml(1, termsHeader);
const good = header + termsRow(2);
const answersAt = async () => {
  const began = performance.now();
  expect((await fetch(`${stack.url}/api/health`)).status).toBe(200);
  return performance.now() - began;
};

test('a workbook that is right is loaded', async () => {
  const path = join(folder, 'good.xlsx');
  await writeWorkbook(path, { rows: good });
  expect(await fate(path)).toBe('done');
});

test('a row with a number that no sheet has is refused', async () => {
  const path = join(folder, 'row.xlsx');
  await writeWorkbook(path, { rows: good + termsRow(2_000_000_000) });
  expect(await fate(path)).toBe('bad_workbook');
  expect(await answersAt()).toBeLessThan(5000);
});

test('cells in the last column of thousands of rows are refused by their place', async () => {
  const path = join(folder, 'wide.xlsx');
  const rows = function* () {
    yield good;
    for (let row = 3; row < 4003; row++)
      yield `<row r="${row}"><c r="A${row}"><v>1</v></c><c r="XFD${row}"><v>1</v></c></row>`;
  };
  await writeWorkbook(path, { rows: rows() });
  expect(await fate(path)).toBe('too_wide');
});

test('empty cells far to the right do no harm', async () => {
  const path = join(folder, 'format.xlsx');
  await writeWorkbook(path, { rows: good + termsRow(3).replace('</row>', '<c r="XFD3" s="0"/></row>') });
  expect(await fate(path)).toBe('done');
});

function* many(piece: string, times: number): Generator<string> {
  const chunk = piece.repeat(1000);
  for (let i = 0; i < times / 1000; i++) yield chunk;
}

test('bombs of strings, of cells and of a package are refused before they are unpacked', async () => {
  const strings = join(folder, 'strings.xlsx');
  await writeWorkbook(strings, { rows: good, sharedStrings: many('<si><t>aaaaaaaaaaaaaaaa</t></si>', 3e6) });
  expect(await fate(strings)).toBe('bad_archive');
  const cells = join(folder, 'cells.xlsx');
  await writeWorkbook(cells, { rows: many('<row r="2"><c r="A2"><v>1</v></c></row>', 3e6) });
  expect(await fate(cells)).toBe('bad_archive');
  const bomb = join(folder, 'bomb.zip');
  const zip = new yazl.ZipFile();
  const resources = [{ name: 'terms', path: 'terms.csv', kind: 'terms-daily' }];
  zip.addBuffer(Buffer.from(JSON.stringify({ resources })), 'datapackage.json');
  zip.addReadStream(Readable.from(many('a,b,c,d,e,f,g,h,i,j,k\n', 5e6)), 'terms.csv');
  zip.end();
  await pipeline(zip.outputStream, createWriteStream(bomb));
  expect(await fate(bomb, 'bomb.zip')).toBe('bad_archive');
});

test('strings that take more memory than a table needs end their thread, not the server', async () => {
  const path = join(folder, 'dense.xlsx');
  // Honest by its sizes, and several times as large in memory.
  const strings = function* () {
    for (let i = 0; i < 4e5; i++) yield `<si><r><t>${i}</t></r><r><t>${i * 7}</t></r></si>`;
  };
  await writeWorkbook(path, { rows: good, sharedStrings: strings() });
  expect(await fate(path)).toBe('unreadable_file');
  expect(await answersAt()).toBeLessThan(5000);
});

test('names that lead out of an archive, and parts behind a password, are refused', async () => {
  const zip = new yazl.ZipFile();
  zip.addBuffer(Buffer.from('{"resources":[]}'), 'datapackage.json');
  zip.addBuffer(Buffer.from('x'), 'aa/b.csv');
  zip.end();
  const path = join(folder, 'names.zip');
  await pipeline(zip.outputStream, createWriteStream(path));
  const bytes = readFileSync(path);
  writeFileSync(path, Buffer.from(bytes.toString('latin1').replaceAll('aa/b.csv', '../b.csv'), 'latin1'));
  expect(await fate(path, 'names.zip')).toBe('bad_archive');
  const locked = Buffer.from(bytes);
  // The flag of encryption, in every header of a part and of the list of parts.
  for (let at = 0; at < locked.length - 4; at++) {
    if (locked.readUInt32LE(at) === 0x02014b50) locked[at + 8]! |= 1;
    if (locked.readUInt32LE(at) === 0x04034b50) locked[at + 6]! |= 1;
  }
  writeFileSync(path, locked);
  const { body } = await send(path, 'locked.zip');
  expect(body.detail).toMatch(/encrypted/);
});

test('of a long sheet only the head is looked at', async () => {
  const path = join(folder, 'long.xlsx');
  const rows = function* () {
    yield header;
    for (let row = 2; row < 60_000; row++) yield termsRow(row);
  };
  await writeWorkbook(path, { rows: rows() });
  const head: number[] = [];
  for await (const { row } of workbookRows(path, () => true, 400)) head.push(row);
  expect(head).toHaveLength(400);
  expect(head.at(-1)).toBe(400);
});

test('a workbook with one byte flipped, anywhere, is loaded as it is or refused', async () => {
  const path = join(folder, 'whole.xlsx');
  const rows = header + Array.from({ length: 200 }, (_, i) => termsRow(i + 2)).join('');
  await writeWorkbook(path, { rows });
  const whole = readFileSync(path);
  const damaged = join(folder, 'damaged.xlsx');
  for (let i = 0; i < 40; i++) {
    const at = Math.floor(((i + 0.5) / 40) * whole.length);
    const bytes = Buffer.from(whole);
    bytes[at]! ^= 1 << (i % 8);
    writeFileSync(damaged, bytes);
    const state = await fate(damaged);
    expect(state, `byte ${at}`).toMatch(/^(done|bad_archive|no_workbook|no_sheet|no_table|bad_package)$/);
  }
  const sql = postgres(stack.databaseUrl, { max: 1 });
  const [sums] = await sql`select count(*)::int as terms, sum(clicks)::int as clicks from term_day`;
  await sql.end();
  // Repeated or not, no row was half-loaded: every term of the whole workbook has its two clicks, or none.
  expect(sums!.clicks).toBe(sums!.terms * 2);
});
