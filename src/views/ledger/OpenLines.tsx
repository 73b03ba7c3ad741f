import { Choice } from '../../ui/parts/fields.tsx';
import { sizes } from '../../ui/theme.ts';
import { HeadCell } from '../../ui/list/HeadCell.tsx';
import { Explanation } from '../../ui/parts/Explanation.tsx';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import type { PageEntry, SheetLine } from '../../answers/changes.ts';
import { fieldOf, type Field } from '../../core/changes/fields.ts';
import type { LineGroup, LineView } from '../../core/changes/sheet.ts';
import { counted, signedMoney } from '../../core/metrics/format.ts';
import { micros, units } from '../../core/metrics/money.ts';
import { at } from '../../ui/address.ts';
import { setUrl } from '../../ui/hooks/useUrlState.ts';
import { LinesList } from './LinesList.tsx';
import { newText, nowText, oldText, whatOf } from './words.ts';

/** Lines that something is done to: one, or a group of them. */
export type Meant = { line: SheetLine } | { group: LineGroup };

interface OpenLinesProps {
  view: LineView;
  onRemove: (meant: Meant, label: string) => void;
  onEdit: (line: SheetLine, change: { newValue?: string; rebase?: boolean; name?: string }) => void;
  /** Lines are carried over by hand: says that these are applied. */
  onApplied?: (meant: Meant) => void;
  onTry: (meant: Meant) => void;
}

const columns = 'minmax(140px, 1.1fr) 150px 138px minmax(180px, 2fr) 92px 84px';

export const labelOf = (meant: Meant): string =>
  'line' in meant
    ? `${meant.line.expression ?? 'Line'} removed`
    : meant.group.harvest
      ? `${meant.group.title} removed`
      : `${counted(meant.group.lines, 'line')} of ${meant.group.title} removed`;

/** Lines of the open sheet: each harvest with all that belongs to it, the others grouped by campaign. */
export function OpenLines({ view, onRemove, onEdit, onApplied, onTry }: OpenLinesProps) {
  const remove = (meant: Meant) => onRemove(meant, labelOf(meant));
  const onDelete = (entry: PageEntry) => {
    if ('head' in entry) remove({ group: entry.head });
    else if (!entry.line.harvest || entry.line.conflict) remove(entry);
  };
  const next = view.order === '-spend' ? 'spend' : view.order === 'spend' ? null : '-spend';
  return (
    <LinesList<SheetLine>
      label="Lines of the open sheet"
      path="/api/sheet/lines"
      queryKey={['sheet', 'lines']}
      view={view}
      columns={columns}
      none="No line is like that."
      onDelete={onDelete}
      heads={
        <>
          {['Object', 'Change', 'Old and new', 'Reason'].map((name) => (
            <HeadCell key={name} label={name} />
          ))}
          <HeadCell
            label="Spend a week"
            isNumber
            order={view.order === 'place' ? null : view.order === 'spend' ? 'ascending' : 'descending'}
            onSort={() => setUrl({ order: next })}
            explanation={<Explanation label="Spend a week" name="effect" />}
          />
          <span role="columnheader" aria-label="Actions" />
        </>
      }
      head={(group) => (
        <GroupHead group={group} onRemove={remove} onTry={onTry} {...(onApplied ? { onApplied } : {})} />
      )}
      cells={(line) => (
        <OpenLine
          line={line}
          inPlace={view.order === 'place' && view.show === 'all' && view.find === ''}
          onRemove={remove}
          onEdit={onEdit}
          {...(onApplied ? { onApplied } : {})}
        />
      )}
    />
  );
}

interface GroupHeadProps {
  group: LineGroup;
  onRemove: (meant: Meant) => void;
  onApplied?: (meant: Meant) => void;
  onTry: (meant: Meant) => void;
}

const GroupHead = ({ group, onRemove, onApplied, onTry }: GroupHeadProps) => (
  <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 1, px: 2, pt: 1.5, pb: 0.5 }}>
    <Typography role="gridcell" variant="body2" component="h3" sx={{ fontWeight: 700 }}>
      {group.title}
    </Typography>
    <Box role="gridcell" sx={{ whiteSpace: 'nowrap' }}>
      <Typography variant="caption" color="text.secondary">
        {counted(group.lines, 'line')}
      </Typography>
      <Button size="small" sx={{ py: 0, ml: 1, fontSize: sizes.small }} onClick={() => onRemove({ group })}>
        {group.harvest ? 'Remove all of it' : 'Remove these'}
      </Button>
      <Button
        size="small"
        sx={{ py: 0, fontSize: sizes.small }}
        aria-label={`Try ${group.title}`}
        onClick={() => onTry({ group })}
      >
        {group.harvest ? 'Try it' : 'Try these'}
      </Button>
      {onApplied && (
        <Button
          size="small"
          sx={{ py: 0, fontSize: sizes.small }}
          aria-label={`Mark ${group.title} as applied`}
          onClick={() => onApplied({ group })}
        >
          {group.harvest ? 'All of it is applied' : 'These are applied'}
        </Button>
      )}
    </Box>
  </Box>
);

interface OpenLineProps extends Pick<OpenLinesProps, 'onEdit'> {
  line: SheetLine;
  /** It stands under the head of its campaign. */
  inPlace: boolean;
  onRemove: (meant: Meant) => void;
  onApplied?: (meant: Meant) => void;
}

function OpenLine({ line, inPlace, onRemove, onEdit, onApplied }: OpenLineProps) {
  const field = line.action === 'archive' ? null : fieldOf(line.entity, line.field);
  // Lines of a harvest, and of placements, go together.
  const single = !line.harvest;
  const adGroup = line.ad_group ?? 'whole campaign';
  // Many ad groups are called as their campaign is: the head above has said it.
  const headed = inPlace && !line.harvest;
  const parts = [...(headed ? [] : [line.campaign]), ...(adGroup === line.campaign ? [] : [adGroup])];
  const place = parts.join(', ');
  // Under a harvest its reason stands once, by what it makes; under placements by their modifiers.
  const leads =
    line.entity === 'placement_modifier' ||
    line.field === 'schedule' ||
    line.field === 'rule' ||
    (line.entity === 'target' && line.action === 'create');
  const told = inPlace && line.harvest && !leads ? '' : line.reason;
  return (
    <>
      <Box role="gridcell" sx={{ minWidth: 0 }}>
        <Box sx={{ fontWeight: 600, overflowWrap: 'anywhere' }}>
          {line.action === 'create' && (line.entity === 'campaign' || line.entity === 'ad_group') ? (
            <NameField key={`${line.version}:${line.expression}`} line={line} onEdit={onEdit} />
          ) : (
            line.expression
          )}
        </Box>
        {place !== '' && (
          <Typography variant="caption" color="text.secondary">
            {place}
          </Typography>
        )}
      </Box>
      <Box role="gridcell">
        {whatOf(line)}
        {line.conflict && (
          <Box sx={{ color: 'error.main', fontSize: sizes.small }}>
            Conflicts: another line sets this too. Keep one.
          </Box>
        )}
        {line.overtaken && (
          <Box sx={{ color: 'error.main', fontSize: sizes.small }}>
            Overtaken: it is {nowText(line)} by now.{' '}
            <Button
              size="small"
              sx={{ p: 0, minWidth: 0, fontSize: sizes.small }}
              onClick={() => onEdit(line, { rebase: true })}
            >
              Start from that
            </Button>
          </Box>
        )}
      </Box>
      <Box role="gridcell" sx={{ display: 'flex', alignItems: 'center', gap: 0.75 }}>
        {line.action === 'update' && <span>{oldText(line)} →</span>}
        {field?.kind === 'schedule' ? (
          <span>
            <b>{newText(line)}</b>{' '}
            <Link href={at(`/spend?part=when&campaign=${line.campaign_id}`)}>draw</Link>
          </span>
        ) : field?.kind === 'rule' ? (
          <b>{newText(line)}</b>
        ) : field ? (
          <ValueField key={`${line.version}:${line.new_value}`} line={line} field={field} onEdit={onEdit} />
        ) : (
          <span>{line.action === 'create' ? 'new' : newText(line)}</span>
        )}
      </Box>
      <Box role="gridcell" sx={{ color: 'text.secondary', fontSize: sizes.small }}>
        {told}
        {told !== '' && line.proposed_by !== 'Mowing' && <i> ({line.proposed_by})</i>}
      </Box>
      <Box role="gridcell" sx={{ textAlign: 'right' }}>
        {line.effect ? signedMoney(line.effect.spend) : ''}
      </Box>
      <Box role="gridcell" sx={{ textAlign: 'right' }}>
        {(single || line.conflict) && (
          <Button
            size="small"
            sx={{ py: 0 }}
            aria-label={`Remove ${line.expression ?? ''} from the sheet`}
            onClick={() => onRemove({ line })}
          >
            Remove
          </Button>
        )}
        {single && onApplied && !line.conflict && (
          <Button
            size="small"
            sx={{ py: 0 }}
            aria-label={`${line.expression ?? 'Line'} is applied`}
            onClick={() => onApplied({ line })}
          >
            Applied
          </Button>
        )}
      </Box>
    </>
  );
}

/** The name of what a line makes, changed where it stands. */
function NameField({ line, onEdit }: Pick<ValueFieldProps, 'line' | 'onEdit'>) {
  const start = line.expression ?? '';
  const [text, setText] = useState(start);
  return (
    <input
      aria-label={`Name of the ${line.entity.replace('_', ' ')} ${start}`}
      value={text}
      onChange={(event) => setText(event.target.value)}
      onBlur={() => (text.trim() === '' ? setText(start) : text !== start && onEdit(line, { name: text }))}
      onKeyDown={(event) => {
        if (event.key === 'Enter') event.currentTarget.blur();
        if (event.key === 'Escape') setText(start);
      }}
      style={{ ...inputStyle, textAlign: 'left', width: '100%' }}
    />
  );
}

interface ValueFieldProps {
  line: SheetLine;
  field: Field;
  onEdit: OpenLinesProps['onEdit'];
}

/** The new value, changed where it stands: a number is typed, a day picked, a status chosen. */
function ValueField({ line, field, onEdit }: ValueFieldProps) {
  const start = field.kind === 'money' ? units(Number(line.new_value)).toFixed(2) : (line.new_value ?? '');
  const [text, setText] = useState(start);
  const put = (newValue: string) => onEdit(line, { newValue });
  const label = `New ${field.label.replace(', %', '').toLowerCase()} of ${line.expression ?? line.ad_group ?? line.campaign}`;
  if (field.choices)
    return (
      <Choice
        aria-label={label}
        value={start}
        onChange={(event) => put(event.target.value)}
        style={inputStyle}
      >
        {field.choices.map((choice) => (
          <option key={choice} value={choice}>
            {choice.replaceAll('_', ' ')}
          </option>
        ))}
      </Choice>
    );
  const isDay = field.kind === 'day';
  const commit = () => {
    if (text === start) return;
    if (isDay) return put(text);
    const value = Number(text.replace(',', '.'));
    if (text.trim() === '' || !Number.isFinite(value) || value < 0) setText(start);
    else put(String(field.kind === 'money' ? micros(Math.round(value * 100) / 100) : value));
  };
  return (
    <input
      aria-label={label}
      type={isDay ? 'date' : 'text'}
      inputMode={isDay ? undefined : 'decimal'}
      value={text}
      onChange={(event) => setText(event.target.value)}
      onBlur={commit}
      onKeyDown={(event) => {
        if (event.key === 'Enter') event.currentTarget.blur();
        if (event.key === 'Escape') setText(start);
      }}
      style={{ ...inputStyle, width: isDay ? 118 : 54 }}
    />
  );
}

const inputStyle = {
  font: 'inherit',
  fontWeight: 700,
  padding: '1px 4px',
  textAlign: 'right',
  border: '1px solid transparent',
  borderBottom: '1px dashed currentColor',
  background: 'transparent',
  color: 'inherit',
} as const;
