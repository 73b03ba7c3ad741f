import type { SeasonAnswer } from '../../answers/account.ts';
import type { OpenSheet } from '../../answers/changes.ts';
import type { RoutinesWaiting } from '../../answers/routines.ts';
import { useMemo } from 'react';
import { useQuery } from '@tanstack/react-query';
import { windowProblem, type Window } from '../../core/metrics/days.ts';
import { get } from '../api.ts';
import type { AddressProblem } from './AddressNote.tsx';
import { useUrlState } from '../hooks/useUrlState.ts';

/** What every view shares: the season, the open sheet, the window. */

export const useSeason = () =>
  useQuery({ queryKey: ['season'], queryFn: () => get<SeasonAnswer>('/api/season') });
export const useSheet = () => useQuery({ queryKey: ['sheet'], queryFn: () => get<OpenSheet>('/api/sheet') });

/** What runs by itself changes without anybody here: it is looked at again so often, in ms. */
const routinesAgain = 30_000;

export const useRoutinesWaiting = () =>
  useQuery({
    queryKey: ['routines', 'waiting'],
    queryFn: () => get<RoutinesWaiting>('/api/routines/waiting'),
    refetchInterval: routinesAgain,
  });

/** The window that figures are compared with, when the address names one of its own; null: the days just before. */
export function useOwnComparison(): Window | null {
  const [from] = useUrlState('cfrom');
  const [to] = useUrlState('cto');
  return useMemo(() => (from && to && from <= to ? { from, to } : null), [from, to]);
}

/** The window of the address, else the default one; null while nothing is loaded. */
export function useWindow(): Window | null {
  const [from] = useUrlState('from');
  const [to] = useUrlState('to');
  const usual = useSeason().data?.defaultWindow ?? null;
  return useMemo(
    () => (from && to && windowProblem({ from, to }) === null ? { from, to } : usual),
    [from, to, usual],
  );
}

/** What is wrong with the window in the address: the usual one is shown then. */
export function useWindowProblem(): AddressProblem[] {
  const [from] = useUrlState('from');
  const [to] = useUrlState('to');
  return useMemo(() => {
    if (!from && !to) return [];
    const problem = from && to ? windowProblem({ from, to }) : 'A window needs both its days, from and to.';
    return problem === null
      ? []
      : [
          { name: 'from', problem },
          { name: 'to', problem: 'The usual window is shown.' },
        ];
  }, [from, to]);
}
