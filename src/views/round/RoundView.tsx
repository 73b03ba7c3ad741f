import { AddressNote, type AddressProblem } from '../../ui/shell/AddressNote.tsx';
import { WiderPanel } from './WiderPanel.tsx';
import { queues } from '../../core/round/queue.ts';
import type { Adjustment } from '../../core/round/lines.ts';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import CircularProgress from '@mui/material/CircularProgress';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useCallback, useDeferredValue, useEffect, useMemo, useRef, useState } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { at } from '../../ui/address.ts';
import { count, counted, money } from '../../core/metrics/format.ts';
import { setUrl, useUrlState } from '../../ui/hooks/useUrlState.ts';
import { useSeason, useWindow } from '../../ui/shell/data.ts';
import type { KeyHelp } from '../../ui/shell/Keys.tsx';
import { Tabs } from '../../ui/parts/Tabs.tsx';
import { RestsOnSummary } from '../../ui/shell/RestsOnSummary.tsx';
import { Shell } from '../../ui/shell/Shell.tsx';
import {
  filterRows,
  heldBy,
  heldCounts,
  isCovered,
  isHeldWhole,
  isSettled,
  isWaiting,
  netWorth,
  sortRows,
  type Filter,
  type Shown,
  type SortName,
} from './filter.ts';
import { HeldLine } from './HeldLine.tsx';
import { Filters } from './Filters.tsx';
import { Queue } from './Queue.tsx';
import type { Row } from './types.ts';
import { useRound } from './useRound.ts';
import { WhyPanel } from './WhyPanel.tsx';

const help: KeyHelp[] = [
  { keys: ['j', 'k'], does: 'next, previous finding' },
  { keys: ['x'], does: 'mark; with shift a range' },
  { keys: ['ctrl', 'a'], does: 'mark all that match' },
  { keys: ['a'], does: 'accept what is marked, else the finding in focus' },
  { keys: ['e'], does: 'adjust it in place' },
  { keys: ['b'], does: 'beyond its guard: accept what is wanted, of what is marked or in focus' },
  { keys: ['s'], does: 'skip' },
  { keys: ['l'], does: 'later: come back after 7 days' },
  { keys: ['y'], does: 'why: open and close the panel' },
  { keys: ['/'], does: 'filter' },
  { keys: ['[', ']'], does: 'previous, next queue' },
  { keys: ['Esc'], does: 'unmark' },
];

/** Kinds of findings as filters: all in one order of money, or one of them. */
const tabs = [{ id: 'all', name: 'All', one: 'finding', many: 'findings' } as const, ...queues];
const firstColumns: Record<Shown, string> = {
  all: 'Finding',
  terms: 'Search term',
  targets: 'Target',
  words: 'Words',
  conflicts: 'In its own way',
};

export function RoundView() {
  return (
    <Shell help={help}>
      <Round />
    </Shell>
  );
}

function Round() {
  const window = useWindow();
  const season = useSeason();
  const { round, wider, accept, decide } = useRound(window);
  const [queueName, setQueue] = useUrlState('queue', true);
  const shown: Shown = tabs.find(({ id }) => id === queueName)?.id ?? 'all';
  const names = tabs.find(({ id }) => id === shown)!;
  const [text] = useUrlState('q');
  const [sku] = useUrlState('sku');
  const [campaignId] = useUrlState('campaign');
  const [verdict] = useUrlState('verdict');
  const [proposal] = useUrlState('proposal');
  const [held] = useUrlState('held');
  const [sortName] = useUrlState('sort');
  const [why, setWhy] = useUrlState('why');
  const [focusKey, setFocusKey] = useUrlState('focus');
  const [marked, setMarked] = useState<ReadonlySet<string>>(new Set());
  const [adjusting, setAdjusting] = useState<string | null>(null);
  const anchor = useRef(0);
  const place = useRef(0);
  const input = useRef<HTMLInputElement>(null);

  const filter: Filter = {
    text: text ?? '',
    sku: sku ?? '',
    campaignId: campaignId ?? '',
    verdict: verdict ?? '',
    proposal: proposal ?? '',
    held: held ?? '',
  };
  const sort = (sortName?.replace('-', '') ?? 'worth') as SortName;
  const descending = sortName === null || sortName.startsWith('-');
  const answer = round.data;
  const others = wider.data;
  /** Every kind; those that the open sheet settles say by what. */
  const findings = useMemo((): Row[] => {
    if (!answer) return [];
    const { covered } = answer;
    const known = answer.findings.map((row) => {
      const by = covered[row.key];
      return by === undefined ? row : { ...row, covered: by };
    });
    return others ? [...known, ...others.findings] : known;
  }, [answer, others]);
  const typed = useDeferredValue(filter.text);
  const matching = useMemo(
    () =>
      answer
        ? sortRows(filterRows(findings, shown, { ...filter, text: typed }, answer.adGroups), sort, descending)
        : [],
    // eslint-disable-next-line react-hooks/exhaustive-deps
    [findings, shown, typed, sku, campaignId, verdict, proposal, held, sort, descending],
  );
  const asked = Object.values(filter).some((value) => value !== '');
  const waiting = useMemo(() => matching.filter(isWaiting).length, [matching]);
  const covered = useMemo(() => matching.filter(isCovered).length, [matching]);
  /** Words and conflicts take longer: until they are there, nothing is said to be all. */
  const isPartial = wider.isPending && (shown === 'all' || shown === 'words' || shown === 'conflicts');
  const totals = useMemo(() => netWorth(matching), [matching]);
  /** All is decided but what only waits for clicks: that is no work, and is shown when it is asked for. */
  const isDone =
    !asked && !isPartial && !wider.isError && waiting + covered > 0 && waiting + covered === matching.length;
  const rows = useMemo(() => (isDone ? [] : matching), [isDone, matching]);
  /** Held findings among all that match but for the guard. */
  const guarded = useMemo(() => {
    if (!answer) return [];
    const asked = { ...filter, text: typed, held: 'any' };
    return heldCounts(filterRows(findings, shown, asked, answer.adGroups));
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [findings, shown, typed, sku, campaignId, verdict, proposal]);

  // The focus stays at its place when its row has left to the sheet.
  const known = rows.findIndex((row) => row.key === focusKey);
  const focus = known >= 0 ? known : Math.min(place.current, rows.length - 1);
  place.current = Math.max(0, focus);
  const row = rows[focus] ?? null;
  useEffect(() => {
    if (row && row.key !== focusKey) setFocusKey(row.key);
  }, [row, focusKey, setFocusKey]);

  const moveTo = useCallback(
    (index: number) => {
      const next = rows[Math.max(0, Math.min(rows.length - 1, index))];
      if (next) setFocusKey(next.key);
    },
    [rows, setFocusKey],
  );
  const mark = useCallback(
    (index: number, range: boolean) => {
      setMarked((old) => {
        const next = new Set(old);
        if (range) {
          const [from, to] = [Math.min(anchor.current, index), Math.max(anchor.current, index)];
          for (const one of rows.slice(from, to + 1)) next.add(one.key);
        } else {
          const key = rows[index]?.key;
          if (key !== undefined && !next.delete(key)) next.add(key);
        }
        anchor.current = index;
        return next;
      });
    },
    [rows],
  );
  const markAll = useCallback(
    () =>
      setMarked((old) =>
        rows.every((one) => old.has(one.key)) ? new Set() : new Set(rows.map((one) => one.key)),
      ),
    [rows],
  );
  /** What is marked among the rows that match, else the row in focus. */
  const chosen = (): Row[] => {
    const list = rows.filter((one) => marked.has(one.key));
    return list.length > 0 ? list : row ? [row] : [];
  };
  const acceptKeys = useCallback(
    (keys: string[], adjustments: Record<string, Adjustment>) => {
      setMarked(new Set());
      setAdjusting(null);
      void accept(keys, adjustments);
    },
    [accept],
  );
  const acceptAdjusted = useCallback(
    (key: string, adjustment: Adjustment) => acceptKeys([key], { [key]: adjustment }),
    [acceptKeys],
  );
  const acceptChosen = () => {
    const keys = chosen()
      .filter(isAcceptable)
      .map((one) => one.key);
    if (keys.length > 0) acceptKeys(keys, {});
  };
  /** Accepts what is wanted beyond its guards, of what a guard holds among these. */
  const confirmBeyond = (list: Row[]) => {
    const keys = list.filter((one) => one.queue === 'targets' && heldBy(one) !== null).map((one) => one.key);
    if (keys.length > 0) acceptKeys(keys, Object.fromEntries(keys.map((key) => [key, { beyond: true }])));
  };
  const decideChosen = (decision: 'skipped' | 'later') => {
    const keys = chosen().map((one) => one.key);
    setMarked(new Set());
    if (keys.length > 0) void decide(keys, decision);
  };

  useHotkeys('j, down', (event) => (event.preventDefault(), moveTo(focus + 1)), [focus, moveTo]);
  useHotkeys('k, up', (event) => (event.preventDefault(), moveTo(focus - 1)), [focus, moveTo]);
  useHotkeys('x', () => mark(focus, false), [focus, mark]);
  useHotkeys('shift+x', () => mark(focus, true), [focus, mark]);
  useHotkeys('ctrl+a, meta+a', (event) => (event.preventDefault(), markAll()), [markAll]);
  useHotkeys('esc', () => setMarked(new Set()));
  useHotkeys('a', acceptChosen, [rows, marked, row, acceptKeys]);
  useHotkeys('e', (event) => (event.preventDefault(), row && canAdjust(row) && setAdjusting(row.key)), [row]);
  useHotkeys('b', () => confirmBeyond(chosen()), [rows, marked, row, acceptKeys]);
  useHotkeys('s', () => decideChosen('skipped'), [rows, marked, row, decide]);
  useHotkeys('l', () => decideChosen('later'), [rows, marked, row, decide]);
  useHotkeys('y', () => setWhy(why === '0' ? null : '0'), [why]);
  useHotkeys('slash', (event) => (event.preventDefault(), input.current?.focus()));
  const show = (id: Shown) => {
    setMarked(new Set());
    place.current = 0;
    setQueue(id === 'all' ? null : id);
  };
  const turn = (by: number) => {
    const at = tabs.findIndex(({ id }) => id === shown);
    show(tabs[(at + by + tabs.length) % tabs.length]!.id);
  };
  useHotkeys('[', () => turn(-1), { useKey: true }, [shown]);
  useHotkeys(']', () => turn(1), { useKey: true }, [shown]);

  const onSort = (name: SortName) => {
    const down = name === sort ? !descending : name !== 'subject';
    setUrl({ sort: name === 'worth' && down ? null : `${down ? '-' : ''}${name}` });
  };

  if (season.data && !window) return <Nothing />;
  if (round.isError) {
    return (
      <Box sx={{ p: 4, maxWidth: 560 }}>
        <Typography variant="h1">Round</Typography>
        <Typography sx={{ my: 2 }}>{round.error.message}</Typography>
        <Button variant="contained" onClick={() => void round.refetch()}>
          Try again
        </Button>
      </Box>
    );
  }
  if (!answer || !window) {
    return (
      <Box sx={{ p: 4, display: 'flex', gap: 2, alignItems: 'center' }}>
        <CircularProgress size={20} aria-label="Judging" />
        <Typography>Judging every term and target of the window.</Typography>
      </Box>
    );
  }

  const inQueue = (one: Shown) =>
    findings.filter((row) => (one === 'all' || row.queue === one) && !isSettled(row) && !isHeldWhole(row))
      .length;
  const open = rows.length - (isDone ? 0 : waiting + covered);
  const counted20 = shown === 'terms' || shown === 'targets' ? answer.counts[shown] : 0;
  const beyond = counted20 > 20_000 ? counted20 : null;
  const said = [
    ...(totals.stop > 0 ? [`stop ${money(totals.stop)} over goal`] : []),
    ...(totals.earn > 0 ? [`earn ${money(totals.earn)} from what sells`] : []),
    ...(totals.mend > 0 ? [`mend ${money(totals.mend)} that is in its own way`] : []),
  ];
  const [later, skipped] = [answer.later + (others?.later ?? 0), answer.skipped + (others?.skipped ?? 0)];
  const markedHere = rows.filter((one) => marked.has(one.key));
  const acceptable = markedHere.filter(isAcceptable).length;
  const currency = season.data?.account.currency ?? '';
  return (
    <Box sx={{ height: '100%', display: 'flex' }}>
      <Box sx={{ flex: 1, minWidth: 0, display: 'flex', flexDirection: 'column' }}>
        <AddressNote problems={queueProblem(queueName)} />
        <Box sx={{ px: 2.25, pt: 1.5, pb: 1, display: 'grid', gap: 0.75 }}>
          <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 2.5 }}>
            <Typography variant="h1">Round</Typography>
            <Tabs
              label="Kinds"
              tabs={tabs.map(({ id, name }) => ({ id, name, count: inQueue(id) }))}
              chosen={shown}
              onChoose={show}
            />
            <Box sx={{ flex: 1 }} />
            {markedHere.length > 0 && (
              <Box sx={{ display: 'flex', gap: 1, alignSelf: 'center' }}>
                <Button size="small" onClick={() => decideChosen('later')}>
                  Later
                </Button>
                <Button size="small" onClick={() => decideChosen('skipped')}>
                  Skip
                </Button>
                <Button size="small" variant="contained" disabled={acceptable === 0} onClick={acceptChosen}>
                  Accept {count(acceptable)} marked
                </Button>
              </Box>
            )}
          </Box>
          <Typography variant="body1" data-testid="round-sentence" sx={{ fontSize: 14 }}>
            {isDone ? (
              'All of this is decided.'
            ) : (
              <>
                <b>{counted(open, 'finding')}</b> worth{' '}
                <b>
                  {currency} {money(totals.worth)} a week
                </b>
                {said.length > 0 && `: ${said.join(', ')}`}.
                {covered > 0 &&
                  ` ${count(covered)} more ${covered === 1 ? 'is' : 'are'} settled by the sheet.`}
                {waiting > 0 && ` ${count(waiting)} more only wait for clicks.`}
                {isPartial && ' Words and conflicts are still being looked for.'}
              </>
            )}
            {beyond !== null && ` These are the 20,000 worth most of ${count(beyond)}.`}
            {later + skipped > 0 && (
              <Box component="span" sx={{ color: 'text.secondary' }}>
                {` ${[
                  ...(later > 0 ? [`${count(later)} put off`] : []),
                  ...(skipped > 0 ? [`${count(skipped)} skipped`] : []),
                ].join(', ')}.`}
              </Box>
            )}
            <RestsOnSummary kind={shown === 'targets' ? 'targets-daily' : 'terms-daily'} window={window} />
          </Typography>
          {answer.notices.map((notice) => (
            <Typography key={notice} variant="body2" role="note">
              {notice}
            </Typography>
          ))}
          <HeldLine
            shownKind={shown}
            counts={guarded}
            chosen={filter.held}
            shown={markedHere.length > 0 ? markedHere : rows}
            marked={markedHere.length > 0}
            onConfirm={confirmBeyond}
          />
          <Box sx={{ display: 'flex', alignItems: 'center', gap: 1, minHeight: 30 }}>
            <Filters shown={shown} filter={filter} answer={answer} input={input} />
            <Box sx={{ flex: 1 }} />
            <Typography variant="body2" color="text.secondary" noWrap sx={{ flexShrink: 0 }}>
              {count(rows.length)} match
            </Typography>
          </Box>
        </Box>
        {rows.length > 0 ? (
          <Queue
            label={firstColumns[shown]}
            rows={rows}
            names={answer.adGroups}
            focus={focus}
            marked={marked}
            adjusting={adjusting}
            sort={sort}
            descending={descending}
            onSort={onSort}
            onFocus={moveTo}
            onMark={mark}
            onMarkAll={markAll}
            onAdjust={setAdjusting}
            onAccept={acceptAdjusted}
          />
        ) : (
          <Box sx={{ p: 4, borderTop: 1, borderColor: 'divider', flex: 1 }}>
            {isDone && (
              <>
                <Typography variant="h2">This queue is done</Typography>
                <Typography sx={{ my: 1 }}>
                  Nothing is left to decide.
                  {waiting > 0 &&
                    ` ${count(waiting)} ${waiting === 1 ? `${names.one} only waits` : `${names.many} only wait`} for clicks and will stand here once there are enough to say something.`}
                  {covered > 0 &&
                    ` ${counted(covered, 'term')} ${covered === 1 ? 'is' : 'are'} settled by the sheet.`}
                </Typography>
                {waiting > 0 && (
                  <Button size="small" variant="outlined" onClick={() => setUrl({ proposal: 'wait' })}>
                    Show what waits
                  </Button>
                )}
              </>
            )}
            <Typography hidden={isDone}>
              {isPartial
                ? 'Words and conflicts are still being looked for.'
                : wider.isError && shown !== 'terms' && shown !== 'targets'
                  ? wider.error.message
                  : asked
                    ? 'Nothing matches these filters.'
                    : answer.onSheet + (others?.onSheet ?? 0) > 0
                      ? 'This queue is done. What you accepted waits on the sheet.'
                      : 'Nothing in this window asks for a change.'}
            </Typography>
          </Box>
        )}
      </Box>
      {why !== '0' &&
        (row && (row.queue === 'words' || row.queue === 'conflicts') ? (
          <WiderPanel row={row} window={window} />
        ) : (
          <WhyPanel row={row} window={window} names={answer.adGroups} />
        ))}
    </Box>
  );
}

/** What can be changed before it is accepted: every proposal, and a bid that a guard holds. */
const canAdjust = (row: Row): boolean =>
  row.proposal.kind !== 'repair' && (row.proposal.kind !== 'wait' || isHeldWhole(row));

const queueProblem = (name: string | null): AddressProblem[] =>
  name === null || tabs.some(({ id }) => id === name)
    ? []
    : [{ name: 'queue', problem: `There is none called “${name.slice(0, 40)}”; all findings are shown.` }];

/** What can be accepted as it stands. */
const isAcceptable = (row: Row): boolean =>
  !isCovered(row) &&
  row.proposal.kind !== 'wait' &&
  !(row.proposal.kind === 'repair' && row.proposal.lines === 0);

function Nothing() {
  return (
    <Box sx={{ p: 4, maxWidth: 560 }}>
      <Typography variant="h1">Round</Typography>
      <Typography sx={{ my: 2 }}>
        There are no settled figures to judge yet. Fetch them from the marketplace or load a file under{' '}
        <Link href={at('/data')}>Data</Link>.
      </Typography>
    </Box>
  );
}
