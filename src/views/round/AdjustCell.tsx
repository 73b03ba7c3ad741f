import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useState, type FormEvent, type KeyboardEvent } from 'react';
import type { Adjustment } from '../../core/changes/lines.ts';
import { micros, units } from '../../core/metrics/money.ts';
import type { Row } from './types.ts';

interface AdjustCellProps {
  row: Row;
  onAccept: (adjustment: Adjustment) => void;
  onCancel: () => void;
}

const field = { font: 'inherit', padding: '2px 4px', minHeight: 24, borderRadius: 4 } as const;

/** Adjusts a proposal where it stands: Enter accepts it so, Escape leaves it as it was. */
export function AdjustCell({ row, onAccept, onCancel }: AdjustCellProps) {
  const { proposal } = row;
  const start = proposal.kind === 'bid' ? proposal.to : proposal.kind === 'harvest' ? proposal.bid : null;
  const [bid, setBid] = useState(start === null ? '' : units(start).toFixed(2));
  const [matchType, setMatchType] = useState(
    proposal.kind === 'harvest' || proposal.kind === 'negative' ? proposal.matchType : null,
  );
  const [isolate, setIsolate] = useState(true);
  const [scope, setScope] = useState<NonNullable<Adjustment['scope']>>('ad_group');
  const [milder, setMilder] = useState(false);
  const value = Number(bid.replace(',', '.'));
  const wrong = start !== null && !(value > 0 && Number.isFinite(value));

  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (wrong) return;
    const adjustment: Adjustment = {};
    if (start !== null) adjustment.bid = micros(Math.round(value * 100) / 100);
    if (matchType !== null && matchType !== 'negative_item') adjustment.matchType = matchType;
    if (proposal.kind === 'harvest' && !isolate) adjustment.isolate = false;
    if (proposal.kind === 'negative' && scope !== 'ad_group') adjustment.scope = scope;
    if (milder) {
      onAccept({ milder });
      return;
    }
    onAccept(adjustment);
  };
  const onKey = (event: KeyboardEvent) => {
    event.stopPropagation();
    if (event.key === 'Escape') onCancel();
  };
  const option = (name: string, label: string) => <option value={name}>{label}</option>;
  return (
    <Box
      component="form"
      onSubmit={submit}
      onKeyDown={onKey}
      sx={{ display: 'flex', gap: 0.75, alignItems: 'center' }}
    >
      {start !== null && (
        <input
          autoFocus
          aria-label="Bid"
          aria-invalid={wrong}
          inputMode="decimal"
          value={bid}
          onChange={(event) => setBid(event.target.value)}
          onFocus={(event) => event.target.select()}
          style={{
            ...field,
            width: 58,
            border: `1px solid ${wrong ? '#B4532A' : '#8a8f8a'}`,
            textAlign: 'right',
          }}
        />
      )}
      {proposal.kind === 'negative' && proposal.milder && (
        <select
          aria-label="Way"
          value={milder ? 'milder' : 'negative'}
          onChange={(event) => setMilder(event.target.value === 'milder')}
          style={field}
        >
          {option('negative', 'negative')}
          {option(
            'milder',
            `bid ${units(proposal.milder.from).toFixed(2)} → ${units(proposal.milder.to).toFixed(2)}`,
          )}
        </select>
      )}
      {!milder && matchType !== null && matchType !== 'negative_item' && (
        <select
          autoFocus={start === null}
          aria-label="Match type"
          value={matchType}
          onChange={(event) => setMatchType(event.target.value as typeof matchType)}
          style={field}
        >
          {proposal.kind === 'negative' ? (
            <>
              {option('negative_exact', 'exact')}
              {option('negative_phrase', 'phrase')}
            </>
          ) : (
            <>
              {option('exact', 'exact')}
              {option('phrase', 'phrase')}
              {option('broad', 'broad')}
            </>
          )}
        </select>
      )}
      {!milder && proposal.kind === 'negative' && (
        <select
          aria-label="Scope"
          value={scope}
          onChange={(event) => setScope(event.target.value as typeof scope)}
          style={field}
        >
          {option('ad_group', 'ad group')}
          {option('campaign', 'campaign')}
          {option('product', 'product')}
        </select>
      )}
      {proposal.kind === 'harvest' && (
        <label title="Block the term in research, so that it is served once" style={{ whiteSpace: 'nowrap' }}>
          <input type="checkbox" checked={isolate} onChange={(event) => setIsolate(event.target.checked)} />{' '}
          isolate
        </label>
      )}
      <Button
        type="submit"
        size="small"
        variant="outlined"
        disabled={wrong}
        sx={{ minWidth: 0, px: 1, py: 0 }}
      >
        Accept
      </Button>
    </Box>
  );
}
