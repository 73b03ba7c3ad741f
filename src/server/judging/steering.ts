import { goalRows, insertThetas, thetaRows, type ThetaRow } from '../goals/queries.ts';
import { meanTarget, ruledTargets, startOfScope } from '../goals/set-goals.ts';
import { scopeName } from '../../core/goals/goals.ts';
import { paidPerBidByCampaign, usualPaidPerBid } from '../../core/evidence/present-cpc.ts';
import { addToScope, noSums, steerTheta, thetaAt, type Steered } from '../../core/goals/theta.ts';
import { revenue } from '../../core/evidence/verdict.ts';
import { addDays, daysBetween, windowEnding, type Day } from '../../core/metrics/days.ts';
import type { Micros } from '../../core/metrics/money.ts';
import { percent, significant } from '../../core/metrics/format.ts';
import { Pool } from '../../core/evidence/pooling.ts';
import { beliefOf } from '../../core/round/targets.ts';
import type { TargetsInput } from '../../core/round/types.ts';
import { accountById, touchGoals } from '../account/queries.ts';
import type { Database } from '../db/connection.ts';
import type { LoadedAccount } from '../memory/load.ts';
import { loadJudgeInput } from './input.ts';
import { clicksSince } from '../account/model.queries.ts';

/** Expected sales per click of every target, micros: the same belief that its bid is judged by. */
function revenuePerClick(input: TargetsInput): Map<string, number> {
  const pool = new Pool(input.products, input, input.mixes);
  for (const row of input.targets) {
    const adGroup = input.adGroups.get(row.adGroupId);
    if (adGroup) pool.add(adGroup, row);
  }
  const rhos = paidPerBidByCampaign(input.targets, input.adGroups);
  return new Map(
    input.targets.map((row) => {
      const adGroup = input.adGroups.get(row.adGroupId);
      if (!adGroup) return [row.targetId, 0];
      const rho = rhos.get(adGroup.campaignId) ?? usualPaidPerBid;
      return [row.targetId, revenue(beliefOf(row, pool.of(adGroup), adGroup.modifier, rho))];
    }),
  );
}

/** What a round of steering came to, in words. */
function reasonOf(
  { theta, outcome, expectedAcos, inForce }: Steered,
  before: number,
  targetAcos: number,
): string {
  const runs = `It runs at ${percent(expectedAcos)} against ${percent(targetAcos)}`;
  switch (outcome) {
    case 'steered':
      return `${runs}: a bid may now be ${significant(theta)} of its revenue per click instead of ${significant(before)}.`;
    case 'not in force':
      if (expectedAcos! > targetAcos)
        return `${runs} by bids that stand far above ${significant(before)} of their revenue per click: it need not fall, their cuts need to be sent.`;
      return `${runs}, and bids stand at ${significant(inForce!)} of their revenue per click, not yet at ${significant(before)}: it rises once more of them are sent.`;
    case 'wants confirmation':
      return `${runs}: a bid would go above its own revenue per click. That wants your confirmation once, in Goals; until then it stays at ${significant(theta)}.`;
    case 'too little':
      return `Too little since the last round: it stays at ${significant(theta)}.`;
  }
}

/** What a target did since a day, with its place's modifier and target. */
interface Told {
  clicks: number;
  spend: Micros;
  bids: number;
  modifier: number;
  targetAcos: number;
  expectedSales: Micros;
}

/** What the targets of every scope did after a day; read once for each such day, however many scopes there are. */
function clicksByScope(
  sql: Database,
  accountId: number,
  today: Day,
  { adGroups }: Pick<TargetsInput, 'adGroups'>,
  ruled: ReturnType<typeof ruledTargets>,
  rpc: ReadonlyMap<string, number>,
): (day: Day) => Promise<Map<string, Told[]>> {
  const places = new Map<string, { scope: string; modifier: number; targetAcos: number }>();
  for (const [scope, targets] of ruled)
    for (const { row, targetAcos } of targets)
      places.set(row.targetId, { scope, targetAcos, modifier: adGroups.get(row.adGroupId)!.modifier });
  const known = new Map<Day, Promise<Map<string, Told[]>>>();
  const read = async (day: Day) => {
    const found = new Map<string, Told[]>();
    for (const { targetId, ...one } of await clicksSince(sql, accountId, addDays(day, 1), today)) {
      const place = places.get(targetId);
      if (!place) continue;
      const { scope, ...about } = place;
      const told = { ...one, ...about, expectedSales: one.clicks * (rpc.get(targetId) ?? 0) };
      const own = found.get(scope);
      if (own) own.push(told);
      else found.set(scope, [told]);
    }
    return found;
  };
  return (day) => {
    let pending = known.get(day);
    if (!pending) known.set(day, (pending = read(day)));
    return pending;
  };
}

/**
 * One round of steering for every scope whose last one is at least 7 days old, and the start for those that have none
 * (domain, section 6.3). Called after figures came in, never by a look.
 */
export async function steerThetas(sql: Database, accountId: number, memory?: LoadedAccount): Promise<void> {
  const account = await accountById(sql, accountId);
  if (!account?.today) return;
  const { today } = account;
  const rows = await goalRows(sql, accountId);
  const goals = rows.filter(({ objective }) => objective === 'acos' || objective === 'margin');
  const known = new Map((await thetaRows(sql, accountId)).map((row) => [scopeName(row), row]));
  const due = goals.filter((goal) => {
    const last = known.get(scopeName(goal));
    return !last || daysBetween(last.day, today) >= 7;
  });
  if (due.length === 0) return;
  const loaded = await loadJudgeInput(sql, accountId, windowEnding(today, 60), false, memory);
  if (!loaded) return;
  const { adGroups, products, targets, mixes } = loaded.input;
  const usual = rows.find(({ scope }) => scope === 'account')!.target_acos!;
  const ruled = ruledTargets(rows, adGroups, products, targets, mixes);
  const rpc = revenuePerClick(loaded.input);
  const clicked = clicksByScope(sql, accountId, today, loaded.input, ruled, rpc);
  const steered: ThetaRow[] = [];
  for (const goal of due) {
    const { scope, key } = goal;
    const own = ruled.get(scopeName(goal)) ?? [];
    const last = known.get(scopeName(goal));
    const row = { scope, key, day: today };
    if (!last) {
      const start = startOfScope(goal, own, adGroups, usual);
      steered.push({ ...row, ...start, expected_acos: null, in_force: null, outcome: 'start' });
      continue;
    }
    const since = noSums(daysBetween(last.day, today));
    const told = (await clicked(last.day)).get(scopeName(goal)) ?? [];
    const target_acos =
      goal.objective === 'acos'
        ? goal.target_acos!
        : meanTarget(
            told.map(({ targetAcos, expectedSales }) => ({ targetAcos, weight: expectedSales })),
            last.target_acos,
          );
    const before = thetaAt(last, target_acos, goal.above_one).theta;
    for (const { clicks, spend, bids, modifier, expectedSales } of told)
      addToScope(since, before, { clicks, spend, bids: bids * modifier, expectedSales });
    const result = steerTheta(before, target_acos, since, goal.above_one);
    // Days that told too little go on to count in the next round.
    if (result.outcome === 'too little') continue;
    steered.push({
      ...row,
      target_acos,
      theta: result.theta,
      reason: reasonOf(result, before, target_acos),
      expected_acos: result.expectedAcos,
      in_force: result.inForce,
      outcome: result.outcome,
    });
  }
  if (steered.length === 0) return;
  await insertThetas(sql, accountId, steered);
  await touchGoals(sql, accountId);
}
