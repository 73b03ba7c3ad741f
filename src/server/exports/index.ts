/** What leaves as a file. */

export { tableFormats, type TableFormat } from './table.ts';
export { sheetCsv } from './sheet.ts';
export { accountPackage } from './package.ts';
