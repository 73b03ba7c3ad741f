import { DateTime } from 'luxon';
import type { RoutineTime } from '../../core/routines/routine.ts';

/** When a routine is due, in the time zone of its account. Clocks that change lose no run and double none. */

type Clock = Extract<RoutineTime, { on: 'time' }>;

/** The instant of a local time: one that the clock skips is as much later, one that comes twice is the first of both. */
function instantOn(day: DateTime, at: string): DateTime {
  const [hour, minute] = at.split(':').map(Number) as [number, number];
  const { year, month, day: date } = day;
  const made = DateTime.fromObject({ year, month, day: date, hour, minute }, { zone: day.zone });
  const before = made.minus({ hours: 1 });
  return before.toFormat('yyyy-MM-dd HH:mm') === made.toFormat('yyyy-MM-dd HH:mm') ? before : made;
}

/** How many days to look ahead or back: each weekday comes within a week. */
const weekDays = 8;

const dueOn = ({ weekdays, at }: Clock, day: DateTime): DateTime | null =>
  weekdays.includes(day.weekday - 1) ? instantOn(day, at) : null;

/** The last time that it was due, after one instant and up to another; null where it was not. */
export function lastDue(clock: Clock, zone: string, after: Date, now: Date): Date | null {
  const today = DateTime.fromJSDate(now, { zone });
  for (let back = 0; back <= weekDays; back++) {
    const due = dueOn(clock, today.minus({ days: back }));
    if (due && due.toMillis() <= now.getTime())
      return due.toMillis() > after.getTime() ? due.toJSDate() : null;
  }
  return null;
}

/** The next time that it is due. */
export function nextDue(clock: Clock, zone: string, now: Date): Date | null {
  const today = DateTime.fromJSDate(now, { zone });
  for (let ahead = 0; ahead <= weekDays; ahead++) {
    const due = dueOn(clock, today.plus({ days: ahead }));
    if (due && due.toMillis() > now.getTime()) return due.toJSDate();
  }
  return null;
}

/** Days of the year from one on whose offset changes between their midnights. */
function changingDays(zone: string, first: string): DateTime[] {
  const days: DateTime[] = [];
  let day = DateTime.fromISO(first, { zone });
  for (let ahead = 0; ahead <= 366; ahead++) {
    const next = day.plus({ days: 1 });
    if (next.offset !== day.offset) days.push(day);
    day = next;
  }
  return days;
}

/** A year of days takes long to ask for: each zone is asked once a day. */
const known = new Map<string, { first: string; days: DateTime[] }>();

/** What becomes of its time on the days of the coming year on which clocks change, in sentences. */
export function clockChanges(clock: Clock, zone: string, now: Date): string[] {
  const first = DateTime.fromJSDate(now, { zone }).toISODate()!;
  if (known.get(zone)?.first !== first) known.set(zone, { first, days: changingDays(zone, first) });
  const said: string[] = [];
  for (const day of known.get(zone)!.days) {
    const due = dueOn(clock, day);
    if (!due) continue;
    const name = day.toFormat('yyyy-MM-dd');
    if (due.toFormat('HH:mm') !== clock.at)
      said.push(`On ${name} clocks skip ${clock.at}: it runs at ${due.toFormat('HH:mm')} that day.`);
    else if (due.plus({ hours: 1 }).toFormat('HH:mm') === clock.at)
      said.push(`On ${name} ${clock.at} comes twice: it runs once, the first time.`);
  }
  return said;
}
