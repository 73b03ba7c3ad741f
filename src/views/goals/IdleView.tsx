import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useQuery } from '@tanstack/react-query';
import { useDeferredValue, useState, type ReactNode } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import { idleSpans, type IdleAnswer, type IdleRow, type IdleSpan } from '../../answers/idle.ts';
import { count, counted, money, percent } from '../../core/metrics/format.ts';
import type { Micros } from '../../core/metrics/money.ts';
import { get } from '../../ui/api.ts';
import { shortDay } from '../../ui/days.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { setUrl, useUrlState } from '../../ui/hooks/useUrlState.ts';
import { useSort } from '../../ui/list/filters.tsx';
import { Empty, Failed, ListHead, ListPage, Matching, Waiting } from '../../ui/list/ListPage.tsx';
import { ListTable, type ListColumn } from '../../ui/list/ListTable.tsx';
import { useList } from '../../ui/list/useList.ts';
import { Choice, Field } from '../../ui/parts/fields.tsx';
import { StepLine } from '../../ui/charts/StepLine.tsx';
import { Tabs } from '../../ui/parts/Tabs.tsx';
import type { KeyHelp } from '../../ui/shell/Keys.tsx';
import { TolerateForm } from '../../ui/parts/TolerateForm.tsx';

export const idleHelp: KeyHelp[] = [
  { keys: ['j', 'k'], does: 'next, previous row' },
  { keys: ['x'], does: 'mark; shift for a range, ctrl a for all' },
  { keys: ['r'], does: 'rest: the bid goes to its floor' },
  { keys: ['c'], does: 'cut the bid by the share' },
  { keys: ['n'], does: 'negate (terms)' },
  { keys: ['t'], does: 'tolerate' },
];

const spanNames: Record<IdleSpan, string> = {
  14: '14 days',
  30: '30 days',
  60: '60 days',
  change: 'since its last change',
};
const sorts = {
  name: ({ name }: IdleRow) => name,
  clicks: ({ clicks }: IdleRow) => clicks,
  spend: ({ spend }: IdleRow) => spend,
  sold: ({ sold }: IdleRow) => sold,
  bid: ({ bid }: IdleRow) => bid ?? 0,
  changed: ({ changedOn }: IdleRow) => changedOn ?? '',
};
const sortNames = Object.keys(sorts) as (keyof typeof sorts)[];
/** So many are shown and marked at once. */
const most = 50_000;

const columns: ListColumn<IdleRow>[] = [
  {
    id: 'name',
    label: 'What',
    width: 'minmax(190px, 1.6fr)',
    sorts: true,
    cell: ({ name, isTolerated }) => (
      <>
        <b>{name}</b>
        {isTolerated && <span className="soft"> tolerated</span>}
      </>
    ),
    below: ({ matchType, kind, adGroup, name, target }) =>
      name === target
        ? `${matchType ?? kind} in ${adGroup}`
        : `by ${matchType ?? kind} ${target} in ${adGroup}`,
  },
  {
    id: 'clicks',
    label: 'Clicks',
    width: '58px',
    isNumber: true,
    sorts: true,
    explains: 'clicks',
    value: ({ clicks }) => clicks,
    text: count,
    cell: ({ clicks }) => count(clicks),
  },
  {
    id: 'spend',
    label: 'Spend',
    width: '70px',
    isNumber: true,
    sorts: true,
    explains: 'spend',
    value: ({ spend }) => spend,
    text: money,
    cell: ({ spend }) => <b>{money(spend)}</b>,
  },
  {
    id: 'sold',
    label: 'Sold by now',
    width: '88px',
    isNumber: true,
    sorts: true,
    explains: 'sold_by_now',
    value: ({ sold }) => sold,
    text: percent,
    cell: ({ sold }) => percent(Math.min(sold, 0.99)),
  },
  {
    id: 'bid',
    label: 'Bid',
    width: '56px',
    isNumber: true,
    sorts: true,
    explains: 'bid',
    cell: ({ bid }) => (bid === null ? '–' : money(bid)),
  },
  {
    id: 'changed',
    label: 'Bids before',
    width: '108px',
    sorts: true,
    explains: 'bid_history',
    cell: ({ bids, changedOn }) =>
      bids?.includes(', ') ? <StepLine steps={bids} /> : changedOn ? shortDay(changedOn) : 'never changed',
  },
];

/** Everything that costs and sells nothing, in one place: rested, cut, negated or tolerated, one or all. */
export function IdleView({ tabs }: { tabs: ReactNode }) {
  const { putLines } = useAct();
  const [levelName] = useUrlState('level', true);
  const [spanName] = useUrlState('span', true);
  const [text, setText] = useUrlState('find');
  const [share, setShare] = useState(30);
  const [tolerating, setTolerating] = useState(false);
  const level = levelName === 'terms' ? 'terms' : 'targets';
  const span = idleSpans.find((one) => String(one) === spanName) ?? 30;
  const asked = useDeferredValue(text ?? '');
  const { sort, descending, onSort } = useSort(sortNames, 'spend', ['name']);
  const query = new URLSearchParams({ level, span: String(span), text: asked, limit: String(most) });
  const idle = useQuery({
    queryKey: ['idle', level, span, asked],
    queryFn: () => get<IdleAnswer>(`/api/idle?${query.toString()}`),
    placeholderData: (previous) => previous,
  });
  const answer = idle.data;
  const read = sorts[sort];
  const rows = [...(answer?.rows ?? [])].sort((a, b) => {
    const [x, y] = [read(a), read(b)];
    return (x < y ? -1 : x > y ? 1 : 0) * (descending ? -1 : 1);
  });
  const list = useList(rows, ({ key }) => key, { about: `${level} ${span} ${asked} ${sort} ${descending}` });
  const chosen = list.chosen();
  const edit = (what: object, label: string, at: 'targets' | 'terms' = level) => {
    if (chosen.length === 0) return;
    void putLines(
      '/api/explore/edit',
      {
        level: at,
        columns: [],
        where: null,
        within: null,
        sort: null,
        descending: true,
        window: null,
        comparison: null,
        edit: what,
        keys: chosen.map(({ key }) => key),
        values: null,
        keepGuards: true,
      },
      `${counted(chosen.length, level === 'terms' ? 'term' : 'target')} ${label}`,
    ).then((done) => done && list.unmark());
  };
  const isTargets = level === 'targets';
  const rest = () => isTargets && edit({ field: 'bid', how: 'rest' }, 'rested');
  const cut = () =>
    isTargets && edit({ field: 'bid', how: 'percent', value: -share / 100 }, `cut by ${share} %`);
  const negate = () =>
    !isTargets && edit({ field: 'negative', matchType: 'negative_exact', scope: 'ad_group' }, 'negated');
  useHotkeys('r', rest, [chosen]);
  useHotkeys('c', cut, [chosen, share]);
  useHotkeys('n', negate, [chosen]);
  // What is tolerated already keeps its amount and its reason.
  const bearable = chosen.filter(({ isTolerated }) => !isTolerated);
  // Its letter must not be typed into the form that it opens.
  useHotkeys('t', () => bearable.length > 0 && setTolerating(true), { preventDefault: true }, [bearable]);
  if (!answer)
    return idle.isError ? (
      <Failed error={idle.error} onRetry={() => void idle.refetch()} />
    ) : (
      <Waiting>Looking for what sold nothing.</Waiting>
    );
  const many = chosen.length;
  const sure = rows.filter(({ sold }) => sold >= 0.9);
  const sureSpend: Micros = sure.reduce((sum, { spend }) => sum + spend, 0);
  return (
    <ListPage
      head={
        <ListHead
          title="Goals"
          tabs={tabs}
          name="idle"
          sentence={
            <>
              <b>{counted(answer.count, isTargets ? 'target' : 'term')}</b> without an order,{' '}
              {span === 'change' ? 'since the bid was changed' : `in ${spanNames[span]}`}:{' '}
              {count(answer.clicks)} clicks, <b>{money(answer.spend)}</b>. For {count(sure.length)} of them,{' '}
              {money(sureSpend)}, an average one would have sold with 90 %.
            </>
          }
          filters={
            <>
              <Tabs
                label="What is looked at"
                tabs={[
                  { id: 'targets', name: 'Targets' },
                  { id: 'terms', name: 'Terms' },
                ]}
                chosen={level}
                onChoose={(id) => setUrl({ level: id === 'targets' ? null : id }, true)}
              />
              <Choice
                aria-label="Without an order for"
                value={String(span)}
                onChange={({ target }) => setUrl({ span: target.value === '30' ? null : target.value }, true)}
              >
                {idleSpans.map((one) => (
                  <option key={one} value={String(one)}>
                    {spanNames[one]}
                  </option>
                ))}
              </Choice>
              <Field
                type="search"
                aria-label="Find by name"
                placeholder="Find by name"
                value={text ?? ''}
                onChange={({ target }) => setText(target.value || null)}
                style={{ width: 140 }}
              />
              {isTargets ? (
                <>
                  <Button size="small" variant="outlined" disabled={many === 0} onClick={rest}>
                    Rest {count(many)}
                  </Button>
                  <Button size="small" variant="outlined" disabled={many === 0} onClick={cut}>
                    Cut {count(many)} by
                  </Button>
                  <Field
                    type="number"
                    aria-label="Share of the cut, per cent"
                    min={5}
                    max={90}
                    step={5}
                    value={share}
                    onChange={({ target }) => setShare(Math.min(90, Math.max(1, Number(target.value))))}
                    style={{ width: 52 }}
                  />
                  <span>%</span>
                </>
              ) : (
                <Button size="small" variant="outlined" disabled={many === 0} onClick={negate}>
                  Negate {count(many)}
                </Button>
              )}
              <Button
                size="small"
                variant="outlined"
                disabled={bearable.length === 0}
                onClick={() => setTolerating(true)}
              >
                Tolerate {count(bearable.length)}
              </Button>
              {answer.count > rows.length && <Matching>the first {count(rows.length)} by spend</Matching>}
            </>
          }
          notes={
            tolerating &&
            bearable.length > 0 && (
              <TolerateForm
                rows={bearable}
                onClose={(done) => {
                  setTolerating(false);
                  if (done) list.unmark();
                }}
              />
            )
          }
        />
      }
    >
      {rows.length === 0 ? (
        <Empty>Nothing that was clicked went without an order.</Empty>
      ) : (
        <Box sx={{ flex: 1, minHeight: 0, display: 'flex', opacity: idle.isPlaceholderData ? 0.6 : 1 }}>
          <ListTable
            label="Without orders"
            nouns={level}
            rows={rows}
            columns={columns}
            keyOf={({ key }) => key}
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
