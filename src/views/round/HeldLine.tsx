import { sizes } from '../../ui/theme.ts';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from '@mui/material/Link';
import { count, counted, money } from '../../core/metrics/format.ts';
import { setUrl } from '../../ui/hooks/useUrlState.ts';
import { queues } from '../../core/round/queue.ts';
import { isConfirmable, type HeldCount, type Shown } from './filter.ts';
import type { Row } from './types.ts';

interface HeldLineProps {
  shownKind: Shown;
  counts: readonly HeldCount[];
  /** The guard that is filtered by, `any`, or nothing. */
  chosen: string;
  /** What a confirmation would mean: the rows marked, else all that match. */
  shown: Row[];
  marked: boolean;
  onConfirm: (rows: Row[]) => void;
}

/** How many findings are held by which guard; each guard shows its own, and what it holds can be confirmed beyond it. */
export function HeldLine({ shownKind, counts, chosen, shown, marked, onConfirm }: HeldLineProps) {
  if (counts.length === 0 && chosen === '') return null;
  const all = counts.reduce((sum, one) => sum + one.count, 0);
  const noun = shownKind === 'all' ? 'finding' : queues.find(({ id }) => id === shownKind)!.one;
  const link = (text: string, held: string | null) => (
    <Link
      component="button"
      type="button"
      aria-pressed={chosen === held}
      onClick={() => setUrl({ held: chosen === held ? null : held })}
      sx={{ font: 'inherit', verticalAlign: 'baseline', fontWeight: chosen === held ? 700 : 400 }}
    >
      {text}
    </Link>
  );
  const confirmable = shown.filter(isConfirmable);
  return (
    <Box
      data-testid="held-line"
      sx={{ fontSize: sizes.table, color: 'text.secondary', display: 'flex', gap: 1.5, minHeight: 24 }}
    >
      <Box sx={{ flex: 1 }}>
        {link(`${counted(all, noun)} ${all === 1 ? 'is' : 'are'} held`, 'any')}:{' '}
        {counts.map(({ by, count: held, worth }, i) => (
          <span key={by}>
            {i > 0 && ', '}
            {link(`${count(held)} by ${by}`, by)}
            {worth >= 10_000 && ` (${money(worth)} a week)`}
          </span>
        ))}
        {all === 0 && 'none of these'}.
      </Box>
      {chosen !== '' && confirmable.length > 0 && (
        <Button size="small" variant="outlined" onClick={() => onConfirm(confirmable)}>
          Confirm {count(confirmable.length)} {marked ? 'marked ' : ''}beyond{' '}
          {chosen === 'any' ? 'their guards' : chosen}
        </Button>
      )}
    </Box>
  );
}
