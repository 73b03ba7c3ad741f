import { savedLanes } from '../account/lanes.queries.ts';
import { settledWindow } from '../account/window.ts';
import { limitsOf } from '../account/limits.ts';
import { goalRows, thetaRows, type GoalRow } from '../goals/queries.ts';
import { ruledTargets, setGoalsOf, startOfScope } from '../goals/set-goals.ts';
import { termRows, type RowsByPlace } from '../../core/round/rows.ts';
import { scopeName, type SetGoal } from '../../core/goals/goals.ts';
import type { Micros } from '../../core/metrics/money.ts';
import { changeName } from '../../core/account/as-of.ts';
import { runningOn } from '../../core/account/running.ts';
import { windowDays, windowEnding, type Day, type Window } from '../../core/metrics/days.ts';
import { evidenceDays } from '../../core/metrics/weights.ts';
import { type Model } from '../../core/effect/model.ts';
import { adGroupInfos, productInfos } from '../../core/account/rows.ts';
import { targetsByPlace } from '../../core/account/views.ts';
import type { Objects } from '../../core/account/store.ts';
import type { Budget, Budgets } from '../../core/round/budgets.ts';
import type { TargetsInput, TermsInput } from '../../core/round/types.ts';
import { mostLaneDays, type Lane } from '../../core/lanes/lanes.ts';
import { settling, type Settling } from '../account/account.ts';
import { accountById, type Account } from '../account/queries.ts';
import type { Database } from '../db/connection.ts';
import { LoadedAccount } from '../memory/load.ts';
import type { LaneSpan } from '../memory/present.ts';
import { spendDays, testsRunning } from '../testing/index.ts';
import { wideningNow } from '../forecasts/forecasts.ts';
import type { BudgetRule } from '../../core/budgets/rules.ts';
import { budgetRules } from '../account/budgets.queries.ts';
import { shownTime } from '../facts/hours.queries.ts';
import { defaultBidChanges, wordEffectsOf, modelOf } from '../account/model.queries.ts';

/** Days whose hours tell how long budgets last. */
const budgetDays = 14;

/** Budgets of campaigns, of their groups, and what campaigns may spend together by a rule. */
function budgetsOf(
  { campaigns, adGroups, budgetGroups }: Objects,
  shown: ReadonlyMap<string, number>,
  rules: readonly BudgetRule[],
): Budgets {
  const all: Budget[] = campaigns.flatMap(({ id, fields }) => {
    const daily = Number(fields.daily_budget ?? 0);
    return daily > 0 ? [{ daily, campaignIds: [id] }] : [];
  });
  for (const { id, dailyBudget } of budgetGroups) {
    const campaignIds = campaigns.filter(({ budgetGroup }) => budgetGroup === id).map((one) => one.id);
    if (dailyBudget !== null && campaignIds.length > 0) all.push({ daily: dailyBudget, campaignIds });
  }
  const skuOf = new Map<number, string | null>();
  for (const { campaign, sku } of adGroups) if (!skuOf.has(campaign)) skuOf.set(campaign, sku);
  for (const { scope, object, total } of rules) {
    if (total === null) continue;
    const campaignIds = campaigns.flatMap(({ id, budgetGroup }, at) =>
      scope === 'account' || (scope === 'product' ? skuOf.get(at) === object : budgetGroup === object)
        ? [id]
        : [],
    );
    if (campaignIds.length > 0) all.push({ daily: total, campaignIds });
  }
  return { all, shown };
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

export interface Loaded {
  account: Account;
  today: Day;
  settling: Settling;
  settled: Window;
  input: TargetsInput;
  model: Model;
  /** Null when none were asked for. */
  terms: TermsInput | null;
}

/**
 * What judging needs, out of the account in memory; null while the account has no settled figures in the window.
 * `memory`: the account as it was opened before; left out, it is opened.
 */
export async function loadJudgeInput(
  sql: Database,
  accountId: number,
  window: Window,
  withTerms: boolean,
  memory?: LoadedAccount,
): Promise<Loaded | null> {
  const account = await accountById(sql, accountId);
  if (!account || account.today === null) return null;
  const opened = memory ?? (await LoadedAccount.open(sql, accountId, withTerms));
  if (!opened) return null;
  if (withTerms) void opened.needPairs();
  const { today, objects } = opened;
  const { past } = opened;
  const until = past ? today : null;
  const settled = { ...(await settling(sql, account)), ...(past ? { settledTo: opened.settledTo } : {}) };
  const judged = settledWindow(window, settled.settledTo);
  if (!judged) return null;
  const { guards, ...limits } = limitsOf(account);
  const model = await modelOf(sql, accountId, until);
  const lanes = await savedLanes(sql, accountId);
  const runs = runningOn(objects, today);
  const infos = adGroupInfos(objects, runs, await opened.modifiers(judged));
  const adGroups = new Map(infos.map((info) => [info.adGroupId, info]));
  // Only where an ad group's bid is that of its targets does it matter when it was changed.
  if (objects.targets.some(({ bid }) => bid === null)) {
    const changed = past ? null : await defaultBidChanges(sql, accountId);
    for (const info of infos) {
      const day = changed
        ? changed.get(info.adGroupId)
        : past?.changedOn.get(changeName('ad_group', info.adGroupId, 'default_bid'));
      if (day !== undefined) info.defaultBidChangedOn = day;
    }
  }
  const frame = await opened.frame(judged, null);
  const byPlace = targetsByPlace(objects, runs, {
    sums: frame.targets,
    highestCpc: frame.highestCpc,
    evidence: (await opened.evidenceFor(judged, null)).targets,
    present: await opened.present(model.response, judged),
    fresh: await opened.fresh(await longestCooldown(sql, accountId, guards.cooldownDays)),
  });
  const targets = byPlace.filter((row) => row !== undefined);
  const evidence = windowEnding(judged.to, evidenceDays);
  const products = productInfos(objects);
  const input: TargetsInput = {
    today,
    window: judged,
    evidence,
    settledDays: windowDays(judged),
    adGroups,
    products,
    targets,
    negatives: objects.negatives
      .filter(({ status }) => status === 'enabled')
      .map(({ id, campaign, adGroup, matchType, expression }) => ({
        id,
        campaignId: objects.campaigns[campaign]!.id,
        adGroupId: adGroup === null ? null : objects.adGroups[adGroup]!.id,
        matchType,
        expression,
      })),
    lanes,
    goals: await goalsWithTheta(
      sql,
      accountId,
      { adGroups, products, targets, mixes: objects.mixes },
      { until },
    ),
    mixes: objects.mixes,
    guards,
    limits,
    response: model.response,
    responses: new Map(Object.entries(model.responses)),
    drift: model.drift,
    valueWeight: model.valueWeight,
    budgets: budgetsOf(
      objects,
      await shownTime(sql, accountId, windowEnding(today, budgetDays)),
      await budgetRules(sql, accountId),
    ),
    kappa: model.check?.kappaCounts ? model.check.kappa : 1,
    widening: await wideningNow(sql, accountId),
    words: past?.words ?? (await wordEffectsOf(sql, accountId)),
    testing: {
      spend:
        account.testing_share > 0 ? account.testing_share * (await usualWeek(opened, settled.settledTo!)) : 0,
      running: await testsRunning(sql, accountId, today),
    },
  };
  const rows = { adGroups: infos, targets: byPlace };
  const terms = withTerms ? await termsOf(opened, judged, rows, laneSpans(lanes, evidence)) : null;
  return { account, today, settling: settled, settled: judged, input, model, terms };
}

/** Spend of a usual week, micros. */
async function usualWeek(memory: LoadedAccount, settledTo: Day): Promise<Micros> {
  const { targets } = await memory.frame(windowEnding(settledTo, spendDays), null);
  return (targets.spend.reduce((sum, spend) => sum + spend, 0) / spendDays) * 7;
}

async function termsOf(
  memory: LoadedAccount,
  window: Window,
  rows: RowsByPlace,
  spans: readonly LaneSpan[] | null,
): Promise<TermsInput> {
  const frame = await memory.frame(window, 'pairs');
  const { pairs } = await memory.evidenceFor(window, 'pairs');
  const lanes = spans && (await memory.laneCounts(window, spans));
  const figures = { sums: frame.pairs!, highestCpc: frame.pairsHighestCpc, evidence: pairs!, lanes };
  return termRows(memory.objects, memory.pairs!, figures, rows);
}

/** The longest cooldown that any scope asks for, days: so long changes are remembered. */
async function longestCooldown(sql: Database, accountId: number, usual: number): Promise<number> {
  const rows = await goalRows(sql, accountId);
  return Math.max(usual, ...rows.map(({ guards }) => guards?.cooldownDays ?? 0));
}

/** Goals with the theta steered for them. A scope without one has what it would start with; looking keeps nothing. */
export async function goalsWithTheta(
  sql: Database,
  accountId: number,
  { adGroups, products, targets, mixes }: Pick<TargetsInput, 'adGroups' | 'products' | 'targets' | 'mixes'>,
  /** A goal in place of the one that is kept; thetas as they stood on a day. */
  { moved = null, until = null }: { moved?: GoalRow | null; until?: Day | null } = {},
): Promise<SetGoal[]> {
  const kept = await goalRows(sql, accountId);
  const rows = moved ? [...kept.filter((row) => scopeName(row) !== scopeName(moved)), moved] : kept;
  const thetas = await thetaRows(sql, accountId, until);
  const account = rows.find(({ scope }) => scope === 'account')!;
  let ruled: ReturnType<typeof ruledTargets> | null = null;
  return setGoalsOf(rows, thetas, (row) => {
    ruled ??= ruledTargets(rows, adGroups, products, targets, mixes);
    return startOfScope(row, ruled.get(scopeName(row)) ?? [], adGroups, account.target_acos!);
  });
}
