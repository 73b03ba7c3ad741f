import { sizes } from '../../ui/theme.ts';
import type { Adjustment } from '../../core/round/lines.ts';
import Box from '@mui/material/Box';
import Checkbox from '@mui/material/Checkbox';
import { styled } from '@mui/material/styles';
import { memo } from 'react';
import { acos } from '../../core/metrics/figures.ts';
import { count, money, percent, signedMoney } from '../../core/metrics/format.ts';
import { Explanation, ListExplanation } from '../../ui/parts/Explanation.tsx';
import { Grid, rowAttributes } from '../../ui/list/Grid.tsx';
import { HeadCell, headRowStyle } from '../../ui/list/HeadCell.tsx';
import { MarkBox } from '../../ui/list/MarkBox.tsx';
import { rowStyles } from '../../ui/list/rowStyles.ts';
import { Whisker } from '../../ui/parts/Whisker.tsx';
import { AdjustCell } from './AdjustCell.tsx';
import type { SortName } from './filter.ts';
import type { Row, RoundAnswer } from './types.ts';
import { placeOf, proposalWords, verdictWords } from './words.ts';

const rowHeight = 40;

interface QueueProps {
  /** What stands in the first column. */
  label: string;
  rows: Row[];
  names: RoundAnswer['adGroups'];
  focus: number;
  marked: ReadonlySet<string>;
  adjusting: string | null;
  sort: SortName;
  descending: boolean;
  onSort: (name: SortName) => void;
  onFocus: (index: number) => void;
  onMark: (index: number, range: boolean) => void;
  onMarkAll: () => void;
  onAdjust: (key: string | null) => void;
  onAccept: (key: string, adjustment: Adjustment) => void;
}

/** In a narrow window clicks and orders are left to the why panel, so that proposal and worth stay in sight. */
const narrow = '@media (max-width: 1150px)';
const narrowColumns = '28px minmax(96px, 1fr) 54px 50px 96px minmax(138px, 1.15fr) 56px';
const columns = '30px minmax(170px, 1.25fr) 44px 56px 46px 62px 104px minmax(150px, 1fr) 64px';
const tracks = {
  gridTemplateColumns: columns,
  [narrow]: { gridTemplateColumns: narrowColumns, '& > .lesser': { display: 'none' } },
  columnGap: '8px',
  paddingRight: '12px',
} as const;

const Rows = styled('div')(({ theme }) => {
  const known = rowStyles(theme);
  const { roles } = theme.palette;
  return {
    ...known,
    '& .row': { ...known['& .row'], right: 0, height: rowHeight, ...tracks },
    // What has no figures of its own says its sentence there.
    '& .row > .told': { gridColumn: '2 / -3' },
    '& .row > .wide': { gridColumn: 'span 2' },
    '& .name, & .worth': { fontWeight: 600 },
    '& .waits': { color: roles.soft },
    '& .verdict': { fontSize: sizes.tiny, lineHeight: '12px', marginTop: '-1px', color: roles.soft },
    '& .verdict.over': { color: roles.over },
    '& .verdict.under': { color: roles.under },
  };
});

/** The findings as a grid of rows that exist only while they are seen. */
export function Queue(props: QueueProps) {
  const { rows, focus, marked, adjusting } = props;
  const allMarked = rows.length > 0 && rows.every((row) => marked.has(row.key));
  return (
    <Grid
      label="Findings"
      count={rows.length}
      rowHeight={rowHeight}
      focus={focus}
      isMarkable
      head={
        <QueueHead
          label={props.label}
          rows={rows}
          sort={props.sort}
          descending={props.descending}
          allMarked={allMarked}
          someMarked={marked.size > 0}
          onSort={props.onSort}
          onMarkAll={props.onMarkAll}
        />
      }
      Rows={Rows}
      row={({ index, top, id, slot }) => {
        const row = rows[index]!;
        return (
          <QueueRow
            key={adjusting === row.key ? row.key : slot}
            id={id}
            row={row}
            names={props.names}
            index={index}
            top={top}
            isFocused={index === focus}
            isMarked={marked.has(row.key)}
            isAdjusting={adjusting === row.key}
            onFocus={props.onFocus}
            onMark={props.onMark}
            onAdjust={props.onAdjust}
            onAccept={props.onAccept}
          />
        );
      }}
    />
  );
}

interface QueueHeadProps extends Pick<
  QueueProps,
  'label' | 'rows' | 'sort' | 'descending' | 'onSort' | 'onMarkAll'
> {
  allMarked: boolean;
  someMarked: boolean;
}

interface Head {
  name: SortName | 'likely' | 'proposal';
  label: string;
  isNumber?: boolean;
  value?: (row: Row) => number | null;
  text?: (value: number) => string;
}

const heads: Head[] = [
  { name: 'clicks', label: 'Clicks', isNumber: true, value: ({ sums }) => sums?.clicks ?? null, text: count },
  { name: 'spend', label: 'Spend', isNumber: true, value: ({ sums }) => sums?.spend ?? null, text: money },
  { name: 'orders', label: 'Orders', isNumber: true, value: ({ sums }) => sums?.orders ?? null, text: count },
  {
    name: 'acos',
    label: 'ACOS',
    isNumber: true,
    value: ({ sums }) => sums && acos(sums),
    text: (value) => percent(value),
  },
  { name: 'likely', label: 'Likely, goal' },
  { name: 'proposal', label: 'Proposal' },
  {
    name: 'worth',
    label: 'A week',
    isNumber: true,
    value: ({ worth }) => (worth > 0 ? worth : null),
    text: money,
  },
];

/** The head stays as it is while rows pass under it. */
const QueueHead = memo(function QueueHead(props: QueueHeadProps) {
  const { rows, sort, descending, onSort } = props;
  const orderOf = (name: string) => (name === sort ? (descending ? 'descending' : 'ascending') : null);
  return (
    <Box role="rowgroup" sx={{ position: 'sticky', top: 0, zIndex: 3 }}>
      <Box role="row" sx={{ ...headRowStyle, ...tracks }}>
        <Box role="columnheader">
          <Checkbox
            size="small"
            checked={props.allMarked}
            indeterminate={!props.allMarked && props.someMarked}
            onChange={props.onMarkAll}
            slotProps={{ input: { 'aria-label': 'Mark all that match' } }}
            sx={{ p: 0.25 }}
          />
        </Box>
        <HeadCell label={props.label} order={orderOf('subject')} onSort={() => onSort('subject')} />
        {heads.map(({ name, label, isNumber, value, text }) => (
          <HeadCell
            key={name}
            label={label}
            isNumber={isNumber ?? false}
            className={name === 'clicks' || name === 'orders' ? 'lesser' : ''}
            order={orderOf(name)}
            {...(name === 'likely' || name === 'proposal' ? {} : { onSort: () => onSort(name) })}
            explanation={
              value && text ? (
                <ListExplanation
                  label={label}
                  name={name}
                  rows={rows}
                  value={value}
                  text={text}
                  nouns="findings"
                />
              ) : (
                <Explanation label={label} name={name} />
              )
            }
          />
        ))}
      </Box>
    </Box>
  );
});

interface QueueRowProps extends Pick<QueueProps, 'names' | 'onFocus' | 'onMark' | 'onAdjust' | 'onAccept'> {
  id: string;
  row: Row;
  index: number;
  top: number;
  isFocused: boolean;
  isMarked: boolean;
  isAdjusting: boolean;
}

const QueueRow = memo(
  function QueueRow(props: QueueRowProps) {
    const { id, row, index, top, isFocused, isMarked, isAdjusting, names, onFocus, onMark } = props;
    const words = proposalWords(row, names);
    const waits = (row.proposal.kind === 'wait' && !row.proposal.held) || row.covered !== undefined;
    const { sums } = row;
    const place = placeOf(row, names);
    return (
      <div
        {...rowAttributes({ id, index, top, isFocused, isMarked })}
        className={isFocused ? 'row fixed focus' : 'row fixed'}
        data-key={row.key}
        onClick={() => onFocus(index)}
      >
        <div role="gridcell" className="mark">
          <MarkBox name={row.subject} checked={isMarked} onMark={(range) => onMark(index, range)} />
        </div>
        <div role="gridcell" className={sums ? undefined : 'told'}>
          <div className="first name" title={row.subject}>
            {row.subject}
          </div>
          <div className="second" title={sums ? undefined : place}>
            {place}
          </div>
        </div>
        {sums && (
          <>
            <div role="gridcell" className="number lesser">
              {count(sums.clicks)}
            </div>
            <div role="gridcell" className="number">
              {money(sums.spend)}
            </div>
            <div role="gridcell" className="number lesser">
              {count(sums.orders)}
            </div>
            <div role="gridcell" className={sums.sales === 0 && sums.spend > 0 ? 'number over' : 'number'}>
              {percent(acos(sums))}
            </div>
            <div role="gridcell">
              <Whisker interval={row.interval} target={row.targetAcos} verdict={row.verdict} />
              <div className={`verdict ${row.verdict}`}>{verdictWords[row.verdict]}</div>
            </div>
          </>
        )}
        <div role="gridcell" className={isAdjusting ? 'wide' : undefined}>
          {isAdjusting ? (
            <AdjustCell
              row={row}
              onAccept={(adjustment) => props.onAccept(row.key, adjustment)}
              onCancel={() => props.onAdjust(null)}
            />
          ) : (
            <div onDoubleClick={() => (waits ? undefined : props.onAdjust(row.key))}>
              <div className={waits ? 'first waits' : 'first'}>
                {words.verb && <b>{words.verb} </b>}
                {words.value}
              </div>
              {words.detail && (
                <div className="second" title={words.detail}>
                  {words.detail}
                </div>
              )}
            </div>
          )}
        </div>
        {!isAdjusting && (
          <div role="gridcell" className="number worth">
            {row.worth >= 5000 ? signedMoney(row.worth) : ''}
          </div>
        )}
      </div>
    );
  },
  (a, b) =>
    a.id === b.id &&
    a.row === b.row &&
    a.index === b.index &&
    a.top === b.top &&
    a.isFocused === b.isFocused &&
    a.isMarked === b.isMarked &&
    a.isAdjusting === b.isAdjusting &&
    a.onMark === b.onMark &&
    a.onAccept === b.onAccept,
);
