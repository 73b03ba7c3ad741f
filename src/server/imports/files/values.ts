import type { DateOrder, DecimalMark } from '../../../answers/imports.ts';
/** Reads the values that people's files hold. Each reader gives the value, or null where it is not one. */

const blank = (text: string): boolean => text === '' || text === '-' || text === '–' || text === '—';

/** Nothing, or a dash that stands for it. */
export const isBlank = (text: string): boolean => text.length < 8 && blank(text.trim());

const months = 'jan feb mar apr may jun jul aug sep oct nov dec'.split(' ');

const real = (year: number, month: number, day: number): string | null => {
  if (year < 100) year += 2000;
  if (year < 2000 || year > 2100 || month < 1 || month > 12 || day < 1 || day > 31) return null;
  const text = `${year}-${String(month).padStart(2, '0')}-${String(day).padStart(2, '0')}`;
  const date = new Date(`${text}T00:00:00Z`);
  return !Number.isNaN(date.getTime()) && date.toISOString().startsWith(text) ? text : null;
};

/** YYYY-MM-DD out of ISO, day-first, month-first and "5 Nov 2026". */
export function readDate(text: string, order: DateOrder): string | null {
  const trimmed = text.trim();
  const iso = /^(\d{4})[-/.]?(\d{2})[-/.]?(\d{2})(?:[T ].*)?$/.exec(trimmed);
  if (iso) return real(Number(iso[1]), Number(iso[2]), Number(iso[3]));
  const parts = /^(\d{1,2})[-/. ](\d{1,2})[-/. ](\d{2,4})$/.exec(trimmed);
  if (parts) {
    const [first, second, year] = [Number(parts[1]), Number(parts[2]), Number(parts[3])];
    return order === 'mdy' ? real(year, first, second) : real(year, second, first);
  }
  const named = /^(?:(\d{1,2})\.?\s+)?([A-Za-z]{3})[a-z]*\.?\s*(?:(\d{1,2}),?)?\s+(\d{4})$/.exec(trimmed);
  if (named) {
    const month = months.indexOf(named[2]!.toLowerCase()) + 1;
    return real(Number(named[4]), month, Number(named[1] ?? named[3]));
  }
  return null;
}

/**
 * Which orders the dates of a column allow. Several mean that it must be asked: 03/04/2026 is not guessed.
 * Empty: no value could be read in any order.
 */
export function dateOrders(samples: readonly string[]): DateOrder[] {
  const values = samples.map((text) => text.trim()).filter((text) => text !== '');
  if (values.length === 0) return [];
  if (values.every((text) => /^\d{4}|[A-Za-z]/.test(text))) return ['ymd'];
  return (['dmy', 'mdy'] as const).filter((order) => values.every((text) => readDate(text, order) !== null));
}

const powersOfTen = Array.from({ length: 16 }, (_, power) => 10 ** power);

/**
 * The value of figures with at most one point between them ("40", "1.27"), as by far the most are written; NaN for all
 * else. Up to fifteen figures and a power of ten are exact, so their quotient is what the text says.
 */
function plainNumber(text: string): number {
  const { length } = text;
  if (length === 0 || length > 15) return NaN;
  let figures = 0;
  let point = -1;
  for (let i = 0; i < length; i++) {
    const code = text.charCodeAt(i);
    if (code >= 48 && code <= 57) figures = figures * 10 + (code - 48);
    else if (code === 46 && point < 0 && i > 0 && i < length - 1) point = i;
    else return NaN;
  }
  return point < 0 ? figures : figures / powersOfTen[length - 1 - point]!;
}

const longestNumber = 40;
/** Sign, currency, sign, figures, currency or per cent, sign: at most one sign, and it stands at an end. */
const written =
  /^([-−+])?\s*(?:[A-Z]{3}|[$€£¥])?\s*([-−+])?\s*([\d.,'’ \u00a0\u202f]*[\d.,])\s*(?:[A-Z]{3}|[$€£¥%])?\s*([-−])?$/u;
const figures = {
  '.': /^(?:\d{1,3}([,'’ \u00a0\u202f])\d{3}(?:\1\d{3})*(?:\.\d+)?|\d+\.?\d*|\.\d+)$/,
  ',': /^(?:\d{1,3}([.'’ \u00a0\u202f])\d{3}(?:\1\d{3})*(?:,\d+)?|\d+,?\d*|,\d+)$/,
} as const;

/**
 * A number out of `$1,234.50`, `1.234,50 €`, `12.5%`, `(3.20)`, `-4`, and of nothing else: a date or a range is none.
 * Per cent gives per cent, not a share. Blank and dash are 0 with `empty` set by the caller. Null: not a number.
 */
export function readNumber(text: string, mark: DecimalMark): number | null {
  if (mark === '.') {
    const plain = plainNumber(text);
    if (plain === plain) return plain;
  }
  const trimmed = text.trim();
  if (blank(trimmed)) return 0;
  if (trimmed.length > longestNumber) return null;
  const enclosed = /^\((.*)\)$/.exec(trimmed)?.[1];
  const parts = written.exec(enclosed ?? trimmed);
  if (!parts) return null;
  const signs = [parts[1], parts[2], parts[4]].filter((sign) => sign !== undefined);
  if (signs.length > (enclosed === undefined ? 1 : 0)) return null;
  const found = figures[mark].exec(parts[3]!);
  if (!found) return null;
  const digits = found[1] === undefined ? parts[3]! : parts[3]!.replaceAll(found[1], '');
  const value = Number(digits.replace(mark, '.'));
  if (!Number.isFinite(value)) return null;
  return enclosed !== undefined || (signs.length === 1 && signs[0] !== '+') ? -value : value;
}

/**
 * The decimal mark of a file's numbers. Where every value could be either, both are possible only when one with a
 * single mark and three digits behind it is there (1,234); then it must be asked.
 */
export function decimalMarks(samples: readonly string[]): DecimalMark[] {
  const values = samples.filter((text) => !blank(text.trim()) && /[.,]/.test(text));
  if (values.length === 0) return ['.'];
  const fits = (mark: DecimalMark) => values.every((text) => readNumber(text, mark) !== null);
  const marks = (['.', ','] as const).filter(fits);
  return marks.length === 0 ? ['.'] : [...marks];
}

/** Words that begin a total row. */
export const isTotal = (text: string): boolean =>
  /^(grand )?(total|totals|sum|summe|gesamt|gesamtsumme|subtotal)\b/i.test(text.trim());
