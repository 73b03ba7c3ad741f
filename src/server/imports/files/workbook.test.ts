import { Readable } from 'node:stream';
import fc from 'fast-check';
import { expect, test } from 'vitest';
import { headOfSheet } from './archive.ts';
import { jsonCells, jsonHeaders, readJsonLine } from './lines.ts';
import { decimalMarks, readNumber } from './values.ts';
import { cellText, numberText } from './workbook.ts';

test.each([
  [null, undefined, ''],
  ['lid set', undefined, 'lid set'],
  [0.125, '0.0%', '12.5%'],
  [1.234, undefined, '1.2340'],
  [3, undefined, '3'],
  [new Date('2026-11-03T00:00:00Z'), 'yyyy-mm-dd', '2026-11-03'],
  [{ formula: 'A1+B1', result: 4.5 }, undefined, '4.5'],
  [{ richText: [{ text: 'lid ' }, { text: 'set' }] }, undefined, 'lid set'],
  [{ text: 'lid set', hyperlink: 'https://example.org' }, undefined, 'lid set'],
  [{ error: '#N/A' }, undefined, '#N/A'],
  [true, undefined, 'true'],
])('a cell of %o reads as %s says: %s', (value, format, text) => {
  expect(cellText(value, format)).toBe(text);
});

test('a number of a cell is read back as it is, and in no other way', () => {
  const number = fc.oneof(
    fc.integer({ min: 0, max: 2e9 }),
    fc.integer({ min: 0, max: 2e9 }).map((micros) => micros / 1000),
    fc.integer({ min: 0, max: 2e9 }).map((micros) => micros / 1e6),
  );
  fc.assert(
    fc.property(number, (value) => {
      const text = numberText(value);
      expect(readNumber(text, '.')).toBeCloseTo(value, 9);
      if (!Number.isInteger(value)) expect(decimalMarks([text])).toEqual(['.']);
    }),
  );
});

test('lines of JSON: fields by name, what is missing is empty, what is no object is said', () => {
  const headers = jsonHeaders(['{"a":1,"b":"x"}', 'broken', '{"c":null}']);
  expect(headers).toEqual(['a', 'b', 'c']);
  expect(jsonCells('{"c":true,"a":0.5}', headers)).toEqual(['0.5', '', 'true']);
  expect(readJsonLine('[1]')).toBe('The line is no JSON object.');
  expect(readJsonLine('{"a":{"b":1}}')).toBe('The field "a" holds more than one value.');
  expect(jsonCells('{"d":1}', headers)).toBe('It has a field "d" that the first lines have not.');
});

test('the head of a sheet ends behind its rows, wherever its bytes are cut', async () => {
  const rows = Array.from({ length: 12 }, (_, i) => `<row r="${i + 1}"><c><v>${i}ü</v></c></row>`);
  const sheet = `<worksheet><sheetData>${rows.join('')}</sheetData></worksheet>`;
  const bytes = Buffer.from(sheet);
  const headOf = async (most: number, size: number) => {
    const pieces = Array.from({ length: Math.ceil(bytes.length / size) }, (_, i) =>
      bytes.subarray(i * size, (i + 1) * size),
    );
    const parts: Buffer[] = [];
    for await (const part of Readable.from(pieces).pipe(headOfSheet(most))) parts.push(part as Buffer);
    return Buffer.concat(parts).toString();
  };
  for (const size of [1, 3, 7, 64, 4096]) {
    expect(await headOf(5, size)).toBe(
      `<worksheet><sheetData>${rows.slice(0, 5).join('')}</sheetData></worksheet>`,
    );
    expect(await headOf(40, size)).toBe(sheet);
  }
});
