import type { Column, ColumnType, Mapping } from '../../../answers/imports.ts';

/** Columns of files (formats), with the names that each goes by elsewhere, and how headers are told apart by them. */

export const column = (name: string, type: ColumnType, synonyms = '', required = false): Column => ({
  name,
  type,
  required,
  synonyms: synonyms === '' ? [] : synonyms.split(', '),
  zero: false,
});
/** Nothing in a cell means 0. */
export const zero = (one: Column): Column => ({ ...one, zero: true });

/** Whether a file tells sums of spans of days: it has a first and a last day, and no day. */
export const isSummary = (mapping: Mapping): boolean =>
  mapping.date == null && mapping.start_date != null && mapping.end_date != null;

/** Case, punctuation and units in brackets do not matter in a header. */
export const foldHeader = (header: string): string =>
  header
    .normalize('NFKC')
    .toLowerCase()
    .replace(/\(.*?\)|\[.*?\]/g, ' ')
    .replace(/[^\p{L}\p{N}]+/gu, ' ')
    .trim();

/** Maps the headers of a file to columns, each header used once. */
export function mapHeaders(columns: readonly Column[], headers: readonly string[]): Mapping {
  const folded = headers.map(foldHeader);
  const taken = new Set<number>();
  const mapping: Mapping = {};
  const claim = (names: string[]): number | null => {
    const at = folded.findIndex((header, i) => !taken.has(i) && names.includes(header));
    if (at >= 0) taken.add(at);
    return at >= 0 ? at : null;
  };
  // Own names first, so that a synonym never takes the header of another column.
  for (const { name } of columns) mapping[name] = claim([foldHeader(name)]);
  for (const { name, synonyms } of columns) mapping[name] ??= claim(synonyms);
  return mapping;
}

/** Required columns that no header feeds. Where rows tell spans of days they need no day. */
export const missingColumns = (columns: readonly Column[], mapping: Mapping): string[] =>
  columns
    .filter(({ name, required }) => required && mapping[name] == null)
    .filter(({ name }) => name !== 'date' || !isSummary(mapping))
    .map(({ name }) => name);
