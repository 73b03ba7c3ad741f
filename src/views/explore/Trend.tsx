import { sizes } from '../../ui/theme.ts';
import Box from '@mui/material/Box';
import { useTheme } from '@mui/material/styles';
import { useQuery } from '@tanstack/react-query';
import { line, max, pointer, scaleLinear, scalePoint } from 'd3';
import { useMemo, useState } from 'react';
import { addDays, daysBetween, windowDays, type Window } from '../../core/metrics/days.ts';
import { acos, cpc, cvr, total, type Sums } from '../../core/metrics/figures.ts';
import { count, money, percent } from '../../core/metrics/format.ts';
import { ask } from '../../ui/api.ts';
import { shortDay } from '../../ui/days.ts';
import { setUrl, useUrlState } from '../../ui/hooks/useUrlState.ts';
import { useSeason } from '../../ui/shell/data.ts';
import { Choice } from '../../ui/parts/fields.tsx';
import type { TableRequest } from './useTable.ts';

interface DaySums extends Sums {
  day: string;
}

const figures: Record<
  string,
  { label: string; of: (sums: Sums) => number | null; text: (value: number) => string }
> = {
  spend: { label: 'Spend', of: (sums) => sums.spend, text: money },
  sales: { label: 'Sales', of: (sums) => sums.sales, text: money },
  acos: { label: 'ACOS', of: acos, text: percent },
  clicks: { label: 'Clicks', of: (sums) => sums.clicks, text: count },
  orders: { label: 'Orders', of: (sums) => sums.orders, text: count },
  cpc: { label: 'CPC', of: cpc, text: money },
  cvr: { label: 'CVR', of: cvr, text: percent },
  impressions: { label: 'Impressions', of: (sums) => sums.impressions, text: count },
};

type Step = 'day' | 'week' | 'month';
const steps: Record<Step, string> = { day: 'by day', week: 'by week', month: 'by month' };

interface Bucket {
  from: string;
  sums: Sums;
}

/** Which step a day falls into: weeks end with the window, so that none is cut short at its end; months are those of the calendar. */
function stepOf(day: string, { from, to }: Window, step: Step): number {
  if (step === 'month') {
    const months = (one: string) => Number(one.slice(0, 4)) * 12 + Number(one.slice(5, 7));
    return months(day) - months(from);
  }
  const length = step === 'week' ? 7 : 1;
  return Math.ceil(windowDays({ from, to }) / length) - 1 - Math.floor(daysBetween(day, to) / length);
}

function bucketsOf(days: DaySums[], window: Window, step: Step): Bucket[] {
  const told = new Map(days.map((day) => [day.day, day]));
  const buckets: { from: string; days: DaySums[] }[] = [];
  for (let i = 0; i < windowDays(window); i++) {
    const day = addDays(window.from, i);
    const bucket = (buckets[stepOf(day, window, step)] ??= { from: day, days: [] });
    const sums = told.get(day);
    if (sums) bucket.days.push(sums);
  }
  return buckets.map(({ from, days: list }) => ({ from, sums: total(list) }));
}

const width = 900;
const height = 132;
const mostTicks = 8;

/** Two figures over time of all that match, with the comparison behind them and what was sent as flags. */
export function Trend({ request, comparison }: { request: TableRequest; comparison: Window }) {
  const { roles } = useTheme().palette;
  const season = useSeason();
  const [firstName] = useUrlState('trend1');
  const [secondName] = useUrlState('trend2');
  const [stepName] = useUrlState('step');
  const [at, setAt] = useState<number | null>(null);
  const first = figures[firstName ?? 'spend'] ? (firstName ?? 'spend') : 'spend';
  const second = figures[secondName ?? 'acos'] ? (secondName ?? 'acos') : 'acos';
  const step: Step = stepName === 'week' || stepName === 'month' ? stepName : 'day';
  const { window } = request;
  const span = { from: comparison.from < window.from ? comparison.from : window.from, to: window.to };
  const body = { ...request, columns: [], sort: null, span };
  const days = useQuery({
    queryKey: ['trend', body],
    queryFn: () => ask<DaySums[]>('/api/explore/trend', body),
    placeholderData: (previous) => previous,
  });
  const now = useMemo(() => bucketsOf(days.data ?? [], window, step), [days.data, window, step]);
  const before = useMemo(() => bucketsOf(days.data ?? [], comparison, step), [days.data, comparison, step]);
  const x = scalePoint(
    now.map((_, i) => i),
    [8, width - 8],
  );
  const paths = [first, second].map((name) => {
    const { of } = figures[name]!;
    const value = (bucket: Bucket) => {
      const one = of(bucket.sums);
      return one !== null && Number.isFinite(one) ? one : null;
    };
    const y = scaleLinear(
      [0, max([...now, ...before], (bucket) => value(bucket) ?? 0) || 1],
      [height - 18, 12],
    );
    const path = line<Bucket>()
      .defined((bucket) => value(bucket) !== null)
      .x((_, i) => x(i) ?? 0)
      .y((bucket) => y(value(bucket) ?? 0));
    const top = y.domain()[1]!;
    return { now: path(now) ?? '', before: path(before.slice(0, now.length)) ?? '', top };
  });
  const choice = (label: string, name: string, value: string, options: [string, string][]) => (
    <Choice aria-label={label} value={value} onChange={(event) => setUrl({ [name]: event.target.value })}>
      {options.map(([option, text]) => (
        <option key={option} value={option}>
          {text}
        </option>
      ))}
    </Choice>
  );
  const names = Object.entries(figures).map(([name, { label }]): [string, string] => [name, label]);
  const colors = [roles.accent, roles.over];
  const read = (name: string, bucket: Bucket | undefined) => {
    const value = bucket ? figures[name]!.of(bucket.sums) : null;
    return value === null ? '–' : figures[name]!.text(value);
  };
  const sent = (season.data?.sent ?? []).filter(({ day }) => day >= window.from && day <= window.to);
  const everyTick = Math.ceil(now.length / mostTicks);
  const placeOfDay = (day: string) => x(stepOf(day, window, step)) ?? 0;
  return (
    <Box sx={{ px: 2.25, pb: 1, fontSize: sizes.table }} data-testid="trend">
      <Box sx={{ display: 'flex', gap: 1, alignItems: 'center', minHeight: 28 }}>
        <Box component="span" sx={{ width: 14, height: 3, bgcolor: colors[0] }} />
        {choice('First figure', 'trend1', first, names)}
        <Box component="span" sx={{ width: 14, borderTop: '3px dashed', color: colors[1] }} />
        {choice('Second figure', 'trend2', second, names)}
        {choice('Step', 'step', step, Object.entries(steps))}
        <Box component="span" role="status" sx={{ color: 'text.secondary' }}>
          {at !== null && now[at]
            ? `${shortDay(now[at].from)}: ${read(first, now[at])}, ${read(second, now[at])}; before ${read(first, before[at])}, ${read(second, before[at])}`
            : 'Thin lines: the comparison.'}
        </Box>
      </Box>
      <Box sx={{ position: 'relative' }}>
        <svg
          viewBox={`0 0 ${width} ${height}`}
          preserveAspectRatio="none"
          width="100%"
          height={height}
          role="img"
          aria-label={`${figures[first]!.label} and ${figures[second]!.label} over time`}
          onPointerMove={(event) => {
            const [px] = pointer(event);
            setAt(
              Math.max(0, Math.min(now.length - 1, Math.round(((px - 8) / (width - 16)) * (now.length - 1)))),
            );
          }}
          onPointerLeave={() => setAt(null)}
        >
          <line x1={0} x2={width} y1={height - 18} y2={height - 18} stroke={roles.line} />
          {paths.map((path, i) => (
            <g key={i} fill="none" stroke={colors[i]} strokeDasharray={i === 0 ? undefined : '5 3'}>
              <path d={path.before} strokeWidth={1} opacity={0.4} vectorEffect="non-scaling-stroke" />
              <path d={path.now} strokeWidth={2} vectorEffect="non-scaling-stroke" />
            </g>
          ))}
          {sent.map(({ day, lines }) => (
            <path
              key={day}
              d={`M${placeOfDay(day)},${height - 18} V2 l7,4 l-7,4`}
              fill={roles.ink}
              stroke={roles.ink}
              vectorEffect="non-scaling-stroke"
            >
              <title>{`${lines} lines sent`}</title>
            </path>
          ))}
          {at !== null && (
            <line
              x1={x(at)}
              x2={x(at)}
              y1={4}
              y2={height - 18}
              stroke={roles.ink}
              vectorEffect="non-scaling-stroke"
            />
          )}
        </svg>
        {/* Words stand beside the drawing: it is stretched to the width, they are not. */}
        <Box
          aria-hidden
          sx={{ typography: 'caption', color: 'text.secondary', '& > span': { position: 'absolute' } }}
        >
          {paths.map(({ top }, i) => (
            <Box component="span" key={i} sx={{ top: -4, [i === 0 ? 'left' : 'right']: 0, color: colors[i] }}>
              {days.data && figures[i === 0 ? first : second]!.text(top)}
            </Box>
          ))}
          {now.map(({ from }, i) =>
            i % everyTick === 0 && i + everyTick / 2 < now.length ? (
              <Box component="span" key={from} sx={{ bottom: 2, left: `${((x(i) ?? 0) / width) * 100}%` }}>
                {shortDay(from)}
              </Box>
            ) : null,
          )}
        </Box>
      </Box>
    </Box>
  );
}
