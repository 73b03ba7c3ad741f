import type { RowCheck } from '../files/read.ts';

/** Rows that tell a span of days. */
export const checkSpan: RowCheck = (values) =>
  (values.start_date as string) > (values.end_date as string)
    ? { column: 'end_date', reason: 'It lies before the first day.' }
    : null;

/** One check after the other; the first that fails speaks. */
export const both =
  (...checks: RowCheck[]): RowCheck =>
  (values) => {
    for (const check of checks) {
      const wrong = check(values);
      if (wrong) return wrong;
    }
    return null;
  };
