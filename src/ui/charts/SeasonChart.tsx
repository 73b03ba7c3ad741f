import { sizes } from '../theme.ts';
import { useTheme } from '@mui/material/styles';
import { max, scaleBand, scaleLinear, curveStepAfter, line } from 'd3';
import { addDays, daysBetween } from '../../core/metrics/days.ts';
import { money } from '../../core/metrics/format.ts';
import { shortDay } from '../days.ts';

export interface SeasonChartProps {
  days: { day: string; spend: number; orders: number }[];
  bids: { day: string; bid: number }[];
  sent: string[];
  today: string;
  settledTo: string | null;
  width?: number;
}

/** 90 days of one row: spend as bars, orders as dots below, the bid as steps, sent changes as flags. */
export function SeasonChart({ days, bids, sent, today, settledTo, width = 288 }: SeasonChartProps) {
  const { roles } = useTheme().palette;
  const height = 92;
  const floor = height - 30;
  const first = addDays(today, -89);
  const all = Array.from({ length: 90 }, (_, i) => addDays(first, i));
  const x = scaleBand(all, [0, width]).paddingInner(0.25);
  const y = scaleLinear([0, max(days, (d) => d.spend) || 1], [floor, 18]);
  const byDay = new Map(days.map((d) => [d.day, d]));
  const steps = bids.map(({ day, bid }) => ({ day: day < first ? first : day, bid }));
  if (steps.length > 0) steps.push({ day: today, bid: steps[steps.length - 1]!.bid });
  const bidY = scaleLinear([0, (max(steps, (d) => d.bid) ?? 0) * 1.2 || 1], [floor, 8]);
  const path = line<{ day: string; bid: number }>()
    .x((d) => x(d.day) ?? 0)
    .y((d) => bidY(d.bid))
    .curve(curveStepAfter);
  const last = steps[steps.length - 1];
  return (
    <svg width={width} height={height} role="img" aria-label="Spend, orders and bid over 90 days">
      {all.map((day) => {
        const row = byDay.get(day);
        const settling = settledTo !== null && day > settledTo;
        return (
          <g key={day}>
            {row && (
              <rect
                x={x(day)}
                width={x.bandwidth()}
                y={y(row.spend)}
                height={floor - y(row.spend)}
                fill={settling ? 'none' : roles.bar}
                stroke={settling ? roles.bar : 'none'}
                strokeWidth={0.7}
              />
            )}
            {row && row.orders > 0 && (
              <circle
                cx={(x(day) ?? 0) + x.bandwidth() / 2}
                cy={floor + 6}
                r={Math.min(3, 1.4 + row.orders * 0.4)}
                fill={roles.under}
              />
            )}
          </g>
        );
      })}
      {steps.length > 1 && <path d={path(steps) ?? ''} fill="none" stroke={roles.accent} strokeWidth={1.5} />}
      {last && (
        <text
          x={width}
          y={Math.max(9, bidY(last.bid) - 4)}
          fontSize={sizes.tiny}
          textAnchor="end"
          fill={roles.accent}
        >
          bid {money(last.bid)}
        </text>
      )}
      {sent
        .filter((day) => daysBetween(first, day) >= 0)
        .map((day) => (
          <path
            key={day}
            d={`M${x(day)},${floor} V4 l6,3 l-6,3`}
            fill={roles.ink}
            stroke={roles.ink}
            strokeWidth={0.8}
          />
        ))}
      <line x1={0} x2={width} y1={floor} y2={floor} stroke={roles.line} />
      <text x={0} y={height - 4} fontSize={sizes.tiny} fill={roles.soft}>
        {shortDay(first)}
      </text>
      <text x={width / 2} y={height - 4} fontSize={sizes.tiny} textAnchor="middle" fill={roles.soft}>
        bars spend, dots orders{steps.length > 0 ? ', line bid' : ''}
      </text>
      <text x={width} y={height - 4} fontSize={sizes.tiny} textAnchor="end" fill={roles.soft}>
        {shortDay(today)}
      </text>
    </svg>
  );
}
