import { blockEffect } from '../effect/weekly.ts';
import { Goals, type SetGoal } from '../goals/goals.ts';
import { isWinner } from './harvest.ts';
import { revenue } from '../evidence/verdict.ts';
import type { Micros } from '../metrics/money.ts';
import { gatherTerms, joinRows, judgeSources, termGround } from './judge.ts';
import {
  bidGround,
  believedOf,
  effectOf,
  judgedBid,
  overOf,
  thetasOfBudgets,
  type Believed,
  type BidGround,
  goalsIn,
} from './targets.ts';
import {
  actOn,
  believedTerm,
  claimsOf,
  isNearFloor,
  isWasteByCount,
  type Act,
  type BelievedTerm,
  type TermGround,
  type TermInAdGroup,
} from './terms.ts';
import type { JudgeInput, TargetsInput } from './types.ts';
import { probabilityOver } from '../evidence/verdict.ts';

/** A week's figures, money in micros; sales as they are expected. */
export interface WeekFigures {
  clicks: number;
  orders: number;
  spend: Micros;
  sales: Micros;
  /** Margin x sales - spend, of rows whose margin is known. */
  profit: Micros;
}

/** What an account would find under some goals, and what taking all of it would do to a week. */
export interface Outlook {
  raises: number;
  cuts: number;
  /** Bids that a guard holds back whole. */
  held: number;
  harvests: number;
  negatives: number;
  /** As it runs. */
  now: WeekFigures;
  /** With everything taken. */
  then: WeekFigures;
}

const noFigures = (): WeekFigures => ({ clicks: 0, orders: 0, spend: 0, sales: 0, profit: 0 });

function add(sum: WeekFigures, figures: Omit<WeekFigures, 'profit'> & { profit: Micros | null }, part = 1) {
  sum.clicks += part * figures.clicks;
  sum.orders += part * figures.orders;
  sum.spend += part * figures.spend;
  sum.sales += part * figures.sales;
  sum.profit += part * (figures.profit ?? 0);
}

/** A week of a target as it runs, as it is believed. */
function weekOf({ belief, week, margin, rho, row, adGroup }: Believed): WeekFigures {
  const cpc = belief.cpc ?? rho * row.bid * adGroup.modifier;
  const [spend, sales] = [week.clicks * cpc, week.clicks * revenue(belief)];
  return {
    clicks: week.clicks,
    orders: belief.value > 0 ? sales / belief.value : 0,
    spend,
    sales,
    profit: margin === null ? 0 : margin * sales - spend,
  };
}

const all = () => true;

/** The highest floor that some goal sets, micros: what stands near it may be found to waste. */
const highestFloor = (goals: readonly SetGoal[], { guards }: TargetsInput): Micros =>
  Math.max(guards.floor, ...goals.flatMap(({ bidFloor }) => bidFloor ?? []));

/** Whether a term may be harvested under some goal: it has the orders and clicks that are asked for. */
const canWin = ({ row, believed: { lane } }: TermSource): boolean => isWinner(row, lane, 0, 1);

/** Adds what a term's change takes from the targets that caught it. */
function takeClaims(taken: Map<string, number>, row: TermInAdGroup, days: number): void {
  for (const { targetId, part } of claimsOf(row, days))
    taken.set(targetId, (taken.get(targetId) ?? 0) + part);
}

interface TermSource {
  row: TermInAdGroup;
  believed: BelievedTerm;
}

/**
 * Answers what the account's findings would be under other goals: what is believed does not depend on goals and is
 * worked out once, so that a goal can be dragged.
 */
export class WhatIf {
  private readonly ground: BidGround;
  private readonly targets: Believed[];
  private readonly now = noFigures();
  private readonly termGround: TermGround;
  /** Terms that may be found under some goal, not under every one. */
  private readonly alone: TermSource[] = [];
  /** What is waste whatever the goal: how many, what stopping it does, and what it takes of each target. */
  private readonly waste = { count: 0, effect: noFigures(), taken: new Map<string, number>() };
  /** The highest floor that terms were looked through for. */
  private readonly floor: Micros;
  private readonly meeting: { sources: TermSource[]; joined: TermSource | null }[] = [];

  constructor(private readonly input: JudgeInput) {
    this.ground = bidGround(input);
    this.targets = this.ground.rows.flatMap((row) => believedOf(row, this.ground) ?? []);
    for (const target of this.targets) add(this.now, weekOf(target));
    this.termGround = termGround(input);
    this.floor = highestFloor(input.goals, input);
    const sourceOf = (row: TermInAdGroup): TermSource | null => {
      const believed = believedTerm(row, this.termGround);
      return believed && { row, believed };
    };
    const { alone, meeting } = gatherTerms(this.termGround);
    for (const row of alone) {
      const source = sourceOf(row);
      if (!source) continue;
      if (canWin(source)) this.alone.push(source);
      else if (isWasteByCount(row, source.believed.pooled.prior.mu)) this.addWaste(source);
      else if (isNearFloor(row.target.bid, this.floor)) this.alone.push(source);
    }
    for (const rows of meeting)
      this.meeting.push({
        sources: rows.map(sourceOf).filter((source) => source !== null),
        joined: rows.length > 1 ? sourceOf(joinRows(rows)) : null,
      });
  }

  private addWaste({ row, believed: { week, belief, margin } }: TermSource): void {
    this.waste.count++;
    add(this.waste.effect, blockEffect(week, belief, margin, this.input.kappa));
    takeClaims(this.waste.taken, row, this.input.settledDays);
  }

  /** Findings under these goals, and what taking all of them would do to a week. Overlaps count once. */
  at(set: readonly SetGoal[]): Outlook {
    // Floors that nobody had: what was left out may count now.
    if (highestFloor(set, this.input) > this.floor) return new WhatIf({ ...this.input, goals: set }).at(set);
    const goals = goalsIn(this.input, set);
    const outlook: Outlook = {
      raises: 0,
      cuts: 0,
      held: 0,
      harvests: 0,
      negatives: this.waste.count,
      now: { ...this.now },
      then: { ...this.now },
    };
    add(outlook.then, this.waste.effect);
    const taken = this.takeTerms(goals, outlook);
    this.takeBids(goals, outlook, taken);
    return outlook;
  }

  /** The part of each target's clicks that its terms' negatives and harvests take from it. */
  private takeTerms(goals: Goals, outlook: Outlook): Map<string, number> {
    const taken = new Map(this.waste.taken);
    const take = ({ kind, effect }: Act, { row }: TermSource) => {
      if (kind === 'wait') return;
      outlook[kind === 'harvest' ? 'harvests' : 'negatives']++;
      add(outlook.then, effect);
      takeClaims(taken, row, this.input.settledDays);
    };
    const judge = (source: TermSource) => {
      const goal = goals.of(source.row.adGroup);
      const over = () => probabilityOver(source.believed.belief, goal.targetAcos);
      const act = actOn(source.believed, goal, over, goals, this.termGround, all, false);
      return act === null || typeof act === 'symbol' ? act : { ...act, source };
    };
    for (const source of this.alone) {
      const act = judge(source);
      if (act !== null && typeof act !== 'symbol') take(act, source);
    }
    for (const { sources, joined } of this.meeting) {
      const acts = judgeSources(sources, judge, joined && (() => judge(joined)));
      for (const act of acts) if (typeof act !== 'symbol') take(act, act.source);
    }
    return taken;
  }

  private takeBids(goals: Goals, outlook: Outlook, taken: ReadonlyMap<string, number>): void {
    const { today, kappa } = this.input;
    const thetas = thetasOfBudgets(this.ground, goals);
    for (const one of this.targets) {
      const goal = goals.of(one.adGroup);
      if (!(goal.theta > 0)) continue;
      // Only whoever is quiet is asked how surely it is over.
      const over = one.isQuiet ? overOf(one, goal) : null;
      const budgetTheta = thetas?.get(one.adGroup.campaignId);
      const judged = judgedBid(one, over, goal, goal.method, goals, today, budgetTheta);
      if (!judged) continue;
      const { bid } = judged.guarded;
      if (bid === null) {
        outlook.held++;
        continue;
      }
      outlook[bid > one.row.bid ? 'raises' : 'cuts']++;
      const left = 1 - Math.min(1, taken.get(one.row.targetId) ?? 0);
      add(outlook.then, effectOf(one, bid, kappa), left);
    }
  }
}
