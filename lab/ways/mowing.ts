import { paidPerBidByCampaign } from '../../src/core/evidence/present-cpc.ts';
import type { AdGroupInfo } from '../../src/core/account/rows.ts';
import { defaultGuards } from '../../src/core/bids/guards.ts';
import { addToScope, noSums, paidPerBid, startTheta, steerTheta } from '../../src/core/goals/theta.ts';
import { learnAccountResponse, responseOf, type BidChange } from '../../src/core/effect/learn-response.ts';
import type { Response } from '../../src/core/effect/response.ts';
import { mean, quantileOf } from '../../src/core/evidence/gamma.ts';
import { probabilityOver, revenue, verdictOf } from '../../src/core/evidence/verdict.ts';
import { daysBetween, type Day } from '../../src/core/metrics/days.ts';
import { posterior } from '../../src/core/evidence/prior.ts';
import { micros, units } from '../../src/core/metrics/money.ts';
import { judgeTargets } from '../../src/core/round/judge.ts';
import { learnValueWeight } from '../../src/core/evidence/value.ts';
import { Pool } from '../../src/core/evidence/pooling.ts';
import { beliefOf } from '../../src/core/round/targets.ts';
import type { BidProposal, RunningTest, TargetsInput } from '../../src/core/round/types.ts';
import { learnDrift, type HeldOut } from '../../src/core/evidence/check.ts';
import { daysOutOfStock } from '../../src/core/metrics/out-of-stock.ts';
import { testDays } from '../../src/core/testing/plan.ts';
import { Chance } from '../random.ts';
import type { View } from '../crowd/view.ts';
import { Placing } from './placing.ts';
import { targetRows } from './rows.ts';
import { narrowed, narrowingOf } from '../../src/core/routines/narrow.ts';
import { newRoutine } from '../../src/core/routines/shipped.ts';
import type { Routine } from '../../src/core/routines/routine.ts';
import { RoutineAtWork } from './routine.ts';
import type { Way } from './simple.ts';

/** How much of what Mowing proposes is done. */
export interface Habit {
  name: string;
  /** At most this many findings a week, those worth most. */
  most?: number;
  /** The share of lines that is really sent. */
  sent?: number;
  /** The share of spend that is set aside for tests. */
  testing?: number;
  /** Modifiers and bids are moved together as proposed, beside what is proposed of bids. */
  placements?: boolean;
  /** Worked off by a routine, each night that it is due, within its settings; left out: by a person, once a week. */
  routine?: Routine;
  /** Called with what was believed at each round, to be held against the truth. */
  watch?: (said: Belief[], view: View) => void;
  /** Called with what is sent, before it is: what each bid was said to change a week. */
  forecast?: (said: Said[], view: View) => void;
}

/** A bid that is sent, and what it was said to change in a week; currency. */
export interface Said {
  target: number;
  from: number;
  to: number;
  sales: number;
  spend: number;
}

export interface Belief {
  target: number;
  n: number;
  low: number;
  high: number;
  mean: number;
  verdict: 'under' | 'over' | 'undecided';
  /** Expected clicks of the week, and what a click is believed to cost, currency. */
  cpc: number | null;
}

/** Mowing's own core, fed with what the reports tell. */
export function mowing(habit: Habit): Way {
  const changes: BidChange[] = [];
  const changedOn: (Day | null)[] = [];
  let pending: { target: number; day: number; from: number; to: number }[] = [];
  let theta: number | null = null;
  let last = -1;
  const running = new Map<string, RunningTest>();
  const chance = new Chance(99);
  const placing = new Placing();
  const worker = new RoutineAtWork(habit.routine ?? newRoutine(''));
  const decide = (view: View): Map<number, number> => {
    const { market, today } = view;
    for (const { id } of market.targets) changedOn[id] ??= null;
    // What the changes of a week ago did: whole weeks before and after.
    const due = pending.filter(({ day }) => day + 7 <= today);
    pending = pending.filter(({ day }) => day + 7 > today);
    for (const { target, day, from, to } of due) {
      const [was, is] = [view.sums(target, day - 6, day), view.sums(target, day + 1, day + 7)];
      if (was.clicks + is.clicks === 0) continue;
      changes.push({
        ratio: to / from,
        paid: was.clicks > 0 ? was.spend / was.clicks / from : null,
        before: { days: 7, clicks: was.clicks, spend: micros(was.spend) },
        after: { days: 7, clicks: is.clicks, spend: micros(is.spend) },
        // Its targets share no terms, and its market does not move as a whole.
        untouched: { before: 0, after: 0, apart: 0 },
        others: 0,
        overlap: 0,
      });
    }
    const response = responseOf(learnAccountResponse(changes, 0));
    const adGroups = new Map<string, AdGroupInfo>();
    for (const { adGroup, campaign, product } of market.targets) {
      adGroups.set(String(adGroup), {
        adGroupId: String(adGroup),
        name: `ad group ${adGroup}`,
        campaignId: String(campaign),
        campaign: `campaign ${campaign}`,
        automatic: false,
        sku: String(product),
        enabled: true,
        archived: false,
        modifier: placing.modifierOf(view, campaign),
      });
    }
    const out = outOfStock(view);
    const targets = targetRows(view, changedOn, response, out);
    const products = new Map(
      market.prices.map((price, i) => [
        String(i),
        { sku: String(i), title: `product ${i}`, price: micros(price), margin: 0.5 },
      ]),
    );
    const input: TargetsInput = {
      today: view.dayOf(today),
      window: { from: view.dayOf(view.settledTo - 29), to: view.dayOf(view.settledTo) },
      evidence: { from: view.dayOf(Math.max(0, view.settledTo - 89)), to: view.dayOf(view.settledTo) },
      settledDays: 30,
      adGroups,
      products,
      targets,
      negatives: [],
      lanes: [],
      goals: [],
      guards: defaultGuards,
      limits: { characters: 90, words: 10, pattern: '.', itemCode: '^Q$' },
      response,
      drift: 0,
      valueWeight: learnValueWeight(
        targets.map(({ adGroupId, seenOrders, seenSales }) => ({
          group: adGroupId,
          orders: seenOrders,
          sales: seenSales,
        })),
      ),
    };
    const drift = learnDrift(heldOut(view, changedOn, response, out, products, adGroups));
    const rowModel = { drift, valueWeight: input.valueWeight };
    const pool = new Pool(products, rowModel);
    for (const row of targets) pool.add(adGroups.get(row.adGroupId)!, row);
    const rhos = paidPerBidByCampaign(targets, adGroups);
    const beliefs = targets.map((row) => {
      const adGroup = adGroups.get(row.adGroupId)!;
      return beliefOf(row, pool.of(adGroup), adGroup.modifier, rhos.get(adGroup.campaignId) ?? 0.7);
    });
    const from = last < 0 ? today - 29 : last + 1;
    const since = noSums(today - last);
    beliefs.forEach((belief, i) => {
      const did = { clicks: 0, spend: 0, bids: 0, expectedSales: 0 };
      for (let day = Math.max(0, from); day <= today; day++) {
        const facts = market.days[day]!;
        did.clicks += facts.clicks[i]!;
        did.spend += micros(facts.spend[i]!);
        did.bids += facts.clicks[i]! * micros(facts.bids[i]!) * adGroups.get(targets[i]!.adGroupId)!.modifier;
      }
      did.expectedSales = did.clicks * revenue(belief);
      addToScope(since, theta ?? 0, did);
    });
    const isEarly = theta !== null && habit.routine !== undefined && today - last < 7;
    const steered = isEarly
      ? { theta: theta!, outcome: 'too little' }
      : theta === null
        ? {
            theta: startTheta(market.targetAcos, paidPerBid(since.spend, since.bids), false),
            outcome: 'start',
          }
        : steerTheta(theta, market.targetAcos, since, false);
    theta = steered.theta;
    // Days that told too little go on to count in the next round.
    if (steered.outcome !== 'too little') last = today;
    habit.watch?.(
      beliefs.map((belief, target) => ({
        target,
        n: targets[target]!.n,
        low: units(quantileOf(belief.gamma, 0.1) * belief.value),
        high: units(quantileOf(belief.gamma, 0.9) * belief.value),
        mean: units(mean(belief.gamma) * belief.value),
        verdict: verdictOf(probabilityOver(belief, market.targetAcos)),
        cpc: belief.cpc === null ? null : units(belief.cpc),
      })),
      view,
    );
    const goal = {
      scope: 'account' as const,
      key: '',
      targetAcos: market.targetAcos,
      bidFloor: null,
      bidCeiling: null,
      theta,
    };
    for (const [id, { until }] of running) if (until < input.today) running.delete(id);
    const spend = targets.reduce((sum, row) => sum + row.spend, 0);
    const testing =
      habit.testing === undefined ? {} : { testing: { spend: (habit.testing * spend * 7) / 30, running } };
    const judged = { ...input, ...rowModel, ...testing, goals: [goal] };
    const narrower = habit.routine ? narrowed(judged, narrowingOf(habit.routine)) : judged;
    const { findings } = judgeTargets(narrower, 1e6);
    const proposed = findings.filter(({ proposal }) => proposal.kind === 'bid');
    const wanted = habit.routine ? worker.choose(proposed, input.today, changedOn, spend) : proposed;
    const taken = wanted.slice(0, habit.most ?? Infinity).filter(() => chance.unit() < (habit.sent ?? 1));
    const said = taken.map(({ targetId, proposal, effect }): Said => ({
      target: Number(targetId),
      from: units((proposal as BidProposal).from),
      to: units((proposal as BidProposal).to),
      sales: units(effect.sales),
      spend: units(effect.spend),
    }));
    for (const { targetId, working } of taken)
      if (working.test)
        running.set(targetId, { until: view.dayOf(today + testDays), spend: working.test.spend });
    habit.forecast?.(said, view);
    const bids = new Map(said.map(({ target, to }) => [target, to]));
    if (habit.placements)
      placing.move(view, bids, response, {
        theta,
        earns: beliefs.map(revenue),
        perClick: beliefs.map(({ gamma }) => mean(gamma)),
      });
    pending.push(...said.map(({ target, from, to }) => ({ target, day: today, from, to })));
    for (const { target } of said) changedOn[target] = view.dayOf(today);
    return bids;
  };
  return {
    name: habit.name,
    ...(habit.routine ? { nightly: true } : {}),
    decide: (view) =>
      habit.routine && !worker.isDue(view.dayOf(view.today)) ? new Map<number, number>() : decide(view),
    theta: () => theta,
  };
}

/** Product and day, `product:day`, on which nothing could be sold. */
function outOfStock(view: View): Set<string> {
  const out = new Set<string>();
  view.market.prices.forEach((_, product) => {
    const days = view.market.productDays.map((products, day) => ({
      day: view.dayOf(day),
      sessions: products[product]!.sessions,
      orders: products[product]!.orders,
      stock: null,
    }));
    for (const day of daysOutOfStock(days)) out.add(`${product}:${daysBetween(view.dayOf(0), day)}`);
  });
  return out;
}

/** What was believed 30 settled days ago, and what came since. */
function heldOut(
  view: View,
  changedOn: (Day | null)[],
  response: Response,
  out: Set<string>,
  products: TargetsInput['products'],
  adGroups: ReadonlyMap<string, AdGroupInfo>,
): HeldOut[] {
  const then = view.settledTo - 30;
  if (then < 20) return [];
  const rows = targetRows(view, changedOn, response, out, then);
  const pool = new Pool(products);
  for (const row of rows) pool.add(adGroups.get(row.adGroupId)!, row);
  return rows.map((row, target) => {
    const { product } = view.market.targets[target]!;
    const after = { clicks: 0, orders: 0 };
    for (let day = then + 1; day <= view.settledTo; day++) {
      if (out.has(`${product}:${day}`)) continue;
      after.clicks += view.market.days[day]!.clicks[target]!;
      after.orders += view.orders[day]![target]!;
    }
    return { gamma: posterior(pool.of(adGroups.get(row.adGroupId)!).prior, row.n, row.y), ...after };
  });
}
