import Box from '@mui/material/Box';
import { useTheme } from '@mui/material/styles';
import { line, scaleLinear } from 'd3';
import type { Standing, TodayAnswer, TodayDay } from '../../answers/today.ts';
import { acos, cpc, cvr } from '../../core/metrics/figures.ts';
import { money, percent } from '../../core/metrics/format.ts';
import { Figure } from '../../ui/parts/Figure.tsx';
import { sizes } from '../../ui/theme.ts';

/** A figure of the account: how it reads, and its week by week. */
interface StandingFigure {
  name: string;
  label: string;
  of: (sums: Standing) => number | null;
  text: (value: number) => string;
  /** Of a day's sums; null: not told by day. */
  day: (day: TodayDay) => [above: number, below: number] | null;
  /** More of it is better: -1 where less is, 0 where neither is. */
  better: 1 | -1 | 0;
}

const share = (part: number | null, whole: number | null): number | null =>
  part === null || whole === null || whole <= 0 ? null : part / whole;

const figures: readonly StandingFigure[] = [
  { name: 'spend', label: 'Spend', of: (s) => s.spend, text: money, day: (d) => [d.spend, 1], better: 0 },
  { name: 'sales', label: 'Ad sales', of: (s) => s.sales, text: money, day: (d) => [d.sales, 1], better: 1 },
  {
    name: 'acos',
    label: 'ACOS',
    of: (s) => acos(s),
    text: percent,
    day: (d) => [d.spend, d.sales],
    better: -1,
  },
  { name: 'cpc', label: 'CPC', of: (s) => cpc(s), text: money, day: () => null, better: -1 },
  { name: 'cvr', label: 'CVR', of: (s) => cvr(s), text: percent, day: () => null, better: 1 },
  {
    name: 'total_sales',
    label: 'Total sales',
    of: (s) => s.totalSales,
    text: money,
    day: (d) => (d.totalSales === null ? null : [d.totalSales, 1]),
    better: 1,
  },
  {
    name: 'tacos',
    label: 'TACOS',
    of: (s) => share(s.spend, s.totalSales),
    text: percent,
    day: (d) => (d.totalSales === null ? null : [d.spend, d.totalSales]),
    better: -1,
  },
  {
    name: 'organic_share',
    label: 'Organic share',
    of: (s) => share(s.totalSales === null ? null : s.totalSales - s.sales, s.totalSales),
    text: percent,
    day: (d) => (d.totalSales === null ? null : [d.totalSales - d.sales, d.totalSales]),
    better: 1,
  },
];

/** Days that one point of a trend sums up. */
const weekDays = 7;

/** A figure over the season, week by week; days that settle are left out. */
function Trend({ days, of }: { days: readonly TodayDay[]; of: StandingFigure['day'] }) {
  const { roles } = useTheme().palette;
  const [width, height] = [92, 18];
  const points: number[] = [];
  for (let end = days.length; end - weekDays >= 0; end -= weekDays) {
    let [above, below] = [0, 0];
    for (const day of days.slice(end - weekDays, end)) {
      const read = of(day);
      if (read) [above, below] = [above + read[0], below + read[1]];
    }
    if (below > 0) points.unshift(above / below);
  }
  if (points.length < 3) return <svg width={width} height={height} aria-hidden="true" />;
  const x = scaleLinear([0, points.length - 1], [2, width - 4]);
  const y = scaleLinear([Math.min(...points), Math.max(...points) + 1e-12], [height - 3, 3]);
  const path = line<number>(
    (_, at) => x(at),
    (value) => y(value),
  );
  return (
    <svg width={width} height={height} aria-hidden="true" style={{ display: 'block' }}>
      <path d={path(points) ?? ''} fill="none" stroke={roles.graphite} strokeWidth={1.3} />
      <circle cx={x(points.length - 1)} cy={y(points.at(-1)!)} r={2.2} fill={roles.ink} />
    </svg>
  );
}

/** A change in words: of counts and money as a share, of shares in points. */
function changeSaid({ text, of }: StandingFigure, now: Standing, before: Standing): string {
  const [a, b] = [of(now), of(before)];
  if (a === null || b === null) return 'none before';
  if (text === percent) return `${a >= b ? '+' : '−'}${Math.abs((a - b) * 100).toFixed(1)} points`;
  if (b === 0) return 'none before';
  return `${a >= b ? '+' : '−'}${Math.abs((a / b - 1) * 100).toFixed(1)} %`;
}

const mark = (
  { better, of }: StandingFigure,
  now: Standing,
  before: Standing,
): 'under' | 'over' | 'graphite' => {
  const [a, b] = [of(now), of(before)];
  if (better === 0 || a === null || b === null || a === b) return 'graphite';
  return a > b === better > 0 ? 'under' : 'over';
};

/** The account in one ruled line of type: each figure with its change against the period before, and its season. */
export function Figures({ answer }: { answer: TodayAnswer }) {
  const { roles } = useTheme().palette;
  const { now, before, days, goal, settledTo } = answer;
  const settled = days.filter(({ day }) => day <= settledTo);
  return (
    <Box
      component="dl"
      aria-label="The account"
      sx={{
        m: 0,
        display: 'grid',
        gridTemplateColumns: `repeat(${figures.length}, minmax(0, 1fr))`,
        borderTop: 1,
        borderBottom: 1,
        borderColor: 'text.primary',
        py: 1,
      }}
    >
      {figures.map((figure) => {
        const value = figure.of(now);
        return (
          <Box key={figure.name} sx={{ px: 1, '&:first-of-type': { pl: 0 } }}>
            <Box component="dt" sx={{ fontSize: sizes.small, color: 'text.secondary' }}>
              <Figure name={figure.name} label={figure.label}>
                {figure.label}
              </Figure>
            </Box>
            <Box component="dd" sx={{ m: 0 }}>
              <Box
                data-standing={figure.name}
                sx={{ fontSize: sizes.text, fontWeight: 700, fontVariantNumeric: 'tabular-nums' }}
              >
                {value === null ? '–' : figure.text(value)}
              </Box>
              <Box
                sx={{ fontSize: sizes.small, color: roles[mark(figure, now, before)], whiteSpace: 'nowrap' }}
              >
                {changeSaid(figure, now, before)}
              </Box>
              <Trend days={settled} of={figure.day} />
              {figure.name === 'acos' && (
                <Box sx={{ fontSize: sizes.tiny, color: 'text.secondary' }}>
                  goal {percent(goal.targetAcos)}
                </Box>
              )}
            </Box>
          </Box>
        );
      })}
    </Box>
  );
}
