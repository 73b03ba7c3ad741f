import { eighty } from '../effect/forecast.ts';
import { money } from '../metrics/format.ts';
import type { Micros } from '../metrics/money.ts';
import { effectAtBid, effectAtRatio } from '../round/effect.ts';
import type { Effect } from '../effect/types.ts';
import type { BidProposal, Finding, WaitProposal } from '../round/types.ts';
import type { NegativeType } from '../account/store.ts';

/** One line of a sheet before it is kept: one field of one object, or one created or archived object. */
export interface LineDraft {
  action: 'create' | 'update' | 'archive';
  entity: 'target' | 'negative' | 'campaign' | 'placement_modifier';
  /** The object changed; null for a created one. */
  objectId: string | null;
  campaignId: string;
  adGroupId: string | null;
  field: string;
  /** Values as text: money in micros as a whole number, names as they are. */
  oldValue: string | null;
  newValue: string | null;
  targetKind: string | null;
  matchType: string | null;
  expression: string | null;
  reason: string;
  /** Expected change per week; only on the first line of a group, so that sums count it once. */
  effect: Effect | null;
}

/** What the specialist changed on a proposal before accepting it. */
export interface Adjustment {
  bid?: Micros;
  matchType?: 'negative_exact' | 'negative_phrase' | 'exact' | 'phrase' | 'broad';
  /** Harvest without blocking the term in research. */
  isolate?: boolean;
  /** Where a negative stands: its ad group unless said otherwise. */
  scope?: 'ad_group' | 'campaign' | 'product';
  /** Lower the bid of the target that caught the term instead of blocking it. */
  milder?: boolean;
  /** Confirms what a guard holds back: the bid goes to what is wanted. */
  beyond?: boolean;
}

/** Where things stand: what lines need to know of the account. */
export interface Places {
  campaignOf: (adGroupId: string) => string;
  /** Running campaigns that advertise a product. */
  campaignsOf: (sku: string | null) => string[];
}

/** Where a bid goes: as adjusted, beyond its guards when that was confirmed, else as proposed. */
function bidOf(
  proposal: BidProposal | WaitProposal,
  { bid, beyond }: Adjustment,
): { from: Micros; to: Micros } {
  if (proposal.kind === 'wait') return { from: proposal.held!.from, to: bid ?? proposal.held!.wanted };
  return { from: proposal.from, to: bid ?? (beyond ? (proposal.beyond ?? proposal.to) : proposal.to) };
}

/** The lines that carry out a finding; none for one that waits, unless what holds it was confirmed. */
export function linesOf(
  finding: Finding,
  adjustment: Adjustment,
  reason: string,
  { campaignOf, campaignsOf }: Places,
): LineDraft[] {
  const { proposal } = finding;
  const base = {
    targetKind: null,
    matchType: null,
    expression: null,
    reason,
    oldValue: null,
    newValue: null,
  };
  if (proposal.kind === 'wait' && !(proposal.held && adjustment.beyond)) return [];
  if (proposal.kind === 'bid' || proposal.kind === 'wait') {
    const { from, to } = bidOf(proposal, adjustment);
    return [
      {
        ...base,
        action: 'update',
        entity: 'target',
        objectId: finding.targetId,
        campaignId: finding.campaignId,
        adGroupId: finding.adGroupId,
        field: 'bid',
        oldValue: String(from),
        newValue: String(to),
        targetKind: finding.targetKind,
        matchType: finding.matchType,
        expression: finding.subject,
        effect: effectAtBid(finding, to / (proposal.kind === 'bid' ? proposal.to : proposal.held!.wanted)),
      },
    ];
  }
  const negative = (adGroupId: string, matchType: NegativeType, expression: string, effect: Effect | null) =>
    ({
      ...base,
      action: 'create',
      entity: 'negative',
      objectId: null,
      campaignId: campaignOf(adGroupId),
      adGroupId,
      field: 'negative',
      matchType,
      expression,
      effect,
    }) satisfies LineDraft;
  if (proposal.kind === 'negative') {
    const wanted = adjustment.matchType;
    const type = wanted === 'negative_exact' || wanted === 'negative_phrase' ? wanted : proposal.matchType;
    if (adjustment.milder && proposal.milder) return [milderLine(finding, proposal.milder, reason)];
    const here = negative(proposal.adGroupId, type, proposal.expression, finding.effect);
    const { scope = 'ad_group' } = adjustment;
    if (scope === 'ad_group') return [here];
    const campaigns = scope === 'campaign' ? [here.campaignId] : campaignsOf(finding.sku);
    // What is known of the effect is that of this ad group; it is counted once.
    return [...new Set([here.campaignId, ...campaigns])].map((campaignId, at) => ({
      ...here,
      campaignId,
      adGroupId: null,
      effect: at === 0 ? here.effect : null,
    }));
  }
  const wanted = adjustment.matchType;
  const keywordType =
    wanted === 'exact' || wanted === 'phrase' || wanted === 'broad' ? wanted : proposal.matchType;
  const bid = adjustment.bid ?? proposal.bid;
  const created: LineDraft = {
    ...base,
    action: 'create',
    entity: 'target',
    objectId: null,
    campaignId: campaignOf(proposal.adGroupId),
    adGroupId: proposal.adGroupId,
    field: 'bid',
    newValue: String(bid),
    targetKind: proposal.targetKind,
    matchType: proposal.targetKind === 'item' ? null : keywordType,
    expression: proposal.expression,
    effect: effectAtBid(finding, bid / proposal.bid),
  };
  if (adjustment.isolate === false) return [created];
  const type: NegativeType = proposal.targetKind === 'item' ? 'negative_item' : 'negative_exact';
  return [created, ...proposal.isolateIn.map((id) => negative(id, type, proposal.expression, null))];
}

/** What is said of a line once its bid is edited: it will be scored by it. Null where nothing tells. */
export function effectOfEdit(
  line: { oldValue: string | null; newValue: string | null; effect: Effect | null },
  newValue: string,
): Effect | null {
  const old = Number(line.oldValue ?? 0);
  if (!line.effect || !(old > 0)) return null;
  return effectAtRatio(line.effect, Number(line.newValue) / old, Number(newValue) / old);
}

const milderLine = (
  finding: Finding,
  { from, to }: { from: Micros; to: Micros },
  reason: string,
): LineDraft => ({
  action: 'update',
  entity: 'target',
  objectId: finding.targetId,
  campaignId: finding.campaignId,
  adGroupId: finding.adGroupId,
  field: 'bid',
  oldValue: String(from),
  newValue: String(to),
  targetKind: finding.targetKind,
  matchType: finding.matchType,
  expression: finding.target,
  reason: `Instead of a negative “${finding.subject}”: ${reason}`,
  effect: null,
});

/** Two lines with one key set the same thing: they conflict, or repeat each other. */
export function conflictKey(line: LineDraft): string {
  if (line.objectId !== null)
    return `${line.entity}:${line.objectId}:${line.action === 'archive' ? 'status' : line.field}`;
  const place = line.adGroupId ?? line.campaignId;
  return `${line.entity}:${place}:${line.matchType ?? line.targetKind ?? ''}:${(line.expression ?? '').toLowerCase()}`;
}

/** The line that takes this one back, given the id its object has by now. */
export function revertOf(line: LineDraft): LineDraft {
  const reason = `Takes back: ${line.reason}`;
  if (line.action === 'create') {
    return {
      ...line,
      action: 'archive',
      field: 'status',
      oldValue: 'enabled',
      newValue: 'archived',
      reason,
      effect: null,
    };
  }
  if (line.action === 'archive') {
    // What was archived cannot be woken: it is made anew; the caller puts in a target's bid.
    const field = line.entity === 'target' ? 'bid' : 'negative';
    return {
      ...line,
      action: 'create',
      objectId: null,
      field,
      oldValue: null,
      newValue: null,
      reason,
      effect: null,
    };
  }
  return { ...line, oldValue: line.newValue, newValue: line.oldValue, reason, effect: negated(line.effect) };
}

const negated = (effect: Effect | null): Effect | null =>
  effect && {
    clicks: -effect.clicks,
    spend: -effect.spend,
    orders: -effect.orders,
    sales: -effect.sales,
    salesLow: -effect.salesHigh,
    salesHigh: -effect.salesLow,
    profit: effect.profit === null ? null : -effect.profit,
    ...(effect.spreads ? { spreads: effect.spreads } : {}),
    ...(effect.before
      ? {
          before: {
            clicks: effect.before.clicks + effect.clicks,
            spend: effect.before.spend + effect.spend,
            orders: effect.before.orders + effect.orders,
            sales: effect.before.sales + effect.sales,
          },
        }
      : {}),
  };

/** What lines should do per week, with the half width of each 80 % interval; money in micros. */
export interface TotalEffect {
  clicks: number;
  spend: Micros;
  orders: number;
  sales: Micros;
  /** Null where the costs of one line are unknown. */
  profit: Micros | null;
  clicksSpread: number;
  spendSpread: Micros;
  ordersSpread: number;
  salesSpread: Micros;
  profitSpread: Micros | null;
}

/** Sums of what lines should do per week; what is not known of each adds in squares. */
export function totalEffect(lines: Iterable<{ effect: Effect | null }>): TotalEffect {
  const sum = { clicks: 0, spend: 0, orders: 0, sales: 0, profit: 0 };
  const squares = { clicks: 0, spend: 0, orders: 0, sales: 0, profit: 0 };
  let known = true;
  for (const { effect } of lines) {
    if (!effect) continue;
    sum.clicks += effect.clicks;
    sum.spend += effect.spend;
    sum.orders += effect.orders;
    sum.sales += effect.sales;
    if (effect.profit === null) known = false;
    else sum.profit += effect.profit;
    const { spreads } = effect;
    if (spreads) {
      squares.clicks += (eighty * spreads.clicks) ** 2;
      squares.spend += (eighty * spreads.spend) ** 2;
      squares.orders += (eighty * spreads.orders) ** 2;
      squares.sales += (eighty * spreads.sales) ** 2;
      squares.profit += (eighty * (spreads.profit ?? 0)) ** 2;
      // Lines of before forecasts had spreads know the interval of their sales only.
    } else squares.sales += ((effect.salesHigh - effect.salesLow) / 2) ** 2;
  }
  return {
    clicks: sum.clicks,
    spend: sum.spend,
    orders: sum.orders,
    sales: sum.sales,
    profit: known ? sum.profit : null,
    clicksSpread: Math.sqrt(squares.clicks),
    spendSpread: Math.sqrt(squares.spend),
    ordersSpread: Math.sqrt(squares.orders),
    salesSpread: Math.sqrt(squares.sales),
    profitSpread: known ? Math.sqrt(squares.profit) : null,
  };
}

/**
 * ACOS of a week after a sheet, share, with the ends of its 80 % interval; to first order, spend and sales apart. Null
 * without sales.
 */
export function acosAfter(
  week: { spend: Micros; sales: Micros },
  effect: Pick<TotalEffect, 'spend' | 'sales' | 'spendSpread' | 'salesSpread'>,
): { low: number; middle: number; high: number } | null {
  const [spend, sales] = [week.spend + effect.spend, week.sales + effect.sales];
  if (spend <= 0 || sales <= 0) return null;
  const middle = spend / sales;
  const half = middle * Math.hypot(effect.spendSpread / spend, effect.salesSpread / sales);
  return { low: Math.max(0, middle - half), middle, high: middle + half };
}

/** Old to new as people read it: bids as money. */
export const valueText = (
  line: Pick<LineDraft, 'field' | 'oldValue' | 'newValue'>,
  which: 'old' | 'new',
): string => {
  const value = which === 'old' ? line.oldValue : line.newValue;
  if (value === null) return '';
  return line.field === 'bid' || line.field === 'daily_budget' ? money(Number(value)) : value;
};
