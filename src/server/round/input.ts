import { defaultGuards } from '../../core/bids/guards.ts';
import { paidPerBid, startTheta } from '../../core/bids/evidence.ts';
import {
  addDays,
  daysBetween,
  windowDays,
  windowEnding,
  type Day,
  type Window,
} from '../../core/metrics/days.ts';
import { significant, percent } from '../../core/metrics/format.ts';
import { decay, maturity } from '../../core/metrics/maturity.ts';
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
import {
  adGroupsOf,
  goalRows,
  insertTheta,
  modifiersOf,
  negativesOf,
  thetaRows,
  type GoalRow,
} from './queries.ts';
import { savedLanes } from '../lanes/queries.ts';
import { targetRows, termRows, type DayWeight, type LaneSpan } from './sums.queries.ts';

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

/** Days that evidence is drawn from: the season before the window's end. With a half-life of 45 days the rest is faint. */
const evidenceDays = 90;

/** Weights of the days of evidence: decay counts from their end, maturity from today. */
export function dayWeights(
  evidence: Window,
  window: Window,
  today: Day,
  curve: readonly number[],
): DayWeight[] {
  return Array.from({ length: Math.max(0, windowDays(evidence)) }, (_, i) => {
    const day = addDays(evidence.from, i);
    const fade = decay(daysBetween(day, evidence.to));
    const inside = day >= window.from && day <= window.to;
    return { day, n: maturity(curve, daysBetween(day, today)) * fade, y: fade, inside };
  });
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

export interface Loaded {
  account: Account;
  today: Day;
  settling: Settling;
  settled: Window;
  input: TargetsInput;
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

  const lanes = await savedLanes(sql, accountId);
  const terms = withTerms
    ? termRows(sql, accountId, judged, evidence, weights, laneSpans(lanes, evidence))
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
  const targets = await targetRows(sql, accountId, judged, evidence, weights, {
    from: freshFrom,
    weights: freshWeights,
  });
  const goals = await goalsWithTheta(sql, accountId, today, adGroups, targets);
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
  };
  return { account, today, settling: settled, settled: judged, input, terms };
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

/** Goals with the theta steered for them; a scope without one starts at target / rho, and keeps that. */
async function goalsWithTheta(
  sql: Database,
  accountId: number,
  today: Day,
  adGroups: ReadonlyMap<string, AdGroupInfo>,
  targets: readonly TargetRow[],
): Promise<Goal[]> {
  const rows = await goalRows(sql, accountId);
  const thetas = new Map((await thetaRows(sql, accountId)).map((row) => [`${row.scope}:${row.key}`, row]));
  const goals: Goal[] = [];
  for (const row of rows) {
    const known = thetas.get(`${row.scope}:${row.key}`);
    // A goal that was moved moves its theta in proportion; steering goes on from there.
    let theta = known ? (known.theta * row.target_acos) / known.target_acos : 0;
    if (!known) {
      let spend = 0;
      let bids = 0;
      for (const target of targetsInScope(row, rows, adGroups, targets)) {
        if (target.bid === null) continue;
        spend += target.sinceSpend;
        bids += target.sinceClicks * target.bid * adGroups.get(target.adGroupId)!.modifier;
      }
      const rho = paidPerBid(spend, bids);
      theta = startTheta(row.target_acos, rho);
      const reason = `Start: ${percent(row.target_acos)} ÷ ${significant(rho)} paid per bid.`;
      const { scope, key, target_acos } = row;
      await insertTheta(sql, accountId, { scope, key, day: today, theta, target_acos, reason });
    }
    goals.push({
      scope: row.scope,
      key: row.key,
      targetAcos: row.target_acos,
      bidFloor: row.bid_floor,
      bidCeiling: row.bid_ceiling,
      theta,
    });
  }
  return goals.sort((a) => (a.scope === 'account' ? -1 : 1));
}
