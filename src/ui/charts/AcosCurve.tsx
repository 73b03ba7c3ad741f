import { sizes } from '../theme.ts';
import { useTheme } from '@mui/material/styles';
import { area, curveMonotoneX, line, range, scaleLinear, scaleLog } from 'd3';
import { density, type Gamma } from '../../core/evidence/gamma.ts';
import { percent } from '../../core/metrics/format.ts';

export interface AcosCurveProps {
  gamma: Gamma;
  /** Micros per order, micros per click. */
  value: number;
  cpc: number;
  target: number;
  width?: number;
}

/** What is believed of a row's ACOS, as a curve over the goal: the part right of it is the chance of being over. */
export function AcosCurve({ gamma, value, cpc, target, width = 288 }: AcosCurveProps) {
  const { roles } = useTheme().palette;
  const height = 104;
  const floor = height - 20;
  const middle = cpc / ((gamma.shape / gamma.rate) * value);
  const domain: [number, number] = [Math.min(middle, target) / 4, Math.max(middle, target) * 4];
  const x = scaleLog(domain, [4, width - 4]);
  // Density over log ACOS: the same area left and right of the goal as the chances say.
  const points = range(0, 121).map((i) => {
    const acos = domain[0] * (domain[1] / domain[0]) ** (i / 120);
    const lambda = cpc / (acos * value);
    return { acos, height: density(gamma, lambda) * lambda };
  });
  const y = scaleLinear([0, Math.max(...points.map((point) => point.height))], [floor, 12]);
  const shape = area<(typeof points)[number]>()
    .x((point) => x(point.acos))
    .y0(floor)
    .y1((point) => y(point.height))
    .curve(curveMonotoneX);
  const outline = line<(typeof points)[number]>()
    .x((point) => x(point.acos))
    .y((point) => y(point.height))
    .curve(curveMonotoneX);
  const left = points.filter((point) => point.acos <= target);
  const right = points.filter((point) => point.acos >= target);
  const ticks = [0.25, 0.5, 1, 2, 4]
    .map((factor) => target * factor)
    .filter((t) => t > domain[0] * 1.15 && t < domain[1] * 0.85);
  return (
    <svg
      width={width}
      height={height}
      role="img"
      aria-label={`Likely ACOS around ${percent(middle)}, goal ${percent(target)}`}
    >
      <path d={shape(left) ?? ''} fill={roles.under} opacity={0.25} />
      <path d={shape(right) ?? ''} fill={roles.over} opacity={0.3} />
      <path d={outline(points) ?? ''} fill="none" stroke={roles.ink} strokeWidth={1.3} />
      <line x1={4} x2={width - 4} y1={floor} y2={floor} stroke={roles.line} />
      <line x1={x(target)} x2={x(target)} y1={4} y2={floor} stroke={roles.ink} />
      <text x={x(target) + 4} y={12} fontSize={sizes.tiny} fill={roles.ink}>
        goal {percent(target)}
      </text>
      {ticks.map((tick) => (
        <text
          key={tick}
          x={x(tick)}
          y={height - 6}
          fontSize={sizes.tiny}
          textAnchor="middle"
          fill={roles.soft}
        >
          {percent(tick)}
        </text>
      ))}
    </svg>
  );
}
