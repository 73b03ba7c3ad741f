import { clamp } from '../metrics/clamp.ts';
import { daysBetween, type Day } from '../metrics/days.ts';
import type { MoveOutcome } from '../effect/types.ts';
import type { Micros } from '../metrics/money.ts';
import type { TimeFactor } from './beliefs.ts';
import { outcomeOf, type HourGround } from './outcome.ts';
import {
  daysOfWeek,
  hourOfWeek,
  hoursOfDay,
  meanSchedule,
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

export interface ScheduleProposal extends MoveOutcome {
  stage: 'weekdays' | 'hours';
  /** As it is written. */
  schedule: string;
  /** Parts that are told apart from the mean, and what the others have, per cent. */
  parts: PartChange[];
  usual: number;
  /** Factor on the campaign's bids that goes with it: M / M'; 1 where they stay. */
  beta: number;
  /** Its budget runs dry: higher bids would only empty it sooner, so that they are not raised. */
  isDry: boolean;
  held: HourGuard[];
}

/** A time is told apart from the mean when it sells more, or less, with 90 %: seven are looked at. */
const toldApart = 1.2816;
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

/** A schedule with parts at what they sell beside the rest, which stays. Null where nothing moves. */
function moved(
  stage: ScheduleProposal['stage'],
  { clicks, factors, earns, theta }: HourGround,
  live: Schedule,
  guards: HourGuards,
):
  | (Omit<ScheduleProposal, keyof MoveOutcome | 'schedule' | 'beta' | 'isDry'> & { schedule: Schedule })
  | null {
  const parts = stage === 'weekdays' ? weekdayParts(factors) : hourParts(factors);
  const weightOf = ({ places }: Part) => places.reduce((sum, at) => sum + clicks[at]!, 0);
  const percentOf = (part: Part) =>
    meanSchedule(
      part.places.map((at) => live[at]!),
      part.places.map((at) => clicks[at]!),
    ) * 100;
  const running = parts.filter(({ places }) => places.some((at) => live[at]! > 0));
  const told = running.filter(isTold);
  if (told.length === 0) return null;
  // What is not told apart is the measure; where all is, the whole.
  const rest = told.length < running.length ? running.filter((part) => !told.includes(part)) : running;
  const weight = rest.reduce((sum, part) => sum + weightOf(part), 0);
  if (weight <= 0) return null;
  const overRest = (of: (part: Part) => number) =>
    rest.reduce((sum, part) => sum + weightOf(part) * of(part), 0) / weight;
  const [usual, sells] = [overRest(percentOf), overRest(({ factor }) => factor)];
  const losesAlways = ({ factor, spread }: Part): boolean =>
    theta * earns * factor * Math.exp(beyondDoubt * spread) < guards.minimumBid;
  const held = new Set<HourGuard>();
  const schedule = [...live];
  const changes = told.map((part): PartChange => {
    const from = percentOf(part);
    const exact = (usual * part.factor) / sells;
    const isFar = Math.abs(exact - from) >= leastMove;
    const wanted = losesAlways(part) ? 0 : isFar ? Math.max(scheduleStep, toTen(exact)) : Math.round(from);
    const to =
      wanted === Math.round(from) ? wanted : toTen(clamp(wanted, from - guards.step, from + guards.step));
    if (to !== wanted) held.add('largest step');
    if (to !== Math.round(from))
      for (const at of part.places)
        if (live[at] !== 0)
          schedule[at] = to === 0 ? 0 : Math.max(scheduleStep, toTen((live[at]! * to) / from));
    const { name, factor, spread } = part;
    return { name, factor, spread, from: Math.round(from), to, wanted };
  });
  if (schedule.every((percent, at) => percent === live[at])) return null;
  return { stage, schedule, parts: changes, usual: Math.round(usual), held: [...held] };
}

/** Bids that would move by less than this share stay. */
const leastBeta = 0.03;

/**
 * What a campaign's schedule should be: times that are told apart from the mean (90 %) at what they sell beside the others,
 * in steps of 10 %, and all bids times beta = M / M', so that what is bid on the mean stays and goes where it sells; not up
 * where the budget runs dry (docs/lab/hours.md). Weekdays
 * first; blocks of hours once weekdays stand, where nobody has set hours by hand. Off only where even the least bid loses
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
  const ratio = meanSchedule(live, ground.clicks) / meanSchedule(found.schedule, ground.clicks);
  const isHeldDown = ground.isDry && ratio > 1;
  const beta = isHeldDown || Math.abs(ratio - 1) < leastBeta ? 1 : ratio;
  const isCooling = changedOn !== null && daysBetween(changedOn, today) < guards.cooldownDays;
  return {
    ...found,
    schedule: writeSchedule(found.schedule),
    held: [...found.held, ...(isCooling ? (['cooldown'] as const) : [])],
    beta,
    isDry: ground.isDry,
    ...outcomeOf(ground, live, found.schedule, beta),
  };
}
