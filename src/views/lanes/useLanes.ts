import type { LaneMapAnswer, MapLane } from '../../answers/lanes.ts';
import { useQuery, useQueryClient } from '@tanstack/react-query';
import { useSnackbar } from 'notistack';
import { useCallback } from 'react';
import type { Window } from '../../core/metrics/days.ts';
import type { Lane } from '../../core/lanes/lanes.ts';
import { get } from '../../ui/api.ts';
import { putLanes, undoable } from '../../ui/undo.ts';

/** Without what the server adds to a lane. */
export const plainLane = ({ problem: _, flow: __, ...lane }: MapLane): Lane => lane;

export const laneKey = ({ source, kind }: Pick<Lane, 'source' | 'kind'>): string => `${source} ${kind}`;

/** The lanes of the account with their flows in a window, and the saving of a changed set. */
export function useLanes(window: Window | null) {
  const queries = useQueryClient();
  const { enqueueSnackbar } = useSnackbar();
  const map = useQuery({
    queryKey: ['lanes', window?.from, window?.to],
    queryFn: () => get<LaneMapAnswer>(`/api/lanes?from=${window!.from}&to=${window!.to}`),
    enabled: window !== null,
    placeholderData: (previous) => previous,
  });
  const data = map.data;
  /** Saves a whole set in the place of the one before; an error is the server's sentence. */
  const save = useCallback(
    async (lanes: Lane[], label: string): Promise<string | null> => {
      if (!data) return null;
      try {
        const before = data.saved ? data.lanes.map(plainLane) : null;
        await undoable({ kind: 'lanes', before }, label, (call) => putLanes(lanes, call));
        enqueueSnackbar(`${label.charAt(0).toUpperCase()}${label.slice(1)}. ctrl z takes it back.`);
        await queries.invalidateQueries();
        return null;
      } catch (error) {
        return (error as Error).message;
      }
    },
    [data, enqueueSnackbar, queries],
  );
  return { map, save };
}
