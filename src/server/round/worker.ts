import { joinQueues, judgeTargets, judgeTerms, surroundingsOf } from '../../core/round/judge.ts';
import { noticesOf } from '../../core/round/notices.ts';
import { queueRow } from '../../core/round/queue.ts';
import type { Finding } from '../../core/round/types.ts';
import type { Day, Window } from '../../core/metrics/days.ts';
import { total, type Sums } from '../../core/metrics/figures.ts';
import { connect, type Database } from '../db/connection.ts';
import { loadJudgeInput } from './input.ts';

/** Reads and judges accounts, off the request thread. Bundled to dist/workers/judge.mjs; a pool runs it. */

export interface JudgeOrder {
  databaseUrl: string;
  accountId: number;
  window: Window;
}

export interface Judged {
  today: Day;
  settledTo: Day | null;
  settlingAge: number;
  /** The part of the window that was judged; null when nothing of it is settled yet. */
  window: Window | null;
  /** Findings as JSON, in their order, and their keys: as text they change threads and go out without being rebuilt. */
  keys: string[];
  findings: string[];
  /** The same as queues show them (`QueueRow`). */
  rows: string[];
  /** How many there are of each queue; here are those worth most. */
  counts: Record<Finding['queue'], number>;
  adGroups: Record<
    string,
    { name: string; campaignId: string; campaign: string; sku: string | null; enabled: boolean }
  >;
  products: Record<string, string>;
  goals: { scope: string; key: string; targetAcos: number; theta: number }[];
  /** What is odd about the account, in sentences. */
  notices: string[];
  sums: Sums;
  targets: number;
  terms: number;
  milliseconds: { read: number; judge: number };
}

/** More than anybody decides in a sitting; what is decided makes room for the next. */
const mostOfAQueue = 20_000;

let database: { url: string; sql: Database } | null = null;

/** The worker's own two connections, kept while it lives and let go after a minute without work. */
async function connected(url: string): Promise<Database> {
  if (database?.url !== url) {
    await database?.sql.end();
    database = { url, sql: connect(url, 2, { idle_timeout: 60 }) };
  }
  return database.sql;
}

/** Findings of one account for one window; null while it has no settled figures there. */
export default async function judge(order: JudgeOrder): Promise<Judged | null> {
  const sql = await connected(order.databaseUrl);
  const start = performance.now();
  const loaded = await loadJudgeInput(sql, order.accountId, order.window, true);
  if (!loaded) return null;
  const { input } = loaded;
  const targetsRead = performance.now();
  // Bids are judged, and told, while Postgres still sums the terms.
  const targets = judgeTargets(input, mostOfAQueue);
  const around = surroundingsOf(input);
  const asText = new Map(targets.findings.map((finding) => [finding, JSON.stringify(finding)]));
  const targetsJudged = performance.now();
  const terms = await loaded.terms!;
  const read = performance.now();
  const { findings, counts } = joinQueues(targets, judgeTerms({ ...input, ...terms }, mostOfAQueue, around));
  const judged = performance.now();
  return {
    today: loaded.today,
    settledTo: loaded.settling.settledTo,
    settlingAge: loaded.settling.age,
    window: loaded.settled,
    keys: findings.map(({ key }) => key),
    findings: findings.map((finding) => asText.get(finding) ?? JSON.stringify(finding)),
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
    terms: [...terms.quietTerms.values()].reduce((sum, { terms: n }) => sum + n, terms.terms.length),
    milliseconds: {
      read: targetsRead - start + (read - targetsJudged),
      judge: targetsJudged - targetsRead + (judged - read),
    },
  };
}
