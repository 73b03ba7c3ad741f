import { useQuery } from '@tanstack/react-query';
import type { AloneAnswer, BudgetsAnswer } from '../../answers/spend.ts';
import { useMemo } from 'react';
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

/** Keywords that would do better in a campaign of their own, by their campaigns; null until they are known. */
export function useAlone(): ReadonlyMap<string, AloneAnswer['found'][number]> | null {
  const window = useWindow();
  const { data } = useQuery({
    queryKey: ['round', 'alone', window?.from, window?.to],
    queryFn: () => get<AloneAnswer>(`/api/spend/budgets/alone?from=${window!.from}&to=${window!.to}`),
    enabled: window !== null,
  });
  return useMemo(() => data && new Map(data.found.map((one) => [one.campaignId, one])), [data]) ?? null;
}

/** How much money is looked at: campaign by campaign, what shares a total, and where the month lands. */
export const budgetViews = { campaigns: 'Campaigns', groups: 'Totals', pace: 'Pace' };
export type BudgetViewId = keyof typeof budgetViews;
export const budgetViewIds = Object.keys(budgetViews) as BudgetViewId[];
