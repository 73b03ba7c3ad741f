import Box from '@mui/material/Box';
import type { PlannedPart } from '../../core/kits/types.ts';
import { count, money } from '../../core/metrics/format.ts';
import type { Micros } from '../../core/metrics/money.ts';
import { sizes } from '../../ui/theme.ts';
import { MoneyField } from '../../ui/parts/MoneyField.tsx';
import { number } from './parts.tsx';

const mostShown = 200;
const inside = {
  display: 'grid',
  gridTemplateColumns: '180px 52px 40px minmax(0, 1fr)',
  columnGap: 1,
  py: 0.25,
} as const;

interface InsideProps {
  planned: PlannedPart;
  label: string;
  /** Of all its targets; null: each has its own. */
  bid: Micros | null;
  onBid: (bid: Micros | null) => void;
}

/** Targets with their first bids and where these come from, then negatives with the part that serves them. */
export function Inside({
  planned: { targets, negatives, archives, creatives },
  label,
  bid,
  onBid,
}: InsideProps) {
  return (
    <Box
      sx={{ px: 1, pb: 1, fontSize: sizes.small, maxHeight: 220, overflowY: 'auto' }}
      tabIndex={0}
      role="region"
      aria-label="Targets, negatives, pictures and titles"
    >
      {targets.length > 0 && (
        <label>
          One bid for all{' '}
          <MoneyField label={label} value={bid} placeholder="each its own" width={82} onChange={onBid} />
        </label>
      )}
      {archives.map(({ target: { targetId, expression }, why }) => (
        <Box key={targetId} sx={inside}>
          <span>{expression}</span>
          <Box component="span" sx={{ color: 'text.secondary', gridColumn: '2 / -1' }}>
            archived. {why}
          </Box>
        </Box>
      ))}
      {creatives.map(({ kind, value, name }) => (
        <Box key={`${kind} ${value}`} sx={inside}>
          <span>{name}</span>
          <Box component="span" sx={{ color: 'text.secondary', gridColumn: '2 / -1' }}>
            {kind === 'left_out' ? 'this pair is not shown' : kind}
          </Box>
        </Box>
      ))}
      {targets.slice(0, mostShown).map(({ expression, matchType, targetKind, bid, why }) => (
        <Box key={`${targetKind} ${expression}`} sx={inside}>
          <span>{expression}</span>
          <Box component="span" sx={{ color: 'text.secondary' }}>
            {matchType ?? targetKind}
          </Box>
          <span style={number}>{money(bid)}</span>
          <Box component="span" sx={{ color: 'text.secondary' }}>
            {why}
          </Box>
        </Box>
      ))}
      {negatives.slice(0, mostShown).map(({ expression, matchType, servedBy, list }) => (
        <Box key={`${matchType} ${expression}`} sx={inside}>
          <span>{expression}</span>
          <Box component="span" sx={{ color: 'text.secondary', gridColumn: '2 / -1' }}>
            {matchType.replace('_', ' ')},{' '}
            {servedBy !== null
              ? `served by ${servedBy}`
              : list === undefined
                ? 'excluded from the whole kit'
                : `of the list “${list}”`}
          </Box>
        </Box>
      ))}
      {Math.max(targets.length, negatives.length) > mostShown && (
        <Box sx={{ color: 'text.secondary' }}>
          The first {mostShown} of each are shown; all {count(targets.length + negatives.length)} go onto the
          sheet.
        </Box>
      )}
    </Box>
  );
}
