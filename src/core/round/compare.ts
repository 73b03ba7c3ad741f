import { methods, type Method } from '../bids/methods.ts';
import { Goals, type Goal } from '../goals/goals.ts';
import { verdictOf, type Verdict } from '../evidence/verdict.ts';
import type { GuardName } from '../bids/guards.ts';
import type { Micros } from '../metrics/money.ts';
import { isGroupRow } from './group-bids.ts';
import {
  bidGround,
  believedOf,
  effectOf,
  judgedBid,
  overOf,
  sumsOf,
  thetasOfBudgets,
  worthOf,
  type Believed,
  type BidGround,
  type JudgedBid,
  goalsIn,
} from './targets.ts';
import type { Sums } from '../metrics/figures.ts';
import type { TargetsInput } from './types.ts';

/** What one method proposes for one target. */
export interface MethodBid {
  /** The bid it would have; the present one where nothing is proposed. */
  bid: Micros;
  /** Before the guards. */
  wanted: Micros | null;
  held: GuardName[];
  formula: string | null;
  /** Worth a week at the scope's price of money, and what it does to spend and to expected sales. */
  worth: Micros;
  spend: Micros;
  sales: Micros;
  profit: Micros | null;
}

/** One target, as all methods see it. */
export interface ComparedRow {
  targetId: string;
  expression: string;
  matchType: string | null;
  kind: string;
  adGroupId: string;
  adGroup: string;
  campaignId: string;
  campaign: string;
  bid: Micros;
  sums: Sums;
  targetAcos: number;
  verdict: Verdict;
  /** The method of its scope. */
  method: Method;
  by: Record<Method, MethodBid>;
  /** The money a week between the method that gains most by the scope's price of money and the one that gains least. */
  between: Micros;
}

/** What a method does to the whole account. */
export interface MethodTotal {
  raises: number;
  cuts: number;
  worth: Micros;
  spend: Micros;
  sales: Micros;
  profit: Micros;
}

/** A target that was compared: its place among all, and what it is found and sorted by. */
export interface ComparedTarget {
  at: number;
  expression: string;
  adGroup: string;
  spend: Micros;
  between: Micros;
}

/**
 * The bids that every method proposes for every target of an account, each under its own goal and guards. Of all rows
 * only what finds and sorts them is kept: a row is worked out again when it is shown.
 */
export class Comparison {
  readonly totals: Record<Method, MethodTotal>;
  /** Those on which methods differ most first. */
  readonly targets: ComparedTarget[] = [];
  private readonly goals: Goals;
  private readonly ground: BidGround;
  private readonly thetas: ReadonlyMap<string, number> | null;

  constructor(private readonly input: TargetsInput) {
    this.goals = goalsIn(input);
    this.ground = bidGround(input);
    this.thetas = thetasOfBudgets(this.ground, this.goals);
    this.totals = Object.fromEntries(
      methods.map((method) => [method, { raises: 0, cuts: 0, worth: 0, spend: 0, sales: 0, profit: 0 }]),
    ) as Comparison['totals'];
    this.ground.rows.forEach((row, at) => {
      const one = believedOf(row, this.ground);
      const goal = one && this.goals.of(one.adGroup);
      if (!one || !goal || !(goal.theta > 0)) return;
      const { expression, spend } = row;
      this.targets.push({
        at,
        expression,
        adGroup: one.adGroup.name,
        spend,
        between: this.add(one, goal),
      });
    });
    this.targets.sort((a, b) => b.between - a.between || b.spend - a.spend || a.at - b.at);
  }

  private judged(one: Believed, goal: Goal, method: Method, over: number | null): JudgedBid | null {
    const theta = this.thetas?.get(one.adGroup.campaignId);
    return judgedBid(one, over, goal, method, this.goals, this.input.today, theta);
  }

  /** Adds a target to the totals; the money between its methods. */
  private add(one: Believed, goal: Goal): Micros {
    const over = one.isQuiet ? overOf(one, goal) : null;
    const present = one.row.bid;
    // A method that lets a bid stand gains nothing.
    let [most, least] = [-Infinity, Infinity];
    for (const method of methods) {
      const bid = this.judged(one, goal, method, over)?.guarded.bid ?? null;
      let gain = 0;
      if (bid !== null) {
        const { spend, sales, profit } = effectOf(one, bid, this.input.kappa);
        const total = this.totals[method];
        total[bid > present ? 'raises' : 'cuts']++;
        total.worth += worthOf(one, bid, goal, this.ground);
        total.spend += spend;
        total.sales += sales;
        total.profit += profit ?? 0;
        gain = goal.theta * sales - spend;
      }
      most = Math.max(most, gain);
      least = Math.min(least, gain);
    }
    return most - least;
  }

  /** One target as all methods see it. */
  row({ at, between }: ComparedTarget): ComparedRow {
    const one = believedOf(this.ground.rows[at]!, this.ground)!;
    const { row, adGroup } = one;
    const goal = this.goals.of(adGroup);
    const over = overOf(one, goal);
    const bidBy = (method: Method): MethodBid => {
      const judged = this.judged(one, goal, method, over);
      const bid = judged?.guarded.bid ?? null;
      const effect = bid === null ? null : effectOf(one, bid, this.input.kappa);
      return {
        bid: bid ?? row.bid,
        wanted: judged?.wanted.bid ?? null,
        held: judged?.guarded.held ?? [],
        formula: judged?.wanted.formula?.() ?? null,
        worth: bid === null ? 0 : worthOf(one, bid, goal, this.ground),
        spend: effect?.spend ?? 0,
        sales: effect?.sales ?? 0,
        profit: effect ? effect.profit : 0,
      };
    };
    return {
      targetId: row.targetId,
      expression: row.expression,
      matchType: row.matchType,
      kind: isGroupRow(row) ? 'ad_group' : row.kind,
      adGroupId: row.adGroupId,
      adGroup: adGroup.name,
      campaignId: adGroup.campaignId,
      campaign: adGroup.campaign,
      bid: row.bid,
      sums: sumsOf(row),
      targetAcos: goal.targetAcos,
      verdict: verdictOf(over),
      method: goal.method,
      by: Object.fromEntries(methods.map((method) => [method, bidBy(method)])) as ComparedRow['by'],
      between,
    };
  }
}
