import { AddressNote } from '../../ui/shell/AddressNote.tsx';
import { levelNames } from '../../core/account/levels.ts';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import CircularProgress from '@mui/material/CircularProgress';
import Link from '@mui/material/Link';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import Typography from '@mui/material/Typography';
import { useSnackbar } from 'notistack';
import { useCallback, useEffect, useMemo, useRef, useState } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { at } from '../../ui/address.ts';
import { readNumber } from '../../core/explore/typed.ts';
import { windowBefore, type Window } from '../../core/metrics/days.ts';
import { count, percent } from '../../core/metrics/format.ts';
import { get, download } from '../../ui/api.ts';
import { useSteady } from '../../ui/hooks/useSteady.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { valuesOf } from '../../ui/undo.ts';
import type { GoalsAnswer } from '../../answers/goals.ts';
import { useUrlState } from '../../ui/hooks/useUrlState.ts';
import { listKeys, useSelection } from '../../ui/list/useSelection.ts';
import { useOwnComparison, useSeason, useWindow } from '../../ui/shell/data.ts';
import type { Edit } from '../../core/edits/edits.ts';
import type { KeyHelp } from '../../ui/shell/Keys.tsx';
import { Shell } from '../../ui/shell/Shell.tsx';
import type { EditedCell } from './Cell.tsx';
import { plainValue } from './cells.ts';
import { ColumnsDialog } from './ColumnsDialog.tsx';
import { ComparePanel, type Side } from './ComparePanel.tsx';
import { CrossTabView } from './CrossTabView.tsx';
import { EditPanel, waysOf } from './EditPanel.tsx';
import { ExploreHead } from './ExploreHead.tsx';
import { ExploreTable } from './ExploreTable.tsx';
import { editableColumns, layOut, pasteColumn } from './layout.ts';
import { RowPanel } from './RowPanel.tsx';
import {
  below,
  readState,
  toLevel,
  writeState,
  type ExploreState,
  addressProblems,
  ladder,
} from './state.ts';
import { Trend } from './Trend.tsx';
import { requestOf, rowsBetween, useTable } from './useTable.ts';

/** More rows than this are for a file. */
const mostCopied = 20_000;

const help: KeyHelp[] = [
  ...listKeys,
  { keys: ['Enter'], does: 'open what is below' },
  { keys: ['u'], does: 'up to what is above' },
  { keys: ['e'], does: 'change the value of the row in focus' },
  { keys: ['b'], does: 'edit what is marked, else all that match' },
  { keys: ['ctrl', 'c'], does: 'copy what is marked as a table' },
  { keys: ['ctrl', 'v'], does: 'paste a column of values from the row in focus on' },
  { keys: ['y'], does: 'why: what is known of the target or term in focus' },
  { keys: ['c'], does: 'compare two marked rows, or the marked ones with all others' },
  { keys: ['t'], does: 'trend: open and close' },
  { keys: ['/'], does: 'filter by name' },
  { keys: ['[', ']'], does: 'previous, next level' },
];

export function ExploreView() {
  return (
    <Shell help={help}>
      <Explore />
    </Shell>
  );
}

/** The whole address as state. */
function useExploreState(): ExploreState {
  const parts = ['level', 'in', 'where', 'cols', 'sort'].map((name) => {
    // The list never changes: the order of hooks stays.
    // eslint-disable-next-line react-hooks/rules-of-hooks
    const [value] = useUrlState(name);
    return value;
  });
  const key = JSON.stringify(parts);
  // eslint-disable-next-line react-hooks/exhaustive-deps
  return useMemo(() => readState(globalThis.location.search), [key]);
}

function Explore() {
  const window = useWindow();
  const season = useSeason();
  const [view] = useUrlState('view');
  const state = useExploreState();
  if (season.data && !window) {
    return (
      <Box sx={{ p: 4, maxWidth: 560 }}>
        <Typography variant="h1">Explore</Typography>
        <Typography sx={{ my: 2 }}>
          There is nothing to explore yet. Fetch from the marketplace or load a file under{' '}
          <Link href={at('/data')}>Data</Link>.
        </Typography>
      </Box>
    );
  }
  if (!window) return <Waiting />;
  return (
    <Box sx={{ height: '100%', display: 'flex', flexDirection: 'column' }}>
      <AddressNote problems={addressProblems(globalThis.location.search)} />
      <Box sx={{ flex: 1, minHeight: 0, display: 'flex', flexDirection: 'column' }}>
        <TableView key={state.level} state={state} window={window} crossed={view === 'cross'} />
      </Box>
    </Box>
  );
}

const Waiting = () => (
  <Box sx={{ p: 4, display: 'flex', gap: 2, alignItems: 'center' }}>
    <CircularProgress size={20} aria-label="Counting" />
    <Typography>Adding up the account.</Typography>
  </Box>
);

interface TableViewProps {
  state: ExploreState;
  window: Window;
  crossed: boolean;
}

function TableView({ state, window, crossed }: TableViewProps) {
  const { level } = state;
  const season = useSeason();
  const { enqueueSnackbar } = useSnackbar();
  const currency = season.data?.account.currency ?? '';
  const [trend, setTrend] = useUrlState('trend');
  const [why, setWhy] = useUrlState('why');
  const [pages, setPages] = useState<number[]>([0]);
  const [cell, setCell] = useState<EditedCell | null>(null);
  const [comparing, setComparing] = useState(false);
  const [editing, setEditing] = useState<{ values: Record<string, number> | null } | null>(null);
  const [choosing, setChoosing] = useState(false);
  const [exporting, setExporting] = useState<HTMLElement | null>(null);
  const input = useRef<HTMLInputElement>(null);

  const own = useOwnComparison();
  const comparison = own ?? windowBefore(window);
  const request = useMemo(() => requestOf(state, window, own), [state, window, own]);
  const { first, rowAt } = useTable(request, pages);
  const answer = first.data;
  const rows = answer?.count ?? 0;
  const columns = useMemo(() => layOut(state.columns, level), [state.columns, level]);
  const ways = waysOf(level, currency);
  const fieldName = pasteColumn(level);
  const firstField = editableColumns(level).find((name) =>
    columns.some(({ column }) => column.name === name),
  );
  const scope = JSON.stringify([state.where, state.within, window]);
  useEffect(() => setComparing(false), [scope]);
  const { putLines, changeGoal, failed } = useAct();
  const keyAt = useCallback((index: number) => rowAt(index)?.key ?? null, [rowAt]);
  const readKeys = useCallback(
    async (from: number, to: number) => (await rowsBetween(request, from, to)).map((row) => row.key),
    [request],
  );
  const list = useSelection({ count: rows, keyAt, readKeys, scope, onError: failed });
  const { focus, marked, allMarked, unmark } = list;

  const onPages = useCallback(
    (next: number[]) => setPages((old) => (old.join() === next.join() ? old : next)),
    [],
  );
  const open = useCallback(
    (key: string) => {
      const next = below(level, key);
      if (next) writeState({ ...next, where: null, columns: [], sort: null }, true);
    },
    [level],
  );
  const put = useCallback(
    async (body: object, label: string): Promise<boolean> => {
      const done = await putLines('/api/explore/edit', body, label, {
        refresh: [['sheet']],
      });
      if (done) unmark();
      return done;
    },
    [putLines, unmark],
  );
  const putValue = useSteady((edited: EditedCell, value: number | string) => {
    setCell(null);
    if (edited.name === 'target_acos') return void putTargetAcos(edited.key, value as number);
    // One value typed by hand is meant: only the marketplace's limits hold it.
    const edit: Edit =
      typeof value === 'string'
        ? { field: edited.name, to: value === '' ? null : value }
        : { field: edited.name, how: 'set', value };
    void put({ ...request, columns: [], keys: [edited.key], edit, keepGuards: false }, 'one value changed');
  });
  /** A goal is ours and goes on no sheet; ctrl z takes it back all the same. */
  const putTargetAcos = async (key: string, targetAcos: number) => {
    const scope = level === 'campaigns' ? 'campaign' : level === 'products' ? 'product' : 'account';
    const id = scope === 'account' ? '' : key;
    const known = await get<GoalsAnswer>('/api/goals').catch((error: unknown) => void failed(error));
    if (!known) return;
    const before = valuesOf(known.goals.find((goal) => goal.scope === scope && goal.key === id));
    await changeGoal({ scope, key: id, before }, { targetAcos }, `Goal set to ${percent(targetAcos)}.`);
  };
  const sides = (): [Side, Side] => {
    const named = (key: string) => {
      for (let at = 0; at < rows; at++) if (rowAt(at)?.key === key) return String(rowAt(at)!.values[0]);
      return key;
    };
    const keys = [...marked];
    const side = (label: string, list: string[], others = false): Side => ({ label, keys: list, others });
    return keys.length === 2
      ? [side(named(keys[0]!), [keys[0]!]), side(named(keys[1]!), [keys[1]!])]
      : [side(`${count(keys.length)} marked`, keys), side(`${count(rows - keys.length)} others`, keys, true)];
  };
  const copy = async () => {
    if (!allMarked && marked.size === 0) return;
    if (rows > mostCopied) {
      enqueueSnackbar(`The clipboard is for up to ${count(mostCopied)} rows: export these instead.`);
      return;
    }
    const list = (await rowsBetween(request, 0, rows - 1)).filter((row) => allMarked || marked.has(row.key));
    const head = columns.map(({ column, frame }) => (frame ? `${column.label} ${frame}` : column.label));
    const lines = list.map((row) =>
      columns.map((column) => plainValue(column, row.values[request.columns.indexOf(column.ref)] ?? null)),
    );
    await navigator.clipboard.writeText([head, ...lines].map((line) => line.join('\t')).join('\n'));
    enqueueSnackbar(`${count(list.length)} rows copied.`);
  };
  const paste = async (text: string) => {
    const kind = columns.find(({ column }) => column.name === fieldName)?.column.kind;
    if (!kind) return;
    const lines = text.trim().split(/\r?\n/);
    const below = await rowsBetween(request, focus, Math.min(rows, focus + lines.length) - 1);
    const values: Record<string, number> = {};
    lines.forEach((line, i) => {
      const value = readNumber(kind, line.split('\t')[0]!);
      const row = below[i];
      if (value !== null && row) values[row.key] = value;
    });
    const taken = Object.keys(values).length;
    if (taken === 0) enqueueSnackbar('There is no number in what was copied.');
    else setEditing({ values });
    if (taken > 0 && taken < lines.length)
      enqueueSnackbar(
        `${count(lines.length - taken)} of ${count(lines.length)} lines are no number, or have no row.`,
      );
  };
  useEffect(() => {
    const onPaste = (event: ClipboardEvent) => {
      if (event.target instanceof HTMLInputElement || event.target instanceof HTMLTextAreaElement) return;
      const text = event.clipboardData?.getData('text/plain');
      if (text && fieldName) void paste(text).catch(failed);
    };
    document.addEventListener('paste', onPaste);
    return () => document.removeEventListener('paste', onPaste);
  });

  const turn = (by: number) =>
    toLevel(state, ladder[(ladder.indexOf(level) + by + ladder.length) % ladder.length]!, null);
  const up = () => {
    const path = answer?.path ?? [];
    if (path.length === 0) return;
    const above = path[path.length - 2];
    const now = path[path.length - 1]!.level;
    writeState({ level: now, within: above ?? null, where: null, columns: [], sort: null }, true);
  };
  const row = rowAt(focus);
  useHotkeys('enter', () => row && open(row.key), [row, open]);
  useHotkeys('u', up, [answer]);
  useHotkeys('ctrl+c, meta+c', () => void copy().catch(failed), [rows, request, marked, allMarked, columns]);
  useHotkeys(
    'e',
    (event) => (event.preventDefault(), row && firstField && setCell({ key: row.key, name: firstField })),
    [row, firstField],
  );
  useHotkeys('c', () => marked.size > 0 && setComparing(true), [marked]);
  useHotkeys('b', (event) => (event.preventDefault(), ways.length > 0 && setEditing({ values: null })), [
    ways,
  ]);
  useHotkeys('y', () => setWhy(why === '1' ? null : '1'), [why]);
  useHotkeys('t', () => setTrend(trend === '1' ? null : '1'), [trend]);
  useHotkeys('slash', (event) => (event.preventDefault(), input.current?.focus()));
  useHotkeys('[', () => turn(-1), { useKey: true }, [state]);
  useHotkeys(']', () => turn(1), { useKey: true }, [state]);

  const onSort = useSteady((ref: string) => {
    const known = ref === state.sort;
    const kind = columns.find((column) => column.ref === ref)?.column.kind;
    writeState({ sort: ref, descending: known ? !state.descending : kind !== 'text' }, false);
  });
  const onWidth = useSteady((ref: string, width: number) =>
    writeState({ columns: state.columns.map((one) => (one.ref === ref ? { ...one, width } : one)) }),
  );
  const saveAs = (format: 'csv' | 'xlsx' | 'jsonl') => {
    setExporting(null);
    download('/api/explore/export', { ...request, format }, `${level}.${format}`).catch(failed);
  };

  const nouns = levelNames[level].many.toLowerCase();
  const editCount = values(editing) ?? (marked.size > 0 ? marked.size : rows);
  return (
    <>
      <ExploreHead
        state={state}
        request={request}
        crossed={crossed}
        answer={answer}
        markedCount={marked.size}
        currency={currency}
        text={input}
        isTrendOpen={trend === '1'}
        onTrend={setTrend}
        onColumns={setChoosing}
        onExport={setExporting}
        onEdit={setEditing}
        window={window}
        own={own}
        onCompare={setComparing}
      />
      {!crossed && trend === '1' && answer && <Trend request={request} comparison={comparison} />}
      {crossed ? (
        <CrossTabView state={state} window={window} />
      ) : first.isError ? (
        <Box sx={{ p: 3 }}>
          <Typography color="error">{first.error.message}</Typography>
          <Button onClick={() => void first.refetch()}>Try again</Button>
        </Box>
      ) : !answer ? (
        <Waiting />
      ) : rows === 0 ? (
        <Typography sx={{ p: 3, borderTop: 1, borderColor: 'divider' }}>
          No {nouns} match. Take a condition away, or look at another window.
        </Typography>
      ) : (
        <Box sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
          <ExploreTable
            level={level}
            request={request}
            columns={columns}
            refs={request.columns}
            count={rows}
            totals={answer.totals}
            rowAt={rowAt}
            onPages={onPages}
            focus={focus}
            isMarked={list.isMarked}
            someMarked={marked.size > 0}
            allMarked={allMarked}
            editing={cell}
            sort={state.sort}
            descending={state.descending}
            stale={first.isPlaceholderData}
            onSort={onSort}
            onWidth={onWidth}
            onFocus={list.moveTo}
            onOpen={open}
            onMark={list.mark}
            onMarkAll={list.markAll}
            onEdit={setCell}
            onValue={putValue}
          />
          {why === '1' && (level === 'targets' || level === 'terms') && (
            <RowPanel level={level} rowKey={row?.key ?? null} window={window} />
          )}
        </Box>
      )}
      <Menu anchorEl={exporting} open={exporting !== null} onClose={() => setExporting(null)}>
        {(['csv', 'xlsx', 'jsonl'] as const).map((format) => (
          <MenuItem key={format} dense onClick={() => saveAs(format)}>
            {count(rows)} {nouns} as {{ csv: 'CSV', xlsx: 'XLSX', jsonl: 'JSON Lines' }[format]}
          </MenuItem>
        ))}
      </Menu>
      {choosing && (
        <ColumnsDialog
          level={level}
          columns={state.columns}
          onChange={(next) => writeState({ columns: next })}
          onClose={() => setChoosing(false)}
        />
      )}
      {comparing && <ComparePanel request={request} sides={sides()} onClose={() => setComparing(false)} />}
      {editing && (
        <EditPanel
          request={request}
          keys={editing.values ? Object.keys(editing.values) : marked.size > 0 ? [...marked] : null}
          count={editCount}
          values={editing.values}
          currency={currency}
          onApply={put}
          onClose={() => setEditing(null)}
        />
      )}
    </>
  );
}

const values = (editing: { values: Record<string, number> | null } | null): number | null =>
  editing?.values ? Object.keys(editing.values).length : null;
