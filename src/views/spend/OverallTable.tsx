import Box from '@mui/material/Box';
import { useTheme } from '@mui/material/styles';
import { scaleLog } from 'd3';
import { Fragment, useMemo } from 'react';
import { acos, cpc, cvr } from '../../core/metrics/figures.ts';
import { count, counted, significant, money, percent } from '../../core/metrics/format.ts';
import { factorRange } from '../../core/placements/explain.ts';
import { type PlacedRow } from '../../core/placements/findings.ts';
import { placementName, strategyName } from '../../core/placements/names.ts';
import { overall, type OverallGroup, type OverallPlacement } from '../../core/placements/overall.ts';
import { underItsStrategy } from '../../core/placements/strategies.ts';
import { Figure } from '../../ui/parts/Figure.tsx';
import { sizes } from '../../ui/theme.ts';
import type { WhereId } from './types.ts';

const keys: Record<Exclude<WhereId, 'campaigns' | 'conditions'>, (row: PlacedRow) => string> = {
  all: () => 'All campaigns',
  strategy: ({ strategy }) => strategyName(strategy).replace(/^./, (first) => first.toUpperCase()),
  product: ({ sku }) => sku ?? 'no product',
};

const heads: [label: string, explains: string | null][] = [
  ['Clicks', 'clicks'],
  ['Spend', 'spend'],
  ['of all', null],
  ['Sales', 'sales'],
  ['of all', null],
  ['CVR', 'cvr'],
  ['CPC', 'cpc'],
  ['ACOS', 'acos'],
  ['A click sells', 'placement_factor'],
];

/** Placements side by side, over all campaigns or by what they have in common. */
export function OverallTable({
  rows,
  by,
}: {
  rows: readonly PlacedRow[];
  by: Exclude<WhereId, 'campaigns' | 'conditions'>;
}) {
  const usual = useMemo(() => overall(rows, keys.all)[0]?.best ?? null, [rows]);
  const groups = useMemo(() => {
    const found = overall(by === 'strategy' ? rows.map(underItsStrategy) : rows, keys[by]);
    const isOdd = ({ best }: OverallGroup) => (best !== null && best !== usual ? 1 : 0);
    // What is best elsewhere stands out: it comes first.
    return by === 'product' ? found.sort((a, b) => isOdd(b) - isOdd(a)) : found;
  }, [rows, by, usual]);
  return (
    <Box
      sx={{
        flex: 1,
        minHeight: 0,
        overflowY: 'auto',
        px: 2.25,
        borderTop: 1,
        borderColor: 'divider',
        bgcolor: 'background.paper',
      }}
    >
      <Box
        component="table"
        aria-label="Placements"
        sx={{
          width: '100%',
          borderCollapse: 'collapse',
          fontSize: sizes.small,
          '& td, & th': { textAlign: 'right', fontWeight: 400, px: 0.75, height: 28, whiteSpace: 'nowrap' },
          '& th:first-of-type': { textAlign: 'left' },
          '& thead th': { color: 'text.secondary' },
          '& tbody tr': { borderTop: 1, borderColor: 'divider' },
          '& tbody tr.group th': { fontWeight: 700, pt: 1.5, height: 40 },
          '& .soft': { color: 'text.secondary' },
        }}
      >
        <thead>
          <tr>
            <th scope="col">Placement</th>
            {heads.map(([label, explains], at) => (
              <th scope="col" key={`${label} ${at}`}>
                {explains ? (
                  <Figure label={label} name={explains}>
                    {label}
                  </Figure>
                ) : (
                  label
                )}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {groups.map(({ key, campaigns, placements, best }) => (
            <Fragment key={key}>
              {by !== 'all' && (
                <tr className="group">
                  <th scope="rowgroup" colSpan={heads.length + 1}>
                    {key}{' '}
                    <span className="soft" style={{ fontWeight: 400 }}>
                      {counted(campaigns, 'campaign')}
                      {by === 'product' &&
                        best !== null &&
                        best !== usual &&
                        ` · sells best on ${placementName(best)}${usual ? `, not on ${placementName(usual)} as others do` : ''}`}
                    </span>
                  </th>
                </tr>
              )}
              {placements.map((one) => (
                <PlacementLine key={one.placement} one={one} isBest={one.placement === best} />
              ))}
            </Fragment>
          ))}
        </tbody>
      </Box>
    </Box>
  );
}

function PlacementLine({ one, isBest }: { one: OverallPlacement; isBest: boolean }) {
  const { placement, sums, spendShare, salesShare } = one;
  const money0 = (value: number | null) => (value === null ? '–' : money(value));
  return (
    <tr>
      <th scope="row" style={isBest ? { fontWeight: 700 } : {}}>
        {placementName(placement)}
      </th>
      <td>{count(sums.clicks)}</td>
      <td>{money(sums.spend)}</td>
      <td className="soft">{percent(spendShare)}</td>
      <td>{money(sums.sales)}</td>
      <td className="soft">{percent(salesShare)}</td>
      <td>{percent(cvr(sums))}</td>
      <td>{money0(cpc(sums))}</td>
      <td>{percent(acos(sums))}</td>
      <td>
        <FactorMark one={one} />
        <b style={{ display: 'inline-block', minWidth: 52 }}>{one.factor.toFixed(2)} ×</b>
      </td>
    </tr>
  );
}

const [width, height] = [120, 14];
const x = scaleLog([0.25, 4], [3, width - 3]).clamp(true);

/** A factor with its 80 % interval beside the mean, on a log scale. */
export function FactorMark({ one }: { one: Pick<OverallPlacement, 'factor' | 'spread'> }) {
  const { roles } = useTheme().palette;
  const [low, high] = factorRange(one);
  const color = low > 1 ? roles.under : high < 1 ? roles.over : roles.graphite;
  return (
    <svg
      width={width}
      height={height}
      role="img"
      aria-label={`${significant(low)} to ${significant(high)} times the mean`}
      style={{ verticalAlign: 'middle' }}
    >
      <line x1={3} x2={width - 3} y1={7} y2={7} stroke={roles.line} />
      <line x1={x(1)} x2={x(1)} y1={1} y2={13} stroke={roles.ink} />
      <line
        x1={x(low)}
        x2={x(high)}
        y1={7}
        y2={7}
        stroke={color}
        strokeWidth={4}
        strokeDasharray={low <= 1 && high >= 1 ? '1.5 1.5' : undefined}
      />
      <circle cx={x(one.factor)} cy={7} r={3} fill={roles.surface} stroke={color} strokeWidth={2} />
    </svg>
  );
}
