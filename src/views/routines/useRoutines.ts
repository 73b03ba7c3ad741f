import { useQuery } from '@tanstack/react-query';
import type { ItemsAnswer, RoutinesAnswer, StagesAnswer } from '../../answers/routines.ts';
import { get } from '../../ui/api.ts';

/** Runs are jobs, and sheets leave by themselves: while something is under way it is looked at again so often, in ms. */
const atWork = 1500;
const atRest = 30_000;

/** Routines by rank, with their newest runs. */
export const useRoutines = () =>
  useQuery({
    queryKey: ['routines'],
    queryFn: () => get<RoutinesAnswer>('/api/routines'),
    refetchInterval: ({ state: { data } }) =>
      data?.runs.some(({ state }) => state === 'running' || state === 'sending') ? atWork : atRest,
  });

export interface ItemsOrder {
  runId: number | null;
  did: string | null;
  text: string;
}

/** What a log asks for, as a query. */
export const itemsQuery = ({ runId, did, text }: ItemsOrder): string =>
  new URLSearchParams({
    ...(runId === null ? {} : { run: String(runId) }),
    ...(did === null ? {} : { did }),
    ...(text === '' ? {} : { text }),
  }).toString();

/** How many items are shown at once. */
export const mostItems = 500;

/** What runs found and did, the newest first. `version`: changes with what is under way. */
export const useItems = (order: ItemsOrder, version: string) =>
  useQuery({
    queryKey: ['routines', 'log', order, version],
    queryFn: () => get<ItemsAnswer>(`/api/routines/log?${itemsQuery(order)}&limit=${mostItems}`),
    placeholderData: (before) => before,
  });

/** The budget groups of a routine by their stages. */
export const useStages = (routineId: number, isAsked: boolean) =>
  useQuery({
    queryKey: ['routines', 'stages', routineId],
    queryFn: () => get<StagesAnswer>(`/api/routines/${routineId}/stages`),
    enabled: isAsked,
  });
