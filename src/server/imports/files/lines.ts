import { numberText } from './workbook.ts';

/** JSON Lines: an object a line, its fields the columns. */

/** A line's fields as text; a sentence where it is no object of plain values. */
export function readJsonLine(line: string): Record<string, string> | string {
  let value: unknown;
  try {
    value = JSON.parse(line);
  } catch {
    return 'The line is no JSON.';
  }
  if (typeof value !== 'object' || value === null || Array.isArray(value))
    return 'The line is no JSON object.';
  const fields: Record<string, string> = {};
  for (const [name, field] of Object.entries(value)) {
    if (typeof field === 'object' && field !== null) return `The field "${name}" holds more than one value.`;
    fields[name] =
      field === null || field === undefined
        ? ''
        : typeof field === 'number'
          ? numberText(field)
          : String(field as string | boolean);
  }
  return fields;
}

/** The columns of the first lines, in the order in which they appear. */
export function jsonHeaders(lines: readonly string[]): string[] {
  const names = new Set<string>();
  for (const line of lines) {
    const fields = readJsonLine(line);
    if (typeof fields !== 'string') for (const name of Object.keys(fields)) names.add(name);
  }
  return [...names];
}

/** The cells of a line under the headers, or why it has none. */
export function jsonCells(line: string, headers: readonly string[]): string[] | string {
  const fields = readJsonLine(line);
  if (typeof fields === 'string') return fields;
  const more = Object.keys(fields).find((name) => !headers.includes(name));
  if (more !== undefined) return `It has a field "${more}" that the first lines have not.`;
  return headers.map((header) => fields[header] ?? '');
}
