/** A local day of the account as YYYY-MM-DD. */
export type Day = string;

const time = (day: Day): number => Date.parse(`${day}T00:00:00Z`);

/**
 * The day `count` days later (or earlier, when negative).
 * @example addDays('2026-02-27', 2) // '2026-03-01'
 */
export const addDays = (day: Day, count: number): Day =>
  new Date(time(day) + count * 864e5).toISOString().slice(0, 10);

/**
 * Whole days from `from` to `to`; negative when `to` lies before.
 * @example daysBetween('2026-11-01', '2026-11-30') // 29
 */
export const daysBetween = (from: Day, to: Day): number => Math.round((time(to) - time(from)) / 864e5);

/** Both ends belong to the window. */
export interface Window {
  from: Day;
  to: Day;
}

/**
 * @example windowDays({ from: '2026-11-01', to: '2026-11-30' }) // 30
 */
export const windowDays = (window: Window): number => daysBetween(window.from, window.to) + 1;

const [firstYear, lastYear] = [2000, 2100];

/**
 * Whether a text is a day that a figure can be of: a real one of this century.
 * @example isDay('2026-02-30') // false
 */
export function isDay(text: string): boolean {
  if (!/^\d{4}-\d{2}-\d{2}$/.test(text)) return false;
  const year = Number(text.slice(0, 4));
  return year >= firstYear && year <= lastYear && !Number.isNaN(time(text)) && addDays(text, 0) === text;
}

/** Longer windows than five years are a slip of the hand, and cost what nobody waits for. */
const mostWindowDays = 1830;

/** What is wrong with a window, as a sentence; null when nothing is. */
export function windowProblem({ from, to }: Window): string | null {
  const none = [from, to].find((day) => !isDay(day));
  if (none !== undefined) return `“${none.slice(0, 20)}” is no day: days are written as 2026-11-05.`;
  if (from > to) return 'The window ends before it begins.';
  if (windowDays({ from, to }) > mostWindowDays) return `A window has at most ${mostWindowDays} days.`;
  return null;
}

/**
 * The `length` days that end with `to`.
 * @example windowEnding('2026-11-30', 7) // { from: '2026-11-24', to: '2026-11-30' }
 */
export const windowEnding = (to: Day, length: number): Window => ({ from: addDays(to, 1 - length), to });

/**
 * The window of the same length just before.
 * @example windowBefore({ from: '2026-11-08', to: '2026-11-14' }) // { from: '2026-11-01', to: '2026-11-07' }
 */
export const windowBefore = (window: Window): Window =>
  windowEnding(addDays(window.from, -1), windowDays(window));
