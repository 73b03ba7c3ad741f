import { sizes } from '../theme.ts';
import { useTheme } from '@mui/material/styles';
import {
  extent,
  scaleSymlog,
  symbol,
  symbolCircle,
  symbolDiamond,
  symbolCross,
  symbolWye,
  symbolSquare,
  symbolTriangle,
  type SymbolType,
} from 'd3';
import { signedMoney } from '../../core/metrics/format.ts';
import { micros } from '../../core/metrics/money.ts';

/** One forecast: what was said, what was seen, and half of its 80 % interval; micros a week. */
export interface CalibrationPoint {
  key: string;
  kind: string;
  name: string;
  said: number;
  seen: number;
  half: number;
  inside: boolean;
}

const shapes: SymbolType[] = [
  symbolCircle,
  symbolTriangle,
  symbolSquare,
  symbolDiamond,
  symbolCross,
  symbolWye,
];

/** Money on an axis: whole units. */
const short = (value: number): string => signedMoney(value).replace(/\.00$/, '');

/** Shape of a kind: colour is never the only carrier. */
export const shapeOf = (kinds: readonly string[], kind: string): SymbolType =>
  shapes[Math.max(0, kinds.indexOf(kind)) % shapes.length]!;

/**
 * Said against seen: full where the forecast held within its interval, hollow with the interval's line where not. Money
 * is drawn on a scale that is even near zero and logarithmic far from it.
 */
export function Calibration({
  points,
  kinds,
  width,
  height,
}: {
  points: readonly CalibrationPoint[];
  kinds: readonly string[];
  width: number;
  height: number;
}) {
  const { roles } = useTheme().palette;
  const [left, bottom] = [46, 34];
  const values = points.flatMap(({ said, seen }) => [said, seen, 0]);
  const [low = 0, high = 0] = extent(values);
  const edge = Math.max(micros(1), -low, high) * 1.15;
  const scale = (range: [number, number]) => scaleSymlog([-edge, edge], range).constant(micros(1));
  const x = scale([left, width - 8]);
  const y = scale([height - bottom, 8]);
  const ticks = [-100, -10, -1, 0, 1, 10, 100].map(micros).filter((tick) => Math.abs(tick) < edge);
  return (
    <svg
      width={width}
      height={height}
      role="img"
      aria-label={`${points.length} forecasts of sales a week, said against seen; ${points.filter(({ inside }) => inside).length} within their 80 % interval`}
    >
      {ticks.map((tick) => (
        <g key={tick} fontSize={sizes.tiny} fill={roles.soft} stroke="none">
          <line x1={x(tick)} x2={x(tick)} y1={8} y2={height - bottom} stroke={roles.line} />
          <line x1={left} x2={width - 8} y1={y(tick)} y2={y(tick)} stroke={roles.line} />
          {Math.abs(tick) !== micros(1) && (
            <text x={x(tick)} y={height - bottom + 14} textAnchor="middle">
              {short(tick)}
            </text>
          )}
          <text x={left - 6} y={y(tick) + 3.5} textAnchor="end">
            {short(tick)}
          </text>
        </g>
      ))}
      <line x1={x(-edge)} y1={y(-edge)} x2={x(edge)} y2={y(edge)} stroke={roles.ink} strokeDasharray="4 3" />
      {points.map((point) => {
        const colour = point.inside ? roles.under : roles.over;
        return (
          <g key={point.key} stroke={colour} fill={point.inside ? colour : roles.surface}>
            <title>
              {`${point.name}: said ${signedMoney(point.said)}, seen ${signedMoney(point.seen)}, interval ± ${signedMoney(point.half).slice(1)}`}
            </title>
            <line
              // What held needs no line: two hundred of them would hide the points.
              display={point.inside ? 'none' : undefined}
              x1={x(Math.max(-edge, point.said - point.half))}
              x2={x(Math.min(edge, point.said + point.half))}
              y1={y(point.seen)}
              y2={y(point.seen)}
              opacity={0.5}
            />
            <path
              d={symbol(shapeOf(kinds, point.kind), 30)() ?? ''}
              transform={`translate(${x(point.said)},${y(point.seen)})`}
              strokeWidth={1.2}
            />
          </g>
        );
      })}
      <text x={(left + width) / 2} y={height - 4} fontSize={sizes.tiny} textAnchor="middle" fill={roles.ink}>
        said: sales a week
      </text>
      <text
        transform={`translate(11,${(height - bottom) / 2}) rotate(-90)`}
        fontSize={sizes.tiny}
        textAnchor="middle"
        fill={roles.ink}
      >
        seen
      </text>
    </svg>
  );
}
