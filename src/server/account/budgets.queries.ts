import type { BudgetRule } from '../../core/budgets/rules.ts';
import type { Database } from '../db/connection.ts';

/** What is said of totals that campaigns share. */
export async function budgetRules(sql: Database, accountId: number): Promise<BudgetRule[]> {
  return sql<BudgetRule[]>`
    select scope, object, total, least, most, research_share as "researchShare", research_cap as "researchCap",
      grace_days as "graceDays", grace_least as "graceLeast"
    from budget_rule where account_id = ${accountId} order by scope, object`;
}
