import { createHash } from 'node:crypto';
import { once } from 'node:events';
import { PassThrough, Readable } from 'node:stream';
import { stringify } from 'csv-stringify/sync';
import yazl from 'yazl';
import { getAccount } from '../account/account.ts';
import { changeColumns } from '../changes/columns.ts';
import { linesOfSheet } from '../changes/lines.queries.ts';
import { sheetsOf } from '../changes/sheets.queries.ts';
import { db, type Database, type Transaction } from '../db/connection.ts';
import { release } from '../db/copy.ts';
import { log } from '../log.ts';
import { resourcesOf, type Resource } from './package.queries.ts';
import { stateOf } from '../account/state.queries.ts';
import { tableSchemas } from './schemas.ts';
import { changeRow } from './sheet.ts';

/**
 * Everything of an account as a Data Package (Frictionless, an open standard): a zip with `datapackage.json` and a CSV for
 * each kind, which loads again into an empty account. All parts are read in one snapshot.
 */
export async function accountPackage(accountId: number): Promise<Response> {
  const account = await getAccount(db(), accountId);
  const zip = new yazl.ZipFile();
  const out = new PassThrough();
  zip.outputStream.pipe(out);
  const readerLeft = new Promise<never>((_, reject) => {
    out.once('close', () => reject(new Error('The reader left before the end.')));
  });
  // Heard only while somebody waits for him.
  readerLeft.catch(() => undefined);
  void db()
    .begin('isolation level repeatable read read only', async (tx) => {
      const parts = [
        ...resourcesOf(tx as Transaction, accountId),
        await changesOf(tx as Transaction, accountId),
      ];
      const schemas = tableSchemas();
      const resources: object[] = [];
      // One after the other: they share the connection that holds the snapshot.
      for (const part of parts) {
        const { name, kind, columns } = part;
        const file = `${name}.csv`;
        const sums = await addPart(zip, file, stringify([columns]), await part.rows(), readerLeft);
        const schema = onlyOf(schemas[`${kind}.json`]!, columns);
        resources.push({
          profile: 'tabular-data-resource',
          name,
          path: file,
          encoding: 'utf-8',
          kind,
          ...sums,
          schema,
        });
      }
      const state = await stateOf(tx as Transaction, accountId);
      const sums = await addPart(zip, 'account.jsonl', '', state, readerLeft);
      resources.push({ name: 'account', path: 'account.jsonl', format: 'jsonl', kind: 'account', ...sums });
      const description = {
        profile: 'data-package',
        name: 'mowing-account',
        title: account.name,
        currency: account.currency,
        origin: account.origin,
        resources,
      };
      zip.addBuffer(Buffer.from(JSON.stringify(description, null, 2)), 'datapackage.json');
      zip.end();
    })
    .catch((error: Error) => {
      log.warn({ error }, 'package was cut');
      out.destroy(error);
    });
  const day = account.today ?? 'empty';
  return new Response(Readable.toWeb(out) as ReadableStream, {
    headers: {
      'content-type': 'application/zip',
      'content-disposition': `attachment; filename="mowing-account-${day}.zip"`,
    },
  });
}

interface Schema {
  fields: { name: string }[];
}

const onlyOf = (schema: object, columns: readonly string[]): object => ({
  ...schema,
  fields: (schema as Schema).fields
    .filter(({ name }) => columns.includes(name))
    .sort((a, b) => columns.indexOf(a.name) - columns.indexOf(b.name)),
});

/** Puts a part into the zip; what it is known by again. */
async function addPart(
  zip: yazl.ZipFile,
  name: string,
  head: string,
  source: Readable,
  readerLeft: Promise<never>,
): Promise<{ bytes: number; hash: string }> {
  const chunks = source[Symbol.asyncIterator]() as AsyncIterator<Buffer>;
  const file = new PassThrough();
  const hash = createHash('sha256');
  let bytes = 0;
  const write = (chunk: Buffer): boolean => {
    hash.update(chunk);
    bytes += chunk.length;
    return file.write(chunk);
  };
  zip.addReadStream(file, name);
  write(Buffer.from(head));
  try {
    for (let next = await chunks.next(); !next.done; next = await chunks.next()) {
      if (!write(Buffer.from(next.value))) await Promise.race([once(file, 'drain'), readerLeft]);
    }
    file.end();
    return { bytes, hash: `sha256:${hash.digest('hex')}` };
  } finally {
    await release(source, async () => {
      while (!(await chunks.next()).done);
    });
  }
}

/** The lines of all sheets, open and sent. */
async function changesOf(tx: Transaction, accountId: number): Promise<Resource> {
  const sheets = (await sheetsOf(tx as unknown as Database, accountId)).reverse();
  const lines: object[] = [];
  for (const sheet of sheets) {
    for (const line of await linesOfSheet(tx, accountId, sheet.sheet_id)) lines.push(changeRow(line, sheet));
  }
  const text = stringify(lines, { columns: changeColumns, escape_formulas: true });
  return {
    name: 'changes',
    kind: 'changes',
    columns: changeColumns,
    rows: () => Promise.resolve(Readable.from([text])),
  };
}
