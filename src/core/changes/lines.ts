import { money } from '../metrics/format.ts';
import type { Micros } from '../metrics/money.ts';
import type { Effect, Finding } from '../round/types.ts';
import type { NegativeType } from '../terms/match.ts';

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
}

/** Where things stand: what lines need to know of the account. */
export interface Places {
  campaignOf: (adGroupId: string) => string;
  /** Running campaigns that advertise a product. */
  campaignsOf: (sku: string | null) => string[];
}

/** The lines that carry out a finding; none for one that waits. */
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
  if (proposal.kind === 'wait') return [];
  if (proposal.kind === 'bid') {
    return [
      {
        ...base,
        action: 'update',
        entity: 'target',
        objectId: finding.targetId,
        campaignId: finding.campaignId,
        adGroupId: finding.adGroupId,
        field: 'bid',
        oldValue: String(proposal.from),
        newValue: String(adjustment.bid ?? proposal.to),
        targetKind: finding.targetKind,
        matchType: finding.matchType,
        expression: finding.subject,
        effect: finding.effect,
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
  const created: LineDraft = {
    ...base,
    action: 'create',
    entity: 'target',
    objectId: null,
    campaignId: campaignOf(proposal.adGroupId),
    adGroupId: proposal.adGroupId,
    field: 'bid',
    newValue: String(adjustment.bid ?? proposal.bid),
    targetKind: proposal.targetKind,
    matchType: proposal.targetKind === 'item' ? null : keywordType,
    expression: proposal.expression,
    effect: finding.effect,
  };
  if (adjustment.isolate === false) return [created];
  const type: NegativeType = proposal.targetKind === 'item' ? 'negative_item' : 'negative_exact';
  return [created, ...proposal.isolateIn.map((id) => negative(id, type, proposal.expression, null))];
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
  };

/** Sums of what lines should do per week; the half width of the sales interval adds in squares. */
export function totalEffect(lines: readonly { effect: Effect | null }[]) {
  let spend = 0;
  let sales = 0;
  let orders = 0;
  let squares = 0;
  for (const { effect } of lines) {
    if (!effect) continue;
    spend += effect.spend;
    sales += effect.sales;
    orders += effect.orders;
    squares += ((effect.salesHigh - effect.salesLow) / 2) ** 2;
  }
  return { spend, sales, orders, salesSpread: Math.sqrt(squares) };
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
