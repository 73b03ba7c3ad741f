import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useDeferredValue, useMemo, useState, type ReactNode } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import type { BudgetsAnswer } from '../../answers/spend.ts';
import type { BudgetRow } from '../../core/budgets/rows.ts';
import { railOf, splitGround, totalOf, type BudgetGroup } from '../../core/budgets/rules.ts';
import {
  partOf,
  splitProblem,
  splitter,
  type Split,
  type SplitMember,
  type SplitPart,
} from '../../core/budgets/split.ts';
import type { Window } from '../../core/metrics/days.ts';
import { count, counted, money, significant } from '../../core/metrics/format.ts';
import type { Micros } from '../../core/metrics/money.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { useUrlState } from '../../ui/hooks/useUrlState.ts';
import { unknownChoices, useSort } from '../../ui/list/filters.tsx';
import { Empty, Failed, ListHead, ListPage, Waiting } from '../../ui/list/ListPage.tsx';
import { ListTable, type ListColumn } from '../../ui/list/ListTable.tsx';
import { useList } from '../../ui/list/useList.ts';
import { Choice } from '../../ui/parts/fields.tsx';
import { Figure } from '../../ui/parts/Figure.tsx';
import type { KeyHelp } from '../../ui/shell/Keys.tsx';
import { RuleFields } from './RuleFields.tsx';
import { SplitBar } from './SplitBar.tsx';
import { budgetViewIds, useBudgets } from './useBudgets.ts';

export const splitHelp: KeyHelp[] = [
  { keys: ['j', 'k'], does: 'move down and up' },
  { keys: ['→', '←'], does: 'give the campaign in focus a step more or less; the others answer' },
  { keys: ['shift →', 'shift ←'], does: 'ten steps' },
  { keys: ['r'], does: 'let it go: its budget is split like the others' },
  { keys: ['t'], does: 'set the total' },
];

/** How budgets come about: filled where the next unit sells most, or as rails above what bids spend. */
const ways = {
  split: 'Bids stay: split where it sells most',
  rails: 'Bids keep the total: budgets are rails',
};
type WayId = keyof typeof ways;
const wayIds = Object.keys(ways) as WayId[];

const boundWords: Record<NonNullable<SplitPart['bound']>, string> = {
  least: 'its least',
  most: 'its most',
  over: 'over goal',
  lasts: 'lasts',
  set: 'set by hand',
};

interface Row {
  row: BudgetRow;
  member: SplitMember;
  part: SplitPart;
  isSet: boolean;
}

const barWidth = 420;
const sorts = {
  name: ({ row }: Row) => row.name.toLowerCase(),
  budget: ({ row }: Row) => row.budget ?? 0,
  spend: ({ part }: Row) => part.spend,
  sales: ({ part }: Row) => part.sales,
  returns: ({ member }: Row) => member.roas,
};
const sortNames = Object.keys(sorts) as (keyof typeof sorts)[];

/** One total split over its campaigns: each answers when another's budget is dragged. */
export function SplitView({ tabs }: { tabs: ReactNode }) {
  const { window, budgets } = useBudgets();
  const [chosen, setChosen] = useUrlState('of', true);
  const answer = budgets.data;
  if (!answer || !window)
    return budgets.isError ? (
      <Failed error={budgets.error} onRetry={() => void budgets.refetch()} />
    ) : (
      <Waiting>Looking what budgets sell.</Waiting>
    );
  const group = answer.groups.find((one) => groupKey(one) === chosen) ?? answer.groups[0];
  const choice = (
    <Choice
      aria-label="Which campaigns share it"
      value={group ? groupKey(group) : ''}
      onChange={({ target }) => setChosen(target.value === 'account:' ? null : target.value)}
      style={{ maxWidth: 260 }}
    >
      {answer.groups.map((one) => (
        <option key={groupKey(one)} value={groupKey(one)}>
          {one.name} ({count(one.campaignIds.length)})
        </option>
      ))}
    </Choice>
  );
  if (!group)
    return (
      <ListPage head={<ListHead title="Spend" tabs={tabs} name="split" />}>
        <Empty>No two campaigns with a daily budget run: there is nothing to split.</Empty>
      </ListPage>
    );
  return (
    <GroupSplit
      key={groupKey(group)}
      tabs={tabs}
      choice={choice}
      answer={answer}
      group={group}
      window={window}
      isUnknown={chosen !== null && groupKey(group) !== chosen}
    />
  );
}

const groupKey = ({ scope, object }: BudgetGroup): string => `${scope}:${object}`;

interface GroupSplitProps {
  tabs: ReactNode;
  choice: ReactNode;
  answer: BudgetsAnswer;
  group: BudgetGroup;
  window: Window;
  isUnknown: boolean;
}

function GroupSplit({ tabs, choice, answer, group, window, isUnknown }: GroupSplitProps) {
  const { putLines } = useAct();
  const [set, setSet] = useState<ReadonlyMap<string, Micros>>(new Map());
  const [wayName, setWay] = useUrlState('way', true);
  const way = wayIds.find((id) => id === wayName) ?? 'split';
  const { sort, descending, onSort } = useSort(sortNames, 'budget', ['name']);
  const { rows, members, split } = useMemo(() => {
    const ids = new Set(group.campaignIds);
    const own = answer.campaigns.filter(({ campaignId, budget }) => ids.has(campaignId) && budget !== null);
    const limits = new Map(answer.limits.map((one) => [one.campaignId, one]));
    const ground = splitGround(group, own, limits, answer.minimumBudget, answer.today);
    const problem = splitProblem(ground.members, ground.rules);
    return {
      rows: own,
      ...ground,
      split: problem === null ? splitter(ground.members, ground.rules) : problem,
    };
  }, [answer, group]);
  const problem = typeof split === 'string' ? split : null;
  const held = useDeferredValue(set);
  const result = useMemo((): Split | null => {
    if (typeof split === 'string') return null;
    if (way === 'split') return split(held);
    return sumOf(members.map((member) => partOf(member, held.get(member.campaignId) ?? railOf(member))));
  }, [split, way, held, members]);
  const now = useMemo(
    () => sumOf(members.map((member, at) => partOf(member, rows[at]!.budget!))),
    [members, rows],
  );
  const list = useMemo((): Row[] => {
    const read = sorts[sort];
    return rows
      .map((row, at) => ({
        row,
        member: members[at]!,
        part: (result ?? now).parts[at]!,
        isSet: held.has(row.campaignId),
      }))
      .sort((a, b) => {
        // While budgets move, rows stay where they are.
        const [x, y] =
          sort === 'spend' || sort === 'sales' ? [a.row.budget!, b.row.budget!] : [read(a), read(b)];
        return (x < y ? -1 : x > y ? 1 : 0) * (descending ? -1 : 1) || b.row.budget! - a.row.budget!;
      });
  }, [rows, members, result, now, held, sort, descending]);
  const focus = useList(list, ({ row }) => row.campaignId, {
    about: `${groupKey(group)} ${sort} ${descending}`,
    address: 'campaign',
  });
  const mostBudget = useMemo(
    () => Math.max(...members.flatMap(({ full }) => full), ...rows.map(({ budget }) => budget!), 1) * 1.1,
    [members, rows],
  );
  const mostSold = useMemo(() => Math.max(...members.map(({ roas }) => roas), 0.01), [members]);
  const drag = useMemo(
    () => (campaignId: string, budget: Micros) => setSet((known) => new Map(known).set(campaignId, budget)),
    [],
  );
  const nudge = (steps: number) => {
    const { row, part } = focus.row ?? {};
    if (!row || !part) return;
    const from = set.get(row.campaignId) ?? part.budget;
    drag(row.campaignId, Math.max(0, from + steps * stepOf(from)));
  };
  useHotkeys('right', () => nudge(1), [focus.row, set], { preventDefault: true });
  useHotkeys('left', () => nudge(-1), [focus.row, set], { preventDefault: true });
  useHotkeys('shift+right', () => nudge(10), [focus.row, set], { preventDefault: true });
  useHotkeys('shift+left', () => nudge(-10), [focus.row, set], { preventDefault: true });
  useHotkeys('r', () => focus.row && release(focus.row.row.campaignId), [focus.row]);
  useHotkeys('t', () => document.querySelector<HTMLInputElement>('[data-rule] input')?.focus(), {
    preventDefault: true,
  });
  const release = (campaignId: string) =>
    setSet((known) => new Map([...known].filter(([id]) => id !== campaignId)));
  const columns = useMemo(
    () => columnsFor(mostBudget, mostSold, drag, answer.onSheet),
    [mostBudget, mostSold, drag, answer.onSheet],
  );
  const changes = result
    ? result.parts.filter(({ campaignId, budget }, at) => {
        const standing = answer.onSheet[campaignId] ?? rows[at]!.budget!;
        return budget !== standing;
      })
    : [];
  const put = () =>
    void putLines(
      '/api/spend/budgets',
      {
        ...window,
        budgets: changes.map(({ campaignId, budget }) => ({ campaignId, budget })),
        source: 'split',
      },
      `${counted(changes.length, 'budget')} split`,
    );
  const total = totalOf(group, rows);
  const margin = result && marginal(result);
  const more = result ? result.sales - now.sales : 0;
  return (
    <ListPage
      problems={[
        ...unknownChoices(globalThis.location.search, { view: budgetViewIds, way: wayIds, sort: sortNames }),
        ...(isUnknown
          ? [{ name: 'of', problem: 'What the address names shares no total here: all campaigns are shown.' }]
          : []),
      ]}
      head={
        <ListHead
          title="Spend"
          tabs={tabs}
          actions={
            <Button variant="contained" disabled={changes.length === 0} onClick={put}>
              Put {count(changes.length)} on the sheet
            </Button>
          }
          name="split"
          sentence={
            problem !== null ? (
              <span role="alert">{problem}</span>
            ) : (
              result && (
                <>
                  {counted(rows.length, 'campaign')} spend <b>{money(result.spend)}</b> of{' '}
                  <b data-testid="split-total">{money(total)}</b> a day and sell{' '}
                  <Figure name="sales" label="Sold a day">
                    <b data-testid="split-sales">{money(result.sales)}</b>
                  </Figure>
                  , {money(Math.abs(more))} {more < 0 ? 'less' : 'more'} than as they stand
                  {margin !== null && (
                    <>
                      ; a unit of budget more would sell <b>{significant(margin)}</b>
                    </>
                  )}
                  .
                  {result.free > 10_000 * rows.length &&
                    ` ${money(result.free)} of it no campaign could spend.`}
                </>
              )
            )
          }
          notes={<RuleFields group={group} rows={rows} total={total} />}
          filters={
            <>
              {choice}
              <Choice
                aria-label="How budgets come about"
                value={way}
                onChange={({ target }) => setWay(target.value === 'split' ? null : target.value)}
              >
                {wayIds.map((id) => (
                  <option key={id} value={id}>
                    {ways[id]}
                  </option>
                ))}
              </Choice>
              {set.size > 0 && (
                <Button size="small" onClick={() => setSet(new Map())}>
                  Let {counted(set.size, 'budget')} go
                </Button>
              )}
              <Typography variant="body2" color="text.secondary" sx={{ ml: 'auto' }}>
                Drag a handle, or → and ← on the row in focus.
              </Typography>
            </>
          }
        />
      }
    >
      <Box sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
        <ListTable
          label="Campaigns that share the total"
          nouns="campaigns"
          rows={list}
          columns={columns}
          keyOf={({ row }) => row.campaignId}
          nameOf={({ row }) => row.name}
          list={focus}
          sort={sort}
          descending={descending}
          onSort={onSort}
        />
      </Box>
    </ListPage>
  );
}

/** What a step of the keyboard moves: about a fiftieth, in round amounts. */
const stepOf = (budget: Micros): Micros => (budget < 10e6 ? 100_000 : budget < 100e6 ? 500_000 : 5_000_000);

function sumOf(parts: SplitPart[]): Split {
  return {
    parts,
    free: 0,
    spend: parts.reduce((sum, { spend }) => sum + spend, 0),
    sales: parts.reduce((sum, { sales }) => sum + sales, 0),
  };
}

/** What a unit more of the total would sell: the best next unit of a campaign that could use it. */
function marginal({ parts }: Split): number | null {
  const open = parts.filter(({ bound }) => bound === null || bound === 'least');
  return open.length === 0 ? null : Math.max(...open.map(({ next }) => next));
}

const columnsFor = (
  mostBudget: Micros,
  mostSold: number,
  onDrag: (campaignId: string, budget: Micros) => void,
  onSheet: Readonly<Record<string, Micros>>,
): ListColumn<Row>[] => [
  {
    id: 'name',
    label: 'Campaign',
    width: 'minmax(130px, 1fr)',
    sorts: true,
    cell: ({ row }) => <b>{row.name}</b>,
    below: ({ row }) => [row.sku, row.isResearch ? 'research' : null].filter(Boolean).join(' · '),
  },
  {
    id: 'budget',
    label: 'Now',
    width: '64px',
    isNumber: true,
    sorts: true,
    explains: 'daily_budget',
    value: ({ row }) => row.budget,
    text: money,
    cell: ({ row }) => money(row.budget!),
  },
  {
    id: 'bar',
    label: 'What each further unit sells, up to the budget',
    width: `${barWidth}px`,
    explains: 'last_unit',
    cell: ({ row, member, part, isSet }) => (
      <SplitBar
        member={member}
        now={row.budget!}
        budget={part.budget}
        isSet={isSet}
        name={row.name}
        mostBudget={mostBudget}
        mostSold={mostSold}
        width={barWidth}
        onDrag={(budget) => onDrag(row.campaignId, budget)}
      />
    ),
  },
  {
    id: 'then',
    label: 'Then',
    width: '74px',
    isNumber: true,
    cell: ({ row, part }) => <b data-budget-of={row.campaignId}>{money(part.budget)}</b>,
    below: ({ row, part }) =>
      onSheet[row.campaignId] === part.budget ? 'on the sheet' : part.bound ? boundWords[part.bound] : '',
  },
  {
    id: 'spend',
    label: 'Spends',
    width: '62px',
    isNumber: true,
    sorts: true,
    value: ({ part }) => part.spend,
    text: money,
    cell: ({ part }) => money(part.spend),
  },
  {
    id: 'sales',
    label: 'Sells',
    width: '66px',
    isNumber: true,
    sorts: true,
    value: ({ part }) => part.sales,
    text: money,
    cell: ({ part }) => money(part.sales),
  },
  {
    id: 'returns',
    label: 'Last unit',
    width: '62px',
    isNumber: true,
    sorts: true,
    explains: 'last_unit',
    value: ({ part }) => part.last,
    text: (value) => significant(value),
    cell: ({ part }) => significant(part.last),
  },
];
