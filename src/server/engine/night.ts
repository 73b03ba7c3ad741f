import { LRUCache } from 'lru-cache';
import { objectsAt, type AsOf, type PastChange, type Played } from '../../core/account/as-of.ts';
import { runningOn } from '../../core/account/running.ts';
import type { BudgetRow } from '../../core/budgets/rows.ts';
import { budgetQueueRow } from '../../core/budgets/queue.ts';
import { negativeLine, type LineDraft } from '../../core/changes/lines.ts';
import { phraseEffect } from '../../core/effect/weekly.ts';
import type { Belief } from '../../core/evidence/verdict.ts';
import { AccountTable } from '../../core/explore/table.ts';
import { hoursQueueRow } from '../../core/hours/queue.ts';
import { windowDays, type Day, type Window } from '../../core/metrics/days.ts';
import { total, type Sums } from '../../core/metrics/figures.ts';
import { placementQueueRow } from '../../core/placements/queue.ts';
import { joinQueues, judgeTargets, judgeTerms } from '../../core/round/judge.ts';
import { linesOf } from '../../core/round/lines.ts';
import { conflictQueueRow, type QueueRow } from '../../core/round/queue.ts';
import type { Finding, JudgeInput } from '../../core/round/types.ts';
import { movesOf } from '../../core/routines/as-played.ts';
import { kindOfRow } from '../../core/routines/candidate.ts';
import { doesOf, type Does } from '../../core/routines/dry.ts';
import { narrowed, type Narrowing } from '../../core/routines/narrow.ts';
import type { RoutineKind } from '../../core/routines/routine.ts';
import { structureQueueRow } from '../../core/structure/queue.ts';
import { findConflicts } from '../../core/terms/conflicts.ts';
import { phrasePlaces } from '../../core/terms/phrase-claims.ts';
import { AccountMatcher } from '../../core/terms/matcher.ts';
import { fieldLimitsOf, limitsOf } from '../account/limits.ts';
import { modelOf, newestModel, wordEffectsOf } from '../account/model.queries.ts';
import { accountById } from '../account/queries.ts';
import type { Database } from '../db/connection.ts';
import { stockOn } from '../facts/evidence-days.queries.ts';
import { loadJudgeInput, type Loaded } from '../judging/input.ts';
import type { LoadedAccount } from '../memory/load.ts';
import { budgetDraftsBy, budgetsBy } from './budgets.ts';
import type { Edition } from './edition.ts';
import { hoursBy, hoursDrafts } from './hours.ts';
import { structureBy, wordsOfAccount } from './judging.ts';
import { pastGround, type PastGround } from './past.ts';
import { placedBy, placedDrafts } from './placements.ts';
import { wordFindings } from './terms.ts';

/** Nights of the past, judged with what was known by then (domain, section 16). */

type KnownShares = readonly (readonly [day: Day, share: number])[];

/** A night that is played. */
export interface NightOrder {
  day: Day;
  settledTo: Day;
  window: Window;
  kinds: readonly RoutineKind[];
  narrowing: Narrowing;
  /** What was really changed, and what was played until then. */
  changes: readonly PastChange[];
  played: readonly Played[];
  /** Share of the orders of days, as known by now, that were known then. */
  known: KnownShares;
  /** The night, this one or an earlier one, by whose figures words were learned. */
  learnedOn: { day: Day; settledTo: Day; known: KnownShares };
  /** How many findings of each queue are wanted. */
  most: number;
  /** Words that are never proposed, and names that are taken, in lower case. */
  relevant: readonly string[];
  taken: readonly string[];
  /** Whole weeks that hours rest on. */
  weeks: number;
}

/** A finding with what it would do. */
export type NightFinding = Does & { finding: Finding };
export type NightRow = Does & { row: QueueRow };

export interface NightFound {
  findings: NightFinding[];
  /** Beside those of terms and targets. */
  rows: NightRow[];
  /** Every campaign that ran, where stages are wanted. */
  budgets: BudgetRow[];
  /** Of the window. */
  sums: Sums;
}

interface Accounts {
  load: (
    edition: Pick<Edition, 'accountId' | 'figures'>,
    withTerms?: boolean,
  ) => Promise<LoadedAccount | null>;
}

/** An account on a night. */
interface Night {
  accountId: number;
  seen: LoadedAccount;
  loaded: Loaded;
  input: JudgeInput;
  past: PastGround;
  order: NightOrder;
}

const ofTargets: readonly RoutineKind[] = ['harvest', 'negate', 'bids'];
const ofTerms: readonly RoutineKind[] = ['words', 'conflicts'];

/** The account as it was known on a day, and with what was played until then. */
function seenOn(
  account: LoadedAccount,
  { known, changes }: NightOrder,
  day: Day,
  settledTo: Day,
  { played, words }: { played: readonly Played[]; words: ReadonlyMap<string, number> },
): { seen: LoadedAccount; then: AsOf } {
  const shares = new Map(known);
  const then = objectsAt(account.objects, changes, played, day);
  const past = { known: (one: Day) => shares.get(one) ?? 1, words, ...then };
  return { seen: account.asOf(day, settledTo, then.objects, past), then };
}

/** What words tell is learned for so many nights at most. */
const mostLearned = 40;

/** Judges accounts in memory as they were known on earlier nights. */
export class NightEngine {
  private readonly learned = new LRUCache<string, Promise<Map<string, number>>>({ max: mostLearned });

  constructor(
    private readonly sql: Database,
    private readonly accounts: Accounts,
  ) {}

  /** What a round would have found on a night, as JSON (`NightFound`); null while its window has no settled figures. */
  async night(edition: Edition, order: NightOrder): Promise<string | null> {
    const wants = (kinds: readonly RoutineKind[]) => kinds.some((kind) => order.kinds.includes(kind));
    const withTerms = order.narrowing.terms || wants(ofTerms);
    const account = await this.accounts.load(edition, withTerms);
    if (!account) return null;
    if (withTerms) await account.needPairs();
    const { day, settledTo, window, narrowing, played, most } = order;
    const words = withTerms ? await this.wordsOn(edition, account, order) : new Map<string, number>();
    const { seen, then } = seenOn(account, order, day, settledTo, { played, words });
    const { accountId } = edition;
    const loaded = await loadJudgeInput(this.sql, accountId, window, withTerms, seen);
    if (!loaded) return null;
    const frame = await seen.frame(loaded.settled, 'placements');
    const clicks = { targets: frame.targets.clicks, placements: frame.placements!.clicks };
    const past = pastGround(then, seen.past!.known, movesOf(played, then.stood, then.objects, clicks));
    const noTerms = { terms: [], quietTerms: new Map() };
    const input: JudgeInput = { ...loaded.input, ...(loaded.terms ?? noTerms) };
    const own: Night = { accountId, seen, loaded, input, past, order };
    // While one of them computes, others are read.
    const budgets = wants(['budgets', 'stages']) ? await this.budgets(own) : null;
    const rows = await Promise.all([
      wants(['budgets']) ? budgets!.found : [],
      wants(['placements']) ? this.placements(own) : [],
      wants(['hours']) ? this.hours(own) : [],
      wants(ofTerms) ? this.ofTerms(own) : [],
      wants(['structure', 'collections']) ? this.structure(own) : [],
    ]);
    const judged = { ...narrowed(input, narrowing), ...(loaded.terms ?? noTerms) };
    const places = {
      campaignOf: (id: string) => input.adGroups.get(id)!.campaignId,
      campaignsOf: () => [],
    };
    const findings = wants(ofTargets)
      ? joinQueues(judgeTargets(judged, most), judgeTerms(judged, most)).findings
      : [];
    return JSON.stringify({
      findings: findings
        .filter(({ proposal }) => proposal.kind !== 'wait' || proposal.held !== undefined)
        .map((finding): NightFinding => ({ finding, ...doesOf(linesOf(finding, {}, '', places)) })),
      rows: rows.flat().filter(({ row }) => order.kinds.includes(kindOfRow(row)!)),
      budgets: wants(['stages']) ? budgets!.rows : [],
      sums: total(input.targets),
    } satisfies NightFound);
  }

  /** What words told by the night on which they were to be learned; as it was kept, where that is from before. */
  private wordsOn(edition: Edition, account: LoadedAccount, order: NightOrder): Promise<Map<string, number>> {
    const { accountId, figures } = edition;
    const { day, settledTo, known } = order.learnedOn;
    const key = `${accountId}|${figures}|${day}`;
    let pending = this.learned.get(key);
    if (!pending) {
      const learn = async () => {
        const newest = await newestModel(this.sql, accountId);
        if (newest && newest.day <= day) return wordEffectsOf(this.sql, accountId);
        const { seen } = seenOn(account, { ...order, known }, day, settledTo, {
          played: [],
          words: new Map(),
        });
        const model = await modelOf(this.sql, accountId, day);
        const { itemCode } = limitsOf((await accountById(this.sql, accountId))!);
        return wordsOfAccount(seen, { goals: edition.goals, model }, itemCode);
      };
      pending = learn();
      this.learned.set(key, pending);
      pending.catch(() => this.learned.delete(key));
    }
    return pending;
  }

  private async placements({ accountId, seen, loaded, input, past }: Night): Promise<NightRow[]> {
    const { maximumModifier } = fieldLimitsOf(loaded.account);
    const { curve } = loaded.settling;
    const placed = await placedBy(this.sql, accountId, seen.objects, input, { curve, maximumModifier }, past);
    return placed.rows
      .filter(({ isFinding, isHeld }) => isFinding || isHeld)
      .map((row) => ({ row: placementQueueRow(row), ...doesOf(placedDrafts(placed, row)) }));
  }

  private async budgets({
    accountId,
    seen,
    loaded,
    input,
    past,
  }: Night): Promise<{ rows: BudgetRow[]; found: NightRow[] }> {
    const { minimumBudget } = fieldLimitsOf(loaded.account);
    const judged = await budgetsBy(this.sql, accountId, seen.objects, input, minimumBudget, past);
    // What bids may spend goes by the time that budgets which were played leave.
    for (const [id, { budget }] of past.moves) {
      const shown = judged.rows.get(id)?.shown;
      if (budget !== null && shown != null)
        input.budgets = { ...input.budgets!, shown: new Map(input.budgets!.shown).set(id, shown) };
    }
    const rows = [...judged.rows.values()];
    const found = rows
      .filter(({ isFinding, isHeld }) => isFinding || isHeld)
      .map((row) => {
        const { chosen } = row.proposal!;
        const does = doesOf(budgetDraftsBy(judged, row, chosen));
        // A budget that is answered by lower bids is decided upon as it stands.
        const stays = { entity: 'campaign', objectId: row.campaignId, field: 'daily_budget' };
        if (chosen.kind === 'lower_bids') does.played.push({ ...stays, value: String(row.budget) });
        return { row: budgetQueueRow(row), ...does };
      });
    return { rows, found };
  }

  private async hours({ accountId, seen, loaded, input, past, order }: Night): Promise<NightRow[]> {
    const about = {
      curve: loaded.settling.curve,
      weeks: order.weeks,
      minimumBid: input.guards.minimumBid,
    };
    const judged = await hoursBy(this.sql, accountId, seen.objects, input, about, past);
    return judged.rows
      .filter(({ isFinding, isHeld }) => isFinding || isHeld)
      .map((row) => ({
        row: hoursQueueRow(row, judged.weeks),
        ...doesOf(hoursDrafts(judged, row, row.proposal!.schedule, null)),
      }));
  }

  private async ofTerms({ seen, loaded, input, order }: Night): Promise<NightRow[]> {
    const { settled, model, account } = loaded;
    const { objects, today } = seen;
    const frame = await seen.frame(settled, 'pairs');
    const evidence = await seen.evidenceFor(settled, 'pairs');
    const pairs = seen.pairs!;
    const table = new AccountTable({
      today,
      objects,
      pairs,
      goals: input.goals,
      frames: new Map([['', frame]]),
      evidence: { ...evidence, present: await seen.presentAt(model.response, settled) },
      model: { ...model, words: seen.past!.words },
    });
    const runs = runningOn(objects, today);
    const ground = { table, objects, runs, pairs, window: frame.pairs!, evidence: evidence.pairs! };
    const matcher = new AccountMatcher(objects, runs);
    const itemCode = new RegExp(limitsOf(account).itemCode, 'iu');
    const days = windowDays(settled);
    const words = await wordFindings(
      { ...ground, matcher, targetClicks: frame.targets.clicks },
      new Set(order.relevant),
      itemCode,
      days,
    );
    const marginOf = (sku: string | null) =>
      sku === null ? null : (input.products.get(sku)?.margin ?? null);
    const wordDrafts = (row: QueueRow, belief: Belief): LineDraft[] => {
      const isInside = (adGroup: number) =>
        runs.adGroup(adGroup) && objects.adGroups[adGroup]!.sku === row.sku;
      const places = phrasePlaces(ground, new Set([row.subject]), isInside, today).get(row.subject)!;
      return [...places].map((at, first) => {
        const { id: adGroupId, campaign } = objects.adGroups[at]!;
        return negativeLine(
          { campaignId: objects.campaigns[campaign]!.id, adGroupId },
          { matchType: 'negative_phrase', expression: row.subject },
          {
            reason: '',
            effect: first === 0 ? phraseEffect({ ...row.sums!, belief }, days, 1, marginOf(row.sku)) : null,
          },
        );
      });
    };
    return [
      ...words.map(({ row, belief }) => ({ row, ...doesOf(wordDrafts(row, belief)) })),
      ...findConflicts({ ...ground, matcher, days, itemCode }).map((conflict) => ({
        row: conflictQueueRow(conflict),
        ...doesOf(conflict.drafts),
      })),
    ];
  }

  private async structure({ accountId, seen, loaded, input, order }: Night): Promise<NightRow[]> {
    const stock = await stockOn(this.sql, accountId, order.day);
    const products = seen.objects.products.map((one) => ({ ...one, stock: stock.get(one.sku) ?? null }));
    const found = await structureBy(this.sql, accountId, { ...seen.objects, products }, input, {
      minimumBudget: fieldLimitsOf(loaded.account).minimumBudget,
      taken: order.taken,
    });
    return found.map((one) => ({ row: structureQueueRow(one), ...doesOf(one.drafts) }));
  }
}
