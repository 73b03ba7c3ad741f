import { createWriteStream } from 'node:fs';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import yazl from 'yazl';

/** Workbooks as raw parts, so that they can be wrong in ways that no program would write. */

const head = '<?xml version="1.0" encoding="UTF-8" standalone="yes"?>\n';
const main = 'http://schemas.openxmlformats.org/spreadsheetml/2006/main';
const office = 'http://schemas.openxmlformats.org/officeDocument/2006/relationships';
const packages = 'http://schemas.openxmlformats.org/package/2006';

export interface Parts {
  /** The rows of the sheet as XML; pieces, for parts that are larger than a text. */
  rows: string | Iterable<string>;
  sharedStrings?: string | Iterable<string>;
}

function* within(before: string, inner: string | Iterable<string>, after: string): Generator<string> {
  yield before;
  if (typeof inner === 'string') yield inner;
  else yield* inner;
  yield after;
}

export async function writeWorkbook(path: string, { rows, sharedStrings }: Parts): Promise<void> {
  const zip = new yazl.ZipFile();
  const add = (name: string, text: string) => {
    zip.addBuffer(Buffer.from(head + text), name);
  };
  const type = 'application/vnd.openxmlformats-officedocument.spreadsheetml';
  add(
    '[Content_Types].xml',
    `<Types xmlns="${packages}/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Override PartName="/xl/workbook.xml" ContentType="${type}.sheet.main+xml"/><Override PartName="/xl/worksheets/sheet1.xml" ContentType="${type}.worksheet+xml"/></Types>`,
  );
  add(
    '_rels/.rels',
    `<Relationships xmlns="${packages}/relationships"><Relationship Id="rId1" Type="${office}/officeDocument" Target="xl/workbook.xml"/></Relationships>`,
  );
  add(
    'xl/workbook.xml',
    `<workbook xmlns="${main}" xmlns:r="${office}"><sheets><sheet name="Terms" sheetId="1" r:id="rId1"/></sheets></workbook>`,
  );
  add(
    'xl/_rels/workbook.xml.rels',
    `<Relationships xmlns="${packages}/relationships"><Relationship Id="rId1" Type="${office}/worksheet" Target="worksheets/sheet1.xml"/><Relationship Id="rId2" Type="${office}/sharedStrings" Target="sharedStrings.xml"/></Relationships>`,
  );
  const stream = (name: string, pieces: Iterable<string>) => {
    zip.addReadStream(Readable.from(pieces), name);
  };
  if (sharedStrings !== undefined)
    stream('xl/sharedStrings.xml', within(`${head}<sst xmlns="${main}">`, sharedStrings, '</sst>'));
  stream(
    'xl/worksheets/sheet1.xml',
    within(`${head}<worksheet xmlns="${main}"><sheetData>`, rows, '</sheetData></worksheet>'),
  );
  zip.end();
  await pipeline(zip.outputStream, createWriteStream(path));
}

/** Columns by their letters: 0 is A. */
export function columnName(at: number): string {
  const last = String.fromCharCode(65 + (at % 26));
  return at < 26 ? last : columnName(Math.floor(at / 26) - 1) + last;
}

/** A row as XML: numbers as such, other values as texts of their own. */
export const rowXml = (number: number, cells: readonly (string | number)[]): string =>
  `<row r="${number}">${cells
    .map((cell, at) =>
      typeof cell === 'number'
        ? `<c r="${columnName(at)}${number}"><v>${cell}</v></c>`
        : `<c r="${columnName(at)}${number}" t="inlineStr"><is><t>${cell}</t></is></c>`,
    )
    .join('')}</row>`;

export const termsHeader = [
  'date',
  'campaign',
  'ad_group',
  'target',
  'match_type',
  'term',
  'impressions',
  'clicks',
  'spend',
  'orders',
  'sales',
];

export const termsRow = (number: number): string =>
  rowXml(number, ['2026-10-05', 'C', 'G', 'lid', 'broad', `lid ${number}`, 50, 2, 0.9, 1, 18.9]);
