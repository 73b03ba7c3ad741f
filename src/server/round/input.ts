import { defaultGuards } from '../../core/bids/guards.ts';
import { paidPerBid, startFactor, thetaAt } from '../../core/bids/theta.ts';
import {
  addDays,
  daysBetween,
  windowDays,
  windowEnding,
  type Day,
  type Window,
} from '../../core/metrics/days.ts';
import { significant, percent } from '../../core/metrics/format.ts';
import { maturity } from '../../core/metrics/maturity.ts';
import { daysOutOfStock } from '../../core/metrics/out-of-stock.ts';
import { dayWeights, evidenceDays, presentDays, presentWeight } from '../../core/metrics/weights.ts';
import { emptyModel, type Model } from '../../core/round/model.ts';
import { micros } from '../../core/metrics/money.ts';
import type {
  AdGroupInfo,
  Goal,
  Limits,
  ProductInfo,
  TargetRow,
  TargetsInput,
  TermsInput,
} from '../../core/round/types.ts';
import { mostLaneDays, type Lane } from '../../core/terms/lanes.ts';
import { marginOf, settling, type Settling } from '../account/index.ts';
import { accountById, productsOf, type Account } from '../account/queries.ts';
import type { Database } from '../db/connection.ts';
import { adGroupsOf, goalRows, modifiersOf, negativesOf, thetaRows, type GoalRow } from './queries.ts';
import { savedLanes } from '../lanes/queries.ts';
import { wideningNow } from '../forecasts/index.ts';
import { blockedSums, type BlockedSums } from './blocked.queries.ts';
import { advertised, newestModel, productDays, toldDays, wordEffectsOf } from './learning.queries.ts';
import { targetRows, termRows, type LaneSpan, type OutOfStock, type PresentDay } from './sums.queries.ts';

/** What the marketplace of the account allows; plain defaults while only files are loaded. */
export function limitsOf(account: Account): Limits & { guards: typeof defaultGuards } {
  const limits = account.limits as Record<string, number | string | undefined>;
  return {
    characters: Number(limits.keyword_characters ?? 90),
    words: Number(limits.keyword_words ?? 10),
    pattern: String(limits.keyword_pattern ?? "^[\\p{L}\\p{N} '\\-&.+]+$"),
    itemCode: String(limits.item_code_pattern ?? '^[A-Z0-9]{8,12}$'),
    guards: {
      ...defaultGuards,
      step: micros(Number(limits.bid_step ?? 0.01)),
      minimumBid: micros(Number(limits.minimum_bid ?? 0.03)),
      maximumBid: micros(Number(limits.maximum_bid ?? 60)),
    },
  };
}

/** First days that lanes of each ad group count from; null when all of them count over all days of evidence. */
function laneSpans(lanes: readonly Lane[] | null, evidence: Window): LaneSpan[] | null {
  if (!lanes?.some(({ days }) => days < mostLaneDays)) return null;
  const spans = new Map<string, LaneSpan>();
  for (const { source, kind, days } of lanes) {
    const { from } = windowEnding(evidence.to, days);
    const span = spans.get(source) ?? { ad_group_id: source, keyword: evidence.from, item: evidence.from };
    spans.set(source, { ...span, [kind]: from });
  }
  return [...spans.values()];
}

/** The part of a window that is settled; null when nothing of it is. */
export function settledWindow(window: Window, settledTo: Day | null): Window | null {
  if (settledTo === null || settledTo < window.from) return null;
  return { from: window.from, to: window.to < settledTo ? window.to : settledTo };
}

/** What was learned of the account last; what is usual before. */
export async function modelOf(sql: Database, accountId: number): Promise<Model> {
  const newest = await newestModel(sql, accountId);
  return { ...emptyModel, ...(newest?.body as Partial<Model> | undefined) };
}

/** Days on which nothing that an ad group advertises could be sold (guide, section 4). */
export async function outOfStock(sql: Database, accountId: number, days: Window): Promise<OutOfStock[]> {
  const bySku = new Map<string, Awaited<ReturnType<typeof productDays>>>();
  for (const row of await productDays(sql, accountId, days.from, days.to))
    bySku.set(row.sku, [...(bySku.get(row.sku) ?? []), row]);
  const out = new Map([...bySku].map(([sku, rows]) => [sku, new Set(daysOutOfStock(rows))]));
  if (![...out.values()].some((found) => found.size > 0)) return [];
  const skus = new Map<string, string[]>();
  for (const { ad_group_id, sku } of await advertised(sql, accountId))
    skus.set(ad_group_id, [...(skus.get(ad_group_id) ?? []), sku]);
  return [...skus].flatMap(([ad_group_id, [first, ...others]]) =>
    [...(out.get(first!) ?? [])]
      .filter((day) => others.every((sku) => out.get(sku)?.has(day)))
      .map((day) => ({ ad_group_id, day })),
  );
}

/** Which of the last days tell about the present, of those that reports have told. */
async function presentWeights(sql: Database, accountId: number, today: Day): Promise<PresentDay[]> {
  const from = addDays(today, 1 - presentDays);
  const told = await toldDays(sql, accountId, from, today);
  return Array.from({ length: presentDays }, (_, i) => addDays(from, i))
    .filter((day) => told.has(day))
    .map((day) => ({ day, w: presentWeight(daysBetween(day, today)) }));
}

/** Takes what a negative keeps away by now out of a target's evidence and its present, in place. */
export function leaveOutBlocked(row: TargetRow, sums: BlockedSums): void {
  const less = (from: number, by: number) => Math.max(0, from - by);
  row.n = less(row.n, sums.n);
  row.y = less(row.y, sums.y);
  row.seenClicks = less(row.seenClicks, sums.clicks);
  row.seenOrders = less(row.seenOrders, sums.orders);
  row.seenSpend = less(row.seenSpend, sums.spend);
  row.seenSales = less(row.seenSales, sums.sales);
  const { present } = row;
  if (present.clicks <= 0) return;
  const left = less(present.clicks, sums.presentClicks) / present.clicks;
  present.clicks *= left;
  present.priced *= left;
  present.spend = less(present.spend, sums.presentSpend);
}

export interface Loaded {
  account: Account;
  today: Day;
  settling: Settling;
  settled: Window;
  input: TargetsInput;
  model: Model;
  out: OutOfStock[];
  /** Still being read while the targets are there to be judged; null when none were asked for. */
  terms: Promise<TermsInput> | null;
}

/** Reads what judging needs; null while the account has no settled figures in the window. */
export async function loadJudgeInput(
  sql: Database,
  accountId: number,
  window: Window,
  withTerms: boolean,
): Promise<Loaded | null> {
  const account = await accountById(sql, accountId);
  if (!account || account.today === null) return null;
  const { today } = account;
  const settled = await settling(sql, account);
  const judged = settledWindow(window, settled.settledTo);
  if (!judged) return null;
  const { guards, ...limits } = limitsOf(account);
  const long = windowEnding(judged.to, evidenceDays);
  const evidence = long.from < judged.from ? long : judged;
  const weights = dayWeights(evidence, judged, today, settled.curve);
  const freshFrom = addDays(today, -guards.cooldownDays - 1);
  const fresh = { from: freshFrom, to: today };
  const freshWeights = dayWeights(fresh, fresh, today, settled.curve).map((weight) => ({
    ...weight,
    n: maturity(settled.curve, daysBetween(weight.day, today)),
  }));

  const model = await modelOf(sql, accountId);
  const out = await outOfStock(sql, accountId, evidence);
  const lanes = await savedLanes(sql, accountId);
  const terms = withTerms
    ? termRows(sql, accountId, judged, evidence, weights, laneSpans(lanes, evidence), out)
    : null;
  // Should the targets fail first, nobody is there to hear of the terms.
  terms?.catch(() => undefined);
  const groups = await adGroupsOf(sql, accountId, today);
  const modifiers = new Map(
    (await modifiersOf(sql, accountId, judged)).map((row) => [row.campaign_id, row.modifier]),
  );
  const adGroups = new Map<string, AdGroupInfo>();
  for (const row of groups) {
    adGroups.set(String(row.ad_group_id), {
      adGroupId: String(row.ad_group_id),
      name: row.name,
      campaignId: String(row.campaign_id),
      campaign: row.campaign,
      automatic: row.campaign_kind === 'automatic',
      sku: row.sku,
      enabled: row.enabled,
      archived: row.archived,
      modifier: modifiers.get(row.campaign_id) ?? 1,
    });
  }
  const products = new Map<string, ProductInfo>();
  for (const row of await productsOf(sql, accountId)) {
    products.set(row.sku, { sku: row.sku, title: row.title, price: row.price, margin: marginOf(row) });
  }
  const present = await presentWeights(sql, accountId, today);
  const targets = await targetRows(
    sql,
    accountId,
    judged,
    evidence,
    weights,
    { from: freshFrom, weights: freshWeights },
    present,
    model.response,
    out,
  );
  const blocked = await blockedSums(sql, accountId, weights, present, out, today);
  const byId = new Map(targets.map((row) => [row.targetId, row]));
  for (const sums of blocked) {
    const row = byId.get(sums.targetId);
    if (row) leaveOutBlocked(row, sums);
  }
  const goals = await goalsWithTheta(sql, accountId, adGroups, targets);
  const input: TargetsInput = {
    today,
    window: judged,
    evidence,
    settledDays: windowDays(judged),
    adGroups,
    products,
    targets,
    negatives: await negativesOf(sql, accountId),
    lanes,
    goals,
    guards,
    limits,
    response: model.response,
    responses: new Map(Object.entries(model.responses)),
    drift: model.drift,
    kappa: model.check?.kappaCounts ? model.check.kappa : 1,
    widening: await wideningNow(sql, accountId),
    words: await wordEffectsOf(sql, accountId),
  };
  return { account, today, settling: settled, settled: judged, input, model, out, terms };
}

const inScope = (goal: GoalRow, all: GoalRow[], adGroup: AdGroupInfo): boolean => {
  const has = (scope: string, key: string | null) =>
    all.some((one) => one.scope === scope && one.key === key);
  if (goal.scope === 'campaign') return goal.key === adGroup.campaignId;
  if (has('campaign', adGroup.campaignId)) return false;
  if (goal.scope === 'product') return goal.key === adGroup.sku;
  return !has('product', adGroup.sku);
};

/** The targets that one goal rules: those that no narrower goal claims. */
export function targetsInScope(
  goal: GoalRow,
  all: GoalRow[],
  adGroups: ReadonlyMap<string, AdGroupInfo>,
  targets: readonly TargetRow[],
): TargetRow[] {
  return targets.filter((target) => {
    const adGroup = adGroups.get(target.adGroupId);
    return adGroup !== undefined && inScope(goal, all, adGroup);
  });
}

/**
 * Theta at the start of a scope, and the sentence that says why. Kept as it is, and held at 1 where it is used: a goal
 * moved down again starts from what it would have been.
 */
export function startOf(
  goal: GoalRow,
  all: GoalRow[],
  adGroups: ReadonlyMap<string, AdGroupInfo>,
  targets: readonly TargetRow[],
): { theta: number; reason: string } {
  let spend = 0;
  let bids = 0;
  for (const { bid, present, adGroupId } of targetsInScope(goal, all, adGroups, targets)) {
    if (bid === null) continue;
    spend += present.spend;
    bids += present.priced * bid * adGroups.get(adGroupId)!.modifier;
  }
  const rho = paidPerBid(spend, bids);
  return {
    theta: (startFactor * goal.target_acos) / rho,
    reason: `Start: ${startFactor} × ${percent(goal.target_acos)} ÷ ${significant(rho)} paid per bid.`,
  };
}

/** Goals with the theta steered for them. A scope without one has what it would start with; looking keeps nothing. */
async function goalsWithTheta(
  sql: Database,
  accountId: number,
  adGroups: ReadonlyMap<string, AdGroupInfo>,
  targets: readonly TargetRow[],
): Promise<Goal[]> {
  const rows = await goalRows(sql, accountId);
  const thetas = new Map((await thetaRows(sql, accountId)).map((row) => [`${row.scope}:${row.key}`, row]));
  const goals = rows.map((row): Goal => {
    const known = thetas.get(`${row.scope}:${row.key}`) ?? {
      theta: startOf(row, rows, adGroups, targets).theta,
      target_acos: row.target_acos,
    };
    return {
      scope: row.scope,
      key: row.key,
      targetAcos: row.target_acos,
      bidFloor: row.bid_floor,
      bidCeiling: row.bid_ceiling,
      stance: row.stance,
      theta: thetaAt(known, row.target_acos, row.above_one).theta,
    };
  });
  return goals.sort((a) => (a.scope === 'account' ? -1 : 1));
}
