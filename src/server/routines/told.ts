import type { Day } from '../../core/metrics/days.ts';
import type { Held } from '../../core/routines/choose.ts';
import type { Routine } from '../../core/routines/routine.ts';
import type { ItemRow, RunSummary } from './runs.queries.ts';
import { effectOf, spendOf, type Found } from './settle.ts';

/** What a run tells of itself: its numbers, and what it did about each finding. */

/** Items that are kept of what was left alone, beside all that was acted on. */
const mostLeft = 2000;

const beyondLimits: readonly Held['by'][] = ['line_limit', 'spend_limit', 'share_limit', 'unusual_click'];

/** Its numbers; `taken`: what is acted on. */
export function summaryOf(
  found: readonly Found[],
  taken: { found: readonly Found[] },
  decided: number,
  settings: Routine,
  window: { from: Day; to: Day },
): RunSummary {
  const lines = taken.found.flatMap((one) => one.lines);
  const beyond = found.filter(({ held }) => held !== null && beyondLimits.includes(held.by)).length;
  return {
    window,
    found: found.length,
    taken: taken.found.length,
    beyond,
    left: found.length - taken.found.length - beyond,
    decided,
    lines: lines.length,
    spend: spendOf(lines),
    worth: taken.found.reduce((sum, { offered }) => sum + offered.worth, 0),
    settings,
  };
}

/** What a run keeps of what it found: all that it acted on or would have, and of what it left those worth most. */
export function itemsOf(
  found: readonly Found[],
  did: 'taken' | 'proposed' | 'beyond',
): Omit<ItemRow, 'position'>[] {
  let left = 0;
  // What was done is read first, then what waits for a person, then what was left alone; each by its worth.
  const order = ({ held }: Found) => (held === null ? 0 : beyondLimits.includes(held.by) ? 1 : 2);
  return [...found]
    .sort((a, b) => order(a) - order(b))
    .flatMap(({ offered, held, lines }) => {
      const isBeyond = held !== null && beyondLimits.includes(held.by);
      const state = held === null ? did : isBeyond ? 'beyond' : 'left';
      if (state === 'left' && ++left > mostLeft) return [];
      return [
        {
          findingKey: offered.key,
          kind: offered.kind,
          subject: offered.subject,
          campaignId: offered.campaignId,
          campaign: offered.campaign,
          did: state,
          heldBy: held?.by ?? null,
          why: held?.why ?? null,
          sentence: offered.kind === 'words' && lines[0] ? lines[0].reason : offered.sentence,
          lines: lines.length,
          worth: offered.worth,
          spend: spendOf(lines),
          effect: effectOf(lines),
        },
      ];
    });
}
