/** What a campaign bids at each hour of the week, in per cent of its bids (domain, section 10). */

/** 168 numbers in per cent, from Monday's first hour on; 100 leaves the bids as they are, 0 is off. */
export type Schedule = number[];

export const daysOfWeek = 7;
export const hoursOfDay = 24;
export const hoursOfWeek = daysOfWeek * hoursOfDay;
/** Multipliers go in steps of so many points. */
export const scheduleStep = 10;

export const weekdayNames = ['Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday', 'Sunday'];

/** Place of an hour in a schedule; weekdays from Monday, 0, to Sunday, 6. */
export const hourOfWeek = (weekday: number, hour: number): number => weekday * hoursOfDay + hour;

export const flat = (): Schedule => Array<number>(hoursOfWeek).fill(100);

export const isFlat = (schedule: Schedule): boolean => schedule.every((percent) => percent === 100);

/** The 24 hours of a weekday. */
export const ofWeekday = (schedule: Schedule, weekday: number): number[] =>
  schedule.slice(hourOfWeek(weekday, 0), hourOfWeek(weekday + 1, 0));

/**
 * Reads a schedule as it is written: parts like `sunday 0-23 70` (weekday, first to last hour, per cent of the bid), divided
 * by semicolons; hours that no part names stand at 100 %. Null for text that is no schedule; empty text is the flat one.
 * @example readSchedule('sunday 0-23 70').slice(143, 146) // [100, 70, 70]
 * @example readSchedule('someday 0-23 70') // null
 */
export function readSchedule(text: string): Schedule | null {
  const schedule = flat();
  for (const part of text.split(';')) {
    if (part.trim() === '') continue;
    const found = /^\s*([a-z]+)\s+(\d{1,2})-(\d{1,2})\s+(\d{1,3})\s*$/i.exec(part);
    if (!found) return null;
    const weekday = weekdayNames.findIndex((name) => name.toLowerCase() === found[1]!.toLowerCase());
    const [first, last] = [Number(found[2]), Number(found[3])];
    if (weekday < 0 || first > last || last >= hoursOfDay) return null;
    schedule.fill(Number(found[4]), hourOfWeek(weekday, first), hourOfWeek(weekday, last) + 1);
  }
  return schedule;
}

/** Hours in a row that stand alike. */
export interface Run {
  /** From Monday, 0. */
  weekday: number;
  first: number;
  last: number;
  percent: number;
}

/** A schedule's hours, gathered where neighbours of one day stand alike. */
export function runsOf(schedule: Schedule): Run[] {
  const runs: Run[] = [];
  schedule.forEach((percent, at) => {
    const [weekday, hour] = [Math.floor(at / hoursOfDay), at % hoursOfDay];
    const open = runs.at(-1);
    if (open?.weekday === weekday && open.percent === percent) open.last = hour;
    else runs.push({ weekday, first: hour, last: hour, percent });
  });
  return runs;
}

/**
 * A schedule as it is written: what stands at 100 % is left out, so that the flat one is empty.
 * @example writeSchedule(readSchedule('sunday 0-11 70; Sunday 12-23 70')) // 'sunday 0-23 70'
 */
export const writeSchedule = (schedule: Schedule): string =>
  runsOf(schedule)
    .filter(({ percent }) => percent !== 100)
    .map(
      ({ weekday, first, last, percent }) =>
        `${weekdayNames[weekday]!.toLowerCase()} ${first}-${last} ${percent}`,
    )
    .join('; ');

/** By how much a schedule may raise a bid; 1 where it raises none. */
export const scheduleFactor = (text: string | null): number =>
  Math.max(...(readSchedule(text ?? '') ?? [100])) / 100;

/**
 * What a schedule, or some hours of one, make of a bid on the mean of clicks, 1 for a flat one; hours that are off have none.
 * Without clicks all hours count alike.
 */
export function meanSchedule(schedule: readonly number[], clicks: readonly number[]): number {
  const [weight, sum] = schedule.reduce(
    ([all, own], percent, at) =>
      percent > 0 ? [all + clicks[at]!, own + (clicks[at]! * percent) / 100] : [all, own],
    [0, 0],
  );
  if (weight > 0) return sum / weight;
  const on = schedule.filter((percent) => percent > 0);
  return on.length > 0 ? on.reduce((all, percent) => all + percent, 0) / on.length / 100 : 1;
}

const hoursSaid = ({ first, last }: Pick<Run, 'first' | 'last'>): string =>
  first === 0 && last === hoursOfDay - 1 ? '' : ` ${first}–${last + 1} h`;

/** Times in words, weekdays in a row that are alike as one: of each hour what is said of it, null for nothing. */
function said(words: readonly (string | null)[]): string {
  const parts: string[] = [];
  let weekday = 0;
  while (weekday < daysOfWeek) {
    const hours = words.slice(hourOfWeek(weekday, 0), hourOfWeek(weekday + 1, 0));
    let end = weekday;
    while (end + 1 < daysOfWeek && hours.every((word, hour) => words[hourOfWeek(end + 1, hour)] === word))
      end++;
    const name =
      end === weekday
        ? weekdayNames[weekday]!
        : `${weekdayNames[weekday]!} ${end === weekday + 1 ? 'and' : 'to'} ${weekdayNames[end]!}`;
    const runs: { first: number; last: number; word: string | null }[] = [];
    hours.forEach((word, hour) => {
      const open = runs.at(-1);
      if (open?.word === word) open.last = hour;
      else runs.push({ first: hour, last: hour, word });
    });
    const told = runs.filter(({ word }) => word !== null);
    if (told.length > 0)
      parts.push(
        `${name}${told.map((run) => `${hoursSaid(run)}${run.word ? ` ${run.word}` : ''}`).join(',')}`,
      );
    weekday = end + 1;
  }
  return parts.join('; ');
}

/**
 * A schedule in words; "100 % at all hours" where it is flat.
 * @example scheduleSaid(readSchedule('sunday 0-23 60')) // 'Sunday 60 %'
 */
export const scheduleSaid = (schedule: Schedule): string =>
  isFlat(schedule)
    ? '100 % at all hours'
    : said(schedule.map((percent) => (percent === 100 ? null : percent === 0 ? 'off' : `${percent} %`)));

/** Hours of the week in words: "Sunday", "Monday to Friday 0 to 7". */
export const timesSaid = (places: readonly number[]): string => {
  const all = new Set(places);
  return said(Array.from({ length: hoursOfWeek }, (_, at) => (all.has(at) ? '' : null)));
};
