/** A local day of the account as YYYY-MM-DD. */
export type Day = string;

const time = (day: Day): number => Date.parse(`${day}T00:00:00Z`);

/** The day `count` days later (or earlier, when negative). */
export const addDays = (day: Day, count: number): Day =>
  new Date(time(day) + count * 864e5).toISOString().slice(0, 10);

/** Whole days from `from` to `to`; negative when `to` lies before. */
export const daysBetween = (from: Day, to: Day): number => Math.round((time(to) - time(from)) / 864e5);

/** Both ends belong to the window. */
export interface Window {
  from: Day;
  to: Day;
}

export const windowDays = (window: Window): number => daysBetween(window.from, window.to) + 1;

/** The `length` days that end with `to`. */
export const windowEnding = (to: Day, length: number): Window => ({ from: addDays(to, 1 - length), to });

/** The window of the same length just before. */
export const windowBefore = (window: Window): Window =>
  windowEnding(addDays(window.from, -1), windowDays(window));
