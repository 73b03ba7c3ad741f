import type { Adjustment } from '../../core/round/lines.ts';
import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import Checkbox from '@mui/material/Checkbox';
import { styled, type Theme } from '@mui/material/styles';
import { useVirtualizer } from '@tanstack/react-virtual';
import { memo, useEffect, useRef } from 'react';
import { acos } from '../../core/metrics/figures.ts';
import { count, money, percent, signedMoney } from '../../core/metrics/format.ts';
import { MarkBox } from '../../ui/parts/MarkBox.tsx';
import { useRecycled } from '../../ui/hooks/useRecycled.ts';
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

const clip = { overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' } as const;

/** Looks of the rows, said once for all: a style of its own on every cell would be reckoned anew with every row. */
const rowStyles = ({ palette: { roles } }: Theme) =>
  ({
    '& .row': {
      position: 'absolute',
      contain: 'strict',
      top: 0,
      left: 0,
      right: 0,
      height: rowHeight,
      display: 'grid',
      gridTemplateColumns: columns,
      [narrow]: { gridTemplateColumns: narrowColumns, '& > .lesser': { display: 'none' } },
      columnGap: '8px',
      alignItems: 'center',
      paddingRight: '12px',
      borderBottom: `1px solid ${roles.line}`,
      fontSize: 13,
    },
    '& .row[aria-selected=true]': {
      background: roles.wash,
      boxShadow: `inset 3px 0 0 ${roles.accent}`,
    },
    '& .row > div': { minWidth: 0 },
    '& .row > .mark': { textAlign: 'center' },
    '& .mark > input': { accentColor: roles.accent, width: 14, height: 14 },
    '& .row > .number': { textAlign: 'right' },
    '& .row > .wide': { gridColumn: 'span 2' },
    '& .first': { ...clip, lineHeight: '17px' },
    '& .name, & .worth': { fontWeight: 600 },
    '& .second': { ...clip, fontSize: 11, lineHeight: '14px', color: roles.soft },
    '& .waits': { color: roles.soft },
    '& .verdict': { fontSize: 10.5, lineHeight: '12px', marginTop: '-1px', color: roles.soft },
    '& .under': { color: roles.under },
    '& .over': { color: roles.over },
  }) as const;

/** The queue as a table of rows that exist only while they are seen: 20,000 scroll as 20 do. */
export function Queue(props: QueueProps) {
  const { rows, focus, marked, sort, descending, onSort } = props;
  const scroller = useRef<HTMLDivElement>(null);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => scroller.current,
    estimateSize: () => rowHeight,
    overscan: 12,
  });
  const recycled = useRecycled(virtual.getVirtualItems(), virtual.isScrolling);
  useEffect(() => {
    if (focus >= 0 && focus < rows.length) virtual.scrollToIndex(focus, { align: 'auto' });
    // Scrolling belongs to a move of the focus, not to every new list.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [focus]);
  const allMarked = rows.length > 0 && rows.every((row) => marked.has(row.key));
  return (
    <Box
      ref={scroller}
      role="table"
      aria-label="Findings"
      aria-rowcount={rows.length + 1}
      sx={{
        flex: 1,
        minHeight: 0,
        overflow: 'auto',
        bgcolor: 'background.paper',
        borderTop: 1,
        borderColor: 'text.primary',
      }}
    >
      <QueueHead
        label={props.label}
        sort={sort}
        descending={descending}
        allMarked={allMarked}
        someMarked={marked.size > 0}
        onSort={onSort}
        onMarkAll={props.onMarkAll}
      />
      <RowGroup role="rowgroup" style={{ height: virtual.getTotalSize() }}>
        {recycled.map(({ item, slot }) => {
          const row = rows[item.index]!;
          return (
            <QueueRow
              key={props.adjusting === row.key ? row.key : slot}
              {...props}
              row={row}
              index={item.index}
              top={item.start}
              focused={item.index === focus}
              isMarked={marked.has(row.key)}
              isAdjusting={props.adjusting === row.key}
            />
          );
        })}
      </RowGroup>
    </Box>
  );
}

const RowGroup = styled('div')(({ theme }) => ({ position: 'relative', ...rowStyles(theme) }));

interface QueueHeadProps {
  label: string;
  sort: SortName;
  descending: boolean;
  allMarked: boolean;
  someMarked: boolean;
  onSort: (name: SortName) => void;
  onMarkAll: () => void;
}

/** The head stays as it is while rows pass under it. */
const QueueHead = memo(
  function QueueHead(props: QueueHeadProps) {
    const { sort, descending, onSort } = props;
    const head = (name: SortName | null, label: string, right = false) => (
      <Box
        role="columnheader"
        className={name === 'clicks' || name === 'orders' ? 'lesser' : undefined}
        aria-sort={name === sort ? (descending ? 'descending' : 'ascending') : undefined}
        sx={{ textAlign: right ? 'right' : 'left', whiteSpace: 'nowrap' }}
      >
        {name ? (
          <ButtonBase
            onClick={() => onSort(name)}
            sx={{ font: 'inherit', fontWeight: name === sort ? 700 : 400 }}
          >
            {label}
            {name === sort ? (descending ? ' ↓' : ' ↑') : ''}
          </ButtonBase>
        ) : (
          label
        )}
      </Box>
    );
    return (
      <Box
        role="row"
        sx={{
          display: 'grid',
          gridTemplateColumns: columns,
          [narrow]: { gridTemplateColumns: narrowColumns, '& > .lesser': { display: 'none' } },
          columnGap: 1,
          alignItems: 'center',
          height: 30,
          position: 'sticky',
          top: 0,
          zIndex: 2,
          bgcolor: 'background.paper',
          borderBottom: 1,
          borderColor: 'divider',
          pr: 1.5,
          color: 'text.secondary',
          fontSize: 12,
        }}
      >
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
        {head('subject', props.label)}
        {head('clicks', 'Clicks', true)}
        {head('spend', 'Spend', true)}
        {head('orders', 'Orders', true)}
        {head('acos', 'ACOS', true)}
        {head(null, 'Likely, goal')}
        {head(null, 'Proposal')}
        {head('worth', 'A week', true)}
      </Box>
    );
  },
  (a, b) =>
    a.label === b.label &&
    a.sort === b.sort &&
    a.descending === b.descending &&
    a.allMarked === b.allMarked &&
    a.someMarked === b.someMarked &&
    a.onMarkAll === b.onMarkAll &&
    a.onSort === b.onSort,
);

interface QueueRowProps extends QueueProps {
  row: Row;
  index: number;
  top: number;
  focused: boolean;
  isMarked: boolean;
  isAdjusting: boolean;
}

const QueueRow = memo(
  function QueueRow(props: QueueRowProps) {
    const { row, index, top, focused, isMarked, isAdjusting, names, onFocus, onMark } = props;
    const words = proposalWords(row, names);
    const waits = (row.proposal.kind === 'wait' && !row.proposal.held) || row.covered !== undefined;
    const { sums } = row;
    const element = useRef<HTMLDivElement>(null);
    useEffect(() => {
      // The element was another finding's: the focus of its checkbox is not meant for this one.
      const focused = document.activeElement;
      if (focused instanceof HTMLElement && element.current?.contains(focused)) focused.blur();
    }, [row.key]);
    return (
      <div
        ref={element}
        className="row"
        role="row"
        aria-rowindex={index + 2}
        aria-selected={focused}
        data-key={row.key}
        onClick={() => onFocus(index)}
        style={{ transform: `translateY(${top}px)` }}
      >
        <div role="cell" className="mark">
          <MarkBox name={row.subject} checked={isMarked} onMark={(range) => onMark(index, range)} />
        </div>
        <div role="cell">
          <div className="first name" title={row.subject}>
            {row.subject}
          </div>
          <div className="second" title={row.queue === 'conflicts' ? placeOf(row, names) : undefined}>
            {placeOf(row, names)}
          </div>
        </div>
        <div role="cell" className="number lesser">
          {sums && count(sums.clicks)}
        </div>
        <div role="cell" className="number">
          {sums && money(sums.spend)}
        </div>
        <div role="cell" className="number lesser">
          {sums && count(sums.orders)}
        </div>
        <div role="cell" className={sums?.sales === 0 && sums.spend > 0 ? 'number over' : 'number'}>
          {sums && percent(acos(sums))}
        </div>
        <div role="cell">
          {sums && (
            <>
              <Whisker interval={row.interval} target={row.targetAcos} verdict={row.verdict} />
              <div className={`verdict ${row.verdict}`}>{verdictWords[row.verdict]}</div>
            </>
          )}
        </div>
        <div role="cell" className={isAdjusting ? 'wide' : undefined}>
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
          <div role="cell" className="number worth">
            {row.worth >= 5000 ? signedMoney(row.worth) : ''}
          </div>
        )}
      </div>
    );
  },
  (a, b) =>
    a.row === b.row &&
    a.index === b.index &&
    a.top === b.top &&
    a.focused === b.focused &&
    a.isMarked === b.isMarked &&
    a.isAdjusting === b.isAdjusting &&
    a.onMark === b.onMark &&
    a.onAccept === b.onAccept,
);
