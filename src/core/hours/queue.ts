import { nowhere, type QueueRow } from '../round/queue.ts';
import { scheduleShort, sentenceOfHours } from './explain.ts';
import { hoursKey } from './lines.ts';
import type { HoursRow } from './rows.ts';

/** A campaign's schedule as a row of the round; only of one that has a finding, or one that a cooldown holds. */
export function hoursQueueRow(row: HoursRow, weeks: number): QueueRow {
  const { campaignId, name, sku, targetAcos, sums } = row;
  const proposal = row.proposal!;
  return {
    ...nowhere,
    key: hoursKey(campaignId),
    queue: 'hours',
    subject: name,
    campaignId,
    sku,
    verdict: 'undecided',
    proposal: {
      kind: 'hours',
      short: scheduleShort(proposal),
      held: proposal.held,
      lines: row.lines,
      sentence: sentenceOfHours(proposal, weeks),
    },
    worth: proposal.worth,
    interval: null,
    targetAcos,
    sums,
    claims: [],
    takes: 0,
  };
}
