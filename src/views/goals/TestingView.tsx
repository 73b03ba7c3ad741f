import Link from '@mui/material/Link';
import { useQuery } from '@tanstack/react-query';
import type { ReactNode } from 'react';
import type { TestingAnswer, TestRow } from '../../answers/testing.ts';
import { count, counted, decimal, money, percent } from '../../core/metrics/format.ts';
import { testDays, testWeeks } from '../../core/testing/plan.ts';
import { at } from '../../ui/address.ts';
import { get } from '../../ui/api.ts';
import { shortDay } from '../../ui/days.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { useSort } from '../../ui/list/filters.tsx';
import { Empty, Failed, ListHead, ListPage, Waiting } from '../../ui/list/ListPage.tsx';
import { ListTable, type ListColumn } from '../../ui/list/ListTable.tsx';
import { useList } from '../../ui/list/useList.ts';
import type { KeyHelp } from '../../ui/shell/Keys.tsx';
import { NumberField } from '../../ui/parts/NumberField.tsx';
import { digitsOf } from './fields.tsx';

export const testingHelp: KeyHelp[] = [{ keys: ['j', 'k'], does: 'next, previous test' }];

/** What is offered to who has set nothing aside: where the laboratory found most. */
const offered = 3;

const stateText = ({ state, days, isEndedEarly, until }: TestRow): string =>
  state === 'running'
    ? `day ${Math.max(1, days)} of ${testDays}`
    : state === 'settling'
      ? 'its orders still settle'
      : isEndedEarly
        ? `ended early, ${shortDay(until)}`
        : `over since ${shortDay(until)}`;

const runText = (tests: number): string =>
  tests === 0 ? 'No test runs' : tests === 1 ? '1 test runs' : `${count(tests)} tests run`;

const says = { more: 'worth more', less: 'worth less', 'as believed': 'as believed' };

const sorts = {
  name: ({ name }: TestRow) => name,
  spend: ({ spend }: TestRow) => spend,
  state: ({ since }: TestRow) => since,
  // What may bid most more than before stands first.
  learned: ({ learned }: TestRow) => (learned ? learned.bid / learned.bidBefore : 0),
};
const sortNames = Object.keys(sorts) as (keyof typeof sorts)[];

const columns: ListColumn<TestRow>[] = [
  {
    id: 'name',
    label: 'Target',
    width: 'minmax(180px, 1.3fr)',
    sorts: true,
    cell: ({ name }) => <b>{name}</b>,
    below: ({ matchType, kind, adGroup }) => `${matchType ?? kind} in ${adGroup}`,
  },
  {
    id: 'bid',
    label: 'Bid',
    width: '112px',
    isNumber: true,
    explains: 'bid',
    cell: ({ from, to }) => `${money(from)} → ${money(to)}`,
    below: ({ test }) => (test.isRested ? 'from its rest' : 'from being quiet'),
  },
  {
    id: 'state',
    label: 'Time',
    width: '150px',
    sorts: true,
    cell: stateText,
    below: ({ since, until }) => `${shortDay(since)} to ${shortDay(until)}`,
  },
  {
    id: 'clicks',
    label: 'Clicks',
    width: '88px',
    isNumber: true,
    explains: 'clicks',
    cell: ({ clicks }) => count(clicks),
    below: ({ test }) => `of ${decimal(test.clicks)}`,
  },
  {
    id: 'orders',
    label: 'Orders',
    width: '80px',
    isNumber: true,
    explains: 'orders',
    cell: ({ orders }) => count(orders),
    below: ({ test }) => `of ${decimal(test.orders)}`,
  },
  {
    id: 'spend',
    label: 'Spend',
    width: '80px',
    sorts: true,
    isNumber: true,
    explains: 'spend',
    cell: ({ spend }) => money(spend),
    below: ({ test }) => `of ${money(test.spend)}`,
  },
  {
    id: 'learned',
    label: 'Learned',
    width: 'minmax(220px, 1.5fr)',
    sorts: true,
    isLong: true,
    cell: ({ learned, to }) =>
      learned === null ? (
        '–'
      ) : learned.says === 'nothing' ? (
        `nothing: no click came at ${money(to)}`
      ) : (
        <>
          <b className={learned.says === 'more' ? 'under' : learned.says === 'less' ? 'over' : undefined}>
            {says[learned.says]}
          </b>
          : a bid may be {money(learned.bid)} instead of {money(learned.bidBefore)}
        </>
      ),
    below: ({ learned }) =>
      learned && learned.says !== 'nothing'
        ? `a click earns ${money(learned.earned)}, believed ${money(learned.earnedBefore)}`
        : '',
  },
];

/** A share of spend that is set aside to learn; what is tried with it, and what was learned. */
export function TestingView({ tabs }: { tabs: ReactNode }) {
  const { changeTestingShare } = useAct();
  const testing = useQuery({
    queryKey: ['testing'],
    queryFn: () => get<TestingAnswer>('/api/goals/testing'),
  });
  const { sort, descending, onSort } = useSort(sortNames, 'state', ['name']);
  const of = sorts[sort];
  const rows = (testing.data?.tests ?? []).toSorted((a, b) => {
    const [one, other] = [of(a), of(b)];
    const order = one < other ? -1 : one > other ? 1 : b.lineId - a.lineId;
    return descending ? -order : order;
  });
  const list = useList(rows, ({ lineId }) => String(lineId), { about: 'tests' });
  const answer = testing.data;
  if (!answer)
    return testing.isError ? (
      <Failed error={testing.error} onRetry={() => void testing.refetch()} />
    ) : (
      <Waiting>Reading the tests.</Waiting>
    );
  const { share, weekSpend, tests } = answer;
  const running = tests.filter(({ state }) => state === 'running');
  const over = tests.filter(({ learned }) => learned !== null);
  // What spends more than was expected takes more of the share.
  const runs = running.reduce(
    (sum, { test, spend, days }) =>
      sum + Math.max(test.spend, (spend * testDays) / Math.max(1, days)) / testWeeks,
    0,
  );
  const more = over.filter(({ learned }) => learned!.says === 'more').length;
  const cost = tests.reduce((sum, { spend }) => sum + spend, 0);
  const brought = tests.reduce((sum, { sales }) => sum + sales, 0);
  return (
    <ListPage
      head={
        <ListHead
          title="Goals"
          tabs={tabs}
          name="testing"
          sentence={
            <>
              {share > 0 ? (
                <>
                  <b>{percent(share)}</b> of spend
                  {weekSpend !== null && (
                    <>
                      , <b>{money(share * weekSpend)}</b> a week,
                    </>
                  )}{' '}
                  is set aside to learn. {runText(running.length)}
                  {running.length > 0 && <>, taking {money(runs)} of it</>}
                </>
              ) : (
                <>
                  Nothing is set aside to learn
                  {weekSpend !== null && ` of ${money(weekSpend)} spent a week`}
                  {running.length > 0 && `; ${runText(running.length)}`}
                </>
              )}
              .
              {over.length > 0 && (
                <>
                  {' '}
                  {counted(over.length, 'test')} over: <b>{count(more)}</b> worth more than was believed.
                </>
              )}
              {tests.length > 0 && (
                <>
                  {' '}
                  All together spent {money(cost)} and sold {money(brought)}.
                </>
              )}
            </>
          }
          filters={
            <>
              <NumberField
                label="Share of spend for tests"
                value={share * 100}
                digits={digitsOf(share)}
                least={0}
                width={48}
                suffix="% of spend"
                onCommit={(value) => void changeTestingShare(share, (value ?? 0) / 100)}
              />
              {share > 0 && (
                <Link variant="body2" href={at('/round?queue=targets&proposal=test')}>
                  What is proposed
                </Link>
              )}
            </>
          }
        />
      }
    >
      {tests.length === 0 ? (
        <Empty>
          {share > 0
            ? 'Nothing was tried yet: tests are proposed in Round, each week those whose outcome could change most for what they spend.'
            : `A target that rests or is hardly shown teaches nothing. Set a share aside, such as ${offered} %, and each week those are proposed for a bid of ${testDays} days whose outcome could change most; what they taught is told here.`}
        </Empty>
      ) : (
        <ListTable
          label="Tests"
          nouns="tests"
          rows={rows}
          columns={columns}
          keyOf={({ lineId }) => String(lineId)}
          nameOf={({ name }) => name}
          list={list}
          sort={sort}
          descending={descending}
          onSort={onSort}
        />
      )}
    </ListPage>
  );
}
