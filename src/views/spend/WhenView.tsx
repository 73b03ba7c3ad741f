import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useMemo, type ReactNode } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { flat, readSchedule, scheduleSaid } from '../../core/account/schedule.ts';
import { scheduleShort } from '../../core/hours/explain.ts';
import { hoursKey } from '../../core/hours/lines.ts';
import type { HoursRow } from '../../core/hours/rows.ts';
import { count, counted, money } from '../../core/metrics/format.ts';
import { shortDay } from '../../ui/days.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { setUrl, useUrlState } from '../../ui/hooks/useUrlState.ts';
import { unknownChoices, useSort } from '../../ui/list/filters.tsx';
import { Empty, Failed, ListHead, ListPage, Matching, Waiting } from '../../ui/list/ListPage.tsx';
import { ListTable, type ListColumn } from '../../ui/list/ListTable.tsx';
import { found } from '../../ui/list/found.ts';
import { useList } from '../../ui/list/useList.ts';
import { listKeys } from '../../ui/list/useSelection.ts';
import { Choice, Field } from '../../ui/parts/fields.tsx';
import { Figure } from '../../ui/parts/Figure.tsx';
import type { KeyHelp } from '../../ui/shell/Keys.tsx';
import { ScheduleFiles } from './ScheduleFiles.tsx';
import { useHours, weekChoices } from './useHours.ts';
import { WhenPanel } from './WhenPanel.tsx';

export const whenHelp: KeyHelp[] = [
  ...listKeys,
  {
    keys: ['a'],
    does: 'accept what is proposed for the campaigns that are marked, else for the one in focus',
  },
  { keys: ['e'], does: 'draw: go to its schedule' },
  {
    keys: ['←', '→'],
    does: 'in a day: the hour before or after; with Shift more hours; Home: the whole day',
  },
  { keys: ['↑', '↓'], does: 'in a day: lift or lower by 10 %; Delete: off' },
  { keys: ['/'], does: 'find a campaign' },
];

const worthOf = ({ isFinding, proposal }: HoursRow): number => (isFinding ? proposal!.worth : 0);
const sorts = {
  worth: worthOf,
  name: ({ name }: HoursRow) => name.toLowerCase(),
  spend: ({ sums }: HoursRow) => sums.spend,
};
const sortNames = Object.keys(sorts) as (keyof typeof sorts)[];

/** Which campaigns are shown, in words; each with its test. */
const kinds = {
  all: { name: 'All campaigns', is: () => true },
  findings: { name: 'With a proposal', is: ({ isFinding }: HoursRow) => isFinding },
  scheduled: { name: 'With a schedule', is: ({ schedule }: HoursRow) => schedule !== '' },
};
type KindId = keyof typeof kinds;
const kindIds = Object.keys(kinds) as KindId[];

const columnsFor = (onSheet: Readonly<Record<string, string>>): ListColumn<HoursRow>[] => [
  {
    id: 'name',
    label: 'Campaign',
    width: 'minmax(100px, 1.1fr)',
    sorts: true,
    cell: ({ name }) => <b>{name}</b>,
    below: ({ sku }) => sku ?? '',
  },
  {
    id: 'spend',
    label: 'Spend',
    width: '70px',
    isNumber: true,
    sorts: true,
    explains: 'spend',
    value: ({ sums }) => sums.spend,
    text: money,
    cell: ({ sums }) => money(sums.spend),
  },
  {
    id: 'proposal',
    label: 'Schedule',
    width: 'minmax(110px, 1fr)',
    cell: (row) =>
      onSheet[row.campaignId] !== undefined ? (
        'on the sheet'
      ) : row.isFinding ? (
        <b>{scheduleShort(row.proposal!)}</b>
      ) : (
        <span className="soft">{row.isHeld ? 'held by cooldown' : 'stands'}</span>
      ),
    below: ({ schedule }) => (schedule === '' ? '' : `now ${scheduleSaid(readSchedule(schedule) ?? flat())}`),
  },
  {
    id: 'worth',
    label: 'A week',
    width: '54px',
    isNumber: true,
    sorts: true,
    explains: 'worth',
    value: (row) => (row.isFinding ? worthOf(row) : null),
    text: money,
    cell: (row) => (row.isFinding ? <b>{money(worthOf(row))}</b> : ''),
  },
];

/** When money works: what times of the week sell, and schedules that follow them. */
export function WhenView({ tabs }: { tabs: ReactNode }) {
  const { window, weeks, setWeeks, hours } = useHours();
  const { putLines } = useAct();
  const [text, setText] = useUrlState('q');
  const [kindName, setKind] = useUrlState('kind', true);
  const kind = kindIds.find((id) => id === kindName) ?? 'all';
  const { sort, descending, onSort } = useSort(sortNames, 'worth', ['name']);
  const answer = hours.data;
  const rows = useMemo(
    () =>
      found((answer?.campaigns ?? []).filter(kinds[kind].is), {
        text,
        in: ({ name, sku }) => [name, sku],
        by: sorts[sort],
        descending,
        then: (a, b) => b.sums.spend - a.sums.spend,
      }),
    [answer, text, kind, sort, descending],
  );
  const list = useList(rows, ({ campaignId }) => campaignId, {
    about: `${text ?? ''} ${kind} ${sort} ${descending}`,
    address: 'campaign',
  });
  const onSheet = answer?.onSheet;
  const columns = useMemo(() => columnsFor(onSheet ?? {}), [onSheet]);
  const isOpen = (row: HoursRow) => row.isFinding && onSheet?.[row.campaignId] === undefined;
  const chosen = list.chosen().filter(isOpen);
  const accept = () => {
    if (!window || chosen.length === 0) return;
    void putLines(
      '/api/round/accept',
      { ...window, keys: chosen.map(({ campaignId }) => hoursKey(campaignId)), adjustments: {} },
      `schedules of ${counted(chosen.length, 'campaign')} accepted`,
    ).then((done) => {
      if (!done) return;
      list.unmark();
      setUrl({ draw: null });
    });
  };
  useHotkeys('a', accept, [chosen, window]);
  useHotkeys('slash', () => document.querySelector<HTMLInputElement>('[data-find]')?.focus(), {
    preventDefault: true,
  });
  if (!answer)
    return hours.isError ? (
      <Failed error={hours.error} onRetry={() => void hours.refetch()} />
    ) : (
      <Waiting>Looking when money works.</Waiting>
    );
  const open = rows.filter(isOpen);
  const worth = open.reduce((sum, row) => sum + worthOf(row), 0);
  return (
    <ListPage
      problems={unknownChoices(globalThis.location.search, {
        sort: sortNames,
        kind: kindIds,
        weeks: weekChoices.map(String),
      })}
      head={
        <ListHead
          title="Spend"
          tabs={tabs}
          actions={
            <>
              <ScheduleFiles window={window!} />
              <Button variant="contained" disabled={chosen.length === 0} onClick={accept}>
                Accept {count(chosen.length)}
              </Button>
            </>
          }
          name="hours"
          sentence={
            answer.span === null ? (
              'When money is spent is not told: it comes with “campaign-hours”. Fetch, or load the file.'
            ) : answer.weeks < 4 ? (
              <>
                {counted(answer.weeks, 'whole week')} of settled days: too few to tell weekdays apart, four
                are needed.
              </>
            ) : (
              <>
                {counted(answer.weeks, 'whole week')} of settled days, {shortDay(answer.span.from)} to{' '}
                {shortDay(answer.span.to)}.{' '}
                {open.length === 0 ? (
                  'No schedule is proposed: times are not told apart, or schedules stand as they should.'
                ) : (
                  <>
                    Schedules of <b>{counted(open.length, 'campaign')}</b> are worth{' '}
                    <Figure name="worth" label="Worth a week">
                      <b>{money(worth)} a week</b>
                    </Figure>
                    : the same money at the times when it sells.
                  </>
                )}
              </>
            )
          }
          filters={
            <>
              <Field
                type="search"
                data-find=""
                aria-label="Find a campaign"
                placeholder="Find a campaign  /"
                value={text ?? ''}
                onChange={({ target }) => setText(target.value || null)}
                style={{ width: 150 }}
              />
              <Choice
                aria-label="Which campaigns"
                value={kind}
                onChange={({ target }) => setKind(target.value === 'all' ? null : target.value)}
              >
                {kindIds.map((id) => (
                  <option key={id} value={id}>
                    {kinds[id].name} ({count(answer.campaigns.filter(kinds[id].is).length)})
                  </option>
                ))}
              </Choice>
              <Choice
                aria-label="Weeks that tell"
                value={weeks}
                onChange={({ target }) => setWeeks(Number(target.value))}
              >
                {weekChoices.map((one) => (
                  <option key={one} value={one}>
                    {one} weeks
                  </option>
                ))}
              </Choice>
              <Matching>{counted(rows.length, 'campaign')}</Matching>
            </>
          }
        />
      }
      panel={
        list.row &&
        window && (
          <WhenPanel
            key={`${list.row.campaignId} ${list.row.schedule}`}
            row={list.row}
            told={answer.weeks}
            weeks={weeks}
            window={window}
            onSheet={answer.onSheet[list.row.campaignId]}
            marked={list.markedRows}
          />
        )
      }
    >
      {rows.length === 0 ? (
        <Empty>
          {answer.campaigns.length === 0
            ? 'No campaign runs.'
            : kind === 'findings'
              ? 'No schedule is proposed.'
              : kind === 'scheduled'
                ? 'No campaign has a schedule.'
                : 'No campaign is called so.'}
        </Empty>
      ) : (
        <Box sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
          <ListTable
            label="Campaigns by the time of the week"
            nouns="campaigns"
            rows={rows}
            columns={columns}
            keyOf={({ campaignId }) => campaignId}
            nameOf={({ name }) => name}
            list={list}
            isMarkable
            sort={sort}
            descending={descending}
            onSort={onSort}
          />
        </Box>
      )}
    </ListPage>
  );
}
