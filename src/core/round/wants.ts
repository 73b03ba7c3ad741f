import type { Micros } from '../metrics/money.ts';

/** A finding that is worth less than those that are kept: it is counted, not made. */
export const below = Symbol('below');
/** The same of a harvest: of several sources that meet, one is enough. */
export const belowHarvest = Symbol('below harvest');
export type Below = typeof below | typeof belowHarvest;

/** Whether a finding of this worth, and of this spend among equals, is among those that are kept. */
export type Wants = (worth: Micros, spend: Micros) => boolean;
