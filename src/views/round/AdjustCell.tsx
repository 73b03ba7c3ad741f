import { Field, Choice } from '../../ui/parts/fields.tsx';
import type { Adjustment } from '../../core/round/lines.ts';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useState, type FormEvent, type KeyboardEvent } from 'react';
import { money } from '../../core/metrics/format.ts';
import { micros, units } from '../../core/metrics/money.ts';
import type { NegativeProposal } from '../../core/round/types.ts';
import type { Row } from './types.ts';
import { matchName } from './words.ts';

interface AdjustCellProps {
  row: Row;
  onAccept: (adjustment: Adjustment) => void;
  onCancel: () => void;
}

const scopes = { ad_group: 'its ad group', campaign: 'its campaign', product: 'the whole product' } as const;

/** Ways to act on a term that does not sell: a type and a place for the negative, or the milder lower bid. */
function waysOf(
  { matchType, milder }: NegativeProposal,
  isWords: boolean,
): { id: string; label: string; adjustment: Adjustment }[] {
  const types =
    // Words are blocked as a phrase: one of them alone would stop nothing.
    isWords
      ? (['negative_phrase'] as const)
      : matchType === 'negative_item'
        ? [matchType]
        : (['negative_exact', 'negative_phrase'] as const);
  return [
    ...types.flatMap((type) =>
      (Object.keys(scopes) as (keyof typeof scopes)[]).map((scope) => ({
        id: `${type} ${scope}`,
        label: `${matchName(type).replace('negative ', '')} in ${scopes[scope]}`,
        adjustment: { ...(type === 'negative_item' ? {} : { matchType: type }), scope },
      })),
    ),
    ...(milder
      ? [
          {
            id: 'milder',
            label: `lower bid ${money(milder.from)} → ${money(milder.to)}`,
            adjustment: { milder: true },
          },
        ]
      : []),
  ];
}

/** The bid that an adjustment starts from; null where there is none to adjust. */
function startOf(proposal: Row['proposal']): number | null {
  switch (proposal.kind) {
    case 'bid':
      return proposal.to;
    case 'harvest':
      return proposal.bid;
    case 'wait':
      return proposal.held?.wanted ?? null;
    case 'negative':
    case 'repair':
    case 'placements':
    case 'budget':
    case 'hours':
      return null;
  }
}

/** Adjusts a proposal where it stands: Enter accepts it so, Escape leaves it as it was. */
export function AdjustCell({ row, onAccept, onCancel }: AdjustCellProps) {
  const { proposal } = row;
  const start = startOf(proposal);
  const [bid, setBid] = useState(start === null ? '' : units(start).toFixed(2));
  const [matchType, setMatchType] = useState(proposal.kind === 'harvest' ? proposal.matchType : null);
  const [isolate, setIsolate] = useState(true);
  const ways = proposal.kind === 'negative' ? waysOf(proposal, row.queue === 'words') : [];
  const [way, setWay] = useState(proposal.kind === 'negative' ? `${proposal.matchType} ad_group` : '');
  const value = Number(bid.replace(',', '.'));
  const wrong = start !== null && !(value > 0 && Number.isFinite(value));

  const submit = (event: FormEvent) => {
    event.preventDefault();
    if (wrong) return;
    const adjustment: Adjustment = { ...ways.find(({ id }) => id === way)?.adjustment };
    if (start !== null) adjustment.bid = micros(Math.round(value * 100) / 100);
    // Whoever types a bid for what a guard holds confirms it beyond that guard.
    if (proposal.kind === 'wait') adjustment.beyond = true;
    if (matchType !== null) adjustment.matchType = matchType;
    if (proposal.kind === 'harvest' && !isolate) adjustment.isolate = false;
    onAccept(adjustment);
  };
  const onKey = (event: KeyboardEvent) => {
    event.stopPropagation();
    if (event.key === 'Escape') onCancel();
  };
  return (
    <Box
      component="form"
      onSubmit={submit}
      onKeyDown={onKey}
      sx={{ display: 'flex', gap: 0.75, alignItems: 'center' }}
    >
      {start !== null && (
        <Field
          autoFocus
          aria-label="Bid"
          aria-invalid={wrong}
          inputMode="decimal"
          value={bid}
          onChange={(event) => setBid(event.target.value)}
          onFocus={(event) => event.target.select()}
          sx={{ width: 58 }}
        />
      )}
      {ways.length > 0 && (
        <Choice
          autoFocus
          aria-label="Way"
          value={way}
          onChange={(event) => setWay(event.target.value)}
          sx={{ minWidth: 0 }}
        >
          {ways.map(({ id, label }) => (
            <option key={id} value={id}>
              {label}
            </option>
          ))}
        </Choice>
      )}
      {matchType !== null && (
        <Choice
          aria-label="Match type"
          value={matchType}
          onChange={(event) => setMatchType(event.target.value as typeof matchType)}
        >
          {(['exact', 'phrase', 'broad'] as const).map((type) => (
            <option key={type} value={type}>
              {type}
            </option>
          ))}
        </Choice>
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
