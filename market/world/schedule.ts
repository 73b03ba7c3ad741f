const weekdays = ['sunday', 'monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday'];

/** Place of an hour in a schedule: Sunday 0:00 is 0, Saturday 23:00 is 167. */
export const hourOfWeek = (weekday: number, hour: number): number => weekday * 24 + hour;

/**
 * Reads a campaign's schedule: parts like `sunday 0-23 70` (weekday, first to last hour, per cent of the bid; 0 is
 * off), divided by semicolons. Hours that no part names stand at 100 %. Empty text is no schedule (null).
 * Throws an Error that names the part it cannot read.
 */
export function readSchedule(text: string): Float64Array | null {
  const parts = text
    .split(';')
    .map((part) => part.trim().toLowerCase())
    .filter((part) => part !== '');
  if (parts.length === 0) return null;
  const factors = new Float64Array(7 * 24).fill(1);
  for (const part of parts) {
    const [, name = '', from = '', to = '', percent = ''] =
      /^([a-z]+) (\d{1,2})-(\d{1,2}) (\d{1,3})$/.exec(part) ?? [];
    const weekday = weekdays.indexOf(name);
    if (weekday < 0 || Number(from) > Number(to) || Number(to) > 23) {
      throw new Error(`"${part}" is no part of a schedule, as "sunday 0-23 70" is.`);
    }
    factors.fill(
      Number(percent) / 100,
      hourOfWeek(weekday, Number(from)),
      hourOfWeek(weekday, Number(to)) + 1,
    );
  }
  return factors;
}
