import { sharesOf, takenByBid, type Claiming } from '../effect/claims.ts';
import { wordsOf } from '../text/normalise.ts';
import type { NegativeType } from '../account/store.ts';
import { eighty } from '../effect/forecast.ts';
import type { CreativeEntity, Entity, Status } from './fields.ts';
import type { Micros } from '../metrics/money.ts';
import { effectAtRatio } from '../effect/weekly.ts';
import type { Effect } from '../effect/types.ts';
import type { KeptTest } from '../testing/plan.ts';

/** One line of a sheet before it is kept: one field of one object, or one created or archived object. */
export interface LineDraft {
  action: 'create' | 'update' | 'archive';
  entity: Entity;
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
  /**
   * Lines of one harvest go together: the target it makes and the negatives that isolate it; so do modifiers and the bids
   * that move with them. Null for all others.
   */
  harvest: string | null;
  reason: string;
  /** Expected change per week; only on the first line of a group, so that sums count it once. */
  effect: Effect | null;
  /** Of a bid that is tried to know; null for all others. */
  test: KeptTest | null;
}

/** Where a line stands. */
export interface LinePlace {
  campaignId: string;
  adGroupId: string | null;
}

/** What a line says of itself beside its change. */
export interface LineNote {
  reason: string;
  effect?: Effect | null;
  harvest?: string | null;
  test?: KeptTest | null;
}

/** The target, or the negative, that a line is about. */
export interface LineTarget {
  targetKind?: string | null;
  matchType: string | null;
  expression: string;
}

const nothing = { oldValue: null, newValue: null, targetKind: null, matchType: null, expression: null };
const noted = ({ reason, effect = null, harvest = null, test = null }: LineNote) => ({
  reason,
  effect,
  harvest,
  test,
});

/** A field of an object set to another value. `name`: of a placement modifier its placement. */
export const fieldLine = (
  entity: Entity,
  name: string,
  { campaignId, adGroupId }: LinePlace,
  objectId: string,
  values: { oldValue: string | null; newValue: string | null },
  note: LineNote,
  about?: LineTarget,
): LineDraft => ({
  ...nothing,
  action: name === 'status' && values.newValue === 'archived' ? 'archive' : 'update',
  entity,
  objectId,
  campaignId,
  adGroupId,
  field: name,
  ...values,
  ...about,
  ...noted(note),
});

/** The bid of a target; money in micros. */
export const bidLine = (
  place: LinePlace,
  targetId: string,
  target: LineTarget,
  bids: { from: Micros; to: Micros },
  note: LineNote,
): LineDraft =>
  fieldLine(
    'target',
    'bid',
    place,
    targetId,
    { oldValue: String(bids.from), newValue: String(bids.to) },
    note,
    target,
  );

/** The status of an object: `archived` takes it out for good. */
export const statusLine = (
  entity: Entity,
  place: LinePlace,
  objectId: string,
  statuses: { from: Status; to: Status },
  note: LineNote,
  about?: LineTarget,
): LineDraft =>
  fieldLine(
    entity,
    'status',
    place,
    objectId,
    { oldValue: statuses.from, newValue: statuses.to },
    note,
    about,
  );

/** What a line that makes something leaves open. */
const making = { ...nothing, action: 'create', objectId: null } as const;

/** A campaign that is made, with its budget: a day, or of all its days; its number is drawn already. */
export const newCampaignLine = (
  campaignId: string,
  name: string,
  budget: Micros,
  note: LineNote,
  kind: 'daily' | 'lifetime' = 'daily',
): LineDraft => ({
  ...making,
  entity: 'campaign',
  campaignId,
  adGroupId: null,
  field: `${kind}_budget`,
  newValue: String(budget),
  expression: name,
  ...noted(note),
});

/** An ad group that is made, with its default bid; its number is drawn already. */
export const newAdGroupLine = (
  { campaignId, adGroupId }: LinePlace,
  name: string,
  bid: Micros,
  note: LineNote,
): LineDraft => ({
  ...making,
  entity: 'ad_group',
  campaignId,
  adGroupId,
  field: 'default_bid',
  newValue: String(bid),
  expression: name,
  ...noted(note),
});

/** A product that an ad group begins to advertise. */
export const productAdLine = (
  { campaignId, adGroupId }: LinePlace,
  sku: string,
  note: LineNote,
): LineDraft => ({
  ...making,
  entity: 'product_ad',
  campaignId,
  adGroupId,
  field: 'product_ad',
  expression: sku,
  ...noted(note),
});

/** A picture by its number, a title, or a pair of both that is left out of an ad group; `name` is how it is called. */
export const creativeLine = (
  { campaignId, adGroupId }: LinePlace,
  entity: CreativeEntity,
  value: string,
  name: string,
  note: LineNote,
): LineDraft => ({
  ...making,
  entity,
  campaignId,
  adGroupId,
  field: entity,
  newValue: name,
  expression: value,
  ...noted(note),
});

const made: readonly Entity[] = ['campaign', 'ad_group', 'product_ad'];

/** What must be there before a line can be applied comes first: campaigns, ad groups, products, all else, pairs. */
export function dependence({ action, entity }: Pick<LineDraft, 'action' | 'entity'>): number {
  if (action !== 'create') return made.length;
  if (entity === 'left_out') return made.length + 1;
  const at = made.indexOf(entity);
  return at < 0 ? made.length : at;
}

/** A target that is made, with its first bid. */
export const newTargetLine = (
  { campaignId, adGroupId }: LinePlace,
  target: LineTarget,
  bid: Micros,
  note: LineNote,
): LineDraft => ({
  ...making,
  entity: 'target',
  campaignId,
  adGroupId,
  field: 'bid',
  newValue: String(bid),
  ...target,
  ...noted(note),
});

/** A negative that is made: in an ad group, or with none in the whole campaign. */
export const negativeLine = (
  { campaignId, adGroupId }: LinePlace,
  { matchType, expression }: { matchType: NegativeType; expression: string },
  note: LineNote,
): LineDraft => ({
  ...making,
  entity: 'negative',
  campaignId,
  adGroupId,
  field: 'negative',
  matchType,
  expression,
  ...noted(note),
});

/** What is said of a line once its bid is edited: it will be scored by it. Null where nothing tells. */
export function effectOfEdit(
  line: { oldValue: string | null; newValue: string | null; effect: Effect | null },
  newValue: string,
): Effect | null {
  const old = Number(line.oldValue ?? 0);
  if (!line.effect || !(old > 0)) return null;
  return effectAtRatio(line.effect, Number(line.newValue) / old, Number(newValue) / old);
}

/** Two lines with one key set the same thing: they conflict, or repeat each other. */
export function conflictKey(line: LineDraft): string {
  if (line.objectId !== null)
    return `${line.entity}:${line.objectId}:${line.action === 'archive' ? 'status' : line.field}`;
  const place = line.adGroupId ?? line.campaignId;
  return `${line.entity}:${place}:${line.matchType ?? line.targetKind ?? ''}:${(line.expression ?? '').toLowerCase()}`;
}

/** The line that takes this one back, given the id its object has by now. */
export function revertOf({ harvest: _harvest, test: _test, ...sent }: LineDraft): LineDraft {
  const line: LineDraft = { ...sent, harvest: null, test: null };
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
            ...(effect.before.rests === undefined ? {} : { rests: effect.before.rests }),
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

/** What a line takes hold of of its targets' clicks; null where that is not known, or nothing. */
export function claimingOfLine(
  line: Pick<
    LineDraft,
    'action' | 'entity' | 'objectId' | 'field' | 'newValue' | 'matchType' | 'expression' | 'effect'
  >,
): Claiming | null {
  const { action, entity, objectId, field, newValue, effect } = line;
  const whole = objectId === null ? [] : [{ targetId: objectId, clicks: 1, part: 1 }];
  if (entity === 'target' && action !== 'create') {
    if (field === 'status') return newValue === 'enabled' ? null : { claims: whole, text: null, takes: 1 };
    return effect?.before
      ? { claims: whole, text: null, takes: takenByBid(effect.before.clicks, effect.clicks) }
      : null;
  }
  if (action !== 'create' || !effect?.claims || line.expression === null) return null;
  const kind = line.matchType === 'negative_phrase' ? 'phrase' : 'term';
  return { claims: effect.claims, text: { kind, words: wordsOf(line.expression).join(' ') }, takes: 1 };
}

/** Lines with what they take hold of, in the order in which they count. */
export interface CountedLine {
  effect: Effect | null;
  claiming?: Claiming | null;
}

/**
 * Sums of what lines should do per week, no click counted twice; what is not known of each adds in squares. Of lines
 * that overlap the earlier one counts whole.
 */
export function totalEffect(lines: readonly CountedLine[]): TotalEffect {
  const overlaps = lines.some(({ claiming }) => claiming != null && claiming.text !== null);
  const shares = overlaps ? sharesOf(lines.map(({ claiming }) => claiming ?? null)) : null;
  const sum = { clicks: 0, spend: 0, orders: 0, sales: 0, profit: 0 };
  const squares = { clicks: 0, spend: 0, orders: 0, sales: 0, profit: 0 };
  let known = true;
  for (let at = 0; at < lines.length; at++) {
    const { effect } = lines[at]!;
    const share = shares?.[at] ?? 1;
    if (!effect || share === 0) continue;
    sum.clicks += share * effect.clicks;
    sum.spend += share * effect.spend;
    sum.orders += share * effect.orders;
    sum.sales += share * effect.sales;
    if (effect.profit === null) known = false;
    else sum.profit += share * effect.profit;
    const { spreads } = effect;
    if (spreads) {
      squares.clicks += (share * eighty * spreads.clicks) ** 2;
      squares.spend += (share * eighty * spreads.spend) ** 2;
      squares.orders += (share * eighty * spreads.orders) ** 2;
      squares.sales += (share * eighty * spreads.sales) ** 2;
      squares.profit += (share * eighty * (spreads.profit ?? 0)) ** 2;
      // Lines of before forecasts had spreads know the interval of their sales only.
    } else squares.sales += ((share * (effect.salesHigh - effect.salesLow)) / 2) ** 2;
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

/** The same of parts that share no target: what is not known of each adds in squares. */
export function addEffects(parts: readonly TotalEffect[]): TotalEffect {
  const add = (name: 'clicks' | 'spend' | 'orders' | 'sales') =>
    parts.reduce((sum, one) => sum + one[name], 0);
  const spread = (name: 'clicksSpread' | 'spendSpread' | 'ordersSpread' | 'salesSpread') =>
    Math.hypot(...parts.map((one) => one[name]));
  const known = parts.every(({ profit }) => profit !== null);
  return {
    clicks: add('clicks'),
    spend: add('spend'),
    orders: add('orders'),
    sales: add('sales'),
    profit: known ? parts.reduce((sum, { profit }) => sum + profit!, 0) : null,
    clicksSpread: spread('clicksSpread'),
    spendSpread: spread('spendSpread'),
    ordersSpread: spread('ordersSpread'),
    salesSpread: spread('salesSpread'),
    profitSpread: known ? Math.hypot(...parts.map(({ profitSpread }) => profitSpread!)) : null,
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
