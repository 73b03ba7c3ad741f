import type { Adjustment } from '../../core/round/lines.ts';
import type { QueueAnswer } from '../../answers/round.ts';
import type { QueueRow } from '../../core/round/queue.ts';

export type Row = QueueRow & {
  /** What on the open sheet settles it. */
  covered?: string;
};

export type RoundAnswer = QueueAnswer;

export type Adjustments = Record<string, Adjustment>;
