import { Figure } from '../../ui/parts/Figure.tsx';
import { WiderPanel } from './WiderPanel.tsx';
import { isHeldWhole, queues } from '../../core/round/queue.ts';
import type { Adjustment } from '../../core/round/lines.ts';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useCallback, useDeferredValue, useMemo, useState } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { at } from '../../ui/address.ts';
import { count, counted, money } from '../../core/metrics/format.ts';
import { unknownChoices, useSort } from '../../ui/list/filters.tsx';
import { Empty, Failed, ListHead, ListPage, Matching, Waiting } from '../../ui/list/ListPage.tsx';
import { useList } from '../../ui/list/useList.ts';
import { listKeys } from '../../ui/list/useSelection.ts';
import { setUrl, useUrlState } from '../../ui/hooks/useUrlState.ts';
import { useRoutinesWaiting, useSeason, useWindow } from '../../ui/shell/data.ts';
import type { KeyHelp } from '../../ui/shell/Keys.tsx';
import { Tabs } from '../../ui/parts/Tabs.tsx';
import { RunSaid } from '../../ui/shell/RunSaid.tsx';
import { RestsOnSummary } from '../../ui/shell/RestsOnSummary.tsx';
import { Shell } from '../../ui/shell/Shell.tsx';
import {
  filterRows,
  heldCounts,
  isCovered,
  isConfirmable,
  isWider,
  isSettled,
  isWaiting,
  netWorth,
  proposalKinds,
  sortRows,
  type Filter,
  type Shown,
  type SortName,
} from './filter.ts';
import { HeldLine } from './HeldLine.tsx';
import { Filters, filterOptions } from './Filters.tsx';
import { Queue } from './Queue.tsx';
import { Tolerating } from './Tolerating.tsx';
import type { Row } from './types.ts';
import { beyondSaid } from './words.ts';
import { useRound } from './useRound.ts';
import { WhyPanel } from './WhyPanel.tsx';

const help: KeyHelp[] = [
  ...listKeys,
  { keys: ['a'], does: 'accept what is marked, else the finding in focus' },
  { keys: ['e'], does: 'adjust it in place' },
  { keys: ['b'], does: 'beyond its guard: accept what is wanted, of what is marked or in focus' },
  { keys: ['s'], does: 'skip' },
  { keys: ['l'], does: 'later: come back after 7 days' },
  { keys: ['t'], does: 'tolerate: bear its loss on purpose, for a reason and a time' },
  { keys: ['y'], does: 'why: open and close the panel' },
  { keys: ['/'], does: 'filter' },
  { keys: ['[', ']'], does: 'previous, next queue' },
];

const sortNames = [
  'worth',
  'subject',
  'clicks',
  'spend',
  'orders',
  'acos',
] as const satisfies readonly SortName[];
const keyOf = (row: Row): string => row.key;

/** Kinds of findings as filters: all in one order of money, or one of them. */
const tabs = [{ id: 'all', name: 'All', one: 'finding', many: 'findings' } as const, ...queues];
const firstColumns: Record<Shown, string> = {
  all: 'Finding',
  terms: 'Search term',
  targets: 'Target',
  words: 'Words',
  conflicts: 'In its own way',
  placements: 'Campaign',
  budgets: 'Campaign',
  hours: 'Campaign',
  structure: 'Campaign',
  trials: 'Trial',
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
  const routines = useRoutinesWaiting().data;
  const season = useSeason();
  const { round, wider, answer, others, accept, decide } = useRound(window);
  const [queueName] = useUrlState('queue', true);
  const shown: Shown = tabs.find(({ id }) => id === queueName)?.id ?? 'all';
  const names = tabs.find(({ id }) => id === shown)!;
  const [text] = useUrlState('q');
  const [sku] = useUrlState('sku');
  const [campaignId] = useUrlState('campaign');
  const [verdict] = useUrlState('verdict');
  const [proposal] = useUrlState('proposal');
  const [held] = useUrlState('held');
  const [why, setWhy] = useUrlState('why');
  const [adjusting, setAdjusting] = useState<string | null>(null);

  const options = useMemo(() => answer && filterOptions(shown, answer), [shown, answer]);
  /** What there is not is left out, as the address note says. */
  const known = (name: keyof NonNullable<typeof options>, value: string | null): string =>
    value !== null && (options?.[name].some(([id]) => id === value) ?? true) ? value : '';
  const filter: Filter = {
    text: text ?? '',
    sku: known('sku', sku),
    campaignId: known('campaign', campaignId),
    verdict: known('verdict', verdict),
    proposal: known('proposal', proposal),
    held: known('held', held),
  };
  const { sort, descending, onSort } = useSort(sortNames, 'worth', ['subject']);
  /** Every kind; those that the open sheet settles say by what. */
  const findings = useMemo((): Row[] => {
    if (!answer) return [];
    const known = ({ findings, covered }: Pick<typeof answer, 'findings' | 'covered'>) =>
      findings.map((row) => {
        const by = covered[row.key];
        return by === undefined ? row : { ...row, covered: by };
      });
    return others ? [...known(answer), ...known(others)] : known(answer);
  }, [answer, others]);
  /** Trials are few: their kind stands there while one of them asks for a decision. */
  const hasTrials = shown === 'trials' || findings.some(({ queue }) => queue === 'trials');
  const kinds = useMemo(() => tabs.filter(({ id }) => hasTrials || id !== 'trials'), [hasTrials]);
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
  /** Words, conflicts and structure take longer: until they are there, nothing is said to be all. */
  const isPartial = wider.isPending && (shown === 'all' || isWider(shown));
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

  const list = useList(rows, keyOf, { scope: shown, address: 'focus', isPartial });
  const { row, marked, unmark, chosen } = list;
  const acceptKeys = useCallback(
    (keys: string[], adjustments: Record<string, Adjustment>) => {
      unmark();
      setAdjusting(null);
      void accept(keys, adjustments);
    },
    [accept, unmark],
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
    const keys = list.filter(isConfirmable).map((one) => one.key);
    if (keys.length > 0) acceptKeys(keys, Object.fromEntries(keys.map((key) => [key, { beyond: true }])));
  };
  const decideChosen = (decision: 'skipped' | 'later') => {
    const keys = chosen().map((one) => one.key);
    unmark();
    if (keys.length > 0) decide(keys, decision);
  };

  useHotkeys('a', acceptChosen, [rows, marked, row, acceptKeys]);
  useHotkeys('e', (event) => (event.preventDefault(), row && canAdjust(row) && setAdjusting(row.key)), [row]);
  useHotkeys('b', () => confirmBeyond(chosen()), [rows, marked, row, acceptKeys]);
  useHotkeys('s', () => decideChosen('skipped'), [rows, marked, row, decide]);
  useHotkeys('l', () => decideChosen('later'), [rows, marked, row, decide]);
  useHotkeys('y', () => setWhy(why === '0' ? null : '0'), [why]);
  const show = (id: Shown) => {
    // A kind of proposal that the other findings do not have would leave none of them.
    const stays = proposal !== null && proposal in proposalKinds(id);
    setUrl({ queue: id === 'all' ? null : id, ...(stays ? {} : { proposal: null }) }, true);
  };
  const turn = (by: number) => {
    const at = kinds.findIndex(({ id }) => id === shown);
    show(kinds[(at + by + kinds.length) % kinds.length]!.id);
  };
  useHotkeys('[', () => turn(-1), { useKey: true }, [shown, kinds]);
  useHotkeys(']', () => turn(1), { useKey: true }, [shown, kinds]);

  if (season.data && !window) return <Nothing />;
  if (round.isError) return <Failed error={round.error} onRetry={() => void round.refetch()} />;
  if (!answer || !window) return <Waiting>Judging every term and target of the window.</Waiting>;

  const inQueue = (one: Shown) =>
    findings.filter((row) => (one === 'all' || row.queue === one) && !isSettled(row) && !isHeldWhole(row))
      .length;
  const open = rows.length - (isDone ? 0 : waiting + covered);
  const said = (
    [
      ['stop', totals.stop, 'over goal'],
      ['earn', totals.earn, 'from what sells'],
      ['mend', totals.mend, 'that is in its own way'],
    ] as const
  ).filter(([, worth]) => worth > 0);
  const [later, skipped] = [answer.later + (others?.later ?? 0), answer.skipped + (others?.skipped ?? 0)];
  const heldRuns = (routines?.runs ?? []).filter(({ state }) => state === 'held');
  const markedHere = list.markedRows;
  const acceptable = markedHere.filter(isAcceptable).length;
  const currency = season.data?.account.currency ?? '';
  const problems = unknownChoices(globalThis.location.search, {
    queue: tabs.map(({ id }) => id),
    sort: sortNames,
    ...Object.fromEntries(Object.entries(options!).map(([name, list]) => [name, list.map(([id]) => id)])),
  });
  return (
    <ListPage
      problems={problems}
      head={
        <ListHead
          title="Round"
          tabs={
            <Tabs
              label="Kinds"
              tabs={kinds.map(({ id, name }) => ({ id, name, count: inQueue(id) }))}
              chosen={shown}
              onChoose={show}
            />
          }
          name="round"
          actions={
            markedHere.length > 0 && (
              <>
                <Button size="small" onClick={() => decideChosen('later')}>
                  Later
                </Button>
                <Button size="small" onClick={() => decideChosen('skipped')}>
                  Skip
                </Button>
                <Button size="small" variant="contained" disabled={acceptable === 0} onClick={acceptChosen}>
                  Accept {count(acceptable)} marked
                </Button>
              </>
            )
          }
          sentence={
            <>
              {isDone ? (
                'All of this is decided.'
              ) : (
                <>
                  <b>{counted(open, 'finding')}</b> worth{' '}
                  <Figure name="worth" label="Worth a week">
                    <b>
                      {currency} {money(totals.worth)} a week
                    </b>
                  </Figure>
                  {said.map(([name, worth, rest], i) => (
                    <span key={name}>
                      {i === 0 ? ': ' : ', '}
                      {name}{' '}
                      <Figure name={name} label={`To ${name} ${rest}`}>
                        {money(worth)}
                      </Figure>{' '}
                      {rest}
                    </span>
                  ))}
                  .
                  {covered > 0 &&
                    ` ${count(covered)} more ${covered === 1 ? 'is' : 'are'} settled by the sheet.`}
                  {waiting > 0 && ` ${count(waiting)} more only wait for clicks.`}
                  {isPartial && ' Words, conflicts and structure are still being looked for.'}
                </>
              )}
              {beyondSaid(shown, answer.counts)}
              {later + skipped > 0 && (
                <Box component="span" sx={{ color: 'text.secondary' }}>
                  {` ${[
                    ...(later > 0 ? [`${count(later)} put off`] : []),
                    ...(skipped > 0 ? [`${count(skipped)} skipped`] : []),
                  ].join(', ')}.`}
                </Box>
              )}
              {answer.tolerated.count > 0 && (
                <Box component="span" sx={{ color: 'text.secondary' }}>
                  {' '}
                  <Link color="inherit" href={at('/goals?view=tolerated')}>
                    {counted(answer.tolerated.count, 'loss', 'losses')} of {money(answer.tolerated.loss)} a
                    week
                  </Link>{' '}
                  {answer.tolerated.count === 1 ? 'is' : 'are'} tolerated.
                </Box>
              )}
              {heldRuns.map((run) => (
                <Box key={run.runId} component="span" sx={{ color: 'text.secondary' }}>
                  {' '}
                  <RunSaid run={run} timeZone={routines!.timeZone} />
                </Box>
              ))}
              <RestsOnSummary kind={shown === 'targets' ? 'targets-daily' : 'terms-daily'} window={window} />
            </>
          }
          notes={
            <>
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
              <Tolerating chosen={chosen} onDone={unmark} />
            </>
          }
          filters={
            <>
              <Filters shown={shown} filter={filter} answer={answer} />
              <Matching>{count(rows.length)} match</Matching>
            </>
          }
        />
      }
      panel={
        why !== '0' &&
        (row && isWider(row.queue) ? (
          <WiderPanel row={row} window={window} />
        ) : (
          <WhyPanel row={row} window={window} names={answer.adGroups} />
        ))
      }
    >
      {rows.length > 0 ? (
        <Queue
          label={firstColumns[shown]}
          rows={rows}
          names={answer.adGroups}
          focus={list.focus}
          marked={marked}
          adjusting={adjusting}
          sort={sort}
          descending={descending}
          onSort={onSort}
          onFocus={list.moveTo}
          onMark={list.mark}
          onMarkAll={list.markAll}
          onAdjust={setAdjusting}
          onAccept={acceptAdjusted}
        />
      ) : (
        <Empty>
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
              ? 'Words, conflicts and structure are still being looked for.'
              : wider.isError && shown !== 'terms' && shown !== 'targets'
                ? wider.error.message
                : asked
                  ? 'Nothing matches these filters.'
                  : answer.onSheet + (others?.onSheet ?? 0) > 0
                    ? heldRuns.length > 0
                      ? 'This queue is done. What was accepted waits on the sheet, or is held by a routine.'
                      : 'This queue is done. What you accepted waits on the sheet.'
                    : 'Nothing in this window asks for a change.'}
          </Typography>
        </Empty>
      )}
    </ListPage>
  );
}

/** What can be changed before it is accepted: every proposal, and a bid that a guard holds. */
const canAdjust = (row: Row): boolean =>
  row.proposal.kind !== 'repair' &&
  row.proposal.kind !== 'placements' &&
  row.proposal.kind !== 'budget' &&
  row.proposal.kind !== 'hours' &&
  (row.proposal.kind !== 'wait' || isHeldWhole(row));

/** What can be accepted as it stands. */
const isAcceptable = (row: Row): boolean =>
  !isCovered(row) &&
  !isHeldWhole(row) &&
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
