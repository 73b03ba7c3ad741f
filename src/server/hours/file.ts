import { stringify } from 'csv-stringify/sync';
import type { ReadSchedules } from '../../answers/hours.ts';
import {
  flat,
  hourOfWeek,
  hoursOfDay,
  isFlat,
  readSchedule,
  weekdayNames,
  writeSchedule,
  type Schedule,
} from '../../core/account/schedule.ts';
import { db } from '../db/connection.ts';
import { plainRows } from '../imports/files/plain.ts';
import { decimalMarks, readNumber } from '../imports/files/values.ts';
import { scheduledCampaigns, type ScheduledCampaign } from './queries.ts';

/** Schedules as CSV (formats): a row an hour of the week. */

const mostRows = 400_000;
/** A multiplier as a file writes it: 1 leaves the bid as it is. */
const mostMultiplier = 9.99;

/** Every hour of the campaigns that have a schedule; of all that run where none has, to be filled in. */
export async function schedulesCsv(accountId: number): Promise<string> {
  const campaigns = await scheduledCampaigns(db(), accountId);
  const read = ({ schedule }: ScheduledCampaign): Schedule => readSchedule(schedule ?? '') ?? flat();
  const scheduled = campaigns.filter((one) => !isFlat(read(one)));
  const shown = scheduled.length > 0 ? scheduled : campaigns.filter(({ status }) => status === 'enabled');
  const lines = shown.flatMap((one) =>
    read(one).map((percent, at) => ({
      campaign: one.name,
      campaign_id: one.extId ?? '',
      weekday: Math.floor(at / hoursOfDay) + 1,
      hour: at % hoursOfDay,
      multiplier: percent / 100,
    })),
  );
  return stringify(lines, {
    header: true,
    columns: ['campaign', 'campaign_id', 'weekday', 'hour', 'multiplier'],
    escape_formulas: true,
  });
}

type Column = 'campaign' | 'campaign_id' | 'ad_group' | 'weekday' | 'hour' | 'multiplier';

const wholeFrom = (text: string | undefined, least: number, most: number): number | null => {
  const number = Number((text ?? '').trim() || NaN);
  return Number.isInteger(number) && number >= least && number <= most ? number : null;
};

/** Monday is 0; null for none. */
function weekdayFrom(text: string | undefined): number | null {
  const number = wholeFrom(text, 1, 7);
  if (number !== null) return number - 1;
  const low = (text ?? '').trim().toLowerCase();
  const named = low.length >= 3 ? weekdayNames.findIndex((name) => name.toLowerCase().startsWith(low)) : -1;
  return named < 0 ? null : named;
}

/**
 * Reads a file of schedules: those that change something, and what is wrong with rows. Hours of a campaign that the file
 * does not name stay as they are. Nothing is put on the sheet.
 */
export async function readSchedulesCsv(accountId: number, bytes: Uint8Array): Promise<ReadSchedules> {
  const told = plainRows<Column>(bytes, {
    noun: 'hour',
    most: mostRows,
    needs: [['campaign', 'campaign_id'], ['weekday'], ['hour'], ['multiplier']],
    hint: 'A file of schedules has campaign or campaign_id, weekday (1 is Monday), hour (0 to 23) and multiplier (0 is off).',
  });
  const campaigns = await scheduledCampaigns(db(), accountId);
  const low = (text: string) => text.trim().toLowerCase();
  const byExt = new Map(campaigns.flatMap((one) => (one.extId === null ? [] : [[one.extId, one] as const])));
  const byName = new Map(campaigns.map((one) => [low(one.name), one]));
  const [mark = '.'] = decimalMarks(told.map(({ record }) => (record.multiplier ?? '').replace('%', '')));
  const found: ReadSchedules = { schedules: [], problems: [] };
  const made = new Map<ScheduledCampaign, { schedule: Schedule; lines: Map<number, number> }>();
  for (const { record, line } of told) {
    const wrong = (column: Column, message: string) => found.problems.push({ row: line, column, message });
    const campaign =
      (record.campaign_id && byExt.get(record.campaign_id)) || byName.get(low(record.campaign ?? ''));
    const weekday = weekdayFrom(record.weekday);
    const hour = wholeFrom(record.hour, 0, hoursOfDay - 1);
    const percent = (record.multiplier ?? '').includes('%');
    const number = readNumber((record.multiplier ?? '').replace('%', '').trim(), mark);
    const multiplier = number === null ? null : percent ? number / 100 : number;
    if (!campaign) {
      wrong(
        'campaign',
        `No campaign “${record.campaign ?? record.campaign_id ?? ''}” runs or is paused here.`,
      );
      continue;
    }
    if ((record.ad_group ?? '').trim() !== '') {
      wrong('ad_group', 'The marketplace knows schedules of campaigns, not of ad groups: leave it empty.');
      continue;
    }
    if (weekday === null) {
      wrong('weekday', `“${record.weekday ?? ''}” is no weekday: 1 is Monday, 7 is Sunday.`);
      continue;
    }
    if (hour === null) {
      wrong('hour', `“${record.hour ?? ''}” is no hour: 0 to 23.`);
      continue;
    }
    if (multiplier === null || multiplier < 0 || multiplier > mostMultiplier) {
      wrong(
        'multiplier',
        `“${record.multiplier ?? ''}” is no multiplier: 0 (off) to ${mostMultiplier}, 1 leaves the bid as it is.`,
      );
      continue;
    }
    const own = made.get(campaign) ?? {
      schedule: [...(readSchedule(campaign.schedule ?? '') ?? flat())],
      lines: new Map<number, number>(),
    };
    const at = hourOfWeek(weekday, hour);
    const first = own.lines.get(at);
    if (first !== undefined) {
      wrong('hour', `${weekdayNames[weekday]!} ${hour} of ${campaign.name} stands in line ${first} already.`);
      continue;
    }
    own.lines.set(at, line);
    own.schedule[at] = Math.round(multiplier * 100);
    made.set(campaign, own);
  }
  for (const [{ id, name, schedule: live }, { schedule }] of made) {
    const [from, to] = [writeSchedule(readSchedule(live ?? '') ?? flat()), writeSchedule(schedule)];
    if (from !== to) found.schedules.push({ campaignId: id, name, from, schedule: to });
  }
  return found;
}
