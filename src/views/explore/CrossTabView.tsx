import { sizes } from '../../ui/theme.ts';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import CircularProgress from '@mui/material/CircularProgress';
import Menu from '@mui/material/Menu';
import MenuItem from '@mui/material/MenuItem';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { keepPreviousData, useQuery } from '@tanstack/react-query';
import { useSnackbar } from 'notistack';
import { useState } from 'react';
import type { Condition } from '../../core/explore/conditions.ts';
import {
  cellFigures,
  distanceFromGoal,
  type Cell,
  type CellFigure,
  type CrossTab,
} from '../../core/explore/crosstab.ts';
import { count, decimal, money, percent, signedMoney } from '../../core/metrics/format.ts';
import type { Window } from '../../core/metrics/days.ts';
import { ask, download } from '../../ui/api.ts';
import { setUrl, useUrlState } from '../../ui/hooks/useUrlState.ts';
import { Choice, Field } from '../../ui/parts/fields.tsx';
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
  ['hour', 'Hour'],
  ['name_part', 'Part of the campaign’s name'],
  ['ad_group_part', 'Part of the ad group’s name'],
];

const figureNames = Object.keys(cellFigures) as CellFigure[];
const isFigure = (name: string): name is CellFigure => name in cellFigures;

/** A figure of a cell as people read it. */
function figureText(name: CellFigure, cell: Cell): string {
  const { kind, of } = cellFigures[name];
  const value = of(cell);
  if (kind === 'share') return percent(value);
  if (value === null) return '–';
  if (name === 'gain') return signedMoney(value);
  return kind === 'money' ? money(value) : kind === 'count' ? count(value) : decimal(value);
}

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
  const [exporting, setExporting] = useState<HTMLElement | null>(null);
  const { enqueueSnackbar } = useSnackbar();
  const { roles } = useTheme().palette;
  const rows = rowName ?? 'campaign';
  const columns = columnName ?? 'automatic_mode';
  const chosen = (figureName ?? 'acos').split(',').filter(isFigure);
  const shown: CellFigure[] = chosen.length > 0 ? chosen : ['acos'];
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
  const data = table.data;
  const open = (row: string | null, column: string | null) => {
    const both = [rows, columns];
    const level = both.includes('placement') ? 'placements' : both.includes('hour') ? 'campaigns' : 'targets';
    const parts = [
      [rows, row],
      [columns, column],
    ] as const;
    const conditions = parts.flatMap(([dimension, value]): Condition[] => {
      const name = level === 'campaigns' && dimension === 'campaign' ? 'name' : columnOf[dimension];
      if (!name || value === null || value.startsWith('(')) return [];
      return [{ column: name, is: 'equals', value }];
    });
    setUrl({ view: null }, true);
    writeState({
      level,
      columns: [],
      sort: null,
      where: { all: [...(state.where ? [state.where] : []), ...conditions] },
    });
  };
  const saveAs = async (format: 'csv' | 'xlsx' | 'jsonl') => {
    setExporting(null);
    try {
      const call = { ...body, figures: shown, format };
      await download('/api/explore/crosstab/export', call, `${rows}-by-${columns}.${format}`);
    } catch (error) {
      enqueueSnackbar((error as Error).message, { variant: 'error' });
    }
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
            <span key={name}>{figureText(name, cell)}</span>
          ))}
        </button>
      )}
    </td>
  );
  return (
    <>
      <Box
        sx={{
          px: 2.25,
          pb: 1,
          display: 'flex',
          gap: 2,
          alignItems: 'center',
          fontSize: sizes.table,
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
          figureNames.map((name) => [name, cellFigures[name].label]),
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
            {figureNames.map((name) => (
              <option key={name} value={name}>
                {cellFigures[name].label}
              </option>
            ))}
          </Choice>
        </label>
        {[rows, columns].some((name) => name.endsWith('_part')) && (
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
        <Box sx={{ flex: 1 }} />
        <Button
          size="small"
          disabled={!data || table.isError}
          onClick={(event) => setExporting(event.currentTarget)}
        >
          Export
        </Button>
        <Menu anchorEl={exporting} open={exporting !== null} onClose={() => setExporting(null)}>
          {(['csv', 'xlsx', 'jsonl'] as const).map((format) => (
            <MenuItem key={format} dense onClick={() => void saveAs(format)}>
              The cross-tab as {{ csv: 'CSV', xlsx: 'XLSX', jsonl: 'JSON Lines' }[format]}
            </MenuItem>
          ))}
        </Menu>
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
              fontSize: sizes.table,
              '& th, & td': {
                borderBottom: 1,
                borderColor: 'divider',
                height: 30,
                p: 0,
                whiteSpace: 'nowrap',
              },
              '& th': { fontWeight: 400, px: 1, textAlign: 'right', bgcolor: 'background.paper' },
              '& thead th': {
                position: 'sticky',
                top: 0,
                zIndex: 2,
                color: 'text.secondary',
                fontSize: sizes.small,
              },
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
                  {shown.length > 1 && `, ${shown.map((name) => cellFigures[name].label).join(' and ')}`}
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
