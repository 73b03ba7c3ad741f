import Box from '@mui/material/Box';
import CircularProgress from '@mui/material/CircularProgress';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import type { Condition } from '../../core/explore/conditions.ts';
import { distanceFromGoal, type Cell, type CrossTab } from '../../core/explore/crosstab.ts';
import { acos, cpc, ctr, cvr, roas, revenuePerClick } from '../../core/metrics/figures.ts';
import { count, decimal, money, percent, signedMoney } from '../../core/metrics/format.ts';
import type { Window } from '../../core/metrics/days.ts';
import { ask } from '../../ui/api.ts';
import { setUrl, useUrlState } from '../../ui/hooks/useUrlState.ts';
import { Choice, Field } from '../../ui/fields.tsx';
import { writeState, type ExploreState } from './state.ts';

const dimensions: [string, string][] = [
  ['campaign', 'Campaign'],
  ['automatic_mode', 'Automatic mode'],
  ['product', 'Product'],
  ['ad_group', 'Ad group'],
  ['target_kind', 'Target kind'],
  ['match_type', 'Match type'],
  ['placement', 'Placement'],
  ['campaign_kind', 'Campaign kind'],
  ['status', 'Status'],
  ['weekday', 'Weekday'],
  ['month', 'Month'],
  ['name_part', 'Part of the name'],
];

const figures: Record<string, { label: string; of: (cell: Cell) => string }> = {
  acos: { label: 'ACOS', of: (cell) => percent(acos(cell)) },
  spend: { label: 'Spend', of: (cell) => money(cell.spend) },
  sales: { label: 'Sales', of: (cell) => money(cell.sales) },
  orders: { label: 'Orders', of: (cell) => count(cell.orders) },
  clicks: { label: 'Clicks', of: (cell) => count(cell.clicks) },
  gain: { label: 'Gain against goal', of: (cell) => signedMoney(cell.gain) },
  cvr: { label: 'CVR', of: (cell) => percent(cvr(cell)) },
  ctr: { label: 'CTR', of: (cell) => percent(ctr(cell)) },
  cpc: { label: 'CPC', of: (cell) => amount(cpc(cell)) },
  rpc: { label: 'RPC', of: (cell) => amount(revenuePerClick(cell)) },
  roas: { label: 'ROAS', of: (cell) => (roas(cell) === null ? '–' : decimal(roas(cell)!)) },
};
const amount = (value: number | null): string => (value === null ? '–' : money(value));

/** Columns of the table that a dimension of the cross-tab means; time is no column of a table. */
const columnOf: Record<string, string> = {
  campaign: 'campaign',
  product: 'product',
  ad_group: 'ad_group',
  target_kind: 'target_kind',
  automatic_mode: 'target',
  match_type: 'match_type',
  campaign_kind: 'campaign_kind',
  status: 'status',
  placement: 'placement',
};

interface CrossTabViewProps {
  state: ExploreState;
  window: Window;
}

/** Figures by two dimensions. Every cell is the ratio of its own sums; so are the totals. */
export function CrossTabView({ state, window }: CrossTabViewProps) {
  const [rowName] = useUrlState('rows');
  const [columnName] = useUrlState('by');
  const [figureName] = useUrlState('figure');
  const [separator] = useUrlState('split');
  const [part] = useUrlState('part');
  const { roles } = useTheme().palette;
  const rows = rowName ?? 'campaign';
  const columns = columnName ?? 'automatic_mode';
  const chosen = (figureName ?? 'acos').split(',').filter((name) => figures[name]);
  const shown = chosen.length > 0 ? chosen : ['acos'];
  const body = {
    within: state.within,
    where: state.where,
    window,
    rows,
    columns,
    separator: separator ?? '',
    part: Number(part ?? 0),
  };
  const table = useQuery({
    queryKey: ['crosstab', body],
    queryFn: () => ask<CrossTab>('/api/explore/crosstab', body),
    placeholderData: keepPreviousData,
    retry: false,
  });
  const open = (row: string | null, column: string | null) => {
    const parts = [
      [rows, row],
      [columns, column],
    ] as const;
    const conditions = parts.flatMap(([dimension, value]): Condition[] => {
      const name = columnOf[dimension];
      if (!name || value === null || value.startsWith('(')) return [];
      return [{ column: name, is: 'equals', value }];
    });
    const level = rows === 'placement' || columns === 'placement' ? 'placements' : 'targets';
    setUrl({ view: null }, true);
    writeState({
      level,
      columns: [],
      sort: null,
      where: { all: [...(state.where ? [state.where] : []), ...conditions] },
    });
  };
  const choice = (label: string, name: string, value: string, options: [string, string][]) => (
    <label>
      {label}{' '}
      <Choice
        aria-label={label}
        value={value}
        onChange={(event) => setUrl({ [name]: event.target.value }, true)}
      >
        {options.map(([option, text]) => (
          <option key={option} value={option}>
            {text}
          </option>
        ))}
      </Choice>
    </label>
  );
  const shade = (cell: Cell): string | undefined => {
    const distance = distanceFromGoal(cell);
    if (Math.abs(distance) < 0.05) return undefined;
    const alpha = Math.round(Math.abs(distance) * 60)
      .toString(16)
      .padStart(2, '0');
    return `${distance > 0 ? roles.over : roles.under}${alpha}`;
  };
  const cellOf = (cell: Cell | null, row: string | null, column: string | null, key: string) => (
    <td key={key} style={cell ? { background: shade(cell) } : undefined}>
      {cell && (
        <button
          type="button"
          onClick={() => open(row, column)}
          aria-label={`Rows of ${row ?? 'all'}, ${column ?? 'all'}`}
        >
          {shown.map((name) => (
            <span key={name}>{figures[name]!.of(cell)}</span>
          ))}
        </button>
      )}
    </td>
  );
  const data = table.data;
  return (
    <>
      <Box
        sx={{
          px: 2.25,
          pb: 1,
          display: 'flex',
          gap: 2,
          alignItems: 'center',
          fontSize: 13,
          flexWrap: 'wrap',
        }}
      >
        {choice(
          'Rows',
          'rows',
          rows,
          dimensions.filter(([name]) => name !== columns),
        )}
        {choice(
          'Columns',
          'by',
          columns,
          dimensions.filter(([name]) => name !== rows),
        )}
        {choice(
          'Figure',
          'figure',
          shown[0]!,
          Object.entries(figures).map(([name, { label }]) => [name, label]),
        )}
        <label>
          and{' '}
          <Choice
            aria-label="Second figure"
            value={shown[1] ?? ''}
            onChange={(event) =>
              setUrl({ figure: [shown[0], event.target.value].filter(Boolean).join(',') }, true)
            }
          >
            <option value="">no other</option>
            {Object.entries(figures).map(([name, { label }]) => (
              <option key={name} value={name}>
                {label}
              </option>
            ))}
          </Choice>
        </label>
        {(rows === 'name_part' || columns === 'name_part') && (
          <label>
            split by{' '}
            <Field
              aria-label="Split by"
              value={separator ?? ''}
              placeholder="blanks"
              onChange={(event) => setUrl({ split: event.target.value })}
              style={{ width: 60 }}
            />{' '}
            part{' '}
            <Field
              aria-label="Part"
              type="number"
              min={1}
              max={20}
              value={Number(part ?? 0) + 1}
              onChange={(event) => setUrl({ part: String(Math.max(0, Number(event.target.value) - 1)) })}
              style={{ width: 50 }}
            />
          </label>
        )}
      </Box>
      {table.isError && (
        <Typography color="error" sx={{ px: 2.25, py: 1 }}>
          {table.error.message}
        </Typography>
      )}
      {!data && !table.isError && <CircularProgress size={20} aria-label="Counting" sx={{ m: 3 }} />}
      {data && !table.isError && (
        <Box
          tabIndex={0}
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
            component="table"
            aria-label="Cross-tab"
            sx={{
              borderCollapse: 'separate',
              borderSpacing: 0,
              fontSize: 13,
              '& th, & td': {
                borderBottom: 1,
                borderColor: 'divider',
                height: 30,
                p: 0,
                whiteSpace: 'nowrap',
              },
              '& th': { fontWeight: 400, px: 1, textAlign: 'right', bgcolor: 'background.paper' },
              '& thead th': { position: 'sticky', top: 0, zIndex: 2, color: 'text.secondary', fontSize: 12 },
              '& th:first-of-type': {
                position: 'sticky',
                left: 0,
                zIndex: 1,
                textAlign: 'left',
                maxWidth: 260,
              },
              '& thead th:first-of-type': { zIndex: 3 },
              '& tfoot :is(td, th)': { fontWeight: 700, borderTop: 1, borderColor: 'text.secondary' },
              '& td:last-of-type': { fontWeight: 700 },
              '& button': {
                font: 'inherit',
                color: 'inherit',
                background: 'none',
                border: 0,
                width: '100%',
                height: 30,
                px: 1,
                minWidth: 74,
                cursor: 'pointer',
                display: 'flex',
                gap: 1.5,
                justifyContent: 'flex-end',
                alignItems: 'center',
              },
              '& button:hover': { textDecoration: 'underline' },
            }}
          >
            <thead>
              <tr>
                <th scope="col">
                  {dimensions.find(([name]) => name === rows)![1]}
                  {shown.length > 1 && `, ${shown.map((name) => figures[name]!.label).join(' and ')}`}
                </th>
                {data.columns.map((column) => (
                  <th scope="col" key={column}>
                    {column}
                  </th>
                ))}
                <th scope="col">all</th>
              </tr>
            </thead>
            <tbody>
              {data.rows.map((row, i) => (
                <tr key={row}>
                  <th scope="row">{row}</th>
                  {data.columns.map((column, j) => cellOf(data.cells[i]![j]!, row, column, column))}
                  {cellOf(data.rowTotals[i]!, row, null, 'all')}
                </tr>
              ))}
            </tbody>
            <tfoot>
              <tr>
                <th scope="row">all</th>
                {data.columns.map((column, j) => cellOf(data.columnTotals[j]!, null, column, column))}
                {cellOf(data.total, null, null, 'all')}
              </tr>
            </tfoot>
          </Box>
        </Box>
      )}
    </>
  );
}
