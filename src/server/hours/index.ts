/** Campaigns by the time of the week, their schedules, and what changes of them did. */

export {
  afterAnswer,
  hoursAnswer,
  hoursFound,
  usualWeeks,
  scheduleDraftsOf,
  scopeAnswer,
  setSchedules,
} from './hours.ts';
export { readSchedulesCsv, schedulesCsv } from './file.ts';
export { scheduleOrderSchema, scopeOf, weeksOf } from './door.ts';
