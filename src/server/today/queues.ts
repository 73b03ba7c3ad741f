import type { QueueAnswer, WiderAnswer } from '../../answers/round.ts';
import type { QueueStanding } from '../../answers/today.ts';
import { Claimed } from '../../core/effect/claims.ts';
import type { Window } from '../../core/metrics/days.ts';
import { claimingOf, isHeldWhole, queues, type QueueRow } from '../../core/round/queue.ts';
import { queueOf, widerOf } from '../round/index.ts';

/** Queues of the round in a line each: what waits for a decision, what it is worth together, and what is worth most. */
export async function queuesOf(accountId: number, window: Window): Promise<QueueStanding[]> {
  const answers = [
    JSON.parse(await queueOf(accountId, window)) as QueueAnswer,
    JSON.parse(await widerOf(accountId, window)) as WiderAnswer,
  ];
  const rows = answers
    .flatMap(({ findings, covered }) => findings.filter(({ key }) => covered[key] === undefined))
    .filter((row) => row.proposal.kind !== 'wait' && !isHeldWhole(row))
    .sort((a, b) => b.worth - a.worth);
  const claimed = new Claimed();
  const found = new Map<string, QueueStanding>(
    queues.map(({ id, name }) => [id, { id, name, count: 0, worth: 0, top: null }]),
  );
  for (const row of rows) {
    const queue = found.get(row.queue)!;
    queue.count++;
    // No click counts twice: each has what those worth more have left.
    queue.worth += row.worth * claimed.take(claimingOf(row));
    queue.top ??= { subject: subjectOf(row), worth: row.worth };
  }
  return [...found.values()];
}

const subjectOf = ({ queue, subject }: QueueRow): string =>
  queue === 'terms' || queue === 'words' ? `“${subject}”` : subject;
