import Box from '@mui/material/Box';
import { styled } from '@mui/material/styles';
import { useCallback, useDeferredValue, useState, type ReactNode } from 'react';
import type { MethodsAnswer } from '../../answers/goals.ts';
import { methods, type Method } from '../../core/bids/methods.ts';
import { acos } from '../../core/metrics/figures.ts';
import { count, counted, money, percent } from '../../core/metrics/format.ts';
import type { Micros } from '../../core/metrics/money.ts';
import type { ComparedRow, MethodBid } from '../../core/round/compare.ts';
import { get } from '../../ui/api.ts';
import { useUrlState } from '../../ui/hooks/useUrlState.ts';
import { Grid, rowAttributes } from '../../ui/list/Grid.tsx';
import { HeadCell, headRowStyle } from '../../ui/list/HeadCell.tsx';
import { Failed, ListHead, ListPage, Matching, Waiting } from '../../ui/list/ListPage.tsx';
import { rowStyles } from '../../ui/list/rowStyles.ts';
import { pageRows, usePages } from '../../ui/list/usePages.ts';
import { useSelection } from '../../ui/list/useSelection.ts';
import { Explanation } from '../../ui/parts/Explanation.tsx';
import { Field } from '../../ui/parts/fields.tsx';
import { Panel, Part } from '../../ui/parts/Panel.tsx';
import { useWindow } from '../../ui/shell/data.ts';
import type { KeyHelp } from '../../ui/shell/Keys.tsx';
import { methodNames } from './rows.ts';

export const methodsHelp: KeyHelp[] = [
  { keys: ['j', 'k'], does: 'next, previous target' },
  { keys: ['/'], does: 'find a target or an ad group' },
];

const tracks = 'minmax(150px, 1.5fr) 56px 64px 60px repeat(4, minmax(84px, 1fr)) 74px';
const rowHeight = 40;

const Rows = styled('div')(({ theme }) => {
  const known = rowStyles(theme);
  return {
    ...known,
    '& .row': { ...known['& .row'], right: 0, height: rowHeight, columnGap: '10px', padding: '0 12px 0 6px' },
  };
});

const signed = (value: Micros): string => `${value < 0 ? '−' : '+'}${money(Math.abs(value))}`;
const rowsOf = ({ rows }: MethodsAnswer): readonly ComparedRow[] => rows;

/** What every method proposes for every target, side by side, those first on which most money hangs. */
export function MethodsView({ tabs }: { tabs: ReactNode }) {
  const window = useWindow();
  const [sort, setSort] = useUrlState('sort');
  const [text, setText] = useUrlState('find');
  const asked = useDeferredValue(text ?? '');
  const bySpend = sort === 'spend';
  const [pages, setPages] = useState<readonly number[]>([0]);
  const { first, rowAt } = usePages<MethodsAnswer, ComparedRow>(
    window && {
      key: ['methods', window, bySpend, asked],
      read: (offset, limit) =>
        get(
          `/api/goals/methods?${new URLSearchParams({
            ...window,
            offset: String(offset),
            limit: String(limit),
            sort: bySpend ? 'spend' : 'between',
            text: asked,
          }).toString()}`,
        ),
    },
    pages,
    rowsOf,
  );
  const about = `${sort ?? ''} ${asked}`;
  const answer = first.data;
  const total = answer?.count ?? 0;
  const keyAt = useCallback((index: number) => rowAt(index)?.targetId ?? null, [rowAt]);
  const { focus, moveTo } = useSelection({ count: total, keyAt, about, isUnmarkable: true });
  const onSeen = useCallback((from: number, to: number) => {
    const [low, high] = [Math.floor(from / pageRows), Math.floor(to / pageRows)];
    const next = Array.from({ length: high - low + 1 }, (_, i) => low + i);
    setPages((old) => (old.join() === next.join() ? old : next));
  }, []);
  if (first.isError && !answer) return <Failed error={first.error} onRetry={() => void first.refetch()} />;
  if (!answer) return <Waiting>Asking every method about every target.</Waiting>;
  const shown = rowAt(focus);
  const head = (id: string, label: string, explains: string | null, sortAs?: string) => (
    <HeadCell
      key={id}
      label={label}
      isNumber={id !== 'target'}
      order={sortAs !== undefined && bySpend === (sortAs === 'spend') ? 'descending' : null}
      explanation={explains && <Explanation label={label} name={explains} />}
      {...(sortAs === undefined ? {} : { onSort: () => setSort(sortAs === 'spend' ? 'spend' : null) })}
    />
  );
  return (
    <ListPage
      head={
        <ListHead
          title="Goals"
          tabs={tabs}
          name="methods"
          sentence={<Totals totals={answer.totals} />}
          filters={
            <>
              <Field
                type="search"
                aria-label="Find a target or an ad group"
                placeholder="Find a target or an ad group"
                value={text ?? ''}
                onChange={({ target }) => setText(target.value || null)}
                style={{ width: 240 }}
              />
              <Matching>
                {counted(total, 'target')},{' '}
                {bySpend ? 'those that cost most first' : 'most money between methods first'}
              </Matching>
            </>
          }
        />
      }
      panel={shown && <Workings row={shown} />}
    >
      <Grid
        label="Methods side by side"
        count={total}
        rowHeight={rowHeight}
        focus={focus}
        about={about}
        isBusy={first.isPlaceholderData}
        onSeen={onSeen}
        note={total === 0 && <Box sx={{ p: 3 }}>No target with a bid is called so.</Box>}
        head={
          <Box role="rowgroup" sx={{ position: 'sticky', top: 0, zIndex: 3 }}>
            <Box
              role="row"
              sx={{ ...headRowStyle, gridTemplateColumns: tracks, columnGap: '10px', pl: '6px', pr: 1.5 }}
            >
              {head('target', 'Target', null)}
              {head('bid', 'Bid', 'bid')}
              {head('spend', 'Spend', 'spend', 'spend')}
              {head('acos', 'ACOS', 'acos')}
              {methods.map((method) => head(method, methodNames[method], `method_${method}`))}
              {head('between', 'Between', 'between', 'between')}
            </Box>
          </Box>
        }
        Rows={Rows}
        row={({ index, top, id, slot }) => {
          const row = rowAt(index);
          const isFocused = index === focus;
          const { style, ...attributes } = rowAttributes({ id, index, top, isFocused });
          return (
            <div
              key={slot}
              {...attributes}
              className={isFocused ? 'row fixed focus' : 'row fixed'}
              data-key={row?.targetId}
              onClick={() => moveTo(index)}
              style={{ ...style, gridTemplateColumns: tracks }}
            >
              {row && <Cells row={row} />}
            </div>
          );
        }}
      />
    </ListPage>
  );
}

function Cells({ row }: { row: ComparedRow }) {
  const ratio = acos(row.sums);
  return (
    <>
      <div role="gridcell">
        <div className="first">
          <b>{row.expression}</b>
        </div>
        <div className="second">
          {row.matchType ?? row.kind} in {row.adGroup}
        </div>
      </div>
      <div role="gridcell" className="number">
        {money(row.bid)}
      </div>
      <div role="gridcell" className="number">
        {money(row.sums.spend)}
      </div>
      <div role="gridcell" className="number">
        {ratio === Infinity ? 'no sales' : percent(ratio)}
      </div>
      {methods.map((method) => (
        <div role="gridcell" className="number" key={method}>
          <MethodCell row={row} method={method} />
        </div>
      ))}
      <div role="gridcell" className="number">
        {money(row.between)}
      </div>
    </>
  );
}

function MethodCell({ row, method }: { row: ComparedRow; method: Method }) {
  const { bid, held } = row.by[method];
  const share = row.bid > 0 ? bid / row.bid - 1 : 0;
  const isOwn = row.method === method;
  return (
    <>
      <div className="first" style={{ fontWeight: isOwn ? 700 : 400 }}>
        {bid === row.bid ? <span className="soft">stays</span> : money(bid)}
      </div>
      <div className="second">
        {bid !== row.bid && (
          <span className={share > 0 ? 'under' : 'over'}>
            {share > 0 ? '+' : '−'}
            {percent(Math.abs(share))}
          </span>
        )}
        {held.length > 0 && ` held`}
      </div>
    </>
  );
}

/** What each method would do to the account, as one ruled line each. */
function Totals({ totals }: Pick<MethodsAnswer, 'totals'>) {
  return (
    <Box
      component="table"
      data-testid="method-totals"
      sx={{
        typography: 'body2',
        borderCollapse: 'collapse',
        '& td, & th': { textAlign: 'right', fontWeight: 400, p: 0.25, pr: 2 },
        '& th:first-of-type': { textAlign: 'left' },
        '& thead th': { color: 'text.secondary' },
      }}
    >
      <thead>
        <tr>
          <th scope="col">All taken, a week</th>
          <th scope="col">raises</th>
          <th scope="col">cuts</th>
          <th scope="col">spend</th>
          <th scope="col">sales</th>
          <th scope="col">profit after ads</th>
          <th scope="col">worth at the goals</th>
        </tr>
      </thead>
      <tbody>
        {methods.map((method) => {
          const { raises, cuts, spend, sales, profit, worth } = totals[method];
          return (
            <tr key={method}>
              <th scope="row">{methodNames[method]}</th>
              <td>{count(raises)}</td>
              <td>{count(cuts)}</td>
              <td>{signed(spend)}</td>
              <td>{signed(sales)}</td>
              <td>{signed(profit)}</td>
              <td>
                <b>{money(worth)}</b>
              </td>
            </tr>
          );
        })}
      </tbody>
    </Box>
  );
}

/** How each method came to its bid for one target. */
function Workings({ row }: { row: ComparedRow }) {
  const said = ({ bid, wanted, held, formula }: MethodBid, method: Method): string => {
    if (wanted === null)
      return method === 'evidence' || method === 'strict'
        ? 'What it wants is what stands.'
        : 'It says nothing yet: too few clicks or orders, or a band that moves nothing.';
    const how = formula ?? 'θ × expected revenue per click ÷ modifiers';
    const guards = held.length > 0 ? ` Held by ${held.join(', ')}.` : '';
    return `${how}: ${money(wanted)}${bid === row.bid ? ', so it stays' : ''}.${guards}`;
  };
  return (
    <Panel label={`Workings of ${row.expression}`}>
      <b>{row.expression}</b>
      <div>
        {row.matchType ?? row.kind} in {row.adGroup}, bid {money(row.bid)}.{' '}
        {counted(row.sums.clicks, 'click')}, {counted(row.sums.orders, 'order')}, {money(row.sums.spend)}{' '}
        spent, {money(row.sums.sales)} sold; its goal is {percent(row.targetAcos)}, and it is{' '}
        {row.verdict === 'undecided' ? 'undecided' : `${row.verdict} it`}.
      </div>
      {methods.map((method) => {
        const by = row.by[method];
        return (
          <Part
            key={method}
            title={`${methodNames[method]}${row.method === method ? ', its own method' : ''}`}
          >
            <div>
              <b>{by.bid === row.bid ? 'stays' : money(by.bid)}</b> {said(by, method)}
            </div>
            {by.bid !== row.bid && (
              <div>
                A week: spend {signed(by.spend)}, sales {signed(by.sales)}
                {by.profit !== null && `, profit ${signed(by.profit)}`}.
              </div>
            )}
          </Part>
        );
      })}
    </Panel>
  );
}
