import { useQuery } from '@tanstack/react-query';
import type { TrialsAnswer } from '../../answers/trials.ts';
import { get } from '../../ui/api.ts';

/** Trials, with what came of them. */
export const useTrials = () =>
  useQuery({ queryKey: ['trials'], queryFn: () => get<TrialsAnswer>('/api/trials') });
