import { parse } from 'csv-parse/sync';
import { ServiceError } from '../../errors.ts';
import { encodingOf } from './decode.ts';

/** A row of a small CSV that Mowing itself describes, with its line in the file. */
export interface PlainRow<Column extends string> {
  record: Partial<Record<Column, string>>;
  line: number;
}

/** What is wrong with a row: its line in the file, the column, and why. */
export interface RowProblem {
  row: number;
  column: string;
  message: string;
}

interface PlainOptions<Column extends string> {
  /** What one row is: "lane". */
  noun: string;
  most: number;
  /** Columns of which each must be there; of a group of them one. */
  needs: readonly (readonly Column[])[];
  /** Where its columns are told. */
  hint: string;
}

/** What parts the cells: the sign that the head has most of. All of them at once would part `60,50` in a file of semicolons. */
export function delimiterOf(text: string): string {
  const head = text.split(/[\r\n]+/).find((line) => line.trim() !== '') ?? '';
  const count = (sign: string) => head.split(sign).length;
  return [',', ';', '\t'].reduce((best, sign) => (count(sign) > count(best) ? sign : best));
}

/** Reads a whole CSV, its names in any case; throws what is wrong with the file as such. */
export function plainRows<Column extends string>(
  bytes: Uint8Array,
  { noun, most, needs, hint }: PlainOptions<Column>,
): PlainRow<Column>[] {
  const text = new TextDecoder(encodingOf(bytes, true)).decode(bytes);
  let told: { record: PlainRow<Column>['record']; info: { lines: number } }[];
  try {
    told = parse(text, {
      bom: true,
      columns: (head: string[]) =>
        head.map((name) =>
          name
            .trim()
            .toLowerCase()
            .replace(/[\s-]+/g, '_'),
        ),
      skip_empty_lines: true,
      trim: true,
      delimiter: delimiterOf(text),
      relax_column_count: true,
      info: true,
    }) as typeof told;
  } catch (error) {
    throw new ServiceError(422, 'bad_csv', `This is no CSV that can be read: ${(error as Error).message}.`);
  }
  if (told.length === 0) throw new ServiceError(422, 'empty_file', `There is no ${noun} in this file.`);
  if (told.length > most)
    throw new ServiceError(422, 'too_many', `${told.length} rows, ${most} are the most.`);
  const missing = needs.find((names) => !names.some((name) => name in told[0]!.record));
  if (missing)
    throw new ServiceError(422, 'no_column', `The column ${missing[0]} is missing. ${hint}`, {
      field: missing[0]!,
    });
  return told.map(({ record, info }) => ({ record, line: info.lines }));
}
