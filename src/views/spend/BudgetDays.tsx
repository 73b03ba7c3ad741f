import { useTheme } from '@mui/material/styles';
import { scaleBand, scaleLinear } from 'd3';
import type { BudgetRow } from '../../core/budgets/rows.ts';

interface BudgetDaysProps {
  days: BudgetRow['days'];
  width?: number;
  height?: number;
  /** With the hours beside it. */
  isLarge?: boolean;
}

const minutesOfDay = 1440;

/**
 * Days side by side, each from midnight below to midnight above: a bar up to the hour at which its budget was spent, and
 * what it missed hatched above. A day of which no minutes are told is a line.
 */
export function BudgetDays({ days, width = 148, height = 26, isLarge = false }: BudgetDaysProps) {
  const { roles } = useTheme().palette;
  const left = isLarge ? 28 : 0;
  const x = scaleBand<string>(
    days.map(({ day }) => day),
    [left, width],
  ).padding(0.18);
  const y = scaleLinear([0, minutesOfDay], [height - (isLarge ? 7 : 1), isLarge ? 7 : 1]);
  const told = days.filter(({ minutes }) => minutes !== null);
  const dry = told.filter(({ minutes }) => minutes! < minutesOfDay);
  const said =
    told.length === 0
      ? 'Hours with budget are not told'
      : `Budget spent before midnight on ${dry.length} of ${told.length} days`;
  return (
    <svg width={width} height={height} role="img" aria-label={said} style={{ display: 'block' }}>
      {isLarge &&
        [0, 6, 12, 18, 24].map((hour) => (
          <g key={hour}>
            <line x1={left} x2={width} y1={y(hour * 60)} y2={y(hour * 60)} stroke={roles.line} />
            <text x={left - 5} y={y(hour * 60) + 3} textAnchor="end" fontSize={10} fill={roles.soft}>
              {hour} h
            </text>
          </g>
        ))}
      {days.map(({ day, minutes }) =>
        minutes === null ? (
          <line
            key={day}
            x1={x(day)}
            x2={x(day)! + x.bandwidth()}
            y1={y(0)}
            y2={y(0)}
            stroke={roles.graphite}
          />
        ) : (
          <g key={day}>
            <rect
              x={x(day)}
              width={x.bandwidth()}
              y={y(minutes)}
              height={Math.max(0, y(0) - y(minutes))}
              fill={roles.bar}
            />
            {minutes < minutesOfDay && (
              <rect
                x={x(day)}
                width={x.bandwidth()}
                y={y(minutesOfDay)}
                height={Math.max(1, y(minutes) - y(minutesOfDay) - 1)}
                fill="none"
                stroke={roles.over}
                strokeWidth={0.8}
                strokeDasharray="1.5 1.5"
              />
            )}
          </g>
        ),
      )}
    </svg>
  );
}
