import { methods, type Method } from '../bids/methods.ts';
import { Goals } from '../goals/goals.ts';
import { verdictOf, type Verdict } from '../evidence/verdict.ts';
import type { GuardName } from '../bids/guards.ts';
import type { Micros } from '../metrics/money.ts';
import {
  bidGround,
  believedOf,
  effectOf,
  judgedBid,
  overOf,
  sumsOf,
  thetasOfBudgets,
  worthOf,
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

export interface Comparison {
  /** Those on which methods differ most first. */
  rows: ComparedRow[];
  totals: Record<Method, MethodTotal>;
}

/** Gain at the scope's price of money: theta x change of sales - change of spend (domain, section 12). */
const gainOf = (theta: number, { spend, sales }: MethodBid): Micros => theta * sales - spend;

/** The bids that every method proposes for every target of an account, each under its own goal and guards. */
export function compareMethods(input: TargetsInput): Comparison {
  const goals = new Goals(input.goals, input.guards, (sku) => input.products.get(sku)?.margin ?? null);
  const ground = bidGround(input);
  const thetas = thetasOfBudgets(ground, goals);
  const totals = Object.fromEntries(
    methods.map((method) => [method, { raises: 0, cuts: 0, worth: 0, spend: 0, sales: 0, profit: 0 }]),
  ) as Comparison['totals'];
  const rows: ComparedRow[] = [];
  for (const row of input.targets) {
    const one = believedOf(row, ground);
    if (!one) continue;
    const goal = goals.of(one.adGroup);
    if (!(goal.theta > 0)) continue;
    const over = overOf(one, goal);
    const budgetTheta = thetas?.get(one.adGroup.campaignId);
    const present = one.row.bid;
    const by = Object.fromEntries(
      methods.map((method): [Method, MethodBid] => {
        const judged = judgedBid(one, over, goal, method, goals, input.today, budgetTheta);
        const bid = judged?.guarded.bid ?? null;
        const proposal = {
          wanted: judged?.wanted.bid ?? null,
          held: judged?.guarded.held ?? [],
          formula: judged?.wanted.formula ?? null,
        };
        if (bid === null)
          return [method, { ...proposal, bid: present, worth: 0, spend: 0, sales: 0, profit: 0 }];
        const { spend, sales, profit } = effectOf(one, bid, input.kappa);
        const worth = worthOf(one, bid, goal, ground);
        const total = totals[method];
        total[bid > present ? 'raises' : 'cuts']++;
        total.worth += worth;
        total.spend += spend;
        total.sales += sales;
        total.profit += profit ?? 0;
        return [method, { ...proposal, bid, worth, spend, sales, profit }];
      }),
    ) as Record<Method, MethodBid>;
    const gains = methods.map((method) => gainOf(goal.theta, by[method]));
    rows.push({
      targetId: row.targetId,
      expression: row.expression,
      matchType: row.matchType,
      kind: row.kind,
      adGroupId: row.adGroupId,
      adGroup: one.adGroup.name,
      campaignId: one.adGroup.campaignId,
      campaign: one.adGroup.campaign,
      bid: present,
      sums: sumsOf(row),
      targetAcos: goal.targetAcos,
      verdict: verdictOf(over),
      method: goal.method,
      by,
      between: Math.max(...gains) - Math.min(...gains),
    });
  }
  rows.sort((a, b) => b.between - a.between || b.sums.spend - a.sums.spend);
  return { rows, totals };
}
