import type { Micros } from '../metrics/money.ts';

/**
 * The evidence method (domain, section 6.3). The last click that a bid wins costs about the bid itself; spend is
 * placed best when bid / RPC is one number, theta, everywhere under one goal.
 *
 * theta x RPC / M, micros. RPC in micros per click, M the click-weighted mean of (1 + placement modifier).
 * @example evidenceBid(0.5, 6_000_000, 1.2) // 2_500_000
 */
export const evidenceBid = (theta: number, rpc: number, modifier: number): Micros => (theta * rpc) / modifier;
