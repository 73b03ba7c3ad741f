import { isFlat, meanSchedule, readSchedule } from '../../core/account/schedule.ts';
import type { CampaignObject } from '../../core/account/store.ts';
import type { Window } from '../../core/metrics/days.ts';
import { noCounts } from '../../core/hours/beliefs.ts';
import type { Database } from '../db/connection.ts';
import { weekCounts } from './hours.queries.ts';

/** What schedules make of a bid on the mean of clicks, by campaign id; of those that have one. */
export async function scheduledMeans(
  sql: Database,
  accountId: number,
  window: Window,
  campaigns: readonly CampaignObject[],
): Promise<Map<string, number>> {
  const schedules = new Map(
    campaigns.flatMap(({ id, fields }) => {
      const schedule = readSchedule(String(fields.schedule ?? ''));
      return schedule && !isFlat(schedule) ? [[id, schedule] as const] : [];
    }),
  );
  if (schedules.size === 0) return new Map();
  const counts = await weekCounts(sql, accountId, window, null, [...schedules.keys()]);
  return new Map(
    [...schedules].map(([id, schedule]) => [
      id,
      meanSchedule(schedule, (counts.get(id) ?? noCounts()).clicks),
    ]),
  );
}
