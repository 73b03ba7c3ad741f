import { setImmediate } from 'node:timers/promises';
import type { SeasonAnswer } from '../../answers/account.ts';
import type { WhyAnswer } from '../../answers/round.ts';
import type { AloneAnswer } from '../../answers/spend.ts';
import type { QueueRow } from '../../core/round/queue.ts';
import { NegativeIndex } from '../../core/terms/match.ts';
import { withComparison } from '../../core/explore/columns.ts';
import { limitsOf } from '../account/limits.ts';
import { editionOf, noFigures } from '../engine/edition.ts';
import { relevantWords } from '../terms/queries.ts';
import { decide, decisionsOf, undecide } from '../account/decisions.queries.ts';
import {
  bidSteps,
  elsewhere,
  seasonDays,
  siblingSeason,
  groupSeason,
  targetSeason,
  termSeason,
} from '../facts/season.queries.ts';
import { bidChanges } from '../../core/effect/bid-history.ts';
import { notesOf } from '../account/notes.queries.ts';
import { thetaRows } from '../goals/queries.ts';
import { LRUCache } from 'lru-cache';
import { placementQueueRow } from '../../core/placements/queue.ts';
import { isHoursKey } from '../../core/hours/lines.ts';
import { trialQueueRow } from '../../core/trials/queue.ts';
import { dueTrials, trialSpans } from '../trials/index.ts';
import { hoursQueueRow } from '../../core/hours/queue.ts';
import { hoursFound } from '../hours/index.ts';
import { isPlacementKey } from '../../core/placements/lines.ts';
import { placementRows } from '../placements/index.ts';
import { budgetRowsOf } from '../budgets/index.ts';
import { budgetQueueRow } from '../../core/budgets/queue.ts';
import { isBudgetKey } from '../../core/budgets/lines.ts';
import { structureQueueRow } from '../../core/structure/queue.ts';
import type { StructureFinding } from '../../core/structure/types.ts';
import { structureOf } from './structure.ts';
import { addDays, windowEnding, type Window } from '../../core/metrics/days.ts';
import { total } from '../../core/metrics/figures.ts';
import { sentenceOf, workingOf } from '../../core/round/explain.ts';
import type { Finding } from '../../core/round/types.ts';
import { getAccount, settling } from '../account/account.ts';
import type { Account } from '../account/queries.ts';
import { config } from '../config.ts';
import { db } from '../db/connection.ts';
import { borneLosses } from '../idle/index.ts';
import { notFound, ServiceError } from '../errors.ts';
import { judging, termsEngine } from '../engine/link.ts';
import { summarySpans } from '../facts/summaries.queries.ts';
import { openBids, openFindingKeys, openNegatives } from '../changes/lines.queries.ts';
import { sentDays } from '../changes/sheets.queries.ts';
import type { Judged } from '../judging/judged.ts';
import type { Narrowing } from '../../core/routines/narrow.ts';

/** Findings of the account: judged where it is kept in memory, kept while figures, goals and window stay. */

interface Kept {
  judged: Judged;
  /** The findings as JSON, each with its whole working: written while the queue is shown already. */
  workings: Promise<string[]>;
}

/** Judged windows by account, window and versions; the longest unasked go when they are too large together. */
const mostKeptBytes = 512 * 1024 * 1024;
const kept = new LRUCache<string, Promise<Kept | null>>({ maxSize: mostKeptBytes });

const sizeOf = (texts: readonly string[]): number => texts.reduce((sum, text) => sum + text.length * 2, 1);

/** All that the judgement of a window depends on. */
const judgedKey = (account: Account, window: Window, by: Narrowing | null = null): string =>
  [
    account.account_id,
    account.origin,
    window.from,
    window.to,
    account.data_version,
    account.goals_version,
    account.lanes_version,
    ...(by ? [JSON.stringify(by)] : []),
  ].join('|');

async function judgeAnew(
  key: string,
  account: Account,
  window: Window,
  by: Narrowing | null,
): Promise<Kept | null> {
  const { account_id: id, data_version: figures } = account;
  const judged = (await judging().judge(key, id, String(figures), window, by)) as Judged | null;
  if (!judged) return null;
  const workings = judging()
    .workings(key)
    .then((texts) => {
      if (texts) return texts;
      throw new ServiceError(503, 'engine_renewed', 'The account has to be judged anew; ask again.');
    });
  workings.then(
    (texts) => resize(key, sizeOf(texts) + sizeOf(judged.rows)),
    // The worker fell: whoever asks next has it judged again.
    () => kept.delete(key),
  );
  return { judged, workings };
}

/** Says how large it is what is kept. */
function resize(key: string, size: number): void {
  const pending = kept.peek(key);
  if (pending) kept.set(key, pending, { size: Math.min(mostKeptBytes, size) });
}

/** The judged account for a window, from memory when nothing changed. */
async function keptOf(accountId: number, window: Window, by: Narrowing | null = null): Promise<Kept> {
  const account = await getAccount(db(), accountId);
  const key = judgedKey(account, window, by);
  let pending = kept.get(key);
  if (!pending) {
    pending = judgeAnew(key, account, window, by);
    kept.set(key, pending, { size: 1 });
    pending.then(
      (made) => made && resize(key, sizeOf(made.judged.rows)),
      () => kept.delete(key),
    );
  }
  const result = await pending;
  if (!result) throw new ServiceError(409, 'no_figures', 'There are no settled figures in this window yet.');
  return result;
}

export const judged = async (accountId: number, window: Window): Promise<Judged> =>
  (await keptOf(accountId, window)).judged;

/** Which of these findings wait for a decision, by their places; how many were put off, skipped, or are on the sheet. */
async function undecided(accountId: number, keys: readonly string[], today: string, held = true) {
  const decisions = new Map(
    (await decisionsOf(db(), accountId, today)).map((row) => [row.finding_key, row.decision]),
  );
  const open = new Set(await openFindingKeys(db(), accountId, held));
  const waiting: number[] = [];
  const counts = { later: 0, skipped: 0, onSheet: 0 };
  keys.forEach((key, i) => {
    const decision = decisions.get(key);
    if (open.has(key)) counts.onSheet++;
    else if (decision === 'later') counts.later++;
    else if (decision === 'skipped') counts.skipped++;
    else waiting.push(i);
  });
  return { waiting, ...counts };
}

/** A tolerated loss keeps out what would stop it, not what would have more of it. */
const isRaise = ({ proposal }: QueueRow): boolean =>
  proposal.kind === 'harvest' || (proposal.kind === 'bid' && proposal.to > proposal.from);

/** Which of the judged findings wait for a decision, and how many do not. */
async function leftOf(accountId: number, { keys, rows, today }: Judged, held = true) {
  const { waiting: all, ...counts } = await undecided(accountId, keys, today, held);
  const borne = await borneLosses(accountId);
  const tolerated = { count: 0, loss: 0 };
  const waiting = all.filter((i) => {
    const loss = borne.get(keys[i]!);
    if (loss === undefined || isRaise(JSON.parse(rows[i]!) as QueueRow)) return true;
    tolerated.count++;
    tolerated.loss += Math.max(0, loss);
    return false;
  });
  return { waiting, counts, tolerated };
}

/** The head of a round without its end, and which of the judged findings wait. */
async function waitingOf(accountId: number, judgement: Judged): Promise<{ head: string; waiting: number[] }> {
  const { keys, rows: _rows, ...about } = judgement;
  const { waiting, counts, tolerated } = await leftOf(accountId, judgement);
  const left = waiting.map((i) => keys[i]!);
  const covered = {
    ...(await coveredBy(accountId, left, judgement.adGroups)),
    ...(await movedWith(accountId, judgement, waiting)),
  };
  const head = JSON.stringify({ ...about, left: waiting.length, ...counts, tolerated, covered });
  return { head: head.slice(0, -1), waiting };
}

/** Terms that a negative on the open sheet settles, with that negative's expression, by their findings' keys. */
async function coveredBy(
  accountId: number,
  keys: readonly string[],
  adGroups: Judged['adGroups'],
): Promise<Record<string, string>> {
  const open = await openNegatives(db(), accountId);
  if (open.length === 0) return {};
  const places = new Map<string, NegativeIndex>();
  for (const { place, ...negative } of open) {
    const index = places.get(place) ?? new NegativeIndex();
    index.add({ id: '', ...negative });
    places.set(place, index);
  }
  const covered: Record<string, string> = {};
  for (const key of keys) {
    const found = /^term:([^:]+):(.*)$/s.exec(key);
    if (!found) continue;
    const [, adGroupId, term] = found as unknown as [string, string, string];
    const { campaignId } = adGroups[adGroupId]!;
    const by = places.get(adGroupId)?.blocking(term) ?? places.get(campaignId)?.blocking(term);
    if (by) covered[key] = `“${by.expression}”`;
  }
  return covered;
}

/** Bids that the placements or the budget of their campaign move already, by their findings' keys. */
async function movedWith(
  accountId: number,
  { keys, rows }: Judged,
  waiting: readonly number[],
): Promise<Record<string, string>> {
  const { placements, budgets, hours } = await openBids(db(), accountId);
  if (placements.size + budgets.size + hours.size === 0) return {};
  const covered: Record<string, string> = {};
  for (const i of waiting) {
    if (keys[i]!.startsWith('term:')) continue;
    const { campaignId } = JSON.parse(rows[i]!) as QueueRow;
    if (placements.has(campaignId)) covered[keys[i]!] = 'the placements of its campaign';
    else if (budgets.has(campaignId)) covered[keys[i]!] = 'the budget of its campaign';
    else if (hours.has(campaignId)) covered[keys[i]!] = 'the schedule of its campaign';
  }
  return covered;
}

/** What is found about how campaigns are built; a name that was taken meanwhile is another one's. */
export async function structureFindings(accountId: number, window: Window): Promise<StructureFinding[]> {
  return structureOf(accountId, window, judgedKey(await getAccount(db(), accountId), window));
}

/** Keywords that their campaigns' budgets starve and that would do better alone, worth most first. */
export async function aloneOf(accountId: number, window: Window): Promise<AloneAnswer> {
  const { today } = await getAccount(db(), accountId);
  const found = (await structureFindings(accountId, window)).filter(({ kind }) => kind === 'starved_best');
  const open = new Set(await openFindingKeys(db(), accountId));
  const keys = found.map(({ key }) => key);
  const { waiting } = await undecided(accountId, keys, today!);
  return {
    found: found.flatMap(({ key, campaignId, sentence, repair, loses, worth, drafts }, at) =>
      waiting.includes(at) || open.has(key)
        ? [
            {
              key,
              campaignId,
              sentence,
              repair: repair!,
              loses,
              worth,
              lines: drafts.length,
              isOnSheet: open.has(key),
            },
          ]
        : [],
    ),
  };
}

/** Words, conflicts and structure of a window as rows of the queue, from memory when nothing changed. */
const keptWider = new LRUCache<string, Promise<string[] | null>>({ max: 24 });

const isToldOf = ({ isFinding, isHeld }: { isFinding: boolean; isHeld: boolean }): boolean =>
  isFinding || isHeld;

async function widerRows(accountId: number, window: Window): Promise<string[]> {
  const account = await getAccount(db(), accountId);
  const relevant = await relevantWords(db(), accountId);
  const key = `${judgedKey(account, window)}|${relevant.join('\n')}`;
  let pending = keptWider.get(key);
  if (!pending) {
    const { itemCode } = limitsOf(account);
    pending = termsEngine().widerFindings(await editionOf(accountId), withComparison(window), {
      itemCode,
      relevant,
    });
    keptWider.set(key, pending);
    pending.catch(() => keptWider.delete(key));
  }
  const rows = await pending;
  if (!rows) throw noFigures();
  const structure = await structureFindings(accountId, window);
  const placed = (await placementRows(accountId, window)).filter(isToldOf);
  const budgets = (await budgetRowsOf(accountId, window)).filter(isToldOf);
  const { rows: timed, weeks } = await hoursFound(accountId, window);
  return [
    ...budgets.map((one) => JSON.stringify(budgetQueueRow(one))),
    ...placed.map((one) => JSON.stringify(placementQueueRow(one))),
    ...timed.filter(isToldOf).map((one) => JSON.stringify(hoursQueueRow(one, weeks))),
    ...rows,
    ...structure.map((one) => JSON.stringify(structureQueueRow(one))),
    ...(await dueTrials(accountId)).map(({ compared, ...trial }) =>
      JSON.stringify(trialQueueRow({ ...trial, decided: compared?.decided?.value ?? null })),
    ),
  ];
}

/** What waits of words, conflicts and structure as JSON (`WiderAnswer`). */
export async function widerOf(accountId: number, window: Window): Promise<string> {
  const { today } = await getAccount(db(), accountId);
  const rows = await widerRows(accountId, window);
  const keys = rows.map((row) => (JSON.parse(row) as QueueRow).key);
  const { waiting, ...counts } = await undecided(accountId, keys, today!);
  const { bids, placements, budgets, hours } = await openBids(db(), accountId);
  const covered: Record<string, string> = {};
  for (const i of waiting) {
    const { key, campaignId, proposal } = JSON.parse(rows[i]!) as QueueRow;
    const movesBids =
      isPlacementKey(key) ||
      (proposal.kind === 'budget' && proposal.way === 'lower_bids') ||
      (proposal.kind === 'hours' && proposal.lines > 1);
    if (!movesBids) continue;
    if (bids.has(campaignId)) covered[key] = 'bids of its targets';
    else if (!isPlacementKey(key) && placements.has(campaignId))
      covered[key] = 'the placements of its campaign';
    else if (!isBudgetKey(key) && budgets.has(campaignId)) covered[key] = 'the budget of its campaign';
    else if (!isHoursKey(key) && hours.has(campaignId)) covered[key] = 'the schedule of its campaign';
  }
  const head = JSON.stringify({ ...counts, covered }).slice(0, -1);
  return `${head},"findings":[${waiting.map((i) => rows[i]!).join(',')}]}`;
}

/** A part of the round as JSON: findings that wait for a decision, worth most first, each with its whole working. */
export async function roundOf(
  accountId: number,
  window: Window,
  { offset, limit }: { offset: number; limit: number },
): Promise<string> {
  const { judged: judgement, workings } = await keptOf(accountId, window);
  const { head, waiting } = await waitingOf(accountId, judgement);
  const texts = await workings;
  const part = waiting.slice(offset, offset + limit).map((i) => texts[i]!);
  return `${head},"findings":[${part.join(',')}]}`;
}

/** All that waits as JSON (`QueueAnswer`), as queues show it. */
export async function queueOf(accountId: number, window: Window): Promise<string> {
  const judgement = await judged(accountId, window);
  const { head, waiting } = await waitingOf(accountId, judgement);
  return `${head},"findings":[${waiting.map((i) => judgement.rows[i]!).join(',')}]}`;
}

/**
 * Findings by their keys, with the judged account; keys that are none of this window are left out. `by`: judged within a
 * routine's own limits.
 */
export async function findingsOf(
  accountId: number,
  window: Window,
  wanted: readonly string[],
  by: Narrowing | null = null,
): Promise<[Map<string, Finding>, Judged]> {
  const { judged: result, workings } = await keptOf(accountId, window, by);
  const texts = await workings;
  const asked = new Set(wanted);
  const found = new Map<string, Finding>();
  result.keys.forEach((key, i) => {
    if (asked.has(key)) found.set(key, JSON.parse(texts[i]!) as Finding);
  });
  return [found, result];
}

/** So many findings are read at once before whoever else asks has a turn. */
const readAtOnce = 200;

/**
 * What waits of terms and targets within a place, judged within a routine's own limits, each with its whole working; what
 * routines hold among it: the one of the highest rank has it.
 */
export async function findingsFor(
  accountId: number,
  window: Window,
  by: Narrowing,
  isWanted: (row: QueueRow) => boolean,
): Promise<{ judged: Judged; findings: Finding[]; decided: number }> {
  const { judged: result, workings } = await keptOf(accountId, window, by);
  const { waiting, counts, tolerated } = await leftOf(accountId, result, false);
  const texts = await workings;
  const findings: Finding[] = [];
  for (const [at, i] of waiting.entries()) {
    if (at % readAtOnce === 0) await setImmediate();
    if (isWanted(JSON.parse(result.rows[i]!) as QueueRow)) findings.push(JSON.parse(texts[i]!) as Finding);
  }
  return {
    judged: result,
    findings,
    decided: counts.later + counts.skipped + tolerated.count,
  };
}

/** What waits beside them. */
export async function widerFor(
  accountId: number,
  window: Window,
): Promise<{ rows: QueueRow[]; decided: number }> {
  const { today } = await getAccount(db(), accountId);
  const rows = (await widerRows(accountId, window)).map((row) => JSON.parse(row) as QueueRow);
  const { waiting, later, skipped } = await undecided(
    accountId,
    rows.map(({ key }) => key),
    today!,
    false,
  );
  return { rows: waiting.map((i) => rows[i]!), decided: later + skipped };
}

/** Everything the why panel shows for one finding. */
export async function whyOf(accountId: number, window: Window, key: string): Promise<WhyAnswer> {
  const [found, result] = await findingsOf(accountId, window, [key]);
  const finding = found.get(key);
  if (!finding) throw notFound('finding of this key in this window');
  const sql = db();
  const from = addDays(result.today, -89);
  const isTerm = finding.queue === 'terms';
  const alsoFrom = finding.proposal.kind === 'harvest' ? finding.proposal.alsoFrom : [];
  const season = isTerm
    ? await termSeason(sql, accountId, [finding.adGroupId, ...alsoFrom], finding.subject, from)
    : finding.members
      ? await groupSeason(sql, accountId, finding.adGroupId, from)
      : await targetSeason(sql, accountId, finding.targetId, from);
  const end = result.window?.to ?? window.to;
  const windows = [14, 30, 60].map((days) => {
    const first = windowEnding(end, days).from;
    return { days, ...total(season.filter(({ day }) => day >= first && day <= end)) };
  });
  // An ad group's bid is of no target: it is bid on nowhere else, and only its lines tell its history.
  const others = finding.members ? [] : await elsewhere(sql, accountId, finding.subject);
  const bids = finding.members ? [] : await bidSteps(sql, accountId, finding.targetId);
  const changes =
    isTerm || bids.length < 2 || result.settledTo === null
      ? []
      : bidChanges(
          bids,
          season,
          await siblingSeason(sql, accountId, finding.targetId, from),
          from,
          result.settledTo,
        );
  return {
    finding,
    sentence: sentenceOf(finding, { adGroup: (id) => result.adGroups[id]?.name ?? id }),
    working: workingOf(finding),
    season,
    bids,
    changes,
    windows,
    relations: others
      .filter((other) => isTerm || other.target_id !== finding.targetId)
      .map((other) => ({
        adGroup: result.adGroups[other.ad_group_id]?.name ?? other.ad_group_id,
        kind: other.kind,
        matchType: other.match_type,
        bid: other.bid,
        status: other.status,
      })),
    theta: (await thetaRows(sql, accountId)).find(
      ({ scope, key: name }) => scope === finding.working.goalScope && name === finding.working.goalKey,
    ),
  };
}

/** Skips findings, or puts them off for some days. */
export async function decideFindings(
  accountId: number,
  keys: string[],
  decision: 'skipped' | 'later' | null,
  days: number,
): Promise<void> {
  const account = await getAccount(db(), accountId);
  if (decision === null) return undecide(db(), accountId, keys);
  const today = account.today ?? new Date().toISOString().slice(0, 10);
  // A skipped finding comes back when its evidence had a month to change.
  const until = addDays(today, decision === 'later' ? days : 30);
  return decide(db(), accountId, keys, decision, until);
}

/** The season strip: 90 days of the account. */
export async function seasonOf(accountId: number): Promise<SeasonAnswer> {
  const account = await getAccount(db(), accountId);
  const about = {
    name: account.name,
    currency: account.currency,
    source: account.source,
    today: account.today,
    demo: config.demo,
  };
  if (account.today === null)
    return {
      account: about,
      days: [],
      settledTo: null,
      sent: [],
      notes: [],
      trials: [],
      summaries: [],
      defaultWindow: null,
    };
  const days = await seasonDays(db(), accountId, addDays(account.today, -89));
  const { settledTo } = await settling(db(), account);
  return {
    account: about,
    days,
    settledTo,
    sent: await sentDays(db(), accountId),
    notes: await notesOf(db(), accountId, { from: addDays(account.today, -89), to: account.today }),
    trials: await trialSpans(db(), accountId),
    summaries: await summarySpans(db(), accountId),
    defaultWindow: settledTo === null ? null : windowEnding(settledTo, 30),
  };
}
