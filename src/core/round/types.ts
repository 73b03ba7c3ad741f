import type { SiblingValue } from '../evidence/value.ts';
import type { Claim } from '../effect/claims.ts';
import type { Method } from '../bids/methods.ts';
import type { GoalScope, Objective, SetGoal } from '../goals/goals.ts';
import type { TargetRow, AdGroupInfo, ProductInfo } from '../account/rows.ts';
import type { Mix, Mixes } from '../account/mix.ts';
import type { Gamma } from '../evidence/gamma.ts';
import type { Prior } from '../evidence/prior.ts';
import type { AcosInterval, Verdict } from '../evidence/verdict.ts';
import type { Budgets } from './budgets.ts';
import type { GuardName, Guards } from '../bids/guards.ts';
import type { Day, Window } from '../metrics/days.ts';
import type { Sums } from '../metrics/figures.ts';
import type { Micros } from '../metrics/money.ts';
import type { FirstBid, Lane, LaneKind } from '../lanes/lanes.ts';
import type { Response } from '../effect/response.ts';
import type { Effect } from '../effect/types.ts';
import type { LevelSays, QuietTerms } from '../evidence/pooling.ts';
import type { NegativeType } from '../account/store.ts';
import type { TermInAdGroup } from './terms.ts';
import type { TestPlan } from '../testing/plan.ts';
import type { KeywordLimits, MatchType } from '../terms/match.ts';

export interface ExistingNegative {
  id: string;
  campaignId: string;
  adGroupId: string | null;
  matchType: NegativeType;
  expression: string;
}

export interface Limits extends KeywordLimits {
  /** A regular expression for item codes. */
  itemCode: string;
}

/** What targets are judged by; terms take it too. */
export interface TargetsInput {
  today: Day;
  window: Window;
  /** The days that evidence is drawn from, all settled. */
  evidence: Window;
  /** Days of the window that are settled: what a week is reckoned from. */
  settledDays: number;
  adGroups: ReadonlyMap<string, AdGroupInfo>;
  products: ReadonlyMap<string, ProductInfo>;
  /** What ad groups of several products really sell. */
  mixes?: Mixes;
  targets: readonly TargetRow[];
  negatives: readonly ExistingNegative[];
  /** Lanes as they were saved; null while none ever were: those that can be read from the account stand for them. */
  lanes: readonly Lane[] | null;
  /** The account's goal first; overrides after it. */
  goals: readonly SetGoal[];
  guards: Guards;
  limits: Limits;
  /** How bids move clicks and CPC: the account's, and that of campaigns which told it apart, by campaign id. */
  response: Response;
  responses?: ReadonlyMap<string, Response>;
  /** How far rows drift from their past (`Prior.drift`), learned from the account's own held-out days. */
  drift: number;
  /** For how many orders of a row its siblings' value counts (`learnValueWeight`). */
  valueWeight: number;
  /** Budgets in force; without them none binds. */
  budgets?: Budgets;
  /** Factor on expected orders in forecasts: the account's own bias, 1 where there is none to tell. */
  kappa?: number;
  /** Factor on the intervals of forecasts: what past ones missed. */
  widening?: number;
  /** What is set aside to learn about what is quiet or rests, micros a week, and the tests that run, by target. */
  testing?: { spend: Micros; running: ReadonlyMap<string, RunningTest> };
  /** What words tell of a term before it speaks, natural logs by word. */
  words?: ReadonlyMap<string, number>;
}

/** A bid that was raised to know, until a day. */
export interface RunningTest {
  until: Day;
  /** What it was reckoned to spend a week, micros. */
  spend: Micros;
}

export interface TermsInput {
  /** Terms that may become a finding: see `isQuiet`. */
  terms: readonly TermInAdGroup[];
  /** All others, summed by ad group. */
  quietTerms: ReadonlyMap<string, QuietTerms>;
}

export interface JudgeInput extends TargetsInput, TermsInput {}

export interface BidProposal {
  kind: 'bid';
  from: Micros;
  to: Micros;
  /** What the method wanted before the guards. */
  wanted: Micros;
  /** Guards that let only part of it through, in the order in which they did. */
  held: GuardName[];
  /** What is wanted in whole bid steps, within the marketplace's limits, where guards held part of it back. */
  beyond: Micros | null;
  /** What the guards hold back would be worth a week, micros; left out where they hold nothing. */
  heldWorth?: Micros;
  /** It is tried for some days, to know. */
  isTest?: true;
}

/** A change that a guard holds back whole: it waits, and can be confirmed beyond the guard. */
export interface HeldBid {
  from: Micros;
  /** What the method wants, in whole bid steps: what a confirmation beyond the guard sets. */
  wanted: Micros;
  /** The last guard that took some of it: the one it would take to let it through. */
  by: GuardName;
}

export interface HarvestProposal {
  kind: 'harvest';
  adGroupId: string;
  targetKind: LaneKind;
  matchType: MatchType | null;
  expression: string;
  bid: Micros;
  wanted: Micros;
  firstBid: FirstBid;
  held: GuardName[];
  /** Other ad groups that caught the term and would send it to the same place: their evidence is part of this. */
  alsoFrom: readonly string[];
  /** Ad groups in which the term becomes a negative exact, so that it is served once. */
  isolateIn: string[];
  warnings: string[];
}

export interface NegativeProposal {
  kind: 'negative';
  adGroupId: string;
  matchType: NegativeType;
  expression: string;
  /** The milder way for a relevant term: a lower bid of the target that caught it; null where there is no room. */
  milder: { from: Micros; to: Micros } | null;
}

/** Nothing to do yet: more clicks are needed, or something stands in the way. */
export interface WaitProposal {
  kind: 'wait';
  moreClicks: number | null;
  obstacle: string | null;
  /** A bid that a guard holds back. */
  held?: HeldBid;
}

export type Proposal = BidProposal | HarvestProposal | NegativeProposal | WaitProposal;

/** How a proposal came about, with every number needed to redo it by hand. */
export interface Working {
  prior: Prior;
  /** What each level above said, the account first: where mean and strength of the prior come from. */
  levels: LevelSays[];
  gamma: Gamma;
  /** Value per order, micros. */
  value: Micros;
  /** What its siblings say of that value. */
  siblingValue: SiblingValue;
  cpc: Micros | null;
  targetAcos: number;
  goalScope: GoalScope;
  goalKey: string;
  /** Of a target: what its scope aims at, and how its bid is found; left out of a term. */
  objective?: Objective;
  method?: Method;
  /** The method's formula with values put in, where it is not the evidence's. */
  formula?: string;
  theta: number;
  modifier: number;
  /** CPC per bid, pooled to its campaign. */
  rho: number;
  /** Theta that the campaign's budgets leave to its bids, where they bind. */
  budgetTheta?: number;
  /** Clicks a week at the present bid, and how a bid moves them. */
  weekClicks: number;
  response: Response;
  over: number | null;
  interval: AcosInterval | null;
  quiet: boolean;
  margin: number | null;
  /** What its ad group sells, where that is several products. */
  mix?: Mix;
  /** Words that moved the prior of a term, and by which factor; strongest first. */
  words?: { word: string; factor: number }[];
  /** The account's bias that forecasts were multiplied by, where there is one. */
  kappa?: number;
  /** Clicks behind the week's clicks, and what a new bid is of the one the week was counted at; for the forecast. */
  forecast?: { clicksSeen: number; ratio: number | null };
  /** Of a bid that is tried to know. */
  test?: TestPlan;
}

export interface Finding {
  /** Stable over runs: decisions are kept under it. */
  key: string;
  queue: 'terms' | 'targets';
  /** The search term, or the target's expression. */
  subject: string;
  /** The target itself, or the one that caught most of the term's clicks; empty of an ad group's bid. */
  targetId: string;
  targetKind: TargetRow['kind'] | 'ad_group';
  matchType: string | null;
  target: string;
  adGroupId: string;
  campaignId: string;
  sku: string | null;
  sums: Sums;
  n: number;
  y: number;
  /** Clicks, orders, spend and sales of the evidence’s days, unweighted. */
  seen: { clicks: number; orders: number; spend: Micros; sales: Micros };
  verdict: Verdict;
  working: Working;
  proposal: Proposal;
  effect: Effect;
  /** Money at stake per week, micros (domain, section 12). */
  worth: Micros;
  /** Of a term: the clicks that it takes from the targets that caught it. A bid takes hold of its own target's. */
  claims: Claim[];
  /** Of an ad group's bid: the targets that have none of their own. */
  members?: readonly string[];
}
