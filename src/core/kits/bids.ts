import { evidenceBid } from '../bids/evidence.ts';
import type { Guards } from '../bids/guards.ts';
import { mean, quantileOf, type Gamma } from '../evidence/gamma.ts';
import { money } from '../metrics/format.ts';
import { toStep, type Micros } from '../metrics/money.ts';
import type { FirstBidWay } from './recipe.ts';

/** What the account knows of one kind of target for a product, before the first click of a new one. */
export interface KindEvidence {
  /** The belief about orders per click. */
  rate: Gamma;
  /** Micros per order. */
  value: Micros;
  /** What a click costs per bid. */
  paidPerBid: number;
  /** Clicks of the product's own targets of this kind that the belief rests on; 0: it is that of the other products. */
  clicks: number;
}

/** What clicks took in recent auctions, micros. */
export interface SuggestedRange {
  low: Micros;
  middle: Micros;
  high: Micros;
}

export interface FirstBid {
  bid: Micros;
  /** How it came about, as a sentence with its numbers. */
  why: string;
}

/** The quantile of orders per click that a first bid of research rests on: it is careful (domain, sections 6.6 and 15). */
const carefulQuantile = 0.35;

/**
 * The first bid of a target that is made (domain, section 15): theta x prior RPC / M, within the suggested range where
 * there is one, at least the placement's least CPC, within floor, ceiling and steps. Micros.
 *
 * @param evidence What siblings say.
 * @param modifier M, the click-weighted mean of (1 + placement modifier): 1 without modifiers.
 * @param leastCpc Below it the marketplace shows nothing.
 */
export function firstBidOf(
  way: FirstBidWay,
  evidence: KindEvidence,
  { theta, modifier, careful }: { theta: number; modifier: number; careful: boolean },
  range: SuggestedRange | null,
  guards: Pick<Guards, 'floor' | 'ceiling' | 'minimumBid' | 'maximumBid' | 'step'>,
  leastCpc: Micros,
): FirstBid {
  const { bid: wanted, why } = wantedBid(way, evidence, { theta, modifier, careful }, range);
  const said = [why];
  let bid = wanted;
  const hold = (limit: Micros, name: string, isLeast: boolean) => {
    if (isLeast ? bid >= limit : bid <= limit) return;
    bid = limit;
    said.push(`${isLeast ? 'raised' : 'held'} to ${name} ${money(limit)}`);
  };
  if (range && way.way === 'evidence') {
    hold(range.low, 'the low end of what clicks took,', true);
    hold(range.high, 'the high end of what clicks took,', false);
  }
  if (way.way !== 'fixed') hold(leastCpc, 'the least CPC of its placement,', true);
  hold(Math.max(guards.floor, guards.minimumBid), 'the floor of', true);
  hold(Math.min(guards.ceiling, guards.maximumBid), 'the ceiling of', false);
  return { bid: toStep(bid, guards.step), why: `${said.join('; ')}.` };
}

function wantedBid(
  way: FirstBidWay,
  { rate, value, clicks }: KindEvidence,
  { theta, modifier, careful }: { theta: number; modifier: number; careful: boolean },
  range: SuggestedRange | null,
): FirstBid {
  if (way.way === 'fixed') return { bid: way.bid, why: 'As it was set' };
  if (way.way === 'range' && range) {
    const bid = range.low + way.at * (range.high - range.low);
    const place = `${Math.round(way.at * 100)} % of the way from ${money(range.low)} to ${money(range.high)}`;
    return { bid, why: `${place}, which clicks took lately` };
  }
  const perClick = careful ? quantileOf(rate, carefulQuantile) : mean(rate);
  const bid = evidenceBid(theta, perClick * value, modifier);
  const from =
    clicks > 0
      ? `${Math.round(clicks).toLocaleString('en')} clicks of its own of this kind`
      : 'the account’s other products, by price';
  return {
    bid,
    why:
      `Theta ${theta.toFixed(2)} x ${(perClick * 100).toFixed(1)} orders per 100 clicks${careful ? ', a careful figure,' : ''} ` +
      `x ${money(value)} an order${modifier === 1 ? '' : ` / ${modifier.toFixed(2)}`}, from ${from}`,
  };
}
