import { changeName } from '../account/as-of.ts';
import { budgetLine } from '../budgets/lines.ts';
import type { BudgetGroup, BudgetLimit } from '../budgets/rules.ts';
import type { BudgetRow } from '../budgets/rows.ts';
import type { LineDraft } from '../changes/lines.ts';
import { eighty } from '../effect/forecast.ts';
import type { Effect } from '../effect/types.ts';
import type { Day } from '../metrics/days.ts';
import type { Micros } from '../metrics/money.ts';
import type { Offered } from './candidate.ts';
import {
  nextStage,
  stageBudgets,
  type StageBudget,
  type StagedCampaign,
  type StageSettings,
  type StageShare,
  type Standing,
} from './stages.ts';

/** Budget groups by their stages, and the budgets that these ask for as findings (domain, section 9). */

/** What stages are judged by. */
export interface StageGround {
  rules: StageSettings;
  /** Every campaign that runs. */
  rows: readonly BudgetRow[];
  /** In which stages campaigns stood, by id. */
  was: ReadonlyMap<string, Standing>;
  /** Of products, by SKU. */
  margins: ReadonlyMap<string, number | null>;
  limits: ReadonlyMap<string, BudgetLimit>;
  /** The marketplace's least daily budget, micros. */
  minimumBudget: Micros;
  today: Day;
}

export interface StagedGroup {
  group: Pick<BudgetGroup, 'object' | 'name'>;
  staged: StagedCampaign[];
  rows: BudgetRow[];
  shares: StageShare[];
  budgets: StageBudget[];
}

/** A group with the stages of its campaigns. */
export function stagedGroup(group: BudgetGroup, ground: StageGround): StagedGroup {
  const { rules, was, margins, limits, minimumBudget, today } = ground;
  const ids = new Set(group.campaignIds);
  const rows = ground.rows.filter(({ campaignId }) => ids.has(campaignId));
  const staged = rows.map((row) =>
    nextStage(
      rules,
      row,
      was.get(row.campaignId) ?? null,
      row.sku === null ? null : (margins.get(row.sku) ?? null),
      today,
    ),
  );
  const made = stageBudgets(rules, group, rows, staged, limits, minimumBudget, today);
  return { group: { object: group.object, name: group.name }, staged, rows, ...made };
}

/** Where the campaigns of groups stand, by id. */
export const standingIn = (groups: readonly StagedGroup[]): Map<string, Standing> =>
  new Map(groups.flatMap(({ staged }) => staged.map(({ campaignId, now }) => [campaignId, now] as const)));

/** What a budget changes a week; what a click sells is not known better than of the campaign. */
function effectOf({ spend, sales }: StageBudget, row: BudgetRow): Effect {
  const clicks = row.cpc !== null && row.cpc > 0 ? spend / row.cpc : 0;
  const orders = row.sums.sales > 0 ? (sales * row.sums.orders) / row.sums.sales : 0;
  const half = eighty * Math.abs(sales) * (row.earns > 0 ? row.earnsSpread / row.earns : 1);
  return { clicks, spend, orders, sales, salesLow: sales - half, salesHigh: sales + half, profit: null };
}

/** The budgets that stages ask for, each with its line. `changedOn`: by `changeName`. */
export function offeredStages(
  { budgets, rows }: StagedGroup,
  changedOn: (name: string) => Day | null,
): { offered: Offered; draft: LineDraft }[] {
  return budgets.map((budget) => {
    const { campaignId, name, sentence, spend, sales } = budget;
    const row = rows.find((one) => one.campaignId === campaignId)!;
    return {
      offered: {
        key: `stage:${campaignId}`,
        kind: 'stages',
        campaignId,
        campaign: name,
        subject: name,
        sentence,
        measured: null,
        raises: null,
        worth: row.theta * sales - spend,
        held: null,
        changedOn: changedOn(changeName('campaign', campaignId, 'daily_budget')),
        handOn: null,
        since: row.since,
      },
      draft: budgetLine(campaignId, budget.from, budget.to, {
        reason: sentence,
        effect: effectOf(budget, row),
      }),
    };
  });
}
