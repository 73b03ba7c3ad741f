import Link from '@mui/material/Link';
import { useQuery } from '@tanstack/react-query';
import { at } from '../address.ts';
import type { Window } from '../../core/metrics/days.ts';
import { ask } from '../api.ts';
import { Part } from './Panel.tsx';

interface TermHintsProps {
  term: string;
  sku: string | null;
  window: Window;
}

/** What helps to tell an irrelevant term from an unlucky one, and the way to all that bids on it or blocks it. */
export function TermHints({ term, sku, window }: TermHintsProps) {
  const body = { from: window.from, to: window.to, sku, term };
  const hint = useQuery({
    queryKey: ['likeness', body],
    queryFn: () => ask<{ likeness: { share: number; sentence: string } | null }>('/api/terms/likeness', body),
    staleTime: 60_000,
    enabled: sku !== null,
  });
  return (
    <Part title="Its words, a hint">
      {hint.data?.likeness && <div data-testid="likeness">{hint.data.likeness.sentence}</div>}
      <Link href={at(`/lanes?view=coverage&term=${encodeURIComponent(term)}`)}>
        What bids on it and blocks it
      </Link>
    </Part>
  );
}
