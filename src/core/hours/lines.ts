import { isFlat, writeSchedule, type Schedule } from '../account/schedule.ts';
import { fieldLine, type LineDraft } from '../changes/lines.ts';
import { bidMoves, moveLine } from '../placements/lines.ts';
import type { StructureCampaign } from '../structure/ground.ts';
import type { Effect } from '../effect/types.ts';

/** How a schedule reaches the sheet: as one line of its campaign, with its bids where they move. */

const keyStart = 'hours:';
export const hoursKey = (campaignId: string): string => `${keyStart}${campaignId}`;
export const campaignOfHoursKey = (key: string): string => key.slice(keyStart.length);
export const isHoursKey = (key: string): boolean => key.startsWith(keyStart);

/** How many bids a factor moves. */
export const countMoves = (campaign: StructureCampaign, beta: number): number =>
  beta === 1 ? 0 : bidMoves(campaign, () => beta).length;

/** The line that sets a campaign's schedule. `live`: as the marketplace writes it; null for none. */
export const scheduleLine = (
  campaignId: string,
  live: string | null,
  schedule: Schedule,
  { reason, effect = null, harvest }: { reason: string; effect?: Effect | null; harvest?: string },
): LineDraft => ({
  ...fieldLine(
    'campaign',
    'schedule',
    { campaignId, adGroupId: null },
    campaignId,
    { oldValue: live, newValue: isFlat(schedule) ? null : writeSchedule(schedule) },
    { reason, ...(harvest === undefined ? {} : { harvest }) },
  ),
  effect,
});

/** Lines that set a schedule and move all bids of the campaign by a factor; they stay together on the sheet. */
export function scheduleDrafts(
  campaign: StructureCampaign,
  schedule: Schedule,
  beta: number,
  { reason, effect }: { reason: string; effect: Effect | null },
): LineDraft[] {
  const { campaignId, schedule: live } = campaign;
  const note = { reason, harvest: hoursKey(campaignId) };
  return [
    scheduleLine(campaignId, live, schedule, { ...note, effect }),
    ...(beta === 1 ? [] : bidMoves(campaign, () => beta).map((move) => moveLine(campaignId, move, note))),
  ];
}
