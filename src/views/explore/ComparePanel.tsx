import { sizes } from '../../ui/theme.ts';
import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Dialog from '@mui/material/Dialog';
import DialogActions from '@mui/material/DialogActions';
import DialogContent from '@mui/material/DialogContent';
import DialogTitle from '@mui/material/DialogTitle';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { useQuery } from '@tanstack/react-query';
import { line, max, scaleLinear, scalePoint } from 'd3';
import { useState } from 'react';
import { cellFigures, type CellFigure } from '../../core/explore/crosstab.ts';
import { total, type Sums } from '../../core/metrics/figures.ts';
import { count, decimal, money, percent } from '../../core/metrics/format.ts';
import { ask } from '../../ui/api.ts';
import { shortDay } from '../../ui/days.ts';
import { Choice } from '../../ui/parts/fields.tsx';
import type { TableRequest } from './useTable.ts';

/** Some rows, or all others than these. */
export interface Side {
  label: string;
  keys: string[];
  others: boolean;
}

interface ComparePanelProps {
  request: TableRequest;
  sides: [Side, Side];
  onClose: () => void;
}

interface DaySums extends Sums {
  day: string;
}

const shown: CellFigure[] = [
  'impressions',
  'clicks',
  'ctr',
  'cpc',
  'spend',
  'orders',
  'cvr',
  'sales',
  'acos',
  'roas',
  'rpc',
];
const [width, height] = [640, 130];

const valueOf = (name: CellFigure, sums: Sums): number | null => cellFigures[name].of({ ...sums, gain: 0 });

function textOf(name: CellFigure, value: number | null): string {
  const { kind } = cellFigures[name];
  if (kind === 'share') return percent(value);
  if (value === null) return '–';
  return kind === 'money' ? money(value) : kind === 'count' ? count(value) : decimal(value);
}

/** Two rows, or the marked ones and all others, side by side: every figure over the window, one of them day by day. */
export function ComparePanel({ request, sides, onClose }: ComparePanelProps) {
  const { roles } = useTheme().palette;
  const [figure, setFigure] = useState<CellFigure>('acos');
  const body = { ...request, columns: [], sort: null, span: request.window };
  const days = useQuery({
    queryKey: ['compare', body, sides],
    queryFn: () =>
      Promise.all(
        sides.map(({ keys, others }) =>
          ask<DaySums[]>('/api/explore/trend', { ...body, only: { keys, others } }),
        ),
      ),
  });
  const names = [...new Set((days.data ?? []).flat().map(({ day }) => day))].sort();
  const x = scalePoint(names, [6, width - 6]);
  const value = (sums: Sums) => {
    const one = valueOf(figure, sums);
    return one !== null && Number.isFinite(one) ? one : null;
  };
  const y = scaleLinear([0, max((days.data ?? []).flat(), (one) => value(one) ?? 0) || 1], [height - 16, 8]);
  const path = line<DaySums>()
    .defined((one) => value(one) !== null)
    .x(({ day }) => x(day) ?? 0)
    .y((one) => y(value(one) ?? 0));
  const colors = [roles.accent, roles.over];
  const sums = (days.data ?? []).map((list) => total(list));
  return (
    <Dialog open onClose={onClose} maxWidth={false} onKeyDown={(event) => event.stopPropagation()}>
      <DialogTitle sx={{ pb: 1 }}>
        {sides[0].label} against {sides[1].label}
      </DialogTitle>
      <DialogContent sx={{ width: 690 }}>
        {days.isError && <Typography color="error">{days.error.message}</Typography>}
        {sums.length === 2 && (
          <>
            <Box
              component="table"
              aria-label="Compared"
              sx={{
                width: '100%',
                fontSize: sizes.table,
                borderCollapse: 'collapse',
                '& td, & th': {
                  p: '3px 6px',
                  textAlign: 'right',
                  fontWeight: 400,
                  borderBottom: 1,
                  borderColor: 'divider',
                },
                '& th:first-of-type': { textAlign: 'left' },
                '& thead th': { color: 'text.secondary', maxWidth: 200 },
              }}
            >
              <thead>
                <tr>
                  <th scope="col">
                    {shortDay(request.window.from)} to {shortDay(request.window.to)}
                  </th>
                  {sides.map(({ label }, i) => (
                    <th scope="col" key={i}>
                      {label}
                    </th>
                  ))}
                  <th scope="col">first is</th>
                </tr>
              </thead>
              <tbody>
                {shown.map((name) => {
                  const [a = null, b = null] = sums.map((one) => valueOf(name, one));
                  const known =
                    a !== null && b !== null && Number.isFinite(a) && Number.isFinite(b) && b !== 0;
                  return (
                    <tr key={name}>
                      <th scope="row">{cellFigures[name].label}</th>
                      <td>{textOf(name, a)}</td>
                      <td>{textOf(name, b)}</td>
                      <td>{known ? `${decimal(a / b)} ×` : '–'}</td>
                    </tr>
                  );
                })}
              </tbody>
            </Box>
            <Box sx={{ display: 'flex', gap: 1.5, alignItems: 'center', mt: 1.5, fontSize: sizes.table }}>
              <Choice
                aria-label="Figure by day"
                value={figure}
                onChange={(event) => setFigure(event.target.value as CellFigure)}
              >
                {shown.map((name) => (
                  <option key={name} value={name}>
                    {cellFigures[name].label}
                  </option>
                ))}
              </Choice>
              by day:
              {sides.map(({ label }, i) => (
                <Box key={i} component="span" sx={{ display: 'flex', alignItems: 'center', gap: 0.75 }}>
                  <Box
                    component="span"
                    sx={{ width: 16, borderTop: i === 0 ? '3px solid' : '3px dashed', color: colors[i] }}
                  />
                  {label}
                </Box>
              ))}
            </Box>
            <svg
              viewBox={`0 0 ${width} ${height}`}
              width="100%"
              role="img"
              aria-label={`${cellFigures[figure].label} by day`}
            >
              <line x1={0} x2={width} y1={height - 16} y2={height - 16} stroke={roles.line} />
              {days.data!.map((list, i) => (
                <path
                  key={i}
                  d={path(list) ?? ''}
                  fill="none"
                  stroke={colors[i]}
                  strokeWidth={2}
                  strokeDasharray={i === 0 ? undefined : '5 3'}
                />
              ))}
            </svg>
          </>
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={onClose}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}
