import { trendOf } from '../../core/effect/response.ts';
import {
  movedApart,
  noMoves,
  othersMove,
  overlapOf,
  substituted,
  untouchedAlone,
  untouchedApart,
} from '../../core/effect/substitution.ts';
import type { Day } from '../../core/metrics/days.ts';
import { campaignProducts, modelOf, movesKey, productMoves } from '../account/model.queries.ts';
import type { Database } from '../db/connection.ts';

/** What a sheet is held against: what nobody touched, and what its own bids take from each other (domain, section 11). */

/** A line as far as its bid goes. */
export interface BidLine {
  entity: string;
  action: string;
  field: string;
  campaign_id: string;
  old_value: string | null;
  new_value: string | null;
}

/** Some days on both sides of the day on which lines were sent. */
export interface ControlSpan {
  on: Day;
  days: number;
}

export interface Control {
  /** Clicks of what nobody touched; after, as they would have been had nothing been taken from them. */
  siblings: { before: number; after: number };
  trend: number;
  /**
   * By how much the clicks of a line's target move because its product's other targets did not move alike: above 1 it
   * takes from them. It wins nothing for the product, so it belongs to the week that the line is held against.
   */
  shiftOf: (line: BidLine, clicks: number) => number;
}

const isBid = ({ entity, action, field }: BidLine): boolean =>
  entity === 'target' && action === 'update' && field === 'bid';

/** The controls of some spans, read together. */
export async function controlsOf(
  sql: Database,
  accountId: number,
  spans: readonly ControlSpan[],
): Promise<(span: ControlSpan) => Control> {
  const products = await campaignProducts(sql, accountId);
  const moves = await productMoves(sql, accountId, spans, products);
  const { response, substitution } = await modelOf(sql, accountId);
  const elasticity = response.clicks;
  return (span) => {
    const byProduct = moves.get(movesKey(span));
    const siblings = untouchedAlone(untouchedApart(byProduct ?? [], substitution), elasticity, substitution);
    return {
      siblings,
      trend: trendOf(siblings.before, siblings.after),
      shiftOf: (line, clicks) => {
        const [from, to] = [Number(line.old_value), Number(line.new_value)];
        if (!isBid(line) || !(from > 0) || !(to > 0)) return 1;
        const sku = products.get(line.campaign_id) ?? null;
        const move = Math.log(to / from);
        const others = othersMove(byProduct?.get(sku) ?? noMoves, { clicks, move });
        const apart = movedApart(overlapOf(substitution, sku), move, others);
        return Math.exp(substituted(apart, elasticity, substitution));
      },
    };
  };
}
