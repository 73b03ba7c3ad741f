import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useQuery } from '@tanstack/react-query';
import { useMemo, type ReactNode } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import type { PlacementsAnswer } from '../../answers/spend.ts';
import { count, counted, money } from '../../core/metrics/format.ts';
import { bidsShort } from '../../core/placements/explain.ts';
import { placementKey } from '../../core/placements/lines.ts';
import { type PlacedRow } from '../../core/placements/findings.ts';
import { byPlacement, placementName, placementShort, strategyName } from '../../core/placements/names.ts';
import { get } from '../../ui/api.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { setUrl, useUrlState } from '../../ui/hooks/useUrlState.ts';
import { unknownChoices, useSort } from '../../ui/list/filters.tsx';
import { Empty, Failed, ListHead, ListPage, Matching, Waiting } from '../../ui/list/ListPage.tsx';
import { ListTable, type ListColumn } from '../../ui/list/ListTable.tsx';
import { found } from '../../ui/list/found.ts';
import { useList } from '../../ui/list/useList.ts';
import { listKeys } from '../../ui/list/useSelection.ts';
import { Field } from '../../ui/parts/fields.tsx';
import { Figure } from '../../ui/parts/Figure.tsx';
import { Tabs } from '../../ui/parts/Tabs.tsx';
import { useWindow } from '../../ui/shell/data.ts';
import type { KeyHelp } from '../../ui/shell/Keys.tsx';
import { ConditionsView } from './ConditionsView.tsx';
import { OverallTable } from './OverallTable.tsx';
import { PlacementMark } from './PlacementMark.tsx';
import { ids, views, type WhereId } from './types.ts';
import { StrategyFindings } from './StrategyFindings.tsx';
import { PlacementsPanel } from './PlacementsPanel.tsx';

export const whereHelp: KeyHelp[] = [
  ...listKeys,
  {
    keys: ['a'],
    does: 'accept what is proposed for the campaigns that are marked, else for the one in focus',
  },
  { keys: ['e'], does: 'set its modifiers by hand' },
  { keys: ['/'], does: 'find a campaign' },
];

const spendOf = ({ placements }: PlacedRow): number =>
  placements.reduce((sum, { sums }) => sum + sums.spend, 0);
const worthOf = ({ isFinding, proposal }: PlacedRow): number => (isFinding ? proposal!.worth : 0);
const sorts = { worth: worthOf, name: ({ name }: PlacedRow) => name.toLowerCase(), spend: spendOf };
const sortNames = Object.keys(sorts) as (keyof typeof sorts)[];

/** From the cheapest to the dearest click of all campaigns, micros. */
function domainOf(rows: readonly PlacedRow[]): [number, number] {
  let [low, high] = [Infinity, 0];
  for (const { placements } of rows)
    for (const { cpc, mayCost } of placements)
      for (const cost of [cpc, mayCost])
        if (cost !== null && cost > 0) [low, high] = [Math.min(low, cost), Math.max(high, cost)];
  return high > 0 ? [low * 0.9, high * 1.1] : [10_000, 1_000_000];
}

const columnsFor = (
  names: readonly string[],
  domain: [number, number],
  stateOf: (row: PlacedRow) => string | null,
): ListColumn<PlacedRow>[] => [
  {
    id: 'name',
    label: 'Campaign',
    width: 'minmax(130px, 1.4fr)',
    sorts: true,
    cell: ({ name }) => <b>{name}</b>,
    below: ({ strategy, sku }) => `${strategyName(strategy)}${sku === null ? '' : ` · ${sku}`}`,
  },
  {
    id: 'spend',
    label: 'Spend',
    width: '62px',
    isNumber: true,
    sorts: true,
    explains: 'spend',
    value: spendOf,
    text: money,
    cell: (row) => money(spendOf(row)),
  },
  ...names.map((placement): ListColumn<PlacedRow> => ({
    id: placement,
    label: placementName(placement).replace(/^./, (first) => first.toUpperCase()),
    width: '90px',
    explains: 'may_cost',
    cell: ({ placements }) => {
      const one = placements.find((row) => row.placement === placement);
      if (!one || (one.cpc === null && one.mayCost === null)) return <span className="soft">–</span>;
      return (
        <>
          {one.cpc === null ? '–' : money(one.cpc)}
          <span className="soft"> of {one.mayCost === null ? '–' : money(one.mayCost)}</span>
        </>
      );
    },
    below: ({ placements }) => {
      const one = placements.find((row) => row.placement === placement);
      return one && <PlacementMark row={one} domain={domain} />;
    },
  })),
  {
    id: 'proposal',
    label: 'Proposal',
    width: 'minmax(96px, 1fr)',
    cell: (row) =>
      stateOf(row) ??
      (row.isFinding ? (
        <b>{bidsShort(row.proposal!.bids, row.streams.length)}</b>
      ) : (
        <span className="soft">
          {row.proposal?.held.includes('cooldown') ? 'held by cooldown' : 'stands'}
        </span>
      )),
    below: (row) =>
      row.isFinding && stateOf(row) === null
        ? row
            .proposal!.modifiers.filter(({ from, to }) => from !== to)
            .map(({ placement, from, to }) => `${placementShort(placement)} ${from} → ${to} %`)
            .join(', ')
        : '',
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

/** Where money works: by evidence, summed by what campaigns share, or by conditions of one's own. */
export function WhereView({ parts }: { parts: ReactNode }) {
  const [viewName] = useUrlState('view', true);
  const view = ids.find((id) => id === viewName) ?? 'campaigns';
  const tabs = (
    <>
      {parts}
      <Box sx={{ pl: 2.5, borderLeft: 1, borderColor: 'divider' }}>
        <Tabs
          label="Where money works"
          tabs={ids.map((id) => ({ id, name: views[id] }))}
          chosen={view}
          onChoose={(id) => setUrl({ view: id === 'campaigns' ? null : id }, true)}
        />
      </Box>
    </>
  );
  return view === 'conditions' ? <ConditionsView tabs={tabs} /> : <PlacedView tabs={tabs} view={view} />;
}

interface PlacedViewProps {
  tabs: ReactNode;
  view: Exclude<WhereId, 'conditions'>;
}

/** What a click sells and costs in each placement, and modifiers and bids that move together. */
function PlacedView({ tabs, view }: PlacedViewProps) {
  const window = useWindow();
  const { putLines } = useAct();
  const [text, setText] = useUrlState('q');
  const { sort, descending, onSort } = useSort(sortNames, 'worth', ['name']);
  const placed = useQuery({
    queryKey: ['placements', window?.from, window?.to],
    queryFn: () => get<PlacementsAnswer>(`/api/spend/placements?from=${window!.from}&to=${window!.to}`),
    enabled: window !== null,
  });
  const answer = placed.data;
  const rows = useMemo(
    () =>
      found(answer?.campaigns ?? [], {
        text,
        in: ({ name, sku }) => [name, sku],
        by: sorts[sort],
        descending,
        then: (a, b) => spendOf(b) - spendOf(a),
      }),
    [answer, text, sort, descending],
  );
  const list = useList(rows, ({ campaignId }) => campaignId, {
    about: `${text ?? ''} ${sort} ${descending}`,
    address: 'campaign',
  });
  const stateOf = useMemo(() => {
    const [moved, bids] = [new Set(answer?.onSheet), new Set(answer?.bidsOnSheet)];
    return ({ campaignId }: PlacedRow): string | null =>
      moved.has(campaignId) ? 'on the sheet' : bids.has(campaignId) ? 'its bids are on the sheet' : null;
  }, [answer]);
  const columns = useMemo(() => {
    const all = answer?.campaigns ?? [];
    const names = [...new Set(all.flatMap(({ placements }) => placements.map((one) => one.placement)))];
    return columnsFor(names.sort(byPlacement), domainOf(all), stateOf);
  }, [answer, stateOf]);
  const open = rows.filter((row) => row.isFinding && stateOf(row) === null);
  const chosen = list.chosen().filter((row) => row.isFinding && stateOf(row) === null);
  const accept = () => {
    if (!window || chosen.length === 0) return;
    void putLines(
      '/api/round/accept',
      { ...window, keys: chosen.map(({ campaignId }) => placementKey(campaignId)), adjustments: {} },
      `placements of ${counted(chosen.length, 'campaign')} accepted`,
    ).then((done) => done && list.unmark());
  };
  useHotkeys('a', accept, [chosen, window]);
  useHotkeys('slash', () => document.querySelector<HTMLInputElement>('[data-find]')?.focus(), {
    preventDefault: true,
  });
  if (!answer)
    return placed.isError ? (
      <Failed error={placed.error} onRetry={() => void placed.refetch()} />
    ) : (
      <Waiting>Looking where money works.</Waiting>
    );
  const moved = answer.onSheet.length;
  const worth = open.reduce((sum, row) => sum + worthOf(row), 0);
  const isList = view === 'campaigns';
  return (
    <ListPage
      problems={unknownChoices(globalThis.location.search, { view: ids, sort: sortNames })}
      head={
        <ListHead
          title="Spend"
          tabs={tabs}
          actions={
            isList && (
              <Button variant="contained" disabled={chosen.length === 0} onClick={accept}>
                Accept {count(chosen.length)}
              </Button>
            )
          }
          name="where"
          sentence={
            open.length === 0 ? (
              <>
                {moved > 0 && `Modifiers of ${counted(moved, 'campaign')} are on the sheet. `}
                In {moved > 0 ? 'no other' : 'none'} of {counted(rows.length, 'campaign')} would money surely
                sell more in another placement.
              </>
            ) : (
              <>
                <b>{counted(open.length, 'campaign')}</b> of {count(rows.length)} would earn{' '}
                <Figure name="worth" label="Worth a week">
                  <b>{money(worth)} a week</b>
                </Figure>{' '}
                more at their goals if modifiers and bids moved together: as much is bid on the mean, where it
                sells more.
              </>
            )
          }
          filters={
            isList && (
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
                <Matching>{counted(rows.length, 'campaign')}</Matching>
              </>
            )
          }
        />
      }
      panel={
        isList &&
        list.row &&
        window && (
          <PlacementsPanel
            key={`${list.row.campaignId} ${list.row.placements.map(({ modifier }) => modifier).join()}`}
            row={list.row}
            state={stateOf(list.row)}
            window={window}
            maximumModifier={answer.maximumModifier}
          />
        )
      }
    >
      {rows.length === 0 ? (
        <Empty>
          {answer.campaigns.length === 0
            ? 'No campaign was clicked in these days, as far as placements are told. They come with “placements-daily”: fetch, or load the file.'
            : 'No campaign is called so.'}
        </Empty>
      ) : isList ? (
        <Box sx={{ flex: 1, minHeight: 0, display: 'flex' }}>
          <ListTable
            label="Campaigns by placement"
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
      ) : (
        <>
          {view === 'strategy' && window && (
            <StrategyFindings rows={answer.campaigns} onSheet={answer.strategiesOnSheet} window={window} />
          )}
          <OverallTable rows={answer.campaigns} by={view} />
        </>
      )}
    </ListPage>
  );
}
