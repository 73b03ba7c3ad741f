import { clamp } from '../metrics/clamp.ts';
import { daysBetween, type Day } from '../metrics/days.ts';
import type { Micros } from '../metrics/money.ts';
import type { TimeFactor } from './beliefs.ts';
import { outcomeOf, type HourGround, type ScheduleOutcome } from './outcome.ts';
import {
  daysOfWeek,
  hourOfWeek,
  hoursOfDay,
  ofWeekday,
  scheduleStep,
  weekdayNames,
  writeSchedule,
  type Schedule,
} from '../account/schedule.ts';

/** A schedule for a campaign: weekdays first, then blocks of hours (domain, section 10). */

export interface HourGuards {
  /** Whole weeks without which nothing is proposed. */
  leastWeeks: number;
  /** Clicks of them without which nothing is proposed. */
  leastClicks: number;
  /** Largest change of a multiplier at a time, in points. */
  step: number;
  /** Days after a change of the schedule: the same weekdays are compared before it is changed again. */
  cooldownDays: number;
  /** The marketplace's least bid, micros. */
  minimumBid: Micros;
}

export const hourGuards: Omit<HourGuards, 'minimumBid'> = {
  leastWeeks: 4,
  leastClicks: 100,
  step: 50,
  cooldownDays: 28,
};

export type HourGuard = 'largest step' | 'cooldown';

/** Days or hours in a row that get one multiplier. */
export interface PartChange extends TimeFactor {
  /** "Sunday", "0 to 7". */
  name: string;
  /** Per cent, on the mean before; `wanted`: before steps. */
  from: number;
  to: number;
  wanted: number;
}

export interface ScheduleProposal extends ScheduleOutcome {
  stage: 'weekdays' | 'hours';
  /** As it is written. */
  schedule: string;
  /** Parts that are told apart from the mean, and what the others get so that the mean stays. */
  parts: PartChange[];
  rest: number;
  held: HourGuard[];
}

/** A time is told apart from the mean when it sells more, or less, with 80 %. */
const toldApart = 0.8416;
/** Hours are one block until they differ by so many standard deviations: 23 borders are looked at. */
const blockBorder = 2;
/** A schedule moves where one of its times should stand so many points elsewhere. */
const leastMove = 7.5;
/** "Beyond doubt": 97.5 %. */
const beyondDoubt = 1.96;

export const isTold = ({ factor, spread }: TimeFactor): boolean =>
  Math.abs(Math.log(factor)) > toldApart * spread;

interface Part extends TimeFactor {
  name: string;
  /** Hours of the week. */
  places: number[];
}

const weekdayParts = ({ weekdays }: HourGround['factors']): Part[] =>
  weekdays.map((one, weekday) => ({
    ...one,
    name: weekdayNames[weekday]!,
    places: Array.from({ length: hoursOfDay }, (_, hour) => hourOfWeek(weekday, hour)),
  }));

/** Hours in a row that do not differ for sure, as one: neighbours that differ least first. */
export function hourBlocks(
  hours: readonly TimeFactor[],
): { first: number; last: number; factor: number; spread: number }[] {
  const blocks = hours.map(({ factor, spread }, hour) => ({ first: hour, last: hour, factor, spread }));
  const apart = (at: number): number => {
    const [a, b] = [blocks[at]!, blocks[at + 1]!];
    return Math.abs(Math.log(a.factor / b.factor)) / Math.hypot(a.spread, b.spread);
  };
  for (;;) {
    let [least, border] = [-1, blockBorder];
    for (let at = 0; at < blocks.length - 1; at++) if (apart(at) < border) [least, border] = [at, apart(at)];
    if (least < 0) return blocks;
    const [a, b] = [blocks[least]!, blocks[least + 1]!];
    const [x, y] = [1 / a.spread ** 2, 1 / b.spread ** 2];
    blocks.splice(least, 2, {
      first: a.first,
      last: b.last,
      factor: Math.exp((x * Math.log(a.factor) + y * Math.log(b.factor)) / (x + y)),
      spread: 1 / Math.sqrt(x + y),
    });
  }
}

const hourParts = ({ hours }: HourGround['factors']): Part[] =>
  hourBlocks(hours).map(({ first, last, ...one }) => ({
    ...one,
    name: `${first} to ${last + 1}`,
    places: Array.from({ length: daysOfWeek }, (_, weekday) =>
      Array.from({ length: last - first + 1 }, (_unused, at) => hourOfWeek(weekday, first + at)),
    ).flat(),
  }));

const toTen = (percent: number): number => Math.round(percent / scheduleStep) * scheduleStep;

/** Hours of one weekday stand alike: nobody has set hours yet. */
const areHoursFlat = (schedule: Schedule): boolean =>
  Array.from({ length: daysOfWeek }, (_, weekday) => ofWeekday(schedule, weekday)).every((hours) =>
    hours.every((percent) => percent === hours[0]),
  );

/** A schedule with parts at what they sell, all others moved so that the mean by clicks stays. Null where nothing moves. */
function moved(
  stage: ScheduleProposal['stage'],
  ground: HourGround,
  live: Schedule,
  guards: HourGuards,
): (Omit<ScheduleProposal, keyof ScheduleOutcome | 'schedule'> & { schedule: Schedule }) | null {
  const { clicks, factors, earns, theta } = ground;
  const parts = stage === 'weekdays' ? weekdayParts(factors) : hourParts(factors);
  const told = parts.filter(isTold);
  if (told.length === 0) return null;
  const weightOf = ({ places }: Part) => places.reduce((sum, at) => sum + clicks[at]!, 0);
  const meanOf = (schedule: Schedule, { places }: Part) => {
    const weight = places.reduce((sum, at) => sum + clicks[at]!, 0);
    return weight > 0
      ? places.reduce((sum, at) => sum + clicks[at]! * schedule[at]!, 0) / weight
      : places.reduce((sum, at) => sum + schedule[at]!, 0) / places.length;
  };
  const running = parts.filter((part) => meanOf(live, part) > 0);
  const all = running.reduce((sum, part) => sum + weightOf(part), 0);
  if (all <= 0) return null;
  const mean = running.reduce((sum, part) => sum + weightOf(part) * meanOf(live, part), 0) / all;
  const shape = (part: Part): number => (told.includes(part) ? part.factor : 1);
  const whole = running.reduce((sum, part) => sum + weightOf(part) * shape(part), 0) / all;
  const losesAlways = ({ factor, spread }: Part): boolean =>
    theta * earns * factor * Math.exp(beyondDoubt * spread) < guards.minimumBid;
  const isOff = told.some((part) => running.includes(part) && losesAlways(part));
  const isFar = told.some(
    (part) =>
      running.includes(part) && Math.abs((mean * shape(part)) / whole - meanOf(live, part)) >= leastMove,
  );
  // What rounding left is no reason to move again.
  if (!isOff && !isFar) return null;
  const held = new Set<HourGuard>();
  const schedule = [...live];
  const changes = parts.map((part): PartChange => {
    const from = meanOf(live, part);
    const wanted = losesAlways(part) ? 0 : Math.max(scheduleStep, toTen((mean * shape(part)) / whole));
    const stepped = toTen(clamp(wanted, from - guards.step, from + guards.step));
    const to = from === 0 ? 0 : stepped;
    if (from !== 0 && to !== wanted) held.add('largest step');
    const { name, factor, spread } = part;
    if (Math.abs(to - from) >= scheduleStep / 2)
      for (const at of part.places)
        if (live[at] !== 0)
          schedule[at] = to === 0 ? 0 : Math.max(scheduleStep, toTen((live[at]! * to) / from));
    return { name, factor, spread, from: Math.round(from), to, wanted };
  });
  if (schedule.every((percent, at) => percent === live[at])) return null;
  const isToldPart = parts.map((part) => told.includes(part));
  const others = changes.filter((_, at) => !isToldPart[at]);
  return {
    stage,
    schedule,
    parts: changes.filter((_, at) => isToldPart[at]),
    rest: others[0]?.to ?? 100,
    held: [...held],
  };
}

/**
 * What a campaign's schedule should be: each time at what it sells beside the mean, in steps of 10 %, so that what is bid on
 * the mean stays and goes where it sells. Weekdays first; blocks of hours once weekdays stand, where nobody has set hours by
 * hand. Times that are not told apart from the mean (80 %) move along with the rest. Off only where even the least bid loses
 * beyond doubt; what is off stays off. Null where weeks or clicks are too few, or nothing would move.
 */
export function proposeSchedule(
  ground: HourGround,
  live: Schedule,
  evidence: { weeks: number; clicks: number },
  guards: HourGuards,
  changedOn: Day | null,
  today: Day,
): ScheduleProposal | null {
  if (evidence.weeks < guards.leastWeeks || evidence.clicks < guards.leastClicks) return null;
  if (ground.bid <= 0 || ground.earns <= 0) return null;
  const found =
    moved('weekdays', ground, live, guards) ??
    (areHoursFlat(live) ? moved('hours', ground, live, guards) : null);
  if (!found) return null;
  const isCooling = changedOn !== null && daysBetween(changedOn, today) < guards.cooldownDays;
  return {
    ...found,
    schedule: writeSchedule(found.schedule),
    held: [...found.held, ...(isCooling ? (['cooldown'] as const) : [])],
    ...outcomeOf(ground, live, found.schedule),
  };
}
