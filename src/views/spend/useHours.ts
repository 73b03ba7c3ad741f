import { useQuery } from '@tanstack/react-query';
import type { AfterAnswer, HoursAnswer, ScopeAnswer } from '../../answers/hours.ts';
import { get } from '../../ui/api.ts';
import { useUrlState } from '../../ui/hooks/useUrlState.ts';
import { useWindow } from '../../ui/shell/data.ts';

/** Weeks that can be chosen to judge by. */
export const weekChoices = [4, 8, 12, 26, 52] as const;
const usualWeeks = 12;

/** Campaigns by the time of the week, over the weeks that end with the window. */
export function useHours() {
  const window = useWindow();
  const [text, setText] = useUrlState('weeks', true);
  const asked = Number(text ?? usualWeeks);
  const weeks = weekChoices.find((one) => one === asked) ?? usualWeeks;
  const hours = useQuery({
    queryKey: ['hours', window?.from, window?.to, weeks],
    queryFn: () => get<HoursAnswer>(`/api/spend/hours?from=${window!.from}&to=${window!.to}&weeks=${weeks}`),
    enabled: window !== null,
  });
  const setWeeks = (next: number) => setText(next === usualWeeks ? null : String(next));
  return { window, weeks, setWeeks, hours };
}

/** One scope at every time of the week: `account`, `product:SKU`, `campaign:ID`, `ad_group:ID`. */
export function useScope(of: string, weeks: number) {
  const window = useWindow();
  return useQuery({
    queryKey: ['hours', 'scope', of, window?.from, window?.to, weeks],
    queryFn: () =>
      get<ScopeAnswer>(
        `/api/spend/hours/scope?from=${window!.from}&to=${window!.to}&weeks=${weeks}&of=${encodeURIComponent(of)}`,
      ),
    enabled: window !== null,
    placeholderData: (old) => old,
  });
}

/** What the last change of a campaign's schedule did. */
export function useAfter(campaignId: string, isChanged: boolean) {
  const window = useWindow();
  return useQuery({
    queryKey: ['hours', 'after', campaignId, window?.from, window?.to],
    queryFn: () =>
      get<AfterAnswer>(`/api/spend/hours/after?campaign=${campaignId}&from=${window!.from}&to=${window!.to}`),
    enabled: window !== null && isChanged,
  });
}
