import { dsvFormat } from 'd3';

/**
 * Lines of a CSV to records, so that every line of the file is told of once: as a record, as empty, as the later line
 * of a record that spans several, or as broken. A stray quote costs its own line and no other.
 */

/** Records by line: the i-th is of the i-th line; empty where the line holds none. */
export interface Lines {
  records: string[][];
  /** Lines that hold no record, counted from 0 within these; the first 4,096 characters of each, and why. */
  broken: { line: number; text: string; reason: string }[];
  /** Lines at the end that a quote may go on from, once more are there. */
  rest: string[];
}

/** A quoted cell may hold line breaks; more than so many of them are a quote that nobody closed. */
const mostLines = 20;
export const longestRecord = 1 << 20;

const cell = (delimiter: string) => `(?:"[^"]*(?:""[^"]*)*"|[^"${delimiter}\\n]*)`;
const patterns = new Map<string, RegExp>();

/** One record and nothing else: quotes open where a cell begins and close where it ends. */
function recordPattern(delimiter: string): RegExp {
  let known = patterns.get(delimiter);
  if (!known) {
    known = new RegExp(`^${cell(delimiter)}(?:${delimiter}${cell(delimiter)})*$`);
    patterns.set(delimiter, known);
  }
  return known;
}

/** Whether a line, read within an open quote, closes that quote where a cell may end. */
function closes(line: string, delimiter: string): boolean {
  const quote = /^[^"]*(?:""[^"]*)*"(?!")/.exec(line)?.[0].length;
  return quote !== undefined && (quote === line.length || line[quote] === delimiter);
}

const quotesIn = (text: string): number => text.split('"').length - 1;

/**
 * Parts lines into records. `width`: the cells that a record of several lines must have, null while that is not known.
 * `more`: whether lines follow; else what is open at the end is broken.
 */
export function parted(
  lines: readonly string[],
  delimiter: string,
  width: number | null,
  more: boolean,
): Lines {
  const plain = dsvFormat(delimiter);
  const whole = recordPattern(delimiter);
  const found: Lines = { records: [], broken: [], rest: [] };
  let run: string[] = [];
  const endRun = () => {
    if (run.length > 0) found.records.push(...plain.parseRows(run.join('\n')));
    run = [];
  };
  /** The record that begins at a line and goes on over some; how many lines it takes, 0 where none fits. */
  const spanning = (from: number): { cells: string[]; lines: number } | 'open' | null => {
    let text = lines[from]!;
    let quotes = quotesIn(text);
    if (quotes % 2 === 0) return null;
    for (let count = 2; count <= mostLines; count++) {
      const next = lines[from + count - 1];
      if (next === undefined) return more ? 'open' : null;
      // A line that is a record by itself is no part of a text: the quote before it is a stray one. Where it can be
      // read both ways (`",",,","`), a cell that ends there is likelier than one that begins with a comma.
      if (
        width !== null &&
        width > 1 &&
        whole.test(next) &&
        !closes(next, delimiter) &&
        plain.parseRows(next)[0]?.length === width
      )
        return null;
      text += `\n${next}`;
      quotes += quotesIn(next);
      if (text.length > longestRecord) return null;
      if (quotes % 2 === 1 || !whole.test(text)) continue;
      const [cells] = plain.parseRows(text);
      if (cells && (width === null || cells.length === width)) return { cells, lines: count };
    }
    return null;
  };
  for (let at = 0; at < lines.length; at++) {
    const line = lines[at]!;
    if (line === '') {
      endRun();
      found.records.push([]);
      continue;
    }
    if (line.length <= longestRecord && (!line.includes('"') || whole.test(line))) {
      run.push(line);
      continue;
    }
    endRun();
    const record = line.length > longestRecord ? null : spanning(at);
    if (record === 'open') {
      found.rest = lines.slice(at);
      break;
    }
    if (record) {
      found.records.push(record.cells);
      for (let i = 1; i < record.lines; i++) found.records.push([]);
      at += record.lines - 1;
      continue;
    }
    const reason =
      line.length > longestRecord
        ? `It has ${line.length} characters, more than any row.`
        : 'Its quotes do not open and close as they should.';
    found.broken.push({ line: at, text: line.slice(0, longestRecord >> 8), reason });
    found.records.push([]);
  }
  endRun();
  return found;
}

/** Lines of a text, whatever ends them. */
export const linesOf = (text: string): string[] =>
  text.includes('\r') ? text.split(/\r\n|\n|\r/) : text.split('\n');
