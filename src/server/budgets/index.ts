/** How much money campaigns have: how long it lasts, what shares a total, and budgets as they are set. */

export { budgetDraftsOf, budgetRowsOf, budgetsAnswer, setBudgets } from './budgets.ts';
export { groupsOf as budgetGroupsOf, setLimit, setRule } from './rules.ts';
export { budgetLimits } from './queries.ts';
export { budgetsCsv, readBudgetsCsv } from './file.ts';
export { budgetOrderSchema, limitSchema, ruleSchema, type BudgetOrders } from './door.ts';
