import type { Sums } from '../metrics/figures.ts';

/**
 * What moved a figure between two periods, split exactly by logarithmic means (LMDI; Ang 2005; domain, section 18): for a
 * value v = product of factors x, the part of a factor is L(v1, v0) ln(x1 / x0), L(a, b) = (a - b) / ln(a / b). Parts of all
 * members sum to the whole change without a rest.
 */

/** L(a, b), the logarithmic mean; L(a, a) = a. */
export function logMean(a: number, b: number): number {
  if (a === b) return a;
  if (a <= 0 || b <= 0) return 0;
  const ratio = Math.log(a / b);
  return Math.abs(ratio) < 1e-9 ? (a + b) / 2 : (a - b) / ratio;
}

/** Figures that are split, and by what: each the product of its factors. */
export const splitFigures = {
  sales: ['clicks', 'cvr', 'aov'],
  spend: ['clicks', 'cpc'],
  acos: ['cpc', 'cvr', 'aov'],
} as const;
export type SplitFigure = keyof typeof splitFigures;
export type FactorName = 'clicks' | 'cpc' | 'cvr' | 'aov';

/** Parts of a change. Of sales and spend in money; of ACOS as shares. */
export interface Parts extends Partial<Record<FactorName, number>> {
  /** Members that had something in one of the periods only; and members whose factors cannot all be told. */
  came: number;
  went: number;
  /** Of ACOS: money went to members of another ACOS. */
  mix?: number;
}

type Counts = Pick<Sums, 'clicks' | 'spend' | 'orders' | 'sales'>;

export interface Member<Key = string> {
  key: Key;
  before: Counts;
  after: Counts;
}

export interface MemberParts<Key = string> {
  key: Key;
  change: number;
  parts: Parts;
}

export interface Moved<Key = string> {
  figure: SplitFigure;
  /** The whole, before and after; null for an ACOS without sales. */
  before: number | null;
  after: number | null;
  parts: Parts;
  members: MemberParts<Key>[];
}

const factorOf = (name: FactorName, { clicks, spend, orders, sales }: Counts): number =>
  name === 'clicks'
    ? clicks
    : name === 'cpc'
      ? spend / clicks
      : name === 'cvr'
        ? orders / clicks
        : sales / orders;

const none = (figure: SplitFigure): Parts => {
  const parts: Parts = { came: 0, went: 0 };
  for (const name of splitFigures[figure]) parts[name] = 0;
  if (figure === 'acos') parts.mix = 0;
  return parts;
};

/** Adds parts to others. */
function add(into: Parts, parts: Parts): void {
  for (const name of Object.keys(parts) as (keyof Parts)[]) into[name] = (into[name] ?? 0) + parts[name]!;
}

/** Of one member, v = its sales or its spend. A period in which it had nothing has no factors: it came, or it went. */
function ofValue(figure: 'sales' | 'spend', { before, after }: Member<unknown>): Parts {
  const parts = none(figure);
  const [v0, v1] = [before[figure], after[figure]];
  if (v0 <= 0 || v1 <= 0) {
    if (v1 > 0) parts.came = v1;
    if (v0 > 0) parts.went = -v0;
    return parts;
  }
  const weight = logMean(v1, v0);
  const names = splitFigures[figure];
  let told = 0;
  for (const name of names) {
    const ratio = factorOf(name, after) / factorOf(name, before);
    if (!Number.isFinite(ratio) || ratio <= 0) {
      // Sales without an order that was told, clicks that were not: nothing to split by.
      const rest = none(figure);
      if (v1 >= v0) rest.came = v1 - v0;
      else rest.went = v1 - v0;
      return rest;
    }
    const part = weight * Math.log(ratio);
    parts[name] = part;
    told += part;
  }
  // What rounding leaves goes to the last factor: parts sum to the whole to the last digit.
  const last = names[names.length - 1]!;
  parts[last] = parts[last]! + (v1 - v0 - told);
  return parts;
}

/**
 * Of the ACOS of a group: sum over members of share of sales times own ACOS, so that each moves it by its own ACOS - CPC
 * up, CVR and AOV down - and by its share, the mix: what grew at an ACOS above the group's raises it. Weights are logarithmic
 * means of spend over the group's sales.
 */
function ofAcos<Key>(members: readonly Member<Key>[]): Omit<Moved<Key>, 'figure'> {
  const total = (of: 'before' | 'after', name: 'spend' | 'sales') =>
    members.reduce((sum, member) => sum + member[of][name], 0);
  const [sales0, sales1] = [total('before', 'sales'), total('after', 'sales')];
  if (sales0 <= 0 || sales1 <= 0)
    return {
      before: sales0 > 0 ? total('before', 'spend') / sales0 : null,
      after: sales1 > 0 ? total('after', 'spend') / sales1 : null,
      parts: none('acos'),
      members: [],
    };
  const before = total('before', 'spend') / sales0;
  const found = members.map((member): MemberParts<Key> => {
    const parts = none('acos');
    const { before: b, after: a } = member;
    const [v0, v1] = [b.spend / sales0, a.spend / sales1];
    const change = v1 - v0;
    if (
      b.sales > 0 &&
      a.sales > 0 &&
      b.spend > 0 &&
      a.spend > 0 &&
      b.orders > 0 &&
      a.orders > 0 &&
      b.clicks > 0 &&
      a.clicks > 0
    ) {
      const weight = logMean(v1, v0);
      const part = (name: FactorName) => weight * Math.log(factorOf(name, a) / factorOf(name, b));
      parts.cpc = part('cpc');
      parts.cvr = -part('cvr');
      parts.aov = -part('aov');
      // A share that grows takes others' place: it weighs by how far its ACOS lies from the group's.
      const [share0, share1] = [b.sales / sales0, a.sales / sales1];
      parts.mix = change - parts.cpc - parts.cvr - parts.aov - before * (share1 - share0);
    } else {
      const away =
        change - before * ((a.sales > 0 ? a.sales / sales1 : 0) - (b.sales > 0 ? b.sales / sales0 : 0));
      // What sells in one period only, or in none: by itself, beside the group's ACOS.
      if (a.spend / sales1 >= b.spend / sales0) parts.came = away;
      else parts.went = away;
    }
    const own =
      (parts.cpc ?? 0) + (parts.cvr ?? 0) + (parts.aov ?? 0) + (parts.mix ?? 0) + parts.came + parts.went;
    return { key: member.key, change: own, parts };
  });
  return { before, after: total('after', 'spend') / sales1, ...summed('acos', found) };
}

function summed<Key>(figure: SplitFigure, members: MemberParts<Key>[]) {
  const parts = none(figure);
  for (const member of members) add(parts, member.parts);
  return { parts, members: members.sort((a, b) => Math.abs(b.change) - Math.abs(a.change)) };
}

/** Splits the change of a figure between two periods into its factors, over all members and for each. */
export function splitChange<Key>(figure: SplitFigure, members: readonly Member<Key>[]): Moved<Key> {
  if (figure === 'acos') return { figure, ...ofAcos(members) };
  const found = members.map((member): MemberParts<Key> => ({
    key: member.key,
    change: member.after[figure] - member.before[figure],
    parts: ofValue(figure, member),
  }));
  return {
    figure,
    before: members.reduce((sum, { before }) => sum + before[figure], 0),
    after: members.reduce((sum, { after }) => sum + after[figure], 0),
    ...summed(figure, found),
  };
}
