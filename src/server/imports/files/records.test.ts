import type { Layout } from '../../../answers/imports.ts';
import { mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, test } from 'vitest';
import { recordsOf } from './records.ts';

const layout: Layout = {
  format: 'csv',
  encoding: 'utf-8',
  delimiter: ',',
  sheet: null,
  titleRows: 0,
  headers: ['a', 'b'],
};

/** Every record of a file with its line number, and its broken lines. */
async function read(content: string) {
  const path = join(mkdtempSync(join(tmpdir(), 'mowing-')), 'file.csv');
  writeFileSync(path, content);
  const records: string[][] = [];
  const broken: number[] = [];
  for await (const batch of recordsOf(path, layout)) {
    records.push(...batch.records);
    broken.push(...batch.broken.map(({ line }) => line));
  }
  return { records, broken };
}

test.each([
  ['a line feed', '\n', ''],
  ['both', '\r\n', ''],
  ['a return alone', '\r', ''],
  ['a line feed, cells in quotes', '\n', '"'],
  ['both, cells in quotes', '\r\n', '"'],
  ['a return alone, cells in quotes', '\r', '"'],
])('a long file whose lines end with %s is read to its end', async (_, end, quote) => {
  const count = 60_000;
  const lines = Array.from(
    { length: count },
    (_, i) => `${quote}term number ${i} of this file${quote},${quote}${i}${quote}`,
  );
  const { records, broken } = await read(lines.join(end));
  expect(records).toHaveLength(count);
  expect(records[count - 1]).toEqual([`term number ${count - 1} of this file`, String(count - 1)]);
  expect(broken).toEqual([]);
});

test('a stray quote far into a file is told by its line, and nothing after it is lost', async () => {
  const lines = Array.from({ length: 50_000 }, (_, i) => `term ${i},${i}`);
  lines[30_000] = 'term "30000,1"x';
  const { records, broken } = await read(`${lines.join('\n')}\n`);
  expect(broken).toEqual([30_001]);
  expect(records.filter((cells) => cells.length > 0)).toHaveLength(49_999);
});
