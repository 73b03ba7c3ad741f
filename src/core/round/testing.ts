import { quantileOf } from '../evidence/gamma.ts';
import { revenue } from '../evidence/verdict.ts';
import { elasticityOver, responseAt, type Response } from '../effect/response.ts';
import { evidenceBid } from '../bids/evidence.ts';
import { clamp } from '../metrics/clamp.ts';
import { daysBetween } from '../metrics/days.ts';
import { toStep, type Micros } from '../metrics/money.ts';
import type { Goals, Goal } from '../goals/goals.ts';
import { WorthCurve } from '../testing/curve.ts';
import { gainOfKnowing } from '../testing/gain.ts';
import { remembered, testWeeks, withinShare, worthOfTest, type TestPlan } from '../testing/plan.ts';
import { believedOf, judgedBid, overOf, responseIn, type Believed, type BidGround } from './targets.ts';
import type { TargetsInput } from './types.ts';

/** The highest bid that is tried rests on what the target may be worth in the best case: this quantile of its belief. */
const hopeful = 0.9;
/** Less a week than the least coin is no reason to try. */
const leastWorth = 10_000;
/**
 * A week at the best bid goes with what a click earns to the power of e + 1; under a Gamma belief that is at most
 * (1 + 1 / shape)^(e (e + 1) / 2) times as much on the mean as at the mean. e of this size leaves none out.
 */
const mostCurve = 2;
/** After a good outcome bids may go so much above the highest that is tried. */
const mostHope = 3;
/** Bids that are tried between the ordinary one and the highest. */
const steps = 5;

/** Clicks a week that are known at a bid, and how they follow it. Bids are effective ones, modifiers in. */
interface Volume {
  clicks: number;
  bid: Micros;
  response: Response;
}

/** What is known of a target's clicks; of one that nothing is known of at its bid, what its siblings get. Null: nothing is. */
function volumeOf(one: Believed, isRested: boolean, { input, usuals }: BidGround): Volume | null {
  const { row, adGroup, rho, week, response } = one;
  if (week.clicks > 0 && (!isRested || row.present.clicks > 0))
    return { clicks: week.clicks, bid: row.bid * adGroup.modifier, response };
  const usual = usuals.of(row.adGroupId);
  if (!(usual.weekClicks > 0) || !(usual.bid > 0)) return null;
  return {
    clicks: usual.weekClicks,
    bid: usual.bid * adGroup.modifier,
    response: responseAt(responseIn(input, adGroup.campaignId), rho),
  };
}

/** The best test of one target; null where it is neither quiet nor rested, or a test would gain nothing. */
export function possibleTest(
  one: Believed,
  goal: Goal,
  ground: BidGround,
  goals: Goals,
  budgetTheta: number | undefined,
): TestPlan | null {
  const { row, adGroup, belief } = one;
  const { input } = ground;
  const guards = goals.guardsOf(goal);
  const least = Math.max(guards.floor, guards.minimumBid);
  const isRested = row.bid <= least + guards.step;
  if (!isRested && !one.isQuiet) return null;
  if (row.changedOn !== null && daysBetween(row.changedOn, input.today) < guards.cooldownDays) return null;
  const volume = volumeOf(one, isRested, ground);
  if (!volume) return null;
  const theta = Math.min(goal.theta, budgetTheta ?? goal.theta);
  const m = adGroup.modifier;
  const most = Math.min(guards.ceiling, guards.maximumBid);
  const judged = judgedBid(one, overOf(one, goal), goal, goal.method, goals, input.today, budgetTheta);
  const ordinary = judged?.guarded.bid ?? row.bid;
  const hope = clamp(
    evidenceBid(theta, quantileOf(belief.gamma, hopeful) * belief.value, m),
    least,
    Math.min(most, isRested ? most : row.bid * guards.up),
  );
  if (hope <= ordinary) return null;
  const clicksAt = (effective: Micros) => {
    const ratio = effective / volume.bid;
    return volume.clicks * ratio ** elasticityOver(volume.response, ratio);
  };
  const weekAt = (bid: Micros) => {
    const clicks = clicksAt(bid * m);
    return { clicks, spend: clicks * bid * m * one.rho };
  };
  const click = theta * revenue(belief);
  // Most targets are far from worth a test: what doing the best with all that could be known brings is looked at first.
  const dream = clamp(click, least * m, most * m);
  const spread = (1 + 1 / belief.gamma.shape) ** (mostCurve * 0.5 * (mostCurve + 1));
  if (clicksAt(dream) * dream * spread * (remembered + testWeeks) < leastWorth * remembered) return null;
  const curve = new WorthCurve(clicksAt, least * m, Math.max(hope, Math.min(most, mostHope * hope)) * m);
  const bestOf = (ordersPerClick: number) => curve.best(theta * ordersPerClick * belief.value);
  const usualWorth = curve.at(ordinary * m, click);
  const knowingAt = (bid: Micros) => gainOfKnowing(belief.gamma, clicksAt(bid * m) * testWeeks, bestOf);
  const known = knowingAt(ordinary);
  let best: TestPlan | null = null;
  for (let step = 1; step <= steps; step++) {
    const to = toStep(ordinary * (hope / ordinary) ** (step / steps), guards.step);
    if (to <= ordinary || to > most) continue;
    const knowing = knowingAt(to) - known;
    const loss = usualWorth - curve.at(to * m, click);
    const gain = knowing * remembered - loss * testWeeks;
    if (best && gain <= best.gain) continue;
    const after = weekAt(to);
    best = {
      targetId: row.targetId,
      from: row.bid,
      to,
      ordinary,
      isRested,
      before: weekAt(row.bid),
      after,
      orders: (after.clicks * testWeeks * belief.gamma.shape) / belief.gamma.rate,
      knowing,
      loss,
      gain,
      spend: after.spend,
    };
  }
  return best && worthOfTest(best) >= leastWorth ? best : null;
}

/** The tests of a week: those that gain most for what they spend, within the account's share. By target. */
export function testsOf(
  ground: BidGround,
  goals: Goals,
  thetas: ReadonlyMap<string, number> | null,
): ReadonlyMap<string, TestPlan> {
  const { input } = ground;
  if (!input.testing || !(input.testing.spend > 0)) return new Map();
  const possible: TestPlan[] = [];
  for (const row of input.targets) {
    if (input.testing.running.has(row.targetId)) continue;
    const one = believedOf(row, ground);
    if (!one) continue;
    const goal = goals.of(one.adGroup);
    if (!(goal.theta > 0)) continue;
    const test = possibleTest(one, goal, ground, goals, thetas?.get(one.adGroup.campaignId));
    if (test) possible.push(test);
  }
  return new Map(withinShare(possible, testingLeft(input.testing)).map((test) => [test.targetId, test]));
}

/** Micros a week that are left for new tests. */
function testingLeft({ spend, running }: NonNullable<TargetsInput['testing']>): Micros {
  return [...running.values()].reduce((left, one) => left - one.spend, spend);
}
