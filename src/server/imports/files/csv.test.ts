import { stringify } from 'csv-stringify/sync';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { linesOf, parted } from './csv.ts';

const whole = (text: string, width: number | null = null) => parted(linesOf(text), ',', width, false);

describe('lines of a CSV', () => {
  test('each line is a record of its own, empty ones keep their place', () => {
    expect(whole('a,b\n\n"1,5","say ""so"""\n,')).toEqual({
      records: [['a', 'b'], [], ['1,5', 'say "so"'], ['', '']],
      broken: [],
      rest: [],
    });
  });

  test('a record may span lines; its later lines hold none', () => {
    expect(whole('1,"two\nlines",3\n4,5,6', 3).records).toEqual([
      ['1', 'two\nlines', '3'],
      [],
      ['4', '5', '6'],
    ]);
  });

  test('a line that could be a record by itself ends a quoted text where the quote closes', () => {
    expect(whole('"\n",",,","\n"\n4,5,6', 3)).toEqual({
      records: [['\n', ',,', '\n'], [], [], ['4', '5', '6']],
      broken: [],
      rest: [],
    });
  });

  test('a stray quote costs its own line and no other', () => {
    const { records, broken } = whole('1,2\n3,"4\n5,6\n7,8"\n"9",10', 2);
    expect(records).toEqual([['1', '2'], [], ['5', '6'], [], ['9', '10']]);
    expect(broken.map(({ line, text }) => [line, text])).toEqual([
      [1, '3,"4'],
      [3, '7,8"'],
    ]);
  });

  test('what a quote left open at the end waits for more lines, as far as a cell may reach', () => {
    expect(parted(['1,2', '3,"4', '5 and 6'], ',', 2, true)).toMatchObject({
      records: [['1', '2']],
      rest: ['3,"4', '5 and 6'],
    });
    const many = ['3,"4', ...Array.from({ length: 30 }, (_, i) => `line ${i}`)];
    const { records, broken, rest } = parted(many, ',', 2, true);
    expect([records.length, broken.length, rest.length]).toEqual([31, 1, 0]);
  });

  test('whatever is written with quotes reads back, one record a line or more', () => {
    const of = (...unit: string[]) =>
      fc.string({ unit: fc.constantFrom('a', '"', 'é', ...unit), maxLength: 8 });
    const cell = fc.oneof(of(',', ';', ' ', '1'), of('\n', ' ', '1'));
    fc.assert(
      fc.property(
        fc.array(fc.array(cell, { minLength: 3, maxLength: 3 }), { minLength: 1, maxLength: 12 }),
        (rows) => {
          const text = stringify(rows, { quoted: true, eof: false });
          const { records, broken } = whole(text, 3);
          expect(broken).toEqual([]);
          expect(records.filter((cells) => cells.length > 0)).toEqual(rows);
          expect(records).toHaveLength(linesOf(text).length);
        },
      ),
    );
  });

  test('whatever stands in a file, every line is told of', () => {
    const line = fc.string({ unit: fc.constantFrom('a', '"', ',', '1'), minLength: 1, maxLength: 9 });
    fc.assert(
      fc.property(fc.array(line, { minLength: 1, maxLength: 40 }), (lines) => {
        const { records, broken } = parted(lines, ',', 3, false);
        expect(records).toHaveLength(lines.length);
        for (const { line: at } of broken) expect(records[at]).toEqual([]);
      }),
    );
  });
});
