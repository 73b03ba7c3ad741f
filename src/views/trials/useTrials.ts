import { useQuery } from '@tanstack/react-query';
import type { TrialsAnswer } from '../../answers/trials.ts';
import { get } from '../../ui/api.ts';

/** Sheets are sent by jobs: what waits for one is looked at again so often, in ms. */
const again = 3000;

/** Trials, with what came of them. */
export const useTrials = () =>
  useQuery({
    queryKey: ['trials'],
    queryFn: () => get<TrialsAnswer>('/api/trials'),
    refetchInterval: ({ state }) =>
      state.data?.trials.some((trial) => trial.state === 'planned') ? again : false,
  });
