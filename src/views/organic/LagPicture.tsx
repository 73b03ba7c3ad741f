import { useTheme } from '@mui/material/styles';
import { scaleLinear, scalePoint } from 'd3';
import { usualLags, type Following } from '../../core/organic/follow.ts';
import { sizes } from '../../ui/theme.ts';

interface LagPictureProps {
  following: Following;
  label: string;
  /** The lag that the lanes show now. */
  lag: number;
  onLag: (lag: number) => void;
  width?: number;
}

const height = 104;
const [left, right, top, bottom] = [32, 6, 8, 30];
const lags = Array.from({ length: usualLags.to - usualLags.from + 1 }, (_, at) => usualLags.from + at);

/** What two series share lag by lag, each with its interval; those that leave 0 are dark. A click lays the lanes so. */
export function LagPicture({ following, label, lag, onLag, width = 286 }: LagPictureProps) {
  const { roles } = useTheme().palette;
  const x = scalePoint<number>(lags, [left, width - right]).padding(0.5);
  const reach = Math.max(0.3, ...following.lags.map(({ low, high }) => Math.max(-low, high)));
  const y = scaleLinear([-reach, reach], [height - bottom, top]);
  const { peak } = following;
  return (
    <svg width={width} height={height} role="img" aria-label={label} style={{ display: 'block' }}>
      {[-reach, 0, reach].map((r) => (
        <text key={r} x={left - 5} y={y(r) + 3.5} textAnchor="end" fontSize={sizes.tiny} fill={roles.soft}>
          {r.toFixed(r === 0 ? 0 : 1).replace('-', '−')}
        </text>
      ))}
      <line x1={left} x2={width - right} y1={y(0)} y2={y(0)} stroke={roles.graphite} strokeWidth={0.75} />
      <line x1={x(0)} x2={x(0)} y1={top} y2={height - bottom} stroke={roles.line} />
      {following.lags.map((one) => {
        const stands = one.low > 0 || one.high < 0;
        const color = stands ? roles.ink : roles.bar;
        return (
          <g key={one.lag} data-lag={one.lag} data-stands={stands || undefined}>
            <line
              x1={x(one.lag)}
              x2={x(one.lag)}
              y1={y(one.low)}
              y2={y(one.high)}
              stroke={color}
              strokeWidth={stands ? 1.6 : 1.2}
            />
            <circle cx={x(one.lag)} cy={y(one.r)} r={one === peak ? 3.2 : 2} fill={color} />
            <rect
              x={x(one.lag)! - x.step() / 2}
              width={x.step()}
              y={0}
              height={height}
              fill="transparent"
              style={{ cursor: 'pointer' }}
              onClick={() => onLag(one.lag)}
            >
              <title>{`${one.lag} days: ${one.r.toFixed(2)}, ${one.low.toFixed(2)} to ${one.high.toFixed(2)}, ${one.pairs} pairs of days`}</title>
            </rect>
          </g>
        );
      })}
      {lag !== 0 && x(lag) !== undefined && (
        <path d={`M${x(lag)},${height - bottom + 1}l-3.5,6h7Z`} fill={roles.accent} />
      )}
      {[-7, 0, 7, 14, 21].map((day) => (
        <text
          key={day}
          x={x(day)}
          y={height - bottom + 17}
          textAnchor="middle"
          fontSize={sizes.tiny}
          fill={roles.soft}
        >
          {day === 0 ? 'same day' : String(day).replace('-', '−')}
        </text>
      ))}
      <text x={width - right} y={height - 2} textAnchor="end" fontSize={sizes.tiny} fill={roles.soft}>
        days later
      </text>
    </svg>
  );
}
