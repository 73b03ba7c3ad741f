import { sizes } from '../../ui/theme.ts';
import type { Preview } from '../../core/edits/plan.ts';
import { levelNames, type Level } from '../../core/account/levels.ts';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useState, type FormEvent } from 'react';
import {
  fieldAt,
  fieldsAt,
  valueText,
  type Field as FieldEntry,
  type Status,
} from '../../core/changes/fields.ts';
import type { Edit } from '../../core/edits/edits.ts';
import { readNumber } from '../../core/explore/typed.ts';
import { count, money, signedMoney } from '../../core/metrics/format.ts';
import { ask } from '../../ui/api.ts';
import { Choice, Field } from '../../ui/parts/fields.tsx';
import type { TableRequest } from './useTable.ts';

/** A way to edit, as the list offers it. */
interface Way {
  id: string;
  label: string;
  /** What stands beside the number that has to be typed; none when there is none. */
  unit?: string;
  /** Of a number, or of a day where that is its unit. */
  make: (value: number | string) => Edit;
}

/** The ways to change a field: a number by per cent, by an amount or to a value, a word or a day to one of them. */
function waysOfField(field: FieldEntry, currency: string): Way[] {
  const { name, many, kind } = field;
  if (kind === 'status')
    return field.choices!.map((to) => ({
      id: to,
      label: `${statusVerbs[to as Status]} ${many}`,
      make: () => ({ field: name, to }),
    }));
  if (kind === 'choice')
    return field.choices!.map((to) => ({
      id: `${name} ${to}`,
      label: `Set ${many} to ${to.replaceAll('_', ' ')}`,
      make: () => ({ field: name, to }),
    }));
  if (kind === 'day')
    return [
      {
        id: `${name} set`,
        label: `Set ${many} to`,
        unit: 'day',
        make: (to) => ({ field: name, to: String(to) }),
      },
      { id: `${name} none`, label: `Take ${many} away`, make: () => ({ field: name, to: null }) },
    ];
  const unit = kind === 'money' ? currency : 'points';
  const inside = (value: number) => (kind === 'money' ? Math.round(value * 1e6) : value);
  return [
    {
      id: 'percent',
      label: `Change ${many} by per cent`,
      unit: '%',
      make: (value) => ({ field: name, how: 'percent', value: Number(value) / 100 }),
    },
    {
      id: 'amount',
      label: `Change ${many} by an amount`,
      unit,
      make: (value) => ({ field: name, how: 'amount', value: inside(Number(value)) }),
    },
    {
      id: 'set',
      label: `Set ${many} to`,
      unit,
      make: (value) => ({ field: name, how: 'set', value: inside(Number(value)) }),
    },
  ];
}

const statusVerbs: Record<Status, string> = { paused: 'Pause', enabled: 'Enable', archived: 'Archive' };

const negatives: Way[] = (['negative_exact', 'negative_phrase'] as const).flatMap((matchType) =>
  (['ad_group', 'campaign'] as const).map((scope) => ({
    id: `${matchType} ${scope}`,
    label: `Add as ${matchType.replace('_', ' ')} in the ${scope.replace('_', ' ')}`,
    make: () => ({ field: 'negative', matchType, scope }),
  })),
);

/** Ways that a level has beside those of its fields, after those of its first. */
const more: Partial<Record<Level, Way[]>> = {
  targets: [
    { id: 'rpc', label: 'Set bids to RPC × goal', make: () => ({ field: 'bid', how: 'rpc' }) },
    {
      id: 'cpc',
      label: 'Set bids to a share of CPC',
      unit: '%',
      make: (value) => ({ field: 'bid', how: 'cpc', value: Number(value) / 100 }),
    },
    { id: 'rest', label: 'Rest: bids to the floor', make: () => ({ field: 'bid', how: 'rest' }) },
  ],
  terms: [
    ...negatives,
    {
      id: 'lane',
      label: 'Send down its lane: exact there, blocked in research',
      make: () => ({ field: 'lane' }),
    },
  ],
};

/** What can be done to rows of a level; nothing where the marketplace lets nothing be changed. */
export function waysOf(level: Level, currency: string): Way[] {
  const [first = [], ...others] = fieldsAt(level).map((field) => waysOfField(field, currency));
  return [...first, ...(more[level] ?? []), ...others.flat()];
}

interface EditPanelProps {
  request: TableRequest;
  /** Rows named; null means all that match. */
  keys: string[] | null;
  count: number;
  /** Values pasted for single rows. */
  values: Record<string, number> | null;
  currency: string;
  onApply: (body: object, label: string) => Promise<boolean>;
  onClose: () => void;
}

/** One edit of many rows, with old and new of each before anything goes onto the sheet. */
export function EditPanel({
  request,
  keys,
  count: rows,
  values,
  currency,
  onApply,
  onClose,
}: EditPanelProps) {
  const { level } = request;
  const ways = waysOf(level, currency);
  const [way, setWay] = useState(values ? 'set' : ways[0]!.id);
  const [text, setText] = useState('');
  const [keepGuards, setKeepGuards] = useState(values === null);
  const [sending, setSending] = useState(false);
  const chosen = ways.find(({ id }) => id === way)!;
  const isDay = chosen.unit === 'day';
  const value = isDay ? text || null : readNumber('number', text.replace('−', '-'));
  const edit = values ? chosen.make(0) : chosen.unit && value === null ? null : chosen.make(value ?? 0);
  const body = { ...request, columns: [], keys, values, edit, keepGuards };
  const preview = useQuery({
    queryKey: ['explore preview', body],
    queryFn: () => ask<Preview>('/api/explore/preview', body),
    enabled: edit !== null,
    retry: false,
  });
  // Only what this very edit would do: that of the one before says nothing of it.
  const answer = edit === null ? undefined : preview.data;
  const names = levelNames[level];
  const noun = (n: number) => (n === 1 ? names.one : names.many).toLowerCase();
  const apply = async (event: FormEvent) => {
    event.preventDefault();
    if (!answer || answer.changed === 0) return;
    setSending(true);
    const label = `${count(answer.changed)} ${noun(answer.changed)} edited`;
    if (await onApply(body, label)) onClose();
    else setSending(false);
  };
  return (
    <Dialog
      open
      onClose={onClose}
      maxWidth={false}
      slotProps={{ paper: { sx: { width: 760, height: 600 } } }}
      onKeyDown={(event) => event.stopPropagation()}
    >
      <Box component="form" onSubmit={(event) => void apply(event)} sx={{ display: 'contents' }}>
        <DialogTitle sx={{ pb: 1 }}>
          Edit {count(rows)} {noun(rows)}
        </DialogTitle>
        <DialogContent sx={{ display: 'flex', flexDirection: 'column', gap: 1.25, '&&': { pt: 0.5 } }}>
          <Box sx={{ display: 'flex', gap: 1.25, alignItems: 'center', flexWrap: 'wrap' }}>
            <Choice
              aria-label="Edit"
              value={way}
              disabled={values !== null}
              onChange={(event) => (setWay(event.target.value), setText(''))}
            >
              {ways.map(({ id, label }) => (
                <option key={id} value={id}>
                  {label}
                </option>
              ))}
            </Choice>
            {chosen.unit && !values && (
              <label style={{ fontSize: sizes.table }}>
                <Field
                  autoFocus
                  aria-label={isDay ? 'Which day' : 'By how much'}
                  type={isDay ? 'date' : 'text'}
                  inputMode={isDay ? undefined : 'decimal'}
                  value={text}
                  onChange={(event) => setText(event.target.value)}
                  style={{ width: isDay ? 132 : 76 }}
                />{' '}
                {!isDay && chosen.unit}
              </label>
            )}
            {values && <Typography variant="body2">Pasted values, row by row.</Typography>}
            {level === 'targets' && (
              <label style={{ fontSize: sizes.table }}>
                <input
                  type="checkbox"
                  checked={keepGuards}
                  onChange={(event) => setKeepGuards(event.target.checked)}
                />{' '}
                keep to the guards
              </label>
            )}
          </Box>
          {preview.isError && <Typography color="error">{preview.error.message}</Typography>}
          {edit === null && (
            <Typography variant="body2" color="text.secondary">
              {isDay
                ? 'Pick a day to see what would change.'
                : 'Type a number to see what would change. A minus lowers.'}
            </Typography>
          )}
          {edit !== null && preview.isPending && (
            <Typography variant="body2" color="text.secondary" role="status">
              Working out what would change.
            </Typography>
          )}
          {answer && <PreviewList level={level} answer={answer} edit={edit!} />}
        </DialogContent>
        <DialogActions>
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" variant="contained" disabled={!answer || answer.changed === 0 || sending}>
            Add {count(answer?.changed ?? 0)} {answer?.changed === 1 ? 'line' : 'lines'} to the sheet
          </Button>
        </DialogActions>
      </Box>
    </Dialog>
  );
}

const valueOf = (level: Level, edit: Edit, value: string | null): string => {
  if (value === null) return '–';
  if (edit.field === 'lane') return money(Number(value));
  if (edit.field === 'negative') return value.split(':')[0]!.replace('_', ' ');
  return valueText(fieldAt(level, edit.field), value);
};

function PreviewList({ level, answer, edit }: { level: Level; answer: Preview; edit: Edit }) {
  const held = Object.entries(answer.held).filter(([name]) => name !== 'cooldown' && name !== 'small change');
  const problems = Object.entries(answer.problems).sort((a, b) => b[1] - a[1]);
  return (
    <>
      <Typography variant="body2" data-testid="preview-sentence">
        <b>{count(answer.changed)} change</b>
        {answer.unchanged > 0 && `, ${count(answer.unchanged)} stay as they are`}.
        {edit.field === 'bid' &&
          ` Expected a week: spend ${signedMoney(answer.spend)}, sales ${signedMoney(answer.sales)}.`}
        {held.length > 0 && ` Held: ${held.map(([name, n]) => `${count(n)} by ${name}`).join(', ')}.`}
      </Typography>
      {problems.slice(0, 3).map(([problem, n]) => (
        <Typography key={problem} variant="body2" color="text.secondary">
          {count(n)}: {problem}
        </Typography>
      ))}
      <Box
        tabIndex={0}
        sx={{ overflow: 'auto', flex: 1, minHeight: 0, borderTop: 1, borderColor: 'text.primary' }}
      >
        <Box
          component="table"
          aria-label="Old and new"
          sx={{
            width: '100%',
            borderCollapse: 'collapse',
            fontSize: sizes.table,
            '& td, & th': {
              textAlign: 'left',
              fontWeight: 400,
              p: '4px 6px',
              borderBottom: 1,
              borderColor: 'divider',
            },
            '& .number': { textAlign: 'right', whiteSpace: 'nowrap' },
            '& th': { position: 'sticky', top: 0, bgcolor: 'background.paper', color: 'text.secondary' },
          }}
        >
          <thead>
            <tr>
              <th scope="col">Row</th>
              <th scope="col">Where</th>
              <th scope="col" className="number">
                Old
              </th>
              <th scope="col" className="number">
                New
              </th>
              <th scope="col">Note</th>
            </tr>
          </thead>
          <tbody>
            {answer.rows.map((row) => (
              <tr key={row.key}>
                <td>{row.name}</td>
                <td>{row.place}</td>
                <td className="number">{valueOf(level, edit, row.old)}</td>
                <td className="number">
                  <b>{row.next === null ? '' : valueOf(level, edit, row.next)}</b>
                </td>
                <td>{row.problem ?? (row.held.length > 0 ? `held by ${row.held.join(', ')}` : '')}</td>
              </tr>
            ))}
          </tbody>
        </Box>
        {answer.rows.length < answer.changed + answer.unchanged && (
          <Typography variant="caption" color="text.secondary">
            The first {count(answer.rows.length)} are listed; the edit takes all of them.
          </Typography>
        )}
      </Box>
    </>
  );
}
