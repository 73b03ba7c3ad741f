import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useMemo, type ReactNode } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { optionShort } from '../../core/budgets/explain.ts';
import { budgetKey } from '../../core/budgets/lines.ts';
import { dry } from '../../core/budgets/propose.ts';
import type { BudgetRow } from '../../core/budgets/rows.ts';
import { count, counted, money, percent, significant } from '../../core/metrics/format.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { useUrlState } from '../../ui/hooks/useUrlState.ts';
import { unknownChoices, useSort } from '../../ui/list/filters.tsx';
import { Empty, Failed, ListHead, ListPage, Matching, Waiting } from '../../ui/list/ListPage.tsx';
import { ListTable, type ListColumn } from '../../ui/list/ListTable.tsx';
import { found } from '../../ui/list/found.ts';
import { useList } from '../../ui/list/useList.ts';
import { listKeys } from '../../ui/list/useSelection.ts';
import { Choice, Field } from '../../ui/parts/fields.tsx';
import { Figure } from '../../ui/parts/Figure.tsx';
import type { KeyHelp } from '../../ui/shell/Keys.tsx';
import { BudgetDays } from './BudgetDays.tsx';
import { BudgetFiles } from './BudgetFiles.tsx';
import { BudgetPanel } from './BudgetPanel.tsx';
import { budgetViewIds, useAlone, useBudgets } from './useBudgets.ts';

export const budgetsHelp: KeyHelp[] = [
  ...listKeys,
  {
    keys: ['a'],
    does: 'accept what is proposed for the campaigns that are marked, else for the one in focus',
  },
  { keys: ['e'], does: 'set its budget by hand' },
  { keys: ['o'], does: 'give its best keyword a campaign of its own, where the budget starves it' },
  { keys: ['/'], does: 'find a campaign' },
];

const worthOf = ({ isFinding, proposal }: BudgetRow): number => (isFinding ? proposal!.chosen.worth : 0);
const meanFull = ({ full }: BudgetRow): number | null =>
  full.length === 0 ? null : full.reduce((sum, day) => sum + day, 0) / full.length;
const sorts = {
  worth: worthOf,
  name: ({ name }: BudgetRow) => name.toLowerCase(),
  budget: ({ budget }: BudgetRow) => budget ?? 0,
  shown: ({ shown }: BudgetRow) => -(shown ?? 2),
  lost: ({ lost }: BudgetRow) => lost.sales,
};
const sortNames = Object.keys(sorts) as (keyof typeof sorts)[];

type Alone = ReturnType<typeof useAlone>;
/** Which campaigns are shown, in words; each with its test. */
const kinds = {
  all: { name: 'All campaigns', is: () => true },
  alone: {
    name: 'Starve their best keyword',
    is: ({ campaignId }: BudgetRow, alone: Alone) => alone?.has(campaignId) ?? false,
  },
  dry: { name: 'Run dry', is: ({ shown }: BudgetRow) => shown !== null && shown < dry },
  idle: { name: 'Lie idle', is: ({ proposal }: BudgetRow) => proposal?.chosen.kind === 'slack' },
};
type KindId = keyof typeof kinds;
const kindIds = Object.keys(kinds) as KindId[];

const columnsFor = (
  stateOf: (row: BudgetRow) => string | null,
  onSheet: Readonly<Record<string, number>>,
): ListColumn<BudgetRow>[] => [
  {
    id: 'name',
    label: 'Campaign',
    width: 'minmax(130px, 1.4fr)',
    sorts: true,
    cell: ({ name }) => <b>{name}</b>,
    below: ({ sku, isResearch }) => [sku, isResearch ? 'research' : null].filter(Boolean).join(' · '),
  },
  {
    id: 'budget',
    label: 'Budget',
    width: '66px',
    isNumber: true,
    sorts: true,
    explains: 'daily_budget',
    value: ({ budget }) => budget,
    text: money,
    cell: ({ budget, campaignId }) =>
      budget === null ? (
        <span className="soft">lifetime</span>
      ) : onSheet[campaignId] === undefined ? (
        money(budget)
      ) : (
        <b>{money(onSheet[campaignId])}</b>
      ),
  },
  {
    id: 'full',
    label: 'A full day',
    width: '66px',
    isNumber: true,
    explains: 'full_day',
    value: meanFull,
    text: money,
    cell: (row) => money(meanFull(row) ?? 0),
  },
  {
    id: 'hours',
    label: 'Hours with budget, day by day',
    width: '156px',
    explains: 'budget_hours',
    cell: ({ days }) => <BudgetDays days={days} />,
  },
  {
    id: 'shown',
    label: 'Of its time',
    width: '58px',
    isNumber: true,
    sorts: true,
    explains: 'budget_time',
    value: ({ shown }) => shown,
    text: percent,
    cell: ({ shown }) => (shown === null ? '–' : percent(shown)),
  },
  {
    id: 'lost',
    label: 'Misses a week',
    width: '84px',
    isNumber: true,
    sorts: true,
    explains: 'lost_sales',
    value: ({ lost }) => lost.sales,
    text: money,
    cell: ({ lost }) => (lost.clicks > 0 ? money(lost.sales) : ''),
    below: ({ lost }) => (lost.clicks > 0 ? `${significant(lost.clicks)} clicks` : ''),
  },
  {
    id: 'proposal',
    label: 'Proposal',
    width: 'minmax(104px, 0.9fr)',
    cell: (row) => {
      const state = stateOf(row);
      if (state !== null) return state;
      if (!row.proposal) return <span className="soft">stands</span>;
      if (row.proposal.held.includes('cooldown')) return <span className="soft">held by cooldown</span>;
      const short = optionShort(row, row.proposal.chosen).replace(' a day', '');
      return row.isFinding ? <b>{short}</b> : short;
    },
    below: (row) =>
      stateOf(row) !== null || !row.proposal
        ? ''
        : row.proposal.chosen.kind === 'slack'
          ? 'what is idle'
          : row.proposal.chosen.kind === 'raise'
            ? 'raise the budget'
            : 'lower the bids',
  },
  {
    id: 'worth',
    label: 'A week',
    width: '58px',
    isNumber: true,
    sorts: true,
    explains: 'worth',
    value: (row) => (row.isFinding ? worthOf(row) : null),
    text: money,
    cell: (row) => (row.isFinding ? <b>{money(worthOf(row))}</b> : ''),
  },
];

/** How much money campaigns have: how long it lasts each day, what is missed, and what to do about it. */
export function BudgetsView({ tabs }: { tabs: ReactNode }) {
  const { window, budgets } = useBudgets();
  const { putLines } = useAct();
  const [text, setText] = useUrlState('q');
  const [kindName, setKind] = useUrlState('kind', true);
  const kind = kindIds.find((id) => id === kindName) ?? 'all';
  const { sort, descending, onSort } = useSort(sortNames, 'worth', ['name']);
  const answer = budgets.data;
  const alone = useAlone();
  const rows = useMemo(
    () =>
      found(
        (answer?.campaigns ?? []).filter((row) => kinds[kind].is(row, alone)),
        {
          text,
          in: ({ name, sku }) => [name, sku],
          by: sorts[sort],
          descending,
          then: (a, b) => b.sums.spend - a.sums.spend,
        },
      ),
    [answer, alone, text, kind, sort, descending],
  );
  const list = useList(rows, ({ campaignId }) => campaignId, {
    about: `${text ?? ''} ${kind} ${sort} ${descending}`,
    address: 'campaign',
  });
  const stateOf = useMemo(() => {
    const bids = new Set(answer?.bidsOnSheet);
    return ({ campaignId, proposal }: BudgetRow): string | null =>
      answer?.onSheet[campaignId] !== undefined
        ? 'on the sheet'
        : proposal?.chosen.kind === 'lower_bids' && bids.has(campaignId)
          ? 'its bids are on the sheet'
          : null;
  }, [answer]);
  const columns = useMemo(() => columnsFor(stateOf, answer?.onSheet ?? {}), [stateOf, answer]);
  const isOpen = (row: BudgetRow) =>
    row.proposal !== null && !row.proposal.held.includes('cooldown') && stateOf(row) === null;
  const open = rows.filter((row) => row.isFinding && stateOf(row) === null);
  const chosen = list.chosen().filter(isOpen);
  const accept = () => {
    if (!window || chosen.length === 0) return;
    void putLines(
      '/api/round/accept',
      { ...window, keys: chosen.map(({ campaignId }) => budgetKey(campaignId)), adjustments: {} },
      `budgets of ${counted(chosen.length, 'campaign')} accepted`,
    ).then((done) => done && list.unmark());
  };
  useHotkeys('a', accept, [chosen, window]);
  useHotkeys('slash', () => document.querySelector<HTMLInputElement>('[data-find]')?.focus(), {
    preventDefault: true,
  });
  if (!answer)
    return budgets.isError ? (
      <Failed error={budgets.error} onRetry={() => void budgets.refetch()} />
    ) : (
      <Waiting>Looking how long budgets last.</Waiting>
    );
  const dryOnes = answer.campaigns.filter(kinds.dry.is);
  const lost = dryOnes.reduce((sum, row) => sum + row.lost.sales, 0);
  const worth = open.reduce((sum, row) => sum + worthOf(row), 0);
  const isTold = answer.campaigns.some(({ shown }) => shown !== null);
  return (
    <ListPage
      problems={unknownChoices(globalThis.location.search, {
        view: budgetViewIds,
        sort: sortNames,
        kind: kindIds,
      })}
      head={
        <ListHead
          title="Spend"
          tabs={tabs}
          actions={
            <>
              {window && <BudgetFiles window={window} />}
              <Button variant="contained" disabled={chosen.length === 0} onClick={accept}>
                Accept {count(chosen.length)}
              </Button>
            </>
          }
          name="budgets"
          sentence={
            !isTold ? (
              'When budgets are spent is not told: it comes with “campaign-hours”. Fetch, or load the file.'
            ) : dryOnes.length === 0 ? (
              <>No budget runs dry: all of {counted(answer.campaigns.length, 'campaign')} last the day.</>
            ) : (
              <>
                <b>{counted(dryOnes.length, 'campaign')}</b> of {count(answer.campaigns.length)}{' '}
                {dryOnes.length === 1 ? 'runs' : 'run'} dry and {dryOnes.length === 1 ? 'misses' : 'miss'}{' '}
                about{' '}
                <Figure name="lost_sales" label="Missed a week">
                  <b>{money(lost)}</b>
                </Figure>{' '}
                of sales a week. What is proposed is worth{' '}
                <Figure name="worth" label="Worth a week">
                  <b>{money(worth)} a week</b>
                </Figure>
                : a bigger budget under the goal, cheaper clicks over it.
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
                style={{ width: 170 }}
              />
              <Choice
                aria-label="Which campaigns"
                value={kind}
                onChange={({ target }) => setKind(target.value === 'all' ? null : target.value)}
              >
                {kindIds.map((id) => (
                  <option key={id} value={id}>
                    {kinds[id].name} (
                    {count(answer.campaigns.filter((row) => kinds[id].is(row, alone)).length)})
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
          <BudgetPanel
            key={`${list.row.campaignId} ${list.row.budget}`}
            row={list.row}
            state={stateOf(list.row)}
            window={window}
            minimum={answer.minimumBudget}
            alone={alone?.get(list.row.campaignId) ?? null}
            limit={answer.limits.find(({ campaignId }) => campaignId === list.row!.campaignId) ?? null}
          />
        )
      }
    >
      {rows.length === 0 ? (
        <Empty>
          {answer.campaigns.length === 0
            ? 'No campaign runs.'
            : kind === 'idle'
              ? 'No budget lies idle: none is twice what its dearest day spends.'
              : kind === 'alone'
                ? alone === null
                  ? 'Looking for keywords that starve.'
                  : 'No budget that runs dry starves its best keyword among many.'
                : kind === 'dry'
                  ? 'No budget runs dry.'
                  : 'No campaign is called so.'}
        </Empty>
      ) : (
        <Box sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
          <ListTable
            label="Campaigns by budget"
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
