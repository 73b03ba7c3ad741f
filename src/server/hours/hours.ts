import { LRUCache } from 'lru-cache';
import type { AfterAnswer, HoursAnswer, ScopeAnswer, TotalWeekday } from '../../answers/hours.ts';
import { daysOfWeek, flat, readSchedule, writeSchedule } from '../../core/account/schedule.ts';
import type { LineDraft } from '../../core/changes/lines.ts';
import { afterSchedule, rankShift, weeksAround } from '../../core/hours/after.ts';
import { scheduleLine } from '../../core/hours/lines.ts';
import type { HoursRow } from '../../core/hours/rows.ts';
import { addDays, type Window } from '../../core/metrics/days.ts';
import { getAccount, marginOf, settling } from '../account/account.ts';
import { limitsOf } from '../account/limits.ts';
import { productsOf } from '../account/queries.ts';
import { addDrafts, type Accepted } from '../changes/open.ts';
import { db } from '../db/connection.ts';
import { editionOf, noFigures } from '../engine/edition.ts';
import type { HoursAbout, HoursFound, HoursScope, ScheduleOrder } from '../engine/hours.ts';
import { hoursOf } from '../engine/link.ts';
import { notFound, ServiceError } from '../errors.ts';
import { productWeekdays } from '../facts/hours.queries.ts';
import type { ScheduleOrders } from './door.ts';
import {
  firstHourDay,
  hoursBetween,
  openSchedules,
  organicDays,
  positionsOf,
  scheduledCampaigns,
  scheduleEvents,
} from './queries.ts';

/** Campaigns by the time of the week as JSON, from memory when nothing changed. */
const kept = new LRUCache<string, Promise<string | null>>({ max: 24 });

/** Weeks that findings rest on, unless others are asked for. */
export const usualWeeks = 12;

async function aboutOf(accountId: number, weeks: number): Promise<HoursAbout> {
  const account = await getAccount(db(), accountId);
  const { curve } = await settling(db(), account);
  return { curve, weeks, minimumBid: limitsOf(account).guards.minimumBid };
}

/** Evidence ends with the last settled day of the window. */
async function settledWindow(accountId: number, window: Window): Promise<Window> {
  const { settledTo } = await settling(db(), await getAccount(db(), accountId));
  return settledTo !== null && settledTo < window.to && settledTo >= window.from
    ? { from: window.from, to: settledTo }
    : window;
}

export async function hoursFound(accountId: number, asked: Window, weeks = usualWeeks): Promise<HoursFound> {
  const window = await settledWindow(accountId, asked);
  const edition = await editionOf(accountId);
  const key = [accountId, edition.version, window.from, window.to, weeks].join('|');
  let pending = kept.get(key);
  if (!pending) {
    pending = aboutOf(accountId, weeks).then((about) => hoursOf().rows(edition, window, about));
    kept.set(key, pending);
    pending.catch(() => kept.delete(key));
  }
  const found = await pending;
  if (found === null) throw noFigures();
  return JSON.parse(found) as HoursFound;
}

/** Every campaign that runs, by the time of the week. */
export async function hoursAnswer(accountId: number, window: Window, weeks: number): Promise<HoursAnswer> {
  const { rows: campaigns, span, ...found } = await hoursFound(accountId, window, weeks);
  const onSheet = Object.fromEntries(await openSchedules(db(), accountId));
  return { weeks: found.weeks, span, campaigns, onSheet };
}

/** One scope at every time of the week, with what its weekdays bring in all. */
export async function scopeAnswer(
  accountId: number,
  asked: Window,
  weeks: number,
  scope: HoursScope,
): Promise<ScopeAnswer> {
  const window = await settledWindow(accountId, asked);
  const found = await hoursFound(accountId, asked, weeks);
  const about = await aboutOf(accountId, weeks);
  const own = await hoursOf().scope(await editionOf(accountId), window, about, scope);
  if (own === null) throw noFigures();
  if (own === undefined) throw notFound('scope with campaigns that run');
  const { span } = found;
  return {
    ...own,
    weeks: found.weeks,
    span,
    totals: span ? await totalsOf(accountId, own.sku, span) : [],
  };
}

async function totalsOf(accountId: number, sku: string | null, span: Window): Promise<TotalWeekday[]> {
  const margins = new Map((await productsOf(db(), accountId)).map((row) => [row.sku, marginOf(row)]));
  const rows = await productWeekdays(db(), accountId, sku, span);
  return Array.from({ length: daysOfWeek }, (_, weekday): TotalWeekday => {
    const own = rows.filter((row) => row.weekday === weekday);
    const days = Math.max(0, ...own.map((row) => row.days));
    const sum = (of: (row: (typeof own)[number]) => number) =>
      days > 0 ? own.reduce((all, row) => all + of(row), 0) / days : 0;
    const isKnown = own.every((row) => margins.get(row.sku) != null);
    return {
      days,
      orders: sum(({ orders }) => orders),
      sales: sum(({ sales }) => sales),
      profit: isKnown && own.length > 0 ? sum((row) => row.sales * margins.get(row.sku)!) : null,
    };
  });
}

/** The lines of findings by their campaigns; one that has none any more is told. */
export async function scheduleDraftsOf(
  accountId: number,
  asked: Window,
  orders: readonly ScheduleOrder[],
): Promise<Map<string, LineDraft[]>> {
  if (orders.length === 0) return new Map();
  const window = await settledWindow(accountId, asked);
  const drafts = new Map(
    await hoursOf().drafts(await editionOf(accountId), window, await aboutOf(accountId, usualWeeks), [
      ...orders,
    ]),
  );
  const gone = orders.find(({ campaignId }) => !drafts.has(campaignId));
  if (gone) {
    const message = 'A finding is not there any more: the account has changed. Load the page again.';
    throw new ServiceError(409, 'finding_gone', message, { field: gone.campaignId });
  }
  return drafts;
}

const reasons: Record<ScheduleOrders['source'], string> = {
  hand: 'Schedule drawn by hand.',
  file: 'Schedule out of a file.',
};

/** Puts schedules onto the open sheet, all or none. Those that stand so already are left out. */
export async function setSchedules(
  accountId: number,
  window: Window,
  { schedules, source }: ScheduleOrders,
): Promise<Accepted> {
  const known = new Map((await scheduledCampaigns(db(), accountId)).map((one) => [one.id, one]));
  const gone = schedules.find(({ campaignId }) => !known.has(campaignId));
  if (gone) {
    const message =
      'A campaign is not there any more: it was archived, or is gone at the marketplace. Load the page again.';
    throw new ServiceError(409, 'campaign_gone', message, { field: gone.campaignId });
  }
  const written = (text: string | null) => writeSchedule(readSchedule(text ?? '') ?? flat());
  const changed = schedules.filter(
    ({ campaignId, schedule }) => written(schedule) !== written(known.get(campaignId)!.schedule),
  );
  if (changed.length === 0)
    throw new ServiceError(422, 'nothing_to_change', 'These schedules stand like that already.');
  const judged = new Set((await hoursFound(accountId, window)).rows.map((row: HoursRow) => row.campaignId));
  const drafts = await scheduleDraftsOf(
    accountId,
    window,
    changed
      .filter(({ campaignId }) => judged.has(campaignId))
      .map((one) => ({ ...one, reason: reasons[source] })),
  );
  // What does not run has no figures to say an effect by.
  const lines = changed.flatMap(
    ({ campaignId, schedule }) =>
      drafts.get(campaignId) ?? [
        scheduleLine(campaignId, known.get(campaignId)!.schedule, readSchedule(schedule) ?? flat(), {
          reason: reasons[source],
        }),
      ],
  );
  return addDrafts(accountId, lines, 'by hand');
}

/** Chance from a seed: the same answer for the same days. */
function seeded(text: string): () => number {
  let state = [...text].reduce((sum, letter) => (sum * 31 + letter.charCodeAt(0)) % 2_147_483_647, 7) || 1;
  return () => (state = (state * 48_271) % 2_147_483_647) / 2_147_483_647;
}

/** What the last change of a campaign's schedule did, beside campaigns whose schedules stood still, rank and organic orders. */
export async function afterAnswer(
  accountId: number,
  asked: Window,
  campaignId: string,
): Promise<AfterAnswer> {
  const sql = db();
  const { settledTo } = await settling(sql, await getAccount(sql, accountId));
  const events = await scheduleEvents(sql, accountId);
  const own = events.filter((event) => event.campaignId === campaignId);
  const change = own.at(-1);
  const row = (await hoursFound(accountId, asked)).rows.find((one) => one.campaignId === campaignId);
  const none: AfterAnswer = { change: null, after: null, controls: 0, rank: null, organic: null };
  if (!row) throw notFound('campaign of this id that runs');
  if (!change || settledTo === null) return none;
  const first = await firstHourDay(sql, accountId, campaignId);
  const before = own.at(-2);
  // Days before an earlier change were lived under another schedule.
  const begins = [first ?? change.day, ...(before ? [addDays(before.day, 1)] : [])].sort().at(-1)!;
  const weeks = weeksAround(change.day, begins, settledTo);
  const span = {
    from: weeks.before[0]?.[0] ?? change.day,
    to: weeks.after.at(-1)?.at(-1) ?? change.day,
  };
  const touched = events
    .filter(({ day }) => day >= span.from && day <= span.to)
    .map((event) => event.campaignId);
  const but = [...new Set([campaignId, ...touched])];
  const control = await hoursBetween(sql, accountId, span, { but });
  const running = (await scheduledCampaigns(sql, accountId)).filter(({ status }) => status === 'enabled');
  const told = { from: change.from ?? '', to: change.to ?? '', day: change.day };
  return {
    change: told,
    after: afterSchedule(
      {
        from: readSchedule(told.from) ?? flat(),
        to: readSchedule(told.to) ?? flat(),
        day: change.day,
      },
      await hoursBetween(sql, accountId, span, { only: campaignId }),
      control,
      { first: begins, settledTo },
      { sales: row.targetAcos, spend: -1 },
      seeded(`${campaignId} ${change.day}`),
    ),
    controls: running.filter(({ id }) => !but.includes(id)).length,
    ...(row.sku === null ? { rank: null, organic: null } : await besideOf(accountId, row.sku, weeks)),
  };
}

/** How ranks and organic orders of a product moved over the same weeks. */
async function besideOf(
  accountId: number,
  sku: string,
  { before, after }: ReturnType<typeof weeksAround>,
): Promise<Pick<AfterAnswer, 'rank' | 'organic'>> {
  if (before.length === 0 || after.length === 0) return { rank: null, organic: null };
  const span = { from: before[0]![0]!, to: after.at(-1)!.at(-1)! };
  const sides = new Map([
    ...before.flat().map((day) => [day, false] as const),
    ...after.flat().map((day) => [day, true] as const),
  ]);
  const positions = await positionsOf(db(), accountId, sku, span);
  const days = await organicDays(db(), accountId, sku, span);
  const weekly = (isAfter: boolean, weeks: number) =>
    days.reduce((sum, { day, orders }) => sum + (sides.get(day) === isAfter ? orders : 0), 0) / weeks;
  return {
    rank: rankShift(
      positions.flatMap(({ day, ...one }) => (sides.has(day) ? [{ ...one, isAfter: sides.get(day)! }] : [])),
    ),
    organic:
      days.length === 0 ? null : { before: weekly(false, before.length), after: weekly(true, after.length) },
  };
}
