import Box from '@mui/material/Box';
import Link from '@mui/material/Link';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import type { ReactNode } from 'react';
import { useQuery } from '@tanstack/react-query';
import type { GoalsAnswer } from '../../answers/goals.ts';
import type { PaceAnswer, QueueStanding, TodayAnswer, VerdictCounts } from '../../answers/today.ts';
import { daysBetween, type Window } from '../../core/metrics/days.ts';
import { acos } from '../../core/metrics/figures.ts';
import { count, counted, money, percent, signedMoney } from '../../core/metrics/format.ts';
import { at } from '../../ui/address.ts';
import { get } from '../../ui/api.ts';
import { PaceMark } from '../../ui/charts/PaceChart.tsx';
import { longDay, shortDay } from '../../ui/days.ts';
import { setUrl, useUrlState } from '../../ui/hooks/useUrlState.ts';
import { unknownChoices } from '../../ui/list/filters.tsx';
import { Failed, Waiting } from '../../ui/list/ListPage.tsx';
import { Figure } from '../../ui/parts/Figure.tsx';
import { Tabs } from '../../ui/parts/Tabs.tsx';
import { AddressNote } from '../../ui/shell/AddressNote.tsx';
import { useWindow } from '../../ui/shell/data.ts';
import type { KeyHelp } from '../../ui/shell/Keys.tsx';
import { Shell } from '../../ui/shell/Shell.tsx';
import { outsideText } from '../../ui/outsideText.ts';
import { sizes } from '../../ui/theme.ts';
import { OrganicView, organicHelp } from '../organic/OrganicView.tsx';
import { Figures } from './Figures.tsx';
import { movedIds, Movers } from './Movers.tsx';
import { Notes } from './Notes.tsx';
import { Routines } from './Routines.tsx';
import { Section } from './Section.tsx';

const help: KeyHelp[] = [
  { keys: ['n'], does: 'note what happened' },
  { keys: ['g', 'r'], does: 'go on to the round' },
];

/** The account in one look. */
export function TodayView() {
  const [named] = useUrlState('part', true);
  const part = partIds.find((id) => id === named) ?? 'now';
  const tabs = (
    <Tabs
      label="Parts of Today"
      tabs={partIds.map((id) => ({ id, name: parts[id] }))}
      chosen={part}
      onChoose={(id) =>
        setUrl({ part: id === 'now' ? null : id, product: null, keyword: null, lags: null, q: null }, true)
      }
    />
  );
  return part === 'organic' ? (
    <Shell help={organicHelp}>
      <OrganicView tabs={tabs} />
    </Shell>
  ) : (
    <Shell help={help}>
      <Today tabs={tabs} />
    </Shell>
  );
}

const parts = { now: 'How it stands', organic: 'Organic' };
const partIds = Object.keys(parts) as (keyof typeof parts)[];

const span = ({ from, to }: Window): string => `from=${from}&to=${to}`;

function Today({ tabs }: { tabs: ReactNode }) {
  const window = useWindow();
  const today = useQuery({
    queryKey: ['today', window?.from, window?.to],
    queryFn: () => get<TodayAnswer>(`/api/today?${span(window!)}`),
    enabled: window !== null,
  });
  const answer = today.data;
  if (!answer || !window)
    return today.isError ? (
      <Failed error={today.error} onRetry={() => void today.refetch()} />
    ) : (
      <Waiting>Looking how the account stands.</Waiting>
    );
  const { now, before, goal, compare } = answer;
  const own = acos(now);
  return (
    <Box
      sx={{ height: '100%', flex: 1, minWidth: 0, overflowY: 'auto' }}
      tabIndex={0}
      role="region"
      aria-label="Today"
    >
      <AddressNote
        problems={unknownChoices(globalThis.location.search, { moved: movedIds, part: partIds })}
      />
      <Box sx={{ px: 2.25, pt: 1.5, pb: 3, display: 'grid', gap: 2 }}>
        <Box sx={{ display: 'grid', gap: 0.75 }}>
          <Box sx={{ display: 'flex', alignItems: 'baseline', gap: 2 }}>
            <Typography variant="h1">Today</Typography>
            {tabs}
            <Typography color="text.secondary">{longDay(answer.today)}</Typography>
            <Link href={at(`/report?${span(window)}`)} sx={{ ml: 'auto' }}>
              Weekly report
            </Link>
          </Box>
          <Typography data-testid="today-sentence" sx={{ fontSize: sizes.sentence }}>
            {money(now.spend)} spent for {money(now.sales)} of ad sales:{' '}
            {own === null || !Number.isFinite(own) ? (
              'nothing was sold'
            ) : (
              <>
                an ACOS of <b>{percent(own)}</b>, {own > goal.targetAcos ? 'over' : 'under'} the goal of{' '}
                {percent(goal.targetAcos)}
              </>
            )}
            , against {shortDay(compare.from)} – {shortDay(compare.to)} with {money(before.spend)} and{' '}
            {money(before.sales)}. Figures are settled up to {shortDay(answer.settledTo)}.
          </Typography>
        </Box>
        <Figures answer={answer} />
        <Box
          sx={{
            display: 'grid',
            gridTemplateColumns: 'minmax(0, 1.75fr) minmax(0, 1fr)',
            columnGap: 4,
            rowGap: 2,
          }}
        >
          <Movers window={window} />
          <Box sx={{ display: 'grid', gap: 2, alignContent: 'start' }}>
            <Next window={window} />
            <Known window={window} goal={goal.targetAcos} />
          </Box>
        </Box>
        <Box
          sx={{
            display: 'grid',
            gridTemplateColumns: 'repeat(auto-fit, minmax(300px, 1fr))',
            columnGap: 4,
            rowGap: 2,
          }}
        >
          <Pace />
          <Sheets answer={answer} />
          <Outside answer={answer} />
          <Stock answer={answer} />
          <Routines />
          <NotesOf answer={answer} />
          <Fresh answer={answer} />
        </Box>
      </Box>
    </Box>
  );
}

/** What is worth doing next, by kind. */
function Next({ window }: { window: Window }) {
  const queues = useQuery({
    queryKey: ['today-queues', window.from, window.to],
    queryFn: () => get<QueueStanding[]>(`/api/today/queues?${span(window)}`),
  });
  const open = (queues.data ?? []).filter((one) => one.count > 0);
  const worth = open.reduce((sum, one) => sum + one.worth, 0);
  return (
    <Section
      title="Worth doing next"
      aside={
        queues.data && open.length > 0 && <Link href={at(`/round?${span(window)}`)}>Begin the round</Link>
      }
    >
      {queues.isError ? (
        <Typography color="error">{queues.error.message}</Typography>
      ) : !queues.data ? (
        <span className="soft">Judging the account.</span>
      ) : open.length === 0 ? (
        'Nothing waits for a decision.'
      ) : (
        <>
          <div data-testid="next-sentence">
            {counted(
              open.reduce((sum, one) => sum + one.count, 0),
              'finding',
            )}
            ,{' '}
            <Figure name="worth" label="Worth a week">
              <b>{money(worth)} a week</b>
            </Figure>
            :
          </div>
          {open.map(({ id, name, count: many, worth: own, top }) => (
            <Box
              key={id}
              sx={{
                display: 'grid',
                gridTemplateColumns: '84px 38px minmax(0, 1fr) 64px',
                columnGap: 1,
                alignItems: 'center',
                minHeight: 25,
              }}
            >
              <Link href={at(`/round?queue=${id}&${span(window)}`)}>{name}</Link>
              <span style={{ textAlign: 'right' }}>{count(many)}</span>
              <Box
                component="span"
                sx={{
                  color: 'text.secondary',
                  overflow: 'hidden',
                  textOverflow: 'ellipsis',
                  whiteSpace: 'nowrap',
                }}
              >
                {top && `${top.subject} ${money(top.worth)}`}
              </Box>
              <b style={{ textAlign: 'right' }}>{money(own)}</b>
            </Box>
          ))}
        </>
      )}
    </Section>
  );
}

const verdicts = ['under', 'undecided', 'over'] as const;
const verdictNames = { under: 'under', undecided: 'undecided', over: 'over' };

/** What was clicked and has this verdict, as Explore's address says it. */
const verdictIs = (verdict: string): string =>
  JSON.stringify({
    all: [
      { column: 'verdict', is: 'equals', value: verdict },
      { column: 'clicks', is: 'at_least', value: 1 },
    ],
  });

/** How much money goes where what is known says under, over, or nothing yet. */
function Known({ window, goal }: { window: Window; goal: number }) {
  const { roles } = useTheme().palette;
  const known = useQuery({
    queryKey: ['today-verdicts', window.from, window.to],
    queryFn: () => get<VerdictCounts>(`/api/today/verdicts?${span(window)}`),
  });
  const colours = { under: roles.under, undecided: roles.bar, over: roles.over };
  return (
    <Section title={`Known against ${percent(goal)}`}>
      {known.isError ? (
        <Typography color="error">{known.error.message}</Typography>
      ) : !known.data ? (
        <span className="soft">Counting targets and terms.</span>
      ) : (
        (['targets', 'terms'] as const).map((level) => {
          const counts = known.data[level];
          const all = verdicts.reduce((sum, verdict) => sum + counts[verdict].spend, 0);
          return (
            <Box key={level} sx={{ mb: 0.75 }}>
              <Box
                sx={{ display: 'flex', height: 9, my: 0.25, border: 1, borderColor: 'divider' }}
                aria-hidden="true"
              >
                {verdicts.map((verdict) => (
                  <Box
                    key={verdict}
                    sx={{
                      width: `${all > 0 ? (100 * counts[verdict].spend) / all : 0}%`,
                      bgcolor: colours[verdict],
                    }}
                  />
                ))}
              </Box>
              {verdicts.map((verdict, index) => (
                <span key={verdict}>
                  {index > 0 && ', '}
                  <Link
                    href={at(
                      `/explore?level=${level}&where=${encodeURIComponent(verdictIs(verdict))}&${span(window)}`,
                    )}
                  >
                    {count(counts[verdict].count)} {index === 0 ? level : ''} {verdictNames[verdict]}
                  </Link>{' '}
                  {money(counts[verdict].spend)}
                </span>
              ))}
            </Box>
          );
        })
      )}
    </Section>
  );
}

/** Where the month lands. */
function Pace() {
  const pace = useQuery({ queryKey: ['pace'], queryFn: () => get<PaceAnswer>('/api/spend/pace') });
  const account = pace.data?.lines[0];
  return (
    <Section title="Pace of the month" aside={<Link href={at('/spend?view=pace')}>All of it</Link>}>
      {pace.isError ? (
        <Typography color="error">{pace.error.message}</Typography>
      ) : !account ? (
        <span className="soft">Looking where the month lands.</span>
      ) : (
        (['spend', 'sales', 'revenue'] as const).map((name) => {
          const measure = account[name];
          if (!measure) return null;
          const label = { spend: 'Spend', sales: 'Ad sales', revenue: 'Revenue' }[name];
          return (
            <Box key={name} sx={{ mb: 0.5 }}>
              {label} lands at <b>{money(measure.middle)}</b>
              {measure.plan !== null &&
                ` of ${money(measure.plan)}, ${percent(measure.plan > 0 ? measure.middle / measure.plan : null)}`}
              <PaceMark measure={measure} />
            </Box>
          );
        })
      )}
      {account?.spend.plan == null && account?.sales.plan == null && (
        <Link href={at('/goals?view=plan')}>Plan the month</Link>
      )}
    </Section>
  );
}

/** What the last sheets did against what they said. */
function Sheets({ answer: { sheets } }: { answer: TodayAnswer }) {
  return (
    <Section title="What the last sheets did" aside={<Link href={at('/ledger')}>Ledger</Link>}>
      {sheets.length === 0
        ? 'No sheet was sent yet.'
        : sheets.map(({ sheetId, sentOn, lines, scored, said, seen }) => (
            <div key={sheetId}>
              <Link href={at(`/ledger?sheet=${sheetId}`)}>{shortDay(sentOn)}</Link>, {counted(lines, 'line')}:{' '}
              {scored === 0
                ? 'its weeks settle.'
                : `sales ${signedMoney(Math.round(said.sales))} a week said, ${signedMoney(Math.round(seen.sales))} seen; spend ${signedMoney(Math.round(said.spend))} and ${signedMoney(Math.round(seen.spend))}.`}
            </div>
          ))}
    </Section>
  );
}

/** What was changed elsewhere, what is new or gone, and prices that moved. */
function Outside({ answer: { outside, campaigns, prices } }: { answer: TodayAnswer }) {
  const isQuiet = outside.count === 0 && campaigns.length === 0 && prices.length === 0;
  return (
    <Section
      title="Changed elsewhere"
      aside={outside.count > 0 && <Link href={at('/ledger?sheet=outside')}>All {count(outside.count)}</Link>}
    >
      {isQuiet && 'Nothing: bids, budgets, campaigns and prices stand as they were.'}
      {outside.changes.map((change) => (
        <div key={`${change.day} ${change.objectId} ${change.field}`}>
          <span className="soft">{shortDay(change.day)}</span> {change.expression ?? change.campaign}:{' '}
          {change.field.replaceAll('_', ' ')} {outsideText(change, change.oldValue)} →{' '}
          {outsideText(change, change.newValue)}
        </div>
      ))}
      {campaigns.slice(0, 6).map(({ name, what, day }) => (
        <div key={`${name} ${what}`}>
          <span className="soft">{shortDay(day)}</span> {name} {what}
        </div>
      ))}
      {prices.slice(0, 6).map(({ day, sku, title, before, after }) => (
        <div key={`${day} ${sku}`}>
          <span className="soft">{shortDay(day)}</span> {title}: price {money(before)} → {money(after)}
        </div>
      ))}
    </Section>
  );
}

/** Products that run out, soonest first. */
function Stock({ answer: { stock, today } }: { answer: TodayAnswer }) {
  const soon = stock.filter(
    ({ runsOutOn, stock: left }) => left === 0 || (runsOutOn !== null && daysBetween(today, runsOutOn) <= 60),
  );
  return (
    <Section title="Stock">
      {stock.length === 0
        ? 'What is in stock is not told.'
        : soon.length === 0
          ? 'Nothing runs out within 60 days at the pace of the last four weeks.'
          : soon.slice(0, 8).map(({ sku, title, stock: left, aDay, runsOutOn }) => (
              <div key={sku}>
                <b>{title}</b>{' '}
                {left === 0
                  ? 'is out of stock: its ads are not shown.'
                  : `runs out on ${shortDay(runsOutOn!)}, in ${counted(daysBetween(today, runsOutOn!), 'day')}: ${count(left)} left, ${aDay.toFixed(1)} a day.`}
              </div>
            ))}
    </Section>
  );
}

function NotesOf({ answer }: { answer: TodayAnswer }) {
  const goals = useQuery({ queryKey: ['goals'], queryFn: () => get<GoalsAnswer>('/api/goals') });
  return <Notes notes={answer.notes} today={answer.today} products={goals.data?.products ?? []} />;
}

/** How fresh each report is. */
function Fresh({ answer: { reports, today, settledTo } }: { answer: TodayAnswer }) {
  return (
    <Section title="How fresh it is" aside={<Link href={at('/data')}>Fetch</Link>}>
      <div>
        Orders settle for {counted(daysBetween(settledTo, today) - 1, 'day')}: judged up to{' '}
        {shortDay(settledTo)}.
      </div>
      {reports.map(({ kind, lastDay, fetchedOn }) => (
        <div key={kind}>
          {kind}: to {shortDay(lastDay)}, <span className="soft">told on {shortDay(fetchedOn)}</span>
        </div>
      ))}
    </Section>
  );
}
