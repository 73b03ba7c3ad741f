import { quantileOf, type Gamma } from '../evidence/gamma.ts';
import { clamp } from '../metrics/clamp.ts';
import { count, decimal, money, percent, significant } from '../metrics/format.ts';
import type { Micros } from '../metrics/money.ts';
import { evidenceBid } from './evidence.ts';
import { raiseQuantile, type Stance } from './guards.ts';
import { bandStep, type BandRow, type Ladder } from './ladder.ts';

/**
 * How a scope's bids are found (domain, sections 6.1 to 6.5 and 6.7): by evidence and one theta; every target at the
 * target by itself; a ladder of bands over ACOS; or revenue per click.
 */
export const methods = ['evidence', 'strict', 'bands', 'rpc'] as const;
export type Method = (typeof methods)[number];

/** Rows with less than this say too little of their own revenue per click (domain, section 6.2). */
export const rpcLeast = { clicks: 10, orders: 2 };

export interface MethodInput {
  /** What the row did in the window. */
  row: BandRow;
  /** Its present bid, micros. */
  bid: Micros;
  /** Few impressions and not over its goal: too quiet to know (domain, section 6.5). */
  quiet: boolean;
  gamma: Gamma;
  /** Value per order, micros. */
  value: Micros;
  /** Click-weighted mean of (1 + placement modifier). */
  modifier: number;
  /** CPC per bid, pooled to the campaign. */
  rho: number;
  /** Orders per click of an average row beside it. */
  mu: number;
}

export interface MethodGoal {
  targetAcos: number;
  theta: number;
  stance: Stance;
  ladder: Ladder;
}

/** What a method wants, before any guard. */
export interface Wanted {
  bid: Micros;
  /** The bid goes to its floor whatever a step allows. */
  rest: boolean;
  /** The method's formula with values put in; null for the evidence, whose parts are told one by one. */
  formula: (() => string) | null;
}

/** Orders per click that a bid rests on: the mean; for a raise the stance's quantile, which never turns it into a cut. */
function cautious(input: MethodInput, stance: Stance, bidAt: (rpc: number) => Micros): Micros {
  const { bid, gamma, value } = input;
  const wanted = bidAt((gamma.shape / gamma.rate) * value);
  const quantile = raiseQuantile[stance];
  if (quantile === null || wanted <= bid) return wanted;
  return Math.max(bid, bidAt(quantileOf(gamma, quantile) * value));
}

const byEvidence = (input: MethodInput, { theta, stance }: MethodGoal): Wanted => ({
  bid: cautious(input, stance, (rpc) => evidenceBid(theta, rpc, input.modifier)),
  rest: false,
  formula: null,
});

/** Bid = target x RPC / (rho x M), rho within [0.5, 1] (domain, section 6.3). */
function strictly(input: MethodInput, { targetAcos, stance }: MethodGoal): Wanted {
  const rho = clamp(input.rho, 0.5, 1);
  const bid = cautious(input, stance, (rpc) => (targetAcos * rpc) / (rho * input.modifier));
  const rpc = (input.gamma.shape / input.gamma.rate) * input.value;
  return {
    bid,
    rest: false,
    formula: () =>
      `${percent(targetAcos)} × ${money(rpc)} a click ÷ (${significant(rho)} paid per bid × ${significant(input.modifier)})`,
  };
}

/** Quiet rows go toward theta x what their siblings let expect, never above it (domain, section 6.5). */
function toLoud(input: MethodInput, goal: MethodGoal): Wanted | null {
  if (!input.quiet) return null;
  const wanted = byEvidence(input, goal);
  return wanted.bid > input.bid
    ? {
        ...wanted,
        formula: () => `too quiet to know: ${significant(goal.theta)} × what its siblings let expect`,
      }
    : null;
}

function byBands(input: MethodInput, goal: MethodGoal, floor: Micros): Wanted | null {
  const found = bandStep(goal.ladder, input.row, goal.targetAcos, input.mu);
  if (!found) return toLoud(input, goal);
  const { step, why } = found;
  if (step === 'rest') return { bid: floor, rest: true, formula: () => `${why()}: it rests at its floor` };
  if (step === 0) return toLoud(input, goal);
  const sign = step > 0 ? '+' : '−';
  return {
    bid: input.bid * (1 + step),
    rest: false,
    formula: () => `${why()}: ${money(input.bid)} ${sign} ${percent(Math.abs(step))}`,
  };
}

/**
 * Bid x M = RPC x target, for rows with 10 clicks and 2 orders at least (domain, section 6.2). Sales of 412.50 from 55
 * clicks at 30 % and no modifier: 7.50 x 0.30 = 2.25. Rows without an order go by the ladder's own rule.
 */
function byRevenue(input: MethodInput, goal: MethodGoal, floor: Micros): Wanted | null {
  const { row, modifier } = input;
  if (row.orders === 0) return byBands(input, goal, floor);
  if (row.clicks < rpcLeast.clicks || row.orders < rpcLeast.orders) return toLoud(input, goal);
  const rpc = row.sales / row.clicks;
  return {
    bid: (rpc * goal.targetAcos) / modifier,
    rest: false,
    formula: () =>
      `${money(row.sales)} ÷ ${count(row.clicks)} clicks × ${percent(goal.targetAcos)}` +
      (modifier === 1 ? '' : ` ÷ ${decimal(modifier)} of its placements`),
  };
}

/** What a method wants of a target; null where it says nothing yet. `floor`: where a bid rests, micros. */
export function wantedBid(
  method: Method,
  input: MethodInput,
  goal: MethodGoal,
  floor: Micros,
): Wanted | null {
  switch (method) {
    case 'evidence':
      return byEvidence(input, goal);
    case 'strict':
      return strictly(input, goal);
    case 'bands':
      return byBands(input, goal, floor);
    case 'rpc':
      return byRevenue(input, goal, floor);
  }
}
