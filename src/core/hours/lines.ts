import { isFlat, writeSchedule, type Schedule } from '../account/schedule.ts';
import { fieldLine, type LineDraft } from '../changes/lines.ts';
import type { Effect } from '../effect/types.ts';

/** How a schedule reaches the sheet: as one line of its campaign. */

const keyStart = 'hours:';
export const hoursKey = (campaignId: string): string => `${keyStart}${campaignId}`;
export const campaignOfHoursKey = (key: string): string => key.slice(keyStart.length);
export const isHoursKey = (key: string): boolean => key.startsWith(keyStart);

/** The line that sets a campaign's schedule. `live`: as the marketplace writes it; null for none. */
export const scheduleLine = (
  campaignId: string,
  live: string | null,
  schedule: Schedule,
  note: { reason: string; effect: Effect | null },
): LineDraft => ({
  ...fieldLine(
    'campaign',
    'schedule',
    { campaignId, adGroupId: null },
    campaignId,
    { oldValue: live, newValue: isFlat(schedule) ? null : writeSchedule(schedule) },
    { reason: note.reason },
  ),
  effect: note.effect,
});
