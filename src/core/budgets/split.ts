import { money } from '../metrics/format.ts';
import type { Micros } from '../metrics/money.ts';
import { spendUnder } from './lost.ts';

/** A total split over campaigns so that the next unit of money sells the same everywhere (domain, section 9). */

/** A campaign that shares a total. Money in micros, a day. */
export interface SplitMember {
  campaignId: string;
  /** What its days would spend with budget all day. */
  full: readonly Micros[];
  /** Its budget as it stands. */
  now: Micros;
  /** Sales for a unit of its money, and what of what it misses its product's other campaigns catch. */
  roas: number;
  caught: number;
  least: Micros;
  /** Null: no limit of its own. */
  most: Micros | null;
  /** Its most is what it has now: over its goal, more money would buy more loss. */
  isOver: boolean;
  /** It finds terms and items: its money comes out of the research share. */
  isResearch: boolean;
}

export interface SplitRules {
  total: Micros;
  /** Share of the total that is kept for research, and what it is at most; null: research takes part like the others. */
  researchShare: number | null;
  researchCap: Micros | null;
}

/** Why a budget is what it is, where the next unit would not sell as much as elsewhere. */
export type SplitBound = 'least' | 'most' | 'over' | 'lasts' | 'set';

/** A campaign's part of the total. Money in micros, a day. */
export interface SplitPart {
  campaignId: string;
  budget: Micros;
  /** What it spends and sells of that on the mean of its days. */
  spend: Micros;
  sales: Micros;
  /** What the last unit of its budget sells, and what the next one would. */
  last: number;
  next: number;
  bound: SplitBound | null;
}

export interface Split {
  parts: SplitPart[];
  /** What of the total no campaign could use. */
  free: Micros;
  spend: Micros;
  sales: Micros;
}

/** Budgets are whole cents. */
const cent = 10_000;
const downToCent = (budget: Micros): Micros => Math.floor(budget / cent + 1e-6) * cent;

/** Part of the days on which more than `budget` would be spent: what of a next unit is spent at all. */
const chanceUsed = (budget: Micros, full: readonly Micros[]): number => {
  let days = 0;
  for (const day of full) if (day > budget) days++;
  return full.length === 0 ? 0 : days / full.length;
};

/** What is wrong with rules and limits, in words; null when they can be kept. */
export function splitProblem(
  members: readonly Pick<SplitMember, 'least' | 'most'>[],
  { total }: SplitRules,
): string | null {
  if (!(total > 0)) return 'The total is nothing: say what the campaigns may spend a day together.';
  const crossed = members.find(({ least, most }) => most !== null && most < least);
  if (crossed)
    return `A campaign would get at least ${money(crossed.least)} and at most ${money(crossed.most!)} a day: its most lies below its least.`;
  const leasts = sum(members.map(({ least }) => least));
  if (leasts > total)
    return (
      `The leasts of ${members.length} campaigns are ${money(leasts)} a day together, above the total of ${money(total)}. ` +
      'Raise the total, or lower a least.'
    );
  return null;
}

/** A stretch of a campaign's budget in which each unit sells as much. */
interface Stretch {
  at: number;
  width: Micros;
  sells: number;
}

/** The stretches of one campaign from its least to its most, each selling less than the one before. */
function stretchesOf({ full, roas, caught, least, most }: SplitMember, at: number): Stretch[] {
  const days = [...full].sort((a, b) => a - b);
  const found: Stretch[] = [];
  let low = least;
  days.forEach((day, index) => {
    const high = Math.min(day, most ?? Infinity);
    if (high <= low) return;
    found.push({ at, width: high - low, sells: (roas * (1 - caught) * (days.length - index)) / days.length });
    low = high;
  });
  return found;
}

/** Splits a total, with budgets that stay as they are, by id. */
export type Splitter = (set?: ReadonlyMap<string, Micros>) => Split;

/**
 * The split that sells most. What a campaign sells of a budget is the mean over its days of what each would spend of it,
 * times its sales per unit, less what others of its product would have caught: concave, in straight stretches, so that filling the best stretch first is exact. Each gets its
 * least first. Research shares what is kept for it, the others the rest. Stretches are put in order once, so that a budget
 * that is dragged is answered at once.
 *
 * @throws RangeError where rules and limits cannot be kept (`splitProblem`).
 */
export function splitter(members: readonly SplitMember[], rules: SplitRules): Splitter {
  const problem = splitProblem(members, rules);
  if (problem !== null) throw new RangeError(problem);
  const { total, researchShare, researchCap } = rules;
  // Alike stretches of one campaign stay in their order: sorting is stable.
  const stretches = members.flatMap(stretchesOf).sort((a, b) => b.sells - a.sells);
  const isKept = (at: number) => researchShare !== null && members[at]!.isResearch;
  const research = stretches.filter(({ at }) => isKept(at));
  const others = stretches.filter(({ at }) => !isKept(at));
  return (set = new Map()) => {
    const budgets = members.map(({ least }) => least);
    let left = total - sum(budgets);
    members.forEach(({ campaignId, least }, at) => {
      const more = Math.min(left, Math.max(0, (set.get(campaignId) ?? least) - least));
      budgets[at] = least + more;
      left -= more;
    });
    const fill = (list: readonly Stretch[], money: Micros): Micros => {
      for (const { at, width, sells } of list) {
        if (money <= 0 || sells <= 0) break;
        if (set.has(members[at]!.campaignId)) continue;
        const taken = Math.min(width, money);
        budgets[at] = budgets[at]! + taken;
        money -= taken;
      }
      return money;
    };
    if (researchShare !== null) {
      const kept = Math.min(researchShare * total, researchCap ?? Infinity);
      const taken = sum(budgets.filter((_, at) => members[at]!.isResearch));
      const forResearch = Math.min(left, Math.max(0, kept - taken));
      left += fill(research, forResearch) - forResearch;
    }
    fill(others, left);
    const parts = members.map((member, at) =>
      partOf(member, downToCent(budgets[at]!), set.has(member.campaignId)),
    );
    return {
      parts,
      free: Math.max(0, total - sum(parts.map(({ budget }) => budget))),
      spend: sum(parts.map(({ spend }) => spend)),
      sales: sum(parts.map(({ sales }) => sales)),
    };
  };
}

const sum = (list: readonly number[]): number => list.reduce((all, one) => all + one, 0);

/** What a campaign does with a budget, on the mean of its days. */
export function partOf(member: SplitMember, budget: Micros, isSet = false): SplitPart {
  const { campaignId, full, now, least, most, isOver } = member;
  const roas = member.roas * (1 - member.caught);
  const spend = spendUnder(budget, full);
  const bound = isSet
    ? 'set'
    : full.every((day) => day <= budget + cent)
      ? 'lasts'
      : most !== null && budget + cent > most
        ? isOver
          ? 'over'
          : 'most'
        : budget < least + cent
          ? 'least'
          : null;
  return {
    campaignId,
    budget,
    spend,
    sales: roas * spend + member.roas * member.caught * spendUnder(now, full),
    last: roas * chanceUsed(budget - cent, full),
    next: roas * chanceUsed(budget, full),
    bound,
  };
}
