import { evidenceBid } from '../bids/evidence.ts';
import { mean } from '../evidence/gamma.ts';
import type { Micros } from '../metrics/money.ts';
import type { KeptTest } from './plan.ts';

/** Below this share of what a click was believed to earn, and above its inverse, it is worth something else than was believed. */
const apart = 0.9;

/** What a test taught: what a click earns and what a bid may be, as believed before it and after. Micros. */
export interface Learned {
  earnedBefore: Micros;
  earned: Micros;
  bidBefore: Micros;
  bid: Micros;
  /** `nothing`: no click came. */
  says: 'more' | 'less' | 'as believed' | 'nothing';
}

/**
 * A Gamma(a, b) belief after the test's own clicks and orders, Gamma(a + orders, b + clicks); value and theta as they
 * were then, so that only what was learned moves it.
 */
export function learnedOf(
  { gamma, value, theta, modifier }: KeptTest,
  seen: { clicks: number; orders: number },
): Learned {
  const after = { shape: gamma.shape + seen.orders, rate: gamma.rate + seen.clicks };
  const earnedBefore = mean(gamma) * value;
  const earned = mean(after) * value;
  const ratio = earned / earnedBefore;
  return {
    earnedBefore,
    earned,
    bidBefore: evidenceBid(theta, earnedBefore, modifier),
    bid: evidenceBid(theta, earned, modifier),
    says: seen.clicks === 0 ? 'nothing' : ratio > 1 / apart ? 'more' : ratio < apart ? 'less' : 'as believed',
  };
}
