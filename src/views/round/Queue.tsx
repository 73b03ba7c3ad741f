import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import Checkbox from '@mui/material/Checkbox';
import { useTheme } from '@mui/material/styles';
import { useVirtualizer } from '@tanstack/react-virtual';
import { memo, useEffect, useRef } from 'react';
import type { Adjustment } from '../../core/changes/lines.ts';
import { acos } from '../../core/metrics/figures.ts';
import { count, money, percent, signedMoney } from '../../core/metrics/format.ts';
import { Whisker } from '../../ui/Whisker.tsx';
import { AdjustCell } from './AdjustCell.tsx';
import type { SortName } from './filter.ts';
import type { Row, RoundAnswer } from './types.ts';
import { placeOf, proposalWords, verdictWords } from './words.ts';

const rowHeight = 40;

interface QueueProps {
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

const columns = '30px minmax(170px, 1.25fr) 44px 56px 46px 62px 104px minmax(150px, 1fr) 64px';

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
  useEffect(() => {
    if (focus >= 0 && focus < rows.length) virtual.scrollToIndex(focus, { align: 'auto' });
    // Scrolling belongs to a move of the focus, not to every new list.
    // eslint-disable-next-line react-hooks/exhaustive-deps
  }, [focus]);
  const allMarked = rows.length > 0 && rows.every((row) => marked.has(row.key));
  const head = (name: SortName | null, label: string, right = false) => (
    <Box
      role="columnheader"
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
      <Box
        role="row"
        sx={{
          display: 'grid',
          gridTemplateColumns: columns,
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
            checked={allMarked}
            indeterminate={!allMarked && marked.size > 0}
            onChange={props.onMarkAll}
            slotProps={{ input: { 'aria-label': 'Mark all that match' } }}
            sx={{ p: 0.25 }}
          />
        </Box>
        {head('subject', rows[0]?.queue === 'targets' ? 'Target' : 'Search term')}
        {head('clicks', 'Clicks', true)}
        {head('spend', 'Spend', true)}
        {head('orders', 'Orders', true)}
        {head('acos', 'ACOS', true)}
        {head(null, 'Likely, goal')}
        {head(null, 'Proposal')}
        {head('worth', 'A week', true)}
      </Box>
      <Box role="rowgroup" sx={{ height: virtual.getTotalSize(), position: 'relative' }}>
        {virtual.getVirtualItems().map((item) => {
          const row = rows[item.index]!;
          return (
            <QueueRow
              key={row.key}
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
      </Box>
    </Box>
  );
}

interface QueueRowProps extends QueueProps {
  row: Row;
  index: number;
  top: number;
  focused: boolean;
  isMarked: boolean;
  isAdjusting: boolean;
}

const clip = { overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' } as const;

const QueueRow = memo(
  function QueueRow(props: QueueRowProps) {
    const { row, index, top, focused, isMarked, isAdjusting, names, onFocus, onMark } = props;
    const { roles } = useTheme().palette;
    const words = proposalWords(row.proposal, names);
    const verdictColor =
      row.verdict === 'under' ? roles.under : row.verdict === 'over' ? roles.over : roles.soft;
    const waits = row.proposal.kind === 'wait';
    return (
      <div
        role="row"
        aria-rowindex={index + 2}
        aria-selected={focused}
        data-key={row.key}
        onClick={() => onFocus(index)}
        style={{
          position: 'absolute',
          top,
          left: 0,
          right: 0,
          height: rowHeight,
          display: 'grid',
          gridTemplateColumns: columns,
          columnGap: 8,
          alignItems: 'center',
          paddingRight: 12,
          borderBottom: `1px solid ${roles.line}`,
          background: focused ? roles.wash : 'transparent',
          boxShadow: focused ? `inset 3px 0 0 ${roles.accent}` : 'none',
          fontSize: 13,
        }}
      >
        <div role="cell" style={{ textAlign: 'center' }}>
          <input
            type="checkbox"
            checked={isMarked}
            aria-label={`Mark ${row.subject}`}
            onChange={() => undefined}
            onClick={(event) => {
              event.stopPropagation();
              onMark(index, event.shiftKey);
            }}
            style={{ accentColor: roles.accent, width: 14, height: 14 }}
          />
        </div>
        <div role="cell" style={{ minWidth: 0 }}>
          <div style={{ ...clip, fontWeight: 600, lineHeight: '17px' }} title={row.subject}>
            {row.subject}
          </div>
          <div style={{ ...clip, fontSize: 11, color: roles.soft, lineHeight: '14px' }}>
            {placeOf(row, names)}
          </div>
        </div>
        <div role="cell" style={{ textAlign: 'right' }}>
          {count(row.sums.clicks)}
        </div>
        <div role="cell" style={{ textAlign: 'right' }}>
          {money(row.sums.spend)}
        </div>
        <div role="cell" style={{ textAlign: 'right' }}>
          {count(row.sums.orders)}
        </div>
        <div
          role="cell"
          style={{
            textAlign: 'right',
            color: row.sums.sales === 0 && row.sums.spend > 0 ? roles.over : undefined,
          }}
        >
          {percent(acos(row.sums))}
        </div>
        <div role="cell">
          <Whisker interval={row.working.interval} target={row.working.targetAcos} verdict={row.verdict} />
          <div style={{ fontSize: 10.5, lineHeight: '12px', color: verdictColor, marginTop: -1 }}>
            {verdictWords[row.verdict]}
          </div>
        </div>
        <div role="cell" style={{ minWidth: 0, gridColumn: isAdjusting ? 'span 2' : undefined }}>
          {isAdjusting ? (
            <AdjustCell
              row={row}
              onAccept={(adjustment) => props.onAccept(row.key, adjustment)}
              onCancel={() => props.onAdjust(null)}
            />
          ) : (
            <div onDoubleClick={() => (waits ? undefined : props.onAdjust(row.key))}>
              <div style={{ ...clip, lineHeight: '17px', color: waits ? roles.soft : undefined }}>
                {words.verb && <b>{words.verb} </b>}
                {words.value}
              </div>
              {words.detail && (
                <div
                  style={{ ...clip, fontSize: 11, color: roles.soft, lineHeight: '14px' }}
                  title={words.detail}
                >
                  {words.detail}
                </div>
              )}
            </div>
          )}
        </div>
        {!isAdjusting && (
          <div role="cell" style={{ textAlign: 'right', fontWeight: 700 }}>
            {row.worth > 0 ? signedMoney(row.worth) : ''}
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
