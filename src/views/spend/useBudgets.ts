import { useQuery } from '@tanstack/react-query';
import type { BudgetsAnswer } from '../../answers/spend.ts';
import { get } from '../../ui/api.ts';
import { useWindow } from '../../ui/shell/data.ts';

/** Campaigns by their budgets over the window, with what shares a total. */
export function useBudgets() {
  const window = useWindow();
  const budgets = useQuery({
    queryKey: ['budgets', window?.from, window?.to],
    queryFn: () => get<BudgetsAnswer>(`/api/spend/budgets?from=${window!.from}&to=${window!.to}`),
    enabled: window !== null,
  });
  return { window, budgets };
}

/** How much money is looked at: campaign by campaign, what shares a total, and where the month lands. */
export const budgetViews = { campaigns: 'Campaigns', groups: 'Totals', pace: 'Pace' };
export type BudgetViewId = keyof typeof budgetViews;
export const budgetViewIds = Object.keys(budgetViews) as BudgetViewId[];
