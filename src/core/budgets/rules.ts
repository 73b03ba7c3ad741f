import { addDays, type Day } from '../metrics/days.ts';
import type { Micros } from '../metrics/money.ts';
import type { StructureCampaign } from '../structure/ground.ts';
import type { BudgetRow } from './rows.ts';
import type { SplitMember, SplitRules } from './split.ts';

/** What campaigns share a total, and by which rules. Money in micros, a day. */

export type BudgetScope = 'account' | 'product' | 'budget_group';

/** What is said of a total; null: nothing. */
export interface BudgetRule {
  scope: BudgetScope;
  /** The product's SKU, the budget group's id; empty for the account. */
  object: string;
  /** What its campaigns may spend together; null: what their budgets are now. */
  total: Micros | null;
  /** What each gets at least and at most. */
  least: Micros | null;
  most: Micros | null;
  researchShare: number | null;
  researchCap: Micros | null;
  /** Campaigns that began within so many days get this at least. */
  graceDays: number | null;
  graceLeast: Micros | null;
}

/** What one campaign gets at least and at most. */
export interface BudgetLimit {
  campaignId: string;
  least: Micros | null;
  most: Micros | null;
}

/** Campaigns that share a total, by the scope that they have in common. */
export interface BudgetGroup {
  scope: BudgetScope;
  object: string;
  name: string;
  /** What the marketplace lets them spend together; null where it sets no total. */
  set: Micros | null;
  campaignIds: string[];
  rule: BudgetRule | null;
}

export const emptyRule = (scope: BudgetScope, object: string): BudgetRule => ({
  scope,
  object,
  total: null,
  least: null,
  most: null,
  researchShare: null,
  researchCap: null,
  graceDays: null,
  graceLeast: null,
});

/** Automatic, broad, phrase and category targets are research (domain, section 2): a campaign whose targets are. */
export const isResearchCampaign = ({ kind, adGroups }: StructureCampaign): boolean =>
  kind === 'automatic' ||
  adGroups.every(({ targets }) =>
    targets.every(
      ({ row }) => row.matchType === 'broad' || row.matchType === 'phrase' || row.kind === 'category',
    ),
  );

/** The total in force: what the rule says, else the marketplace's, else what the budgets are together. */
export const totalOf = ({ rule, set }: BudgetGroup, rows: readonly BudgetRow[]): Micros =>
  rule?.total ?? set ?? rows.reduce((sum, { budget }) => sum + (budget ?? 0), 0);

/**
 * Campaigns of a group as a split reads them; without a daily budget none takes part.
 * @param minimum The marketplace's least daily budget.
 */
export function splitGround(
  group: BudgetGroup,
  rows: readonly BudgetRow[],
  limits: ReadonlyMap<string, BudgetLimit>,
  minimum: Micros,
  today: Day,
): { members: SplitMember[]; rules: SplitRules } {
  const own = rows.filter((row) => row.budget !== null);
  const { rule } = group;
  const young = rule?.graceDays != null && rule.graceLeast !== null ? addDays(today, -rule.graceDays) : null;
  const members = own.map(
    ({ campaignId, budget, full, cpc, earns, caught, isResearch, since, targetAcos }): SplitMember => {
      const limit = limits.get(campaignId);
      const grace = young !== null && since !== null && since > young ? rule!.graceLeast! : 0;
      const least = Math.max(minimum, limit?.least ?? rule?.least ?? 0, grace);
      const said = limit?.most ?? rule?.most ?? null;
      // Research is not there to keep the goal, where a share of its own is kept for it.
      const isKept = isResearch && rule?.researchShare != null;
      const isOver = !isKept && cpc !== null && cpc > targetAcos * earns && (said === null || said > budget!);
      const most = isOver ? budget! : said;
      return {
        campaignId,
        full,
        now: budget!,
        caught,
        roas: cpc !== null && cpc > 0 ? earns / cpc : 0,
        least,
        most: most === null ? null : Math.max(minimum, isOver ? least : 0, most),
        isOver,
        isResearch,
      };
    },
  );
  return {
    members,
    rules: {
      total: totalOf(group, own),
      researchShare: rule?.researchShare ?? null,
      researchCap: rule?.researchCap ?? null,
    },
  };
}

/** A budget as a rail: what a day spends on the mean and 30 % more, within its limits; bids keep to the total. */
export const railOf = ({ full, least, most }: SplitMember): Micros => {
  const mean = full.length === 0 ? 0 : full.reduce((sum, day) => sum + day, 0) / full.length;
  const cents = Math.ceil((rail * mean) / cent - 1e-9) * cent;
  return Math.min(most ?? Infinity, Math.max(least, cents));
};
const rail = 1.3;
const cent = 10_000;
