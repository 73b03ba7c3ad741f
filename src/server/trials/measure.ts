import type { TrialRow } from '../../answers/trials.ts';
import { daysOfWeek, readSchedule, type Schedule } from '../../core/account/schedule.ts';
import { maturity } from '../../core/metrics/maturity.ts';
import { addDays, daysBetween, type Day } from '../../core/metrics/days.ts';
import { rankShift, weekdayOf, weeksAround } from '../../core/hours/after.ts';
import { compare, type DayFigures, type Deciding } from '../../core/trials/compare.ts';
import { lookForHarm } from '../../core/trials/harm.ts';
import { shapeOf, timesOf } from '../../core/trials/weekdays.ts';
import { resultSaid, touchOf, verdictOf, type DecidingFigure } from '../../core/trials/trials.ts';
import { db } from '../db/connection.ts';
import {
  campaignDaysOf,
  rankDays,
  timesBetween,
  touchedDays,
  untouchedCampaigns,
  type KeptTrial,
  type TrialLine,
} from './queries.ts';

/** What came of a trial so far: what it touched beside what nobody touched, before and after. */

type Measured = Pick<TrialRow, 'controls' | 'compared' | 'harm' | 'rank' | 'verdict' | 'said'>;

export interface MeasureAbout {
  today: Day;
  settledTo: Day;
  curve: readonly number[];
  /** A campaign's goal, and its product's margin where that is known; null for one that does not run. */
  moneyOf: (campaignId: string) => { targetAcos: number; margin: number | null; spend: number } | null;
}

/** Chance from a seed: the same answer for the same days. */
function seeded(seed: number): () => number {
  let state = (seed * 48_271 + 11) % 2_147_483_647 || 1;
  return () => (state = (state * 48_271) % 2_147_483_647) / 2_147_483_647;
}

const none = (day: Day): DayFigures => ({ day, clicks: 0, spend: 0, orders: 0, sales: 0 });
const sum = (list: readonly DayFigures[], of: (day: DayFigures) => number): number =>
  list.reduce((all, day) => all + of(day), 0);

/** What a unit of each figure counts: over touched campaigns by what they spend. */
function decidingOf(
  deciding: DecidingFigure,
  campaigns: readonly string[],
  moneyOf: MeasureAbout['moneyOf'],
): Deciding {
  if (deciding === 'sales') return { sales: 1 };
  const known = campaigns.flatMap((id) => moneyOf(id) ?? []);
  const weight = known.reduce((all, { spend }) => all + spend + 1, 0);
  const mean = (of: (one: (typeof known)[number]) => number) =>
    weight > 0 ? known.reduce((all, one) => all + (one.spend + 1) * of(one), 0) / weight : 0;
  return {
    sales: mean(({ targetAcos, margin }) => (deciding === 'profit' ? (margin ?? targetAcos) : targetAcos)),
    spend: -1,
  };
}

/** What a line makes of a schedule; null for one that is no schedule's. */
export function schedulesOf(line: {
  entity: string;
  field: string;
  oldValue: string | null;
  newValue: string | null;
}): { from: Schedule; to: Schedule } | null {
  if (line.entity !== 'campaign' || line.field !== 'schedule') return null;
  const [from, to] = [readSchedule(line.oldValue ?? ''), readSchedule(line.newValue ?? '')];
  return from && to && { from, to };
}

/** The hours of the week that a line moved, and those beside them. */
function timesOfLine(line: TrialLine): { campaignId: string; at: number; isTouched: boolean }[] {
  const schedules = schedulesOf(line);
  if (!schedules) return [];
  const { touched, control } = timesOf(schedules.from, schedules.to);
  return touched.flatMap((isTouched, at) =>
    isTouched || control[at] ? [{ campaignId: line.campaignId, at, isTouched }] : [],
  );
}

const apartOf = (rows: readonly (DayFigures & { isTouched: boolean })[]) => ({
  touched: rows.filter(({ isTouched }) => isTouched),
  control: rows.filter(({ isTouched }) => !isTouched),
});

const weekdayShape = (days: readonly DayFigures[]): number[] => {
  const clicks = Array<number>(daysOfWeek).fill(0);
  for (const day of days) clicks[weekdayOf(day.day)]! += day.clicks;
  return shapeOf(clicks);
};

export async function measured(
  accountId: number,
  trial: KeptTrial,
  lines: readonly TrialLine[],
  sentOn: Day,
  { today, settledTo, curve, moneyOf }: MeasureAbout,
): Promise<Measured> {
  const sql = db();
  const touches = lines.map(touchOf);
  const whole = [
    ...new Set(touches.flatMap(({ campaignId, object }) => (object === null ? [campaignId] : []))),
  ];
  const objects = (kind: string) =>
    touches.flatMap(({ object }) => (object?.startsWith(`${kind}:`) ? [object.slice(kind.length + 1)] : []));
  const campaigns = [...new Set(touches.map(({ campaignId }) => campaignId))];
  const end = addDays(sentOn, trial.days);
  const lastSettled = settledTo < end ? settledTo : end;
  const lastTold = addDays(today, -1) < end ? addDays(today, -1) : end;
  const first = addDays(sentOn, -56);
  const span = { from: first, to: lastTold < sentOn ? sentOn : lastTold };
  const isApart = trial.control === 'weekdays';
  const untouched = isApart ? [] : await untouchedCampaigns(sql, accountId, span, campaigns);
  const { touched, control } = isApart
    ? apartOf(await timesBetween(sql, accountId, span, lines.flatMap(timesOfLine)))
    : {
        touched: await touchedDays(sql, accountId, span, whole, objects('target'), objects('ad_group')),
        control: await campaignDaysOf(sql, accountId, span, untouched),
      };
  const known = [touched[0]?.day, isApart ? control[0]?.day : undefined].reduce<Day>(
    (first, day) => (day !== undefined && day < first ? day : first),
    sentOn,
  );
  const weeks = weeksAround(sentOn, known, lastSettled);
  const sides = (rows: readonly DayFigures[]) => {
    const byDay = new Map(rows.map((row) => [row.day, row]));
    const figures = (list: Day[][]) => list.map((days) => days.map((day) => byDay.get(day) ?? none(day)));
    return { before: figures(weeks.before), after: figures(weeks.after) };
  };
  const compared =
    weeks.before.length > 0
      ? compare(
          sides(touched),
          control.length > 0 ? sides(control) : null,
          decidingOf(trial.deciding, campaigns, moneyOf),
          seeded(trial.trialId),
        )
      : null;
  const days = {
    touched: new Map(touched.map((row) => [row.day, row])),
    control: new Map(control.map((row) => [row.day, row])),
  };
  const harm = trial.harmOrders === null || weeks.before.length === 0 ? null : harmOf();
  const rank = trial.harmRank === null ? null : await rankOf(trial.harmRank);
  const verdict = verdictOf(compared, harm, rank?.fell ?? false);
  return {
    controls: untouched.length,
    compared,
    harm,
    rank,
    verdict,
    said: resultSaid(trial.deciding, compared, harm, trial.harmOrders),
  };

  /** Each day of the trial beside what weeks before let expect of it, as far as its orders are known by now. */
  function harmOf() {
    const before = weeks.before.flat();
    const had = before.map((day) => days.touched.get(day) ?? none(day));
    const controlHad = before.map((day) => days.control.get(day) ?? none(day));
    // Hours of one weekday are nothing on the others: what a day lets expect is its weekday's.
    const [shape, othersShape] = isApart ? [had, controlHad].map(weekdayShape) : [];
    const ofDay = (own: readonly number[] | undefined, day: Day): number => own?.[weekdayOf(day)] ?? 1;
    const [orders, others] = [sum(had, (day) => day.orders), sum(controlHad, (day) => day.orders)];
    const perDay = orders / before.length;
    const othersPerDay = others / before.length;
    const list = Array.from({ length: Math.max(0, daysBetween(sentOn, lastTold)) }, (_, at) => {
      const day = addDays(sentOn, at + 1);
      const share = maturity(curve, daysBetween(day, today));
      return { day, share, orders: (days.touched.get(day) ?? none(day)).orders };
    });
    const shares = list.reduce((all, { day, share }) => all + share * ofDay(othersShape, day), 0);
    const since = list.reduce((all, { day }) => all + (days.control.get(day) ?? none(day)).orders, 0);
    // A control of few orders tells little of the trend: it is drawn to "as before".
    const steady = 30;
    const trend = othersPerDay > 0 ? (since + steady) / (othersPerDay * shares + steady) : 1;
    return lookForHarm(
      list.map(({ day, orders: real, share }) => ({
        orders: real,
        expected: perDay * ofDay(shape, day) * trend * share,
      })),
      trial.days,
      trial.harmOrders!,
      Math.sqrt(1 / Math.max(1, orders) + 1 / Math.max(1, others) + 1 / Math.max(1, since)),
    );
  }

  async function rankOf(harmRank: number): Promise<TrialRow['rank']> {
    const before = new Set(weeks.before.flat());
    const rows = await rankDays(sql, accountId, span, campaigns);
    const shift = rankShift(
      rows.flatMap(({ day, ...one }) =>
        before.has(day) || day > sentOn ? [{ ...one, isAfter: day > sentOn }] : [],
      ),
    );
    return (
      shift && {
        before: shift.before,
        after: shift.after,
        fell: shift.fell && shift.after - shift.before >= harmRank,
      }
    );
  }
}
