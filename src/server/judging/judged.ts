import { joinQueues, judgeTargets, judgeTerms } from '../../core/round/judge.ts';
import { noticesOf } from '../../core/round/notices.ts';
import { mostOfAQueue, queueRow } from '../../core/round/queue.ts';
import type { Finding } from '../../core/round/types.ts';
import type { Day, Window } from '../../core/metrics/days.ts';
import { total, type Sums } from '../../core/metrics/figures.ts';
import type { Loaded } from './input.ts';

export interface Judged {
  today: Day;
  settledTo: Day | null;
  settlingAge: number;
  /** The part of the window that was judged; null when nothing of it is settled yet. */
  window: Window | null;
  /** Keys of the findings, in their order. */
  keys: string[];
  /** Findings as queues show them (`QueueRow`), as JSON: as text they change threads and go out without being rebuilt. */
  rows: string[];
  /** How many there are of each queue; here are those worth most. */
  counts: Record<Finding['queue'], number>;
  adGroups: Record<
    string,
    { name: string; campaignId: string; campaign: string; sku: string | null; enabled: boolean }
  >;
  products: Record<string, string>;
  goals: { scope: string; key: string; targetAcos: number | null; theta: number }[];
  /** What is odd about the account, in sentences. */
  notices: string[];
  sums: Sums;
  targets: number;
  terms: number;
  milliseconds: { read: number; judge: number };
}

/**
 * An account that was read with its terms, judged; and its findings with their workings, which nobody needs before the
 * queue is shown. `read`: milliseconds that reading took.
 */
export function judgedOf(
  { today, settling, settled, input, terms }: Loaded,
  read: number,
): { judged: Judged; findings: Finding[] } {
  const start = performance.now();
  const withTerms = { ...input, ...terms! };
  const { findings, counts } = joinQueues(
    judgeTargets(input, mostOfAQueue),
    judgeTerms(withTerms, mostOfAQueue),
  );
  const judged: Judged = {
    today,
    settledTo: settling.settledTo,
    settlingAge: settling.age,
    window: settled,
    keys: findings.map(({ key }) => key),
    rows: findings.map((finding) => JSON.stringify(queueRow(finding))),
    counts,
    adGroups: Object.fromEntries(
      [...input.adGroups].map(([id, { name, campaignId, campaign, sku, enabled }]) => [
        id,
        { name, campaignId, campaign, sku, enabled },
      ]),
    ),
    products: Object.fromEntries([...input.products].map(([sku, { title }]) => [sku, title])),
    goals: input.goals.map(({ scope, key, targetAcos, theta }) => ({ scope, key, targetAcos, theta })),
    notices: noticesOf(input),
    sums: total(input.targets),
    targets: input.targets.length,
    terms: [...terms!.quietTerms.values()].reduce((sum, { terms: n }) => sum + n, terms!.terms.length),
    milliseconds: { read, judge: performance.now() - start },
  };
  return { judged, findings };
}
