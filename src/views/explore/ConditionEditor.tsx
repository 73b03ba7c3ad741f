import type { Level } from '../../core/account/levels.ts';
import Autocomplete from '@mui/material/Autocomplete';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import IconButton from '@mui/material/IconButton';
import TextField from '@mui/material/TextField';
import ToggleButton from '@mui/material/ToggleButton';
import Typography from '@mui/material/Typography';
import CloseOutlined from '@mui/icons-material/CloseOutlined';
import { useQuery } from '@tanstack/react-query';
import { useDeferredValue, useState } from 'react';
import type { TableAnswer } from '../../answers/explore.ts';
import { columnLabel, columnsOf, readColumn } from '../../core/explore/columns.ts';
import {
  numberOperators,
  textOperators,
  type Condition,
  type Operator,
  type Plain,
} from '../../core/explore/conditions.ts';
import {
  fieldText,
  kindOf as kindOfColumn,
  readCondition,
  readNumber,
  typedText,
} from '../../core/explore/typed.ts';
import { count, money } from '../../core/metrics/format.ts';
import { ask } from '../../ui/api.ts';
import { Choice, Field } from '../../ui/parts/fields.tsx';
import type { TableRequest } from './useTable.ts';
import { isPlain, operatorWords, withStack } from './words.ts';

/** A plain condition as it is being typed. */
interface Draft {
  column: string;
  is: Operator;
  text: string;
  times: string;
  not: boolean;
}

const kindOf = (ref: string, level: Level) => {
  const column = readColumn(ref, level);
  return column ? kindOfColumn(column) : 'text';
};

function draftOf(condition: Plain | null, level: Level): Draft {
  if (!condition) return { column: 'acos', is: 'above', text: '', times: '', not: false };
  const { column, is, value, times, not } = condition;
  const text =
    typeof value === 'number'
      ? times === undefined
        ? fieldText(kindOf(column, level), value)
        : String(value)
      : Array.isArray(value)
        ? value.join(', ')
        : (value ?? '');
  return { column, is, text, times: times ?? '', not: not ?? false };
}

/** The condition that a draft means; null while it means none. */
function conditionOf({ column, is, text, times, not }: Draft, level: Level): Plain | null {
  const kind = kindOf(column, level);
  const about = { column, is, ...(not ? { not } : {}) };
  if (is === 'empty') return about;
  if (is === 'one_of') {
    const value = text.split(/[,\n]/).map((word) => word.trim());
    return { ...about, value: value.filter((word) => word !== '') };
  }
  if (kind === 'text' || kind === 'day') return text === '' ? null : { ...about, value: text };
  const value = times === '' ? readNumber(kind, text) : readNumber('number', text);
  return value === null ? null : { ...about, value, ...(times === '' ? {} : { times }) };
}

/** A condition as alternatives, each a list of plain ones that all hold; null for what is nested deeper. */
function alternativesOf(condition: Condition | null): (Plain | null)[][] | null {
  if (condition === null) return [[null]];
  const listOf = (one: Condition): Plain[] | null =>
    isPlain(one) ? [one] : 'all' in one && one.all.every(isPlain) ? one.all : null;
  const lists = ('any' in condition ? condition.any : [condition]).map(listOf);
  return lists.includes(null) ? null : (lists as Plain[][]);
}

/** The other way round; null while a field is still empty. */
function conditionOfAll(drafts: Draft[][], level: Level): Condition | null {
  const lists = drafts.map((list) => list.map((draft) => conditionOf(draft, level)));
  if (lists.length === 0 || lists.flat().includes(null)) return null;
  const made = (lists as Plain[][]).map((list): Condition => (list.length === 1 ? list[0]! : { all: list }));
  return made.length === 1 ? made[0]! : { any: made };
}

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
  // Any of these may hold; each of them is a list of which all must hold.
  const [drafts, setDrafts] = useState<Draft[][]>(() =>
    (alternativesOf(condition) ?? []).map((list) => list.map((one) => draftOf(one, level))),
  );
  const [line, setLine] = useState(() => (condition === null ? '' : (typedText(condition, level) ?? '')));
  const [byLine, setByLine] = useState(true);
  const chosen = conditionOfAll(drafts, level);
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
  const turn = (next: (old: Draft[][]) => Draft[][]) => {
    setByLine(false);
    setDrafts(next);
  };
  const fresh = draftOf(null, level);
  const within = (at: number, next: (list: Draft[]) => Draft[]) =>
    turn((old) => old.map((list, i) => (i === at ? next(list) : list)).filter((list) => list.length > 0));
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
      sx={{ display: 'grid', gap: 1.25 }}
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
        ) : drafts.length > 0 ? (
          'Type it, or choose:'
        ) : (
          'It is nested too deep for the fields below: change it as a text, or begin anew.'
        )}
      </Typography>
      {drafts.map((list, at) => (
        <Box
          key={at}
          role="group"
          aria-label={drafts.length > 1 ? `Group ${at + 1}` : 'Conditions'}
          sx={{
            display: 'grid',
            gap: 1,
            ...(drafts.length > 1 && { borderLeft: 2, borderColor: 'divider', pl: 1.25 }),
          }}
        >
          {at > 0 && <Typography variant="caption">or</Typography>}
          {list.map((draft, i) => (
            <DraftRow
              key={i}
              level={level}
              draft={draft}
              first={i === 0}
              onChange={(more) =>
                within(at, (old) => old.map((one, j) => (j === i ? { ...one, ...more } : one)))
              }
              onRemove={
                drafts.length > 1 || list.length > 1
                  ? () => within(at, (old) => old.filter((_, j) => j !== i))
                  : null
              }
            />
          ))}
          <Box>
            <Button size="small" onClick={() => within(at, (old) => [...old, fresh])}>
              And another
            </Button>
          </Box>
        </Box>
      ))}
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1 }}>
        <Button size="small" onClick={() => turn((old) => [...old, [fresh]])}>
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

interface DraftRowProps {
  level: Level;
  draft: Draft;
  first: boolean;
  onChange: (more: Partial<Draft>) => void;
  onRemove: (() => void) | null;
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

function DraftRow({ level, draft, first, onChange, onRemove }: DraftRowProps) {
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
      {!first && <Typography variant="caption">and</Typography>}
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
            <CloseOutlined fontSize="small" />
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
      </Box>
    </Box>
  );
}

const isNumberKind = (kind: string): boolean => kind !== 'text' && kind !== 'day';
