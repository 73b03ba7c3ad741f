import { HeadCell } from '../../ui/list/HeadCell.tsx';
import { Explanation } from '../../ui/parts/Explanation.tsx';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import type { SentLine, SumsOfLine } from '../../answers/changes.ts';
import type { LineView } from '../../core/changes/sheet.ts';
import { acos } from '../../core/metrics/figures.ts';
import { count, counted, money, percent } from '../../core/metrics/format.ts';
import { OutcomeText } from './OutcomeText.tsx';
import { LinesList } from './LinesList.tsx';
import { newText, oldText, whatOf } from './words.ts';

const columns = 'minmax(110px, 1.3fr) 116px 92px minmax(64px, 0.8fr) 128px 128px 128px 60px';

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

interface SentLinesProps {
  sheetId: number;
  view: LineView;
  onRevert: (lineId: number) => void;
}

/** Lines of a sent sheet with what came back, and what happened before and after. */
export const SentLines = ({ sheetId, view, onRevert }: SentLinesProps) => (
  <LinesList<SentLine>
    label="Lines of the sheet"
    path={`/api/ledger/${sheetId}/lines`}
    queryKey={['ledger', sheetId, 'lines']}
    view={view}
    columns={columns}
    none="No line is like that."
    heads={
      <>
        {['Object', 'Change', 'Old and new', 'Result', 'Before', 'After'].map((name) => (
          <HeadCell key={name} label={name} />
        ))}
        <HeadCell label="Did it work?" explanation={<Explanation label="Did it work?" name="outcome" />} />
        <span role="columnheader" aria-label="Actions" />
      </>
    }
    head={(group) => (
      <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 1, px: 2, pt: 1.5, pb: 0.5 }}>
        <Typography role="gridcell" variant="body2" component="h3" sx={{ fontWeight: 700 }}>
          {group.title}
        </Typography>
        <Typography role="gridcell" variant="caption" color="text.secondary">
          {counted(group.lines, 'line')}
        </Typography>
      </Box>
    )}
    cells={(line) => <SentCells line={line} onRevert={onRevert} />}
  />
);

const SentCells = ({ line, onRevert }: { line: SentLine; onRevert: (lineId: number) => void }) => (
  <>
    <Box role="gridcell" sx={{ minWidth: 0 }}>
      <Box sx={{ fontWeight: 600, overflowWrap: 'anywhere' }}>{line.expression}</Box>
      <Typography variant="caption" color="text.secondary">
        {line.ad_group ?? line.campaign}
      </Typography>
    </Box>
    <Box role="gridcell" title={line.reason}>
      {whatOf(line)}
    </Box>
    <Box role="gridcell">
      {line.action === 'update'
        ? `${oldText(line)} → ${newText(line)}`
        : line.action === 'create'
          ? newText(line) || 'new'
          : 'archived'}
    </Box>
    <Box role="gridcell">
      {line.state === 'refused' ? (
        <Box sx={{ color: 'error.main' }}>Refused: {line.message}</Box>
      ) : line.state === 'applied' ? (
        'applied'
      ) : (
        'on its way'
      )}
    </Box>
    <Box role="gridcell">
      <Side sums={line.before} />
    </Box>
    <Box role="gridcell">
      <Side sums={line.after} />
    </Box>
    <Box role="gridcell">{line.outcome && <OutcomeText outcome={line.outcome} />}</Box>
    <Box role="gridcell" sx={{ textAlign: 'right' }}>
      {line.state === 'applied' && (
        <Button
          size="small"
          sx={{ py: 0 }}
          aria-label={`Revert ${line.harvest ? 'all that belongs to ' : ''}${line.expression ?? 'line'}: ${whatOf(line)}`}
          onClick={() => onRevert(line.line_id)}
        >
          {line.harvest ? 'Revert all of it' : 'Revert'}
        </Button>
      )}
    </Box>
  </>
);
