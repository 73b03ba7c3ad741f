import type { Micros } from '../metrics/money.ts';
import { nowhere, type QueueRow } from '../round/queue.ts';

const keyStart = 'trial:';

/** A trial that asks for a decision as a row of the round: keep, take back, go on stand beside its result. */
export const trialQueueRow = (trial: {
  trialId: number;
  name: string;
  verdict: 'better' | 'worse' | 'undecided' | 'harm';
  said: string;
  /** What decides, of a week; null while nothing can be said. */
  decided: Micros | null;
}): QueueRow => ({
  ...nowhere,
  key: `${keyStart}${trial.trialId}`,
  queue: 'trials',
  subject: trial.name,
  sku: null,
  verdict: trial.verdict === 'better' ? 'under' : trial.verdict === 'undecided' ? 'undecided' : 'over',
  proposal: { kind: 'repair', repair: null, lines: 0, sentence: trial.said },
  // What taking it back would be worth.
  worth: Math.max(0, -(trial.decided ?? 0)),
  interval: null,
  targetAcos: 0,
  sums: null,
  claims: [],
  takes: 0,
});

export const trialOfKey = (key: string): number => Number(key.slice(keyStart.length));
