import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { acos } from '../../core/metrics/figures.ts';
import { harvestKey, harvestKeys } from '../../core/changes/harvests.ts';
import { count, money, percent } from '../../core/metrics/format.ts';
import type { LedgerLine, SumsOfLine } from './types.ts';
import { newText, oldText, whatOf } from './words.ts';

const columns = 'minmax(120px, 1.3fr) 132px 92px minmax(80px, 1fr) 134px 134px 66px';

const Side = ({ sums }: { sums: SumsOfLine | null }) =>
  sums === null ? (
    <span>–</span>
  ) : (
    <>
      <b>{money(sums.spend)}</b> {count(sums.clicks)} clicks
      <br />
      {count(sums.orders)} order{sums.orders === 1 ? '' : 's'}, {percent(acos(sums))}
    </>
  );

/** Lines of a sent sheet with what came back, and what happened before and after. */
export function SentLines({ lines, onRevert }: { lines: LedgerLine[]; onRevert: (lineId: number) => void }) {
  const harvests = harvestKeys(lines);
  return (
    <Box role="table" aria-label="Lines of the sheet" sx={{ fontSize: 13 }}>
      <Box
        role="row"
        sx={{
          display: 'grid',
          gridTemplateColumns: columns,
          columnGap: 1.5,
          color: 'text.secondary',
          fontSize: 12,
          py: 0.75,
          px: 2,
          position: 'sticky',
          top: 0,
          bgcolor: 'background.paper',
          zIndex: 1,
          borderBottom: 1,
          borderColor: 'divider',
        }}
      >
        {['Object', 'Change', 'Old and new', 'Result', 'Before', 'After'].map((name) => (
          <span role="columnheader" key={name}>
            {name}
          </span>
        ))}
        <span role="columnheader" aria-label="Actions" />
      </Box>
      {lines.map((line) => (
        <Box
          key={line.line_id}
          role="row"
          data-line={line.line_id}
          sx={{
            display: 'grid',
            gridTemplateColumns: columns,
            columnGap: 1.5,
            px: 2,
            py: 0.6,
            borderTop: 1,
            borderColor: 'divider',
            contentVisibility: 'auto',
            containIntrinsicSize: 'auto 44px',
          }}
        >
          <Box role="cell" sx={{ minWidth: 0 }}>
            <Box sx={{ fontWeight: 600, overflowWrap: 'anywhere' }}>{line.expression}</Box>
            <Typography variant="caption" color="text.secondary">
              {line.ad_group ?? line.campaign}
            </Typography>
          </Box>
          <Box role="cell" title={line.reason}>
            {whatOf(line)}
          </Box>
          <Box role="cell">
            {line.action === 'update'
              ? `${oldText(line)} → ${newText(line)}`
              : line.action === 'create'
                ? newText(line) || 'new'
                : 'archived'}
          </Box>
          <Box role="cell">
            {line.state === 'refused' ? (
              <Box sx={{ color: 'error.main' }}>Refused: {line.message}</Box>
            ) : line.state === 'applied' ? (
              'applied'
            ) : (
              'on its way'
            )}
          </Box>
          <Box role="cell">
            <Side sums={line.state === 'applied' ? line.before : null} />
          </Box>
          <Box role="cell">
            <Side sums={line.state === 'applied' ? line.after : null} />
          </Box>
          <Box role="cell" sx={{ textAlign: 'right' }}>
            {line.state === 'applied' && (
              <Button
                size="small"
                sx={{ py: 0 }}
                aria-label={`Revert ${harvests.has(harvestKey(line)) ? 'the harvest of ' : ''}${line.expression ?? 'line'}: ${whatOf(line)}`}
                onClick={() => onRevert(line.line_id)}
              >
                {harvests.has(harvestKey(line)) ? 'Revert all of it' : 'Revert'}
              </Button>
            )}
          </Box>
        </Box>
      ))}
    </Box>
  );
}
