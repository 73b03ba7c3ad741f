import { useTheme } from '@mui/material/styles';
import { scaleLog, type ScaleLogarithmic } from 'd3';

export interface WhiskerProps {
  interval: { low: number; middle: number; high: number } | null;
  target: number;
  verdict: 'under' | 'over' | 'undecided';
  width?: number;
}

/** Common scale of all whiskers: ACOS from 4 % to 400 %. */
const domain: [number, number] = [0.04, 4];

const scales = new Map<number, ScaleLogarithmic<number, number>>();

/** One scale for all whiskers of a width. */
function scaleOf(width: number): ScaleLogarithmic<number, number> {
  let scale = scales.get(width);
  if (!scale) scales.set(width, (scale = scaleLog(domain, [3, width - 3]).clamp(true)));
  return scale;
}

/**
 * The likely ACOS of a row on a log scale, with its goal as a hairline: a mark that lies left of the goal, right of
 * it, or across. Shape says it too: undecided is hollow and hatched, over is a square, under a disc.
 */
export function Whisker({ interval, target, verdict, width = 96 }: WhiskerProps) {
  const { roles } = useTheme().palette;
  const x = scaleOf(width);
  const goal = x(target);
  const height = 18;
  const middle = height / 2;
  if (!interval) return <svg width={width} height={height} aria-hidden="true" />;
  const color = verdict === 'under' ? roles.under : verdict === 'over' ? roles.over : roles.graphite;
  const [low, at, high] = [x(interval.low), x(interval.middle), x(interval.high)];
  const word = { under: 'under goal', over: 'over goal', undecided: 'undecided' }[verdict];
  return (
    <svg width={width} height={height} role="img" aria-label={word}>
      <line x1={3} x2={width - 3} y1={middle} y2={middle} stroke={roles.line} />
      {verdict === 'undecided' ? (
        <line
          x1={low}
          x2={high}
          y1={middle}
          y2={middle}
          stroke={color}
          strokeWidth={5}
          strokeDasharray="1.5 1.5"
        />
      ) : (
        <line x1={low} x2={high} y1={middle} y2={middle} stroke={color} strokeWidth={4} />
      )}
      <line x1={goal} x2={goal} y1={1} y2={height - 1} stroke={roles.ink} strokeWidth={1} />
      {verdict === 'over' ? (
        <rect
          x={at - 3.5}
          y={middle - 3.5}
          width={7}
          height={7}
          fill={roles.surface}
          stroke={color}
          strokeWidth={2}
        />
      ) : (
        <circle cx={at} cy={middle} r={3.5} fill={roles.surface} stroke={color} strokeWidth={2} />
      )}
    </svg>
  );
}
