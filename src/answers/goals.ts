import type { Stance } from '../core/bids/guards.ts';
import type { Day } from '../core/metrics/days.ts';
import type { Micros } from '../core/metrics/money.ts';
import type { SteeringOutcome } from '../core/goals/theta.ts';

/** The goals of an account, and what may have one of its own. */
export interface GoalsAnswer {
  goals: GoalAnswer[];
  products: { sku: string; title: string; price: Micros; stock: number | null; margin: number | null }[];
  campaigns: { campaignId: string; name: string; status: string }[];
}

export interface GoalAnswer {
  scope: 'account' | 'product' | 'campaign';
  /** SKU or number of the campaign; empty for the account. */
  key: string;
  targetAcos: number;
  bidFloor: Micros | null;
  bidCeiling: Micros | null;
  stance: Stance;
  /** Theta may rise above 1. */
  aboveOne: boolean;
  /** Null before the first round of steering. */
  theta: ThetaAnswer | null;
}

/** Theta of a scope as it stands, and why. */
export interface ThetaAnswer {
  value: number;
  day: Day;
  reason: string;
  outcome: SteeringOutcome | 'start';
  expectedAcos: number | null;
  inForce: number | null;
}
