import type { Check } from '../core/evidence/check.ts';
import type { Score } from '../core/effect/forecast.ts';
import type { Model } from '../core/effect/model.ts';
import type { Day } from '../core/metrics/days.ts';
import type { SumsOfLine } from './changes.ts';

/** What forecasts of one kind came to, per week: sums of what was said and what was seen. */
export interface KindOfForecast {
  kind: string;
  count: number;
  said: SumsOfLine;
  seen: SumsOfLine;
  /** Standard deviation of the sum of seen - said sales. */
  spread: number;
  inside: number;
}

export type ForecastPoint = Score & {
  lineId: number;
  sheetId: number;
  kind: string;
  expression: string | null;
  weeks: number;
  toDay: Day;
};

/** How the model did out of sample in a week. */
export type ModelCheck = Check & { day: Day; drift: number; words: Model['words'] };

/** The forecast ledger: said against seen, by kind, and how the model did out of sample week by week. */
export interface ForecastsAnswer {
  count: number;
  inside: number;
  /** What intervals are widened by. */
  widening: number;
  kinds: KindOfForecast[];
  /** The last 200 of each kind, oldest first. */
  points: ForecastPoint[];
  checks: ModelCheck[];
}
