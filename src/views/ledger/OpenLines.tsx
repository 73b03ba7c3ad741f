import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { harvestKey, harvestKeys } from '../../core/changes/harvests.ts';
import { money, signedMoney } from '../../core/metrics/format.ts';
import { micros, units } from '../../core/metrics/money.ts';
import type { SheetLineAnswer } from '../../ui/shell/data.ts';
import { newText, oldText, whatOf } from './words.ts';

interface OpenLinesProps {
  lines: SheetLineAnswer[];
  onRemove: (lines: SheetLineAnswer[], label: string) => void;
  onEdit: (line: SheetLineAnswer, change: { newValue?: string; rebase?: boolean }) => void;
  /** Lines are carried over by hand: says that these are applied. */
  onApplied?: (lines: SheetLineAnswer[]) => void;
}

const columns = 'minmax(140px, 1.1fr) 150px 138px minmax(180px, 2fr) 92px 84px';

/** Lines of the open sheet: each harvest with all that belongs to it, the others grouped by campaign. */
export function OpenLines({ lines, onRemove, onEdit, onApplied }: OpenLinesProps) {
  const harvests = harvestKeys(lines);
  const groups = new Map<string, { title: string; harvest: boolean; list: SheetLineAnswer[] }>();
  for (const line of lines) {
    const harvest = harvests.has(harvestKey(line));
    const key = harvest ? harvestKey(line) : line.campaign;
    const group = groups.get(key) ?? { title: harvest ? '' : line.campaign, harvest, list: [] };
    if (harvest && line.entity === 'target')
      group.title = `Harvest of “${line.expression ?? ''}” to ${line.ad_group ?? ''}`;
    group.list.push(line);
    groups.set(key, group);
  }
  return (
    <Box role="table" aria-label="Lines of the open sheet" sx={{ fontSize: 13 }}>
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
        <span role="columnheader">Object</span>
        <span role="columnheader">Change</span>
        <span role="columnheader">Old and new</span>
        <span role="columnheader">Reason</span>
        <Box component="span" role="columnheader" sx={{ textAlign: 'right' }}>
          Spend a week
        </Box>
        <span role="columnheader" aria-label="Actions" />
      </Box>
      {[...groups].map(([key, { title, harvest, list }]) => (
        <Box key={key} role="rowgroup">
          <Box role="row" sx={{ display: 'flex', alignItems: 'baseline', gap: 1, px: 2, pt: 1.5, pb: 0.5 }}>
            <Typography role="cell" variant="body2" component="h3" sx={{ fontWeight: 700 }}>
              {title}
            </Typography>
            <Box role="cell">
              <Typography variant="caption" color="text.secondary">
                {list.length} line{list.length === 1 ? '' : 's'}
              </Typography>
              <Button
                size="small"
                sx={{ py: 0, ml: 1, fontSize: 12 }}
                onClick={() =>
                  onRemove(list, harvest ? `${title} removed` : `${list.length} lines of ${title} removed`)
                }
              >
                {harvest ? 'Remove the harvest' : 'Remove these'}
              </Button>
              {onApplied && (
                <Button
                  size="small"
                  sx={{ py: 0, fontSize: 12 }}
                  aria-label={`Mark ${title} as applied`}
                  onClick={() => onApplied(list)}
                >
                  {harvest ? 'Harvest applied' : 'These are applied'}
                </Button>
              )}
            </Box>
          </Box>
          {list.map((line) => (
            <OpenLine
              key={line.line_id}
              line={line}
              single={!harvest}
              onRemove={onRemove}
              onEdit={onEdit}
              {...(onApplied ? { onApplied } : {})}
            />
          ))}
        </Box>
      ))}
    </Box>
  );
}

interface OpenLineProps extends Omit<OpenLinesProps, 'lines'> {
  line: SheetLineAnswer;
  /** It can go by itself; lines of a harvest go together. */
  single: boolean;
}

function OpenLine({ line, single, onRemove, onEdit, onApplied }: OpenLineProps) {
  const editable = line.field === 'bid' && line.action !== 'archive';
  return (
    <Box
      role="row"
      data-line={line.line_id}
      sx={{
        display: 'grid',
        gridTemplateColumns: columns,
        columnGap: 1.5,
        px: 2,
        py: 0.6,
        alignItems: 'start',
        borderTop: 1,
        borderColor: 'divider',
        contentVisibility: 'auto',
        containIntrinsicSize: 'auto 42px',
      }}
    >
      <Box role="cell" sx={{ minWidth: 0 }}>
        <Box sx={{ fontWeight: 600, overflowWrap: 'anywhere' }}>{line.expression}</Box>
        <Typography variant="caption" color="text.secondary">
          {line.ad_group ?? 'whole campaign'}
        </Typography>
      </Box>
      <Box role="cell">
        {whatOf(line)}
        {line.conflict && (
          <Box sx={{ color: 'error.main', fontSize: 12 }}>
            Conflicts: another line sets this too. Keep one.
          </Box>
        )}
        {line.overtaken && (
          <Box sx={{ color: 'error.main', fontSize: 12 }}>
            Overtaken: it is {line.now_value ? money(Number(line.now_value)) : 'gone'} by now.{' '}
            <Button
              size="small"
              sx={{ p: 0, minWidth: 0, fontSize: 12 }}
              onClick={() => onEdit(line, { rebase: true })}
            >
              Start from that
            </Button>
          </Box>
        )}
      </Box>
      <Box role="cell" sx={{ display: 'flex', alignItems: 'center', gap: 0.75 }}>
        {line.action === 'update' && <span>{oldText(line)} →</span>}
        {editable ? (
          <BidField line={line} onEdit={onEdit} />
        ) : (
          <span>{line.action === 'create' ? 'new' : newText(line)}</span>
        )}
      </Box>
      <Box role="cell" sx={{ color: 'text.secondary', fontSize: 12.5 }}>
        {line.reason}
        {line.proposed_by !== 'Mowing' && <i> ({line.proposed_by})</i>}
      </Box>
      <Box role="cell" sx={{ textAlign: 'right' }}>
        {line.effect ? signedMoney(line.effect.spend) : ''}
      </Box>
      <Box role="cell" sx={{ textAlign: 'right' }}>
        {(single || line.conflict) && (
          <Button
            size="small"
            sx={{ py: 0 }}
            aria-label={`Remove ${line.expression ?? ''} from the sheet`}
            onClick={() => onRemove([line], `${line.expression ?? 'Line'} removed`)}
          >
            Remove
          </Button>
        )}
        {single && onApplied && !line.conflict && (
          <Button
            size="small"
            sx={{ py: 0 }}
            aria-label={`${line.expression ?? 'Line'} is applied`}
            onClick={() => onApplied([line])}
          >
            Applied
          </Button>
        )}
      </Box>
    </Box>
  );
}

function BidField({ line, onEdit }: { line: SheetLineAnswer; onEdit: OpenLinesProps['onEdit'] }) {
  const start = units(Number(line.new_value)).toFixed(2);
  const [text, setText] = useState(start);
  const commit = () => {
    const value = Number(text.replace(',', '.'));
    if (!Number.isFinite(value) || value <= 0) setText(start);
    else if (text !== start) onEdit(line, { newValue: String(micros(Math.round(value * 100) / 100)) });
  };
  return (
    <input
      aria-label={`New bid of ${line.expression ?? ''}`}
      inputMode="decimal"
      value={text}
      onChange={(event) => setText(event.target.value)}
      onBlur={commit}
      onKeyDown={(event) => {
        if (event.key === 'Enter') event.currentTarget.blur();
        if (event.key === 'Escape') setText(start);
      }}
      style={{
        font: 'inherit',
        fontWeight: 700,
        width: 54,
        padding: '1px 4px',
        textAlign: 'right',
        border: '1px solid transparent',
        borderBottom: '1px dashed currentColor',
        background: 'transparent',
        color: 'inherit',
      }}
    />
  );
}
