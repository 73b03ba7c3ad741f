import { CloseIcon } from '../../ui/icons.tsx';
import Box from '@mui/material/Box';
import IconButton from '@mui/material/IconButton';
import { useTheme } from '@mui/material/styles';
import { useVirtualizer } from '@tanstack/react-virtual';
import { memo, useRef } from 'react';
import type { KeywordCheck, KitKeyword } from '../../core/kits/keywords.ts';
import type { SuggestedRange } from '../../core/kits/bids.ts';
import { money, percent } from '../../core/metrics/format.ts';
import type { Micros } from '../../core/metrics/money.ts';
import { sizes } from '../../ui/theme.ts';
import { MoneyField } from '../../ui/parts/MoneyField.tsx';

const rowHeight = 48;

/** What is to be said of a keyword; empty while nothing is. */
export function saidOf(check: KeywordCheck | undefined): { text: string; isWrong: boolean } {
  if (!check) return { text: '', isWrong: false };
  if (check.wrong !== null) return { text: check.wrong, isWrong: true };
  if (check.repeats) return { text: 'It is in the list already.', isWrong: true };
  if (check.blockedBy !== null) return { text: `Excluded by “${check.blockedBy}”.`, isWrong: true };
  if (check.served.length > 0) {
    const places = check.served.map(({ matchType, adGroup }) => `${matchType} in ${adGroup}`);
    return { text: `Bid on already: ${places.join(', ')}.`, isWrong: false };
  }
  if (check.blockedIn.length > 0) {
    const places = check.blockedIn.map(({ adGroup, by }) => `“${by}” in ${adGroup}`);
    return { text: `Blocked by the negative ${places.join(', ')}.`, isWrong: false };
  }
  return { text: `${percent(check.likeness)} of its words are known`, isWrong: false };
}

interface RangeMarkProps {
  range: SuggestedRange;
  bid: Micros | null;
}

/** A bid beside what clicks took lately: the range as a line, its middle as a tick, the bid as a mark. */
function RangeMark({ range, bid }: RangeMarkProps) {
  const { palette } = useTheme();
  const width = 72;
  const top = Math.max(range.high, bid ?? 0) * 1.1;
  const x = (value: Micros) => (value / top) * width;
  const said = `Clicks took ${money(range.low)} to ${money(range.high)}, half of them ${money(range.middle)} or less`;
  return (
    <svg width={width} height={16} role="img" aria-label={said}>
      <title>{said}</title>
      <line
        x1={x(range.low)}
        x2={x(range.high)}
        y1={8}
        y2={8}
        stroke={palette.roles.graphite}
        strokeWidth={2}
      />
      <line x1={x(range.middle)} x2={x(range.middle)} y1={4} y2={12} stroke={palette.roles.graphite} />
      {bid !== null && <circle cx={x(bid)} cy={8} r={3.5} fill={palette.roles.accent} />}
    </svg>
  );
}

interface KeywordListProps {
  keywords: readonly KitKeyword[];
  checks: readonly KeywordCheck[];
  rangeOf: (text: string) => SuggestedRange | null;
  /** The bid that the plan gives it in the most precise part that has it; null where none has. */
  bidOf: (text: string) => Micros | null;
  onBid: (at: number, bid: Micros | null) => void;
  onRemove: (at: number) => void;
}

/** The keywords of a kit, each with what is to be said of it; thousands stay fluent. */
export const KeywordList = memo(function KeywordList({
  keywords,
  checks,
  rangeOf,
  bidOf,
  onBid,
  onRemove,
}: KeywordListProps) {
  const scroll = useRef<HTMLDivElement>(null);
  const rows = useVirtualizer({
    count: keywords.length,
    getScrollElement: () => scroll.current,
    estimateSize: () => rowHeight,
    overscan: 6,
  });
  if (keywords.length === 0) return null;
  return (
    <Box
      ref={scroll}
      role="list"
      aria-label="Keywords"
      tabIndex={0}
      sx={{
        maxHeight: 290,
        overflowY: 'auto',
        border: 1,
        borderColor: 'divider',
        bgcolor: 'background.paper',
      }}
    >
      <Box sx={{ height: rows.getTotalSize(), position: 'relative' }}>
        {rows.getVirtualItems().map(({ index, start }) => {
          const { text, bid } = keywords[index]!;
          const said = saidOf(checks[index]);
          const range = rangeOf(text);
          return (
            <Box
              key={index}
              role="listitem"
              sx={{
                position: 'absolute',
                insetInline: 0,
                height: rowHeight,
                transform: `translateY(${start}px)`,
                display: 'grid',
                gridTemplateColumns: 'minmax(0, 1fr) 74px 64px 26px',
                columnGap: 0.5,
                alignContent: 'center',
                alignItems: 'center',
                px: 1,
                borderBottom: 1,
                borderColor: 'divider',
              }}
            >
              <Box
                sx={{
                  fontSize: sizes.table,
                  whiteSpace: 'nowrap',
                  overflow: 'hidden',
                  textOverflow: 'ellipsis',
                }}
              >
                {text}
              </Box>
              {range ? <RangeMark range={range} bid={bid ?? bidOf(text)} /> : <span />}
              <MoneyField
                label={`Bid of ${text}`}
                value={bid}
                placeholder="by part"
                width={62}
                onChange={(value) => onBid(index, value)}
              />
              <IconButton size="small" aria-label={`Remove ${text}`} onClick={() => onRemove(index)}>
                <CloseIcon sx={{ fontSize: sizes.text }} />
              </IconButton>
              <Box
                title={said.text}
                sx={{
                  gridColumn: '1 / -1',
                  fontSize: sizes.tiny,
                  lineHeight: 1.1,
                  color: said.isWrong ? 'error.main' : 'text.secondary',
                  whiteSpace: 'nowrap',
                  overflow: 'hidden',
                  textOverflow: 'ellipsis',
                }}
              >
                {said.text}
              </Box>
            </Box>
          );
        })}
      </Box>
    </Box>
  );
});
