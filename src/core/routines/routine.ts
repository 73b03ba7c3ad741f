import { methods, type Method } from '../bids/methods.ts';
import type { Micros } from '../metrics/money.ts';
import { stagesProblem, type StageSettings } from './stages.ts';
import { thresholdProblem, type Threshold } from './thresholds.ts';

/**
 * A routine is a round that runs by itself (domain, section 16): which findings it may act on, when, and how far. What a
 * finding is and proposes is the round's; a routine only leaves out.
 */

/** Kinds of findings that a routine may act on, and what they are called. */
export const routineKinds = {
  harvest: 'Harvest terms that sell',
  negate: 'Negatives',
  bids: 'Bids',
  words: 'Words that spoil terms',
  conflicts: 'Conflicts',
  placements: 'Placements',
  budgets: 'Budgets',
  hours: 'Days and hours',
  collections: 'Collections',
  structure: 'How campaigns are built',
  stages: 'Stages of a budget',
} as const;
export type RoutineKind = keyof typeof routineKinds;
export const isRoutineKind = (text: string): text is RoutineKind => text in routineKinds;

/** Where it may act. Of a saved slice, what it meant when it was chosen goes with it. */
export type RoutineScope =
  | { of: 'account' }
  | { of: 'products' | 'campaigns' | 'budget_groups'; keys: string[] }
  | { of: 'slice'; id: string; meaning: string };

/** When it runs: after figures came in, or on some days of the week (Monday 0) at a time of the account's zone. */
export type RoutineTime = { on: 'figures' } | { on: 'time'; weekdays: number[]; at: string };

/** How far it goes: it only proposes, holds a sheet of its own for some hours, or sends at once. */
export type RoutineReach = { how: 'propose' | 'send' } | { how: 'hold'; hours: number };

/** What it may do at most; beyond it a person decides. Money is spend moved a week, up or down, in micros. */
export interface RoutineLimits {
  lines: number;
  weekLines: number;
  spend: Micros;
  weekSpend: Micros;
  /** Part of the account's spend that may be moved in a run, 0 to 1. */
  share: number;
}

export interface Routine {
  name: string;
  scope: RoutineScope;
  kinds: RoutineKind[];
  /** Which way it may move bids and budgets. */
  moves: 'both' | 'raises' | 'cuts';
  /** How bids are found; null: as goals say. */
  method: Method | null;
  thresholds: Threshold[];
  /** Days looked at, and how many of the youngest are left out at least; settling days always are. */
  days: number;
  youngest: number;
  /** Days without a second change of the same field, beside the cooldown of goals. */
  wait: number;
  /** Days before it first acts on a campaign. */
  grace: number;
  /** A bid set by hand is left alone for so many days. */
  byHand: number;
  leastClicks: number;
  leastImpressions: number;
  /** Largest step of a bid, as factors; null: as goals say. */
  up: number | null;
  down: number | null;
  /** Bids that it sets lie within; null: as goals say. */
  leastBid: Micros | null;
  highestBid: Micros | null;
  time: RoutineTime;
  reach: RoutineReach;
  limits: RoutineLimits;
  /** Of stages: the range, and what each has. */
  stages: StageSettings | null;
}

/** What of a routine cannot be kept: the field, and what to do. */
export interface RoutineProblem {
  field: string;
  message: string;
}

const isWhole = (value: number, from: number, to: number) =>
  Number.isInteger(value) && value >= from && value <= to;

/** A time of day, 00:00 to 23:59. */
export const isTime = (text: string): boolean => /^([01]\d|2[0-3]):[0-5]\d$/.test(text);

/** The first thing that is wrong with a routine; null where all is right. */
export function routineProblem(routine: Routine): RoutineProblem | null {
  const wrong = (field: string, message: string): RoutineProblem => ({ field, message });
  const { name, scope, kinds, time, reach, limits } = routine;
  if (name.trim() === '') return wrong('name', 'A routine needs a name.');
  if (name.length > 100) return wrong('name', 'A name has 100 signs at most.');
  if (kinds.length === 0)
    return wrong('kinds', 'Choose at least one kind of finding: it would never do anything.');
  if ('keys' in scope && scope.keys.length === 0)
    return wrong('scope', `Choose at least one of the ${scope.of.replace('_', ' ')}: it would act nowhere.`);
  if (kinds.includes('stages') && scope.of !== 'budget_groups')
    return wrong('scope', 'Stages are of a budget group: choose which as its scope.');
  if (routine.method !== null && !methods.includes(routine.method))
    return wrong('method', `There is no method “${String(routine.method)}”.`);
  for (const [at, threshold] of routine.thresholds.entries()) {
    const message = thresholdProblem(threshold);
    if (message) return wrong(`thresholds.${at}`, message);
  }
  if (!isWhole(routine.days, 7, 90)) return wrong('days', 'It looks at 7 to 90 days.');
  if (!isWhole(routine.youngest, 0, 30))
    return wrong('youngest', '0 to 30 of the youngest days are left out.');
  if (!isWhole(routine.wait, 0, 60)) return wrong('wait', 'It waits 0 to 60 days after a change.');
  if (!isWhole(routine.grace, 0, 90))
    return wrong('grace', 'It leaves new campaigns alone for 0 to 90 days.');
  if (!isWhole(routine.byHand, 0, 90))
    return wrong('byHand', 'Bids set by hand are left alone for 0 to 90 days.');
  if (!isWhole(routine.leastClicks, 0, 100_000))
    return wrong('leastClicks', 'Clicks are a whole number from 0.');
  if (!isWhole(routine.leastImpressions, 0, 10_000_000))
    return wrong('leastImpressions', 'Impressions are a whole number from 0.');
  if (routine.up !== null && !(routine.up > 1 && routine.up <= 3))
    return wrong('up', 'The largest raise is a factor over 1 and up to 3.');
  if (routine.down !== null && !(routine.down >= 0.2 && routine.down < 1))
    return wrong('down', 'The largest cut is a factor from 0.2 and under 1.');
  const { leastBid, highestBid } = routine;
  if (leastBid !== null && leastBid <= 0) return wrong('leastBid', 'The least bid is over zero.');
  if (highestBid !== null && highestBid <= 0) return wrong('highestBid', 'The highest bid is over zero.');
  if (leastBid !== null && highestBid !== null && leastBid > highestBid)
    return wrong('leastBid', 'The least bid lies over the highest: no bid would be within.');
  if (time.on === 'time') {
    if (time.weekdays.length === 0) return wrong('time.weekdays', 'Choose at least one day of the week.');
    if (!isTime(time.at)) return wrong('time.at', `“${time.at}” is no time of day: write it as 03:30.`);
  }
  if (reach.how === 'hold' && !isWhole(reach.hours, 1, 168))
    return wrong('reach.hours', 'A sheet is held for 1 to 168 hours.');
  if (kinds.includes('stages')) {
    if (routine.stages === null) return wrong('stages', 'Say which range the stages go by.');
    const problem = stagesProblem(routine.stages);
    if (problem) return problem;
  }
  return limitsProblem(limits);
}

/** A limit of zero lets nothing through: who wants that proposes only. */
function limitsProblem(limits: RoutineLimits): RoutineProblem | null {
  const wrong = (field: string, message: string): RoutineProblem => ({ field: `limits.${field}`, message });
  const nothing = 'would let nothing through: let it propose only instead.';
  for (const field of ['lines', 'weekLines'] as const) {
    if (limits[field] === 0) return wrong(field, `A limit of 0 lines ${nothing}`);
    if (!isWhole(limits[field], 1, 100_000))
      return wrong(field, 'Lines are a whole number from 1 to 100,000.');
  }
  for (const field of ['spend', 'weekSpend'] as const)
    if (!(limits[field] > 0)) return wrong(field, `A limit of 0.00 ${nothing}`);
  if (!(limits.share > 0 && limits.share <= 1))
    return wrong('share', `A share of the account is over 0 and up to 100 %; 0 % ${nothing}`);
  if (limits.weekLines < limits.lines)
    return wrong('weekLines', 'A week may hold fewer lines than one run: raise it, or lower that of a run.');
  if (limits.weekSpend < limits.spend)
    return wrong('weekSpend', 'A week may move less than one run: raise it, or lower that of a run.');
  return null;
}
