import { useTheme } from '@mui/material/styles';
import { scaleBand, scaleLinear } from 'd3';
import type { MovedAnswer } from '../../answers/today.ts';
import { partsSaid, waterfallOf } from '../../core/movers/waterfall.ts';
import { money, percent, signedMoney } from '../../core/metrics/format.ts';

interface WaterfallProps {
  moved: MovedAnswer;
  width?: number;
  height?: number;
}

/** A figure before and after as pillars, and between them a step for each part, from where the last one ended. */
export function Waterfall({ moved, width = 560, height = 168 }: WaterfallProps) {
  const { roles } = useTheme().palette;
  const { figure, before, after, parts } = moved;
  const picture = waterfallOf(moved);
  if (!picture) return null;
  const { bars, floor, high } = picture;
  const x = scaleBand(
    bars.map(({ name }) => name),
    [0, width],
  ).padding(0.28);
  const y = scaleLinear([floor, high], [height - 20, 18]);
  const isCut = floor > 0;
  const say = (value: number) => (figure === 'acos' ? percent(value) : money(value));
  return (
    <svg
      width={width}
      height={height}
      role="img"
      aria-label={`From ${say(before!)} to ${say(after!)}: ${partsSaid(figure, parts)}`}
      style={{ display: 'block', maxWidth: '100%' }}
    >
      {bars.map(({ name, from, to, isWhole, isGain }, index) => {
        const [top, bottom] = isWhole ? [y(to), y(floor)] : [y(Math.max(from, to)), y(Math.min(from, to))];
        const next = bars[index + 1];
        const change = to - from;
        return (
          <g key={name}>
            <rect
              x={x(name)}
              width={x.bandwidth()}
              y={top}
              height={Math.max(1, bottom - top)}
              fill={isWhole ? roles.bar : isGain ? roles.under : roles.surface}
              stroke={isWhole ? 'none' : isGain ? roles.under : roles.over}
              strokeWidth={1.4}
            />
            {isWhole && isCut && (
              <path
                d={`M${x(name)! - 2},${y(floor) - 7}l${x.bandwidth() / 2 + 2},-4l0,5l${x.bandwidth() / 2 + 2},-4`}
                stroke={roles.surface}
                strokeWidth={2.5}
                fill="none"
              />
            )}
            {next && (
              <line
                x1={x(name)! + x.bandwidth()}
                x2={x(next.name)}
                y1={y(to)}
                y2={y(to)}
                stroke={roles.graphite}
                strokeDasharray="2 2"
              />
            )}
            <text
              x={x(name)! + x.bandwidth() / 2}
              y={Math.min(top, bottom) - 4}
              textAnchor="middle"
              fontSize={11}
              fill={roles.ink}
            >
              {isWhole
                ? say(to)
                : figure === 'acos'
                  ? (change * 100).toFixed(1)
                  : signedMoney(Math.round(change))}
            </text>
            <text
              x={x(name)! + x.bandwidth() / 2}
              y={height - 5}
              textAnchor="middle"
              fontSize={11}
              fill={roles.soft}
            >
              {name}
            </text>
          </g>
        );
      })}
    </svg>
  );
}
