import { CloseIcon } from '../../ui/icons.tsx';
import type { Level } from '../../core/account/levels.ts';
import Autocomplete from '@mui/material/Autocomplete';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import TextField from '@mui/material/TextField';
import ToggleButton from '@mui/material/ToggleButton';
import Typography from '@mui/material/Typography';
import { useQuery } from '@tanstack/react-query';
import { useDeferredValue, useState, type ReactNode } from 'react';
import type { TableAnswer } from '../../answers/explore.ts';
import { columnLabel, columnsOf, readColumn } from '../../core/explore/columns.ts';
import {
  numberOperators,
  textOperators,
  type Condition,
  type Operator,
} from '../../core/explore/conditions.ts';
import { readCondition, typedText } from '../../core/explore/typed.ts';
import { count, money } from '../../core/metrics/format.ts';
import { ask } from '../../ui/api.ts';
import { Choice, Field } from '../../ui/parts/fields.tsx';
import type { TableRequest } from './useTable.ts';
import {
  conditionOf,
  freshDraft,
  isDraft,
  joined,
  kindOf,
  opposite,
  tidy,
  treeOf,
  type Draft,
  type DraftTree,
  type Join,
} from './drafts.ts';
import { operatorWords, withStack } from './words.ts';

interface ConditionEditorProps {
  request: TableRequest;
  currency: string;
  condition: Condition | null;
  others: Condition[];
  onDone: (condition: Condition | null) => void;
}

/** One condition, or several of which any may hold; says how many rows match while it is typed. */
export function ConditionEditor({ request, currency, condition, others, onDone }: ConditionEditorProps) {
  const { level } = request;
  const [tree, setTree] = useState<DraftTree>(() => treeOf(condition, level));
  const [line, setLine] = useState(() => (condition === null ? '' : (typedText(condition, level) ?? '')));
  const [byLine, setByLine] = useState(true);
  const chosen = conditionOf(tree, level);
  const read = byLine && line.trim() !== '' ? readCondition(line, level) : null;
  const whole = read === null ? chosen : 'condition' in read ? read.condition : null;
  const typed = useDeferredValue(whole);
  const matches = useQuery({
    queryKey: ['explore count', { ...request, where: withStack(typed ? [...others, typed] : others) }],
    queryFn: () =>
      ask<TableAnswer>('/api/explore/table', {
        ...request,
        columns: [],
        sort: null,
        where: withStack(typed ? [...others, typed] : others),
        limit: 0,
      }),
    placeholderData: (previous) => previous,
    retry: false,
  });
  const turn = (next: DraftTree | null) => {
    setByLine(false);
    setTree((next && tidy(next)) ?? freshDraft);
  };
  const problem = read !== null && 'problem' in read ? read.problem : null;
  const unread = problem !== null;
  return (
    <Box
      component="form"
      onSubmit={(event) => {
        event.preventDefault();
        if (whole) onDone(whole);
      }}
      onKeyDown={(event) => event.stopPropagation()}
      sx={{ display: 'flex', flexDirection: 'column', gap: 1.25, maxHeight: 'calc(100vh - 270px)' }}
    >
      <Field
        autoFocus
        aria-label="Type a condition"
        aria-invalid={unread}
        placeholder='acos > 75      name contains "salt and pepper" and (orders = 0 or spend 45d > 12)'
        value={line}
        onFocus={(event) => event.target.select()}
        onChange={(event) => {
          setByLine(true);
          setLine(event.target.value);
        }}
      />
      <Typography variant="caption" color={unread ? 'error' : 'text.secondary'}>
        {problem ? (
          <>
            {problem.message} {line.slice(Math.max(0, problem.from - 24), problem.from)}
            <Box
              component="mark"
              sx={{ bgcolor: 'transparent', color: 'inherit', fontWeight: 700, borderBottom: 2, px: 0.25 }}
            >
              {line.slice(problem.from, problem.to) || '▮'}
            </Box>
            {line.slice(problem.to, problem.to + 24)}
          </>
        ) : (
          'Type it, or choose:'
        )}
      </Typography>
      <Box sx={{ overflowY: 'auto', minHeight: 90, pt: 1 }}>
        <TreeFields
          tree={tree}
          within={null}
          name="Conditions"
          level={level}
          onChange={turn}
          onRemove={null}
        />
      </Box>
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
        <Button size="small" onClick={() => turn(joined(tree, 'any'))}>
          Or another
        </Button>
        <Typography variant="body2" color="text.secondary" role="status" sx={{ flex: 1, textAlign: 'right' }}>
          {matches.isError
            ? matches.error.message
            : !unread &&
              matches.data &&
              `${count(matches.data.count)} match, ${currency} ${money(matches.data.spend)} spent`}
        </Typography>
        <Button type="submit" variant="contained" size="small" disabled={whole === null}>
          Apply
        </Button>
      </Box>
    </Box>
  );
}

interface TreeFieldsProps {
  tree: DraftTree;
  /** How the group around it joins; null for the outermost. */
  within: Join | null;
  name: string;
  level: Level;
  onChange: (tree: DraftTree) => void;
  onRemove: (() => void) | null;
}

const joinWords: Record<Join, string> = { all: 'and', any: 'or' };
const another: Record<Join, string> = { all: 'And another', any: 'Or another' };

/** A condition or a group of them, groups in groups. Each can get another one beside it, joined in either way. */
function TreeFields({ tree, within, name, level, onChange, onRemove }: TreeFieldsProps) {
  const join: Join = isDraft(tree) ? (within ? opposite(within) : 'all') : tree.join;
  const add = (
    <Button size="small" onClick={() => onChange(joined(tree, join))} sx={{ whiteSpace: 'nowrap' }}>
      {another[join]}
    </Button>
  );
  if (isDraft(tree)) {
    return (
      <Box
        role="group"
        aria-label={name}
        sx={{ display: 'grid', gap: 0.5, ...(within === 'any' && groupStyle) }}
      >
        <DraftRow
          level={level}
          draft={tree}
          onChange={(more) => onChange({ ...tree, ...more })}
          onRemove={onRemove}
          more={add}
        />
      </Box>
    );
  }
  const put = (at: number, next: DraftTree | null) =>
    onChange({ join, of: tree.of.flatMap((one, i) => (i === at ? (next ? [next] : []) : [one])) });
  return (
    <Box role="group" aria-label={name} sx={{ display: 'grid', gap: 1, ...(within !== null && groupStyle) }}>
      {tree.of.map((one, at) => (
        <Box key={at} sx={{ display: 'grid', gap: 0.75 }}>
          {at > 0 && <Typography variant="caption">{joinWords[join]}</Typography>}
          <TreeFields
            tree={one}
            within={join}
            name={`Group ${name === 'Conditions' ? '' : `${name.slice(6)}.`}${at + 1}`}
            level={level}
            onChange={(next) => put(at, next)}
            onRemove={() => put(at, null)}
          />
        </Box>
      ))}
      {(within !== null || join === 'all') && <Box>{add}</Box>}
    </Box>
  );
}

const groupStyle = { borderLeft: 2, borderColor: 'divider', pl: 1.25 } as const;

interface DraftRowProps {
  level: Level;
  draft: Draft;
  onChange: (more: Partial<Draft>) => void;
  onRemove: (() => void) | null;
  /** Stands at its end. */
  more: ReactNode;
}

const frames: [string, string][] = [
  ['', 'in the window'],
  ['before', 'in the comparison'],
  ['d7', 'in 7 days'],
  ['d14', 'in 14 days'],
  ['d30', 'in 30 days'],
  ['d45', 'in 45 days'],
  ['d60', 'in 60 days'],
  ['diff', 'difference'],
  ['change', 'change, %'],
];

function DraftRow({ level, draft, onChange, onRemove, more }: DraftRowProps) {
  const options = columnsOf(level).filter(({ shownOnly }) => !shownOnly);
  const [name = '', frame = ''] = draft.column.split('@');
  const column = options.find((one) => one.name === name) ?? null;
  const kind = kindOf(draft.column, level);
  const isText = kind === 'text';
  const operators = isText ? textOperators : numberOperators;
  const choose = (next: string) => {
    const text = readColumn(next, level)?.column.kind === 'text';
    const known = (text ? textOperators : numberOperators).includes(draft.is);
    onChange({ column: next, ...(known ? {} : { is: text ? 'contains' : 'at_least', text: '', times: '' }) });
  };
  return (
    <Box sx={{ display: 'grid', gap: 0.75 }}>
      <Box sx={{ display: 'flex', gap: 0.75, alignItems: 'center' }}>
        <Autocomplete
          size="small"
          sx={{ flex: 1 }}
          options={options}
          value={column}
          getOptionLabel={(option) => option.label}
          isOptionEqualToValue={(a, b) => a.name === b.name}
          onChange={(_, option) => option && choose(option.name)}
          disableClearable={column !== null}
          renderInput={(params) => <TextField {...params} label="Column" />}
        />
        {column?.figure && (
          <Choice
            aria-label="Over which days"
            value={frame}
            onChange={(event) => choose(event.target.value === '' ? name : `${name}@${event.target.value}`)}
          >
            {frames.map(([value, label]) => (
              <option key={value} value={value}>
                {label}
              </option>
            ))}
          </Choice>
        )}
        {onRemove && (
          <IconButton size="small" aria-label="Remove this one" onClick={onRemove}>
            <CloseIcon fontSize="small" />
          </IconButton>
        )}
      </Box>
      <Box sx={{ display: 'flex', gap: 0.75, alignItems: 'center' }}>
        <ToggleButton
          value="not"
          size="small"
          selected={draft.not}
          onChange={() => onChange({ not: !draft.not })}
          sx={{ height: 30, px: 1 }}
        >
          not
        </ToggleButton>
        <Choice
          aria-label="How it is compared"
          value={draft.is}
          onChange={(event) => onChange({ is: event.target.value as Operator })}
        >
          {operators.map((operator) => (
            <option key={operator} value={operator}>
              {operatorWords[operator]}
            </option>
          ))}
        </Choice>
        {draft.is !== 'empty' &&
          (column?.choices && draft.is === 'equals' ? (
            <Choice
              aria-label="Value"
              value={draft.text}
              onChange={(event) => onChange({ text: event.target.value })}
            >
              <option value="">choose</option>
              {column.choices.map((choice) => (
                <option key={choice} value={choice}>
                  {choice.replaceAll('_', ' ')}
                </option>
              ))}
            </Choice>
          ) : (
            <Field
              aria-label="Value"
              value={draft.text}
              onChange={(event) => onChange({ text: event.target.value })}
              placeholder={kind === 'share' && draft.times === '' ? '%' : kind === 'day' ? '2026-11-16' : ''}
              inputMode={isText ? 'text' : 'decimal'}
              style={{ width: isText ? 200 : 84 }}
            />
          ))}
        {!isText && kind !== 'day' && draft.is !== 'empty' && (
          <Choice
            aria-label="Times"
            value={draft.times}
            onChange={(event) => onChange({ times: event.target.value })}
            style={{ maxWidth: 150 }}
          >
            <option value="">{kind === 'share' ? '%' : 'as it is'}</option>
            {options
              .filter((one) => isNumberKind(one.kind))
              .map((one) => (
                <option key={one.name} value={one.name}>
                  × {columnLabel({ column: one, frame: '' })}
                </option>
              ))}
          </Choice>
        )}
        <Box sx={{ ml: 'auto' }}>{more}</Box>
      </Box>
    </Box>
  );
}

const isNumberKind = (kind: string): boolean => kind !== 'text' && kind !== 'day';
