import { budgetLine } from '../../core/budgets/lines.ts';
import type { BudgetRow } from '../../core/budgets/rows.ts';
import type { BudgetGroup } from '../../core/budgets/rules.ts';
import type { Effect } from '../../core/effect/types.ts';
import type { Day, Window } from '../../core/metrics/days.ts';
import { heldBack, type Held } from '../../core/routines/choose.ts';
import type { Routine } from '../../core/routines/routine.ts';
import {
  nextStage,
  stageBudgets,
  usualStages,
  type StageBudget,
  type StagedCampaign,
  type StageShare,
  type Standing,
} from '../../core/routines/stages.ts';
import { randomUUID } from 'node:crypto';
import { getAccount, marginOf } from '../account/account.ts';
import { fieldLimitsOf } from '../account/limits.ts';
import { productsOf } from '../account/queries.ts';
import { budgetGroupsOf, budgetLimits, budgetRowsOf } from '../budgets/index.ts';
import { rowOf } from '../changes/rows.ts';
import type { NewLine } from '../changes/lines.queries.ts';
import { db, type Transaction } from '../db/connection.ts';
import { fieldChanged } from '../facts/hours.queries.ts';
import type { Offered } from '../../core/routines/candidate.ts';
import { keepStages, keptStages } from './ground.queries.ts';

/** Stages of budget groups: where campaigns stand, and what that makes of their budgets. */

export interface StagedGroup {
  group: Pick<BudgetGroup, 'object' | 'name'>;
  staged: StagedCampaign[];
  rows: BudgetRow[];
  shares: StageShare[];
  budgets: StageBudget[];
}

/** The groups of a routine with the stages of their campaigns as of today; nothing is kept. */
export async function stagedGroups(
  accountId: number,
  { scope, stages }: Pick<Routine, 'scope' | 'stages'>,
  window: Window,
  today: Day,
): Promise<StagedGroup[]> {
  if (scope.of !== 'budget_groups') return [];
  const rules = stages ?? usualStages;
  const all = await budgetRowsOf(accountId, window);
  const groups = (await budgetGroupsOf(accountId, all)).filter(
    (group) => group.scope === 'budget_group' && scope.keys.includes(group.object),
  );
  const was = await keptStages(db(), accountId);
  const margins = new Map((await productsOf(db(), accountId)).map((row) => [row.sku, marginOf(row)]));
  const limits = new Map((await budgetLimits(db(), accountId)).map((limit) => [limit.campaignId, limit]));
  const { minimumBudget } = fieldLimitsOf(await getAccount(db(), accountId));
  return groups.map((group) => {
    const ids = new Set(group.campaignIds);
    const rows = all.filter(({ campaignId }) => ids.has(campaignId));
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
  });
}

const effectOf = ({ spend, sales }: StageBudget, row: BudgetRow): Effect => {
  const clicks = row.cpc !== null && row.cpc > 0 ? spend / row.cpc : 0;
  const orders = row.sums.sales > 0 ? (sales * row.sums.orders) / row.sums.sales : 0;
  const spread = Math.abs(sales) * (row.earns > 0 ? row.earnsSpread / row.earns : 1);
  return {
    clicks,
    spend,
    orders,
    sales,
    salesLow: sales - 1.2816 * spread,
    salesHigh: sales + 1.2816 * spread,
    profit: null,
  };
};

/** What stages ask for as findings with their lines, and how the stages are kept. */
export async function stageOffer(
  accountId: number,
  routine: Routine,
  window: Window,
  today: Day,
  proposedBy: string,
): Promise<{
  found: { offered: Offered; held: Held | null; lines: NewLine[] }[];
  keep: (tx: Transaction) => Promise<void>;
}> {
  const groups = await stagedGroups(accountId, routine, window, today);
  const changed = await fieldChanged(db(), accountId, 'daily_budget');
  const found = groups.flatMap(({ budgets, rows }) =>
    budgets.map((budget) => {
      const row = rows.find(({ campaignId }) => campaignId === budget.campaignId)!;
      const key = `stage:${budget.campaignId}`;
      const effect = effectOf(budget, row);
      const line = rowOf(
        budgetLine(budget.campaignId, budget.from, budget.to, { reason: budget.sentence, effect }),
        { sheet_id: 0, group_key: randomUUID(), finding_key: key, proposed_by: proposedBy, reverts: null },
      );
      const offered: Offered = {
        key,
        kind: 'stages',
        campaignId: budget.campaignId,
        campaign: budget.name,
        subject: budget.name,
        sentence: budget.sentence,
        measured: null,
        raises: null,
        worth: row.theta * budget.sales - budget.spend,
        held: null,
        changedOn: changed.get(budget.campaignId) ?? null,
        handOn: null,
        since: row.since,
      };
      return { offered, held: heldBack(offered, routine, today), lines: [line] };
    }),
  );
  const standing = new Map<string, Standing>(
    groups.flatMap(({ staged }) => staged.map(({ campaignId, now }) => [campaignId, now] as const)),
  );
  return { found, keep: (tx) => keepStages(tx, accountId, standing) };
}
