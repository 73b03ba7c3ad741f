import { daysOfWeek, hourOfWeek, hoursOfDay, hoursOfWeek, type Schedule } from '../account/schedule.ts';

/**
 * Trials of schedules can be compared within their own campaigns: hours that were moved beside the same hours of weekdays
 * that were not (domain, section 17). What moves all days alike, a price or a rival, is in both.
 */

/** Hours of the week: those that a schedule moved, and those that they are compared with. */
export interface TrialTimes {
  touched: boolean[];
  control: boolean[];
}

/** Where a schedule moved, and the same hours of weekdays on which it stood still; 168 each, from Monday 0:00 on. */
export function timesOf(from: Schedule, to: Schedule): TrialTimes {
  const touched = Array.from({ length: hoursOfWeek }, (_, at) => from[at] !== to[at]);
  const moved = Array.from({ length: hoursOfDay }, (_, hour) =>
    Array.from({ length: daysOfWeek }, (_unused, weekday) => touched[hourOfWeek(weekday, hour)]!).some(
      Boolean,
    ),
  );
  return { touched, control: touched.map((one, at) => !one && moved[at % hoursOfDay]!) };
}

/** A line that is to be tried, as its schedule was and is to be; both null of any other line. */
export interface TriedLine {
  entity: string;
  field: string;
  campaignId: string;
  campaign: string;
  from: Schedule | null;
  to: Schedule | null;
}

/** Why lines cannot be compared with the same hours of other weekdays, as a sentence; null where they can. */
export function weekdaysProblem(lines: readonly TriedLine[]): string | null {
  const schedules = lines.filter(({ from, to }) => from !== null && to !== null);
  if (schedules.length === 0)
    return 'None of these lines is a schedule: other weekdays are touched as well. Compare with campaigns that stand still.';
  const campaigns = new Set(schedules.map(({ campaignId }) => campaignId));
  const other = lines.find(({ entity, field, campaignId }) => {
    const isBid = field === 'bid' && (entity === 'target' || entity === 'ad_group');
    return field !== 'schedule' && !(isBid && campaigns.has(campaignId));
  });
  if (other)
    return `A line of ${other.campaign} is neither a schedule nor a bid that goes with one: weekdays tell nothing of it. Leave it out, or compare with campaigns that stand still.`;
  const alike = schedules.find(({ from, to }) => !timesOf(from!, to!).control.some(Boolean));
  if (alike)
    return `The schedule of ${alike.campaign} moves its hours on all weekdays: none is left to compare with. Compare with campaigns that stand still.`;
  return null;
}

/**
 * What each weekday has of a week's orders, times seven: 1 on all where days are alike. Clicks tell it, since there are more.
 *
 * @param clicks By weekday, from Monday on.
 */
export function shapeOf(clicks: readonly number[]): number[] {
  const all = clicks.reduce((sum, one) => sum + one, 0);
  return clicks.map((one) => (all > 0 ? (daysOfWeek * one) / all : 1));
}
