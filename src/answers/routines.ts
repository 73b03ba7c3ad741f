import type { Effect } from '../core/effect/types.ts';
import type { Day, Window } from '../core/metrics/days.ts';
import type { Micros } from '../core/metrics/money.ts';
import type { DryNight, DrySummary } from '../core/routines/dry.ts';
import type { Routine } from '../core/routines/routine.ts';
import type { Stage, StagedCampaign, StageShare } from '../core/routines/stages.ts';

/** What endpoints of routines answer. */

export interface RoutineRow {
  routineId: number;
  /** 1 goes first. */
  rank: number;
  settings: Routine;
  isOn: boolean;
  /** Why it stopped itself; null: it did not. */
  stoppedWhy: string | null;
  version: number;
  /** When it is due next; null: after figures come in, or never. */
  nextDue: string | null;
  /** What becomes of its time when clocks change. */
  clock: string[];
  /** What speaks against its scope or its slice by now; null: nothing. */
  problem: string | null;
}

export type RunState =
  'running' | 'proposed' | 'held' | 'sending' | 'sent' | 'stopped' | 'nothing' | 'refused';

export interface RoutineRun {
  runId: number;
  routineId: number;
  routine: string;
  day: Day;
  due: string;
  state: RunState;
  why: string | null;
  sheetId: number | null;
  beganAt: string;
  /** When what it holds leaves; null where it holds nothing. */
  sendAfter: string | null;
  summary: {
    window?: Window;
    found?: number;
    taken?: number;
    left?: number;
    beyond?: number;
    decided?: number;
    lines?: number;
    spend?: Micros;
    worth?: Micros;
  };
}

export interface RoutinesAnswer {
  today: Day | null;
  timeZone: string;
  /** The switch over all of them. */
  allStopped: boolean;
  routines: RoutineRow[];
  runs: RoutineRun[];
  /** What scopes may be chosen of. */
  choices: {
    products: { key: string; name: string }[];
    campaigns: { key: string; name: string }[];
    budgetGroups: { key: string; name: string }[];
    slices: { key: string; name: string; meaning: string }[];
  };
}

export interface RoutineItem {
  runId: number;
  day: Day;
  routine: string;
  position: number;
  findingKey: string;
  kind: string;
  subject: string;
  campaignId: string;
  campaign: string;
  did: 'taken' | 'proposed' | 'beyond' | 'left' | 'lost';
  heldBy: string | null;
  why: string | null;
  sentence: string;
  lines: number;
  worth: Micros;
  spend: Micros;
  effect: Effect | null;
}

export interface ItemsAnswer {
  count: number;
  items: RoutineItem[];
}

/** What routines leave to a person now. */
export interface RoutinesWaiting {
  timeZone: string;
  allStopped: boolean;
  /** How many are turned on. */
  on: number;
  /** Runs that hold a sheet, what leaves first before the others; then the newest run of each routine that only proposed. */
  runs: RoutineRun[];
  /** Routines that stopped themselves, and why. */
  stopped: { routineId: number; routine: string; why: string }[];
}

/** Budget groups by their stages. */
export interface StagesAnswer {
  groups: {
    object: string;
    name: string;
    shares: (StageShare & { stage: Stage })[];
    campaigns: (StagedCampaign & {
      /** A day, micros; null where its budget is of another kind. */
      budget: Micros | null;
      becomes: Micros | null;
      clicks: number;
      spend: Micros;
      orders: number;
      sales: Micros;
    })[];
  }[];
}

/** What a dry run has come to. */
export interface DryAnswer {
  nights: DryNight[];
  summary: DrySummary;
}
