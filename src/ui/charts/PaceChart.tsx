import { useTheme } from '@mui/material/styles';
import { area, line, scaleLinear } from 'd3';
import type { PaceMeasure } from '../../answers/today.ts';
import { daysBetween, type Window } from '../../core/metrics/days.ts';
import { money } from '../../core/metrics/format.ts';

interface Month {
  first: string;
  last: string;
}

interface PaceMarkProps {
  measure: PaceMeasure;
}

const most = ({ plan, high, done }: PaceMeasure): number => Math.max(plan ?? 0, high, done, 1) * 1.05;

/** So far as a bar, where it lands as a whisker, and what is planned as a hairline. */
export function PaceMark({ measure }: PaceMarkProps) {
  const { roles } = useTheme().palette;
  const [width, height] = [176, 12];
  const x = scaleLinear([0, most(measure)], [0, width - 2]);
  const { done, low, middle, high, plan } = measure;
  return (
    <svg width={width} height={height} aria-hidden="true" style={{ display: 'block' }}>
      <line x1={0} x2={width} y1={9} y2={9} stroke={roles.line} />
      <rect x={0} y={3} width={Math.max(0.5, x(done))} height={6} fill={roles.bar} />
      <line x1={x(low)} x2={x(high)} y1={6} y2={6} stroke={roles.ink} />
      <circle cx={x(middle)} cy={6} r={2.6} fill={roles.surface} stroke={roles.ink} strokeWidth={1.4} />
      {plan !== null && (
        <line x1={x(plan)} x2={x(plan)} y1={0} y2={height} stroke={roles.accent} strokeWidth={2} />
      )}
    </svg>
  );
}

interface PaceChartProps {
  measure: PaceMeasure;
  month: Month;
  knownTo: Window['to'];
  label: string;
}

/** The month added up day by day: what is known, the fan of where it lands, and the plan as an even path. */
export function PaceChart({ measure, month, knownTo, label }: PaceChartProps) {
  const { roles } = useTheme().palette;
  const [width, height, left, bottom] = [324, 108, 4, 16];
  const last = daysBetween(month.first, month.last) + 1;
  const x = scaleLinear([0, last], [left, width - 4]);
  const y = scaleLinear([0, most(measure)], [height - bottom, 6]);
  let sum = 0;
  const known = [0, ...measure.days.map((value) => (sum += value))].map(
    (value, day) => [day, value] as const,
  );
  const at = Math.max(0, Math.min(last, daysBetween(month.first, knownTo) + 1));
  const path = line<readonly [number, number]>(
    ([day]) => x(day),
    ([, value]) => y(value),
  );
  const fan = area<readonly [number, number, number]>(
    ([day]) => x(day),
    ([, low]) => y(low),
    ([, , high]) => y(high),
  );
  const { done, low, middle, high, plan } = measure;
  return (
    <svg
      width={width}
      height={height}
      role="img"
      aria-label={`${label}: ${money(done)} so far, lands at ${money(middle)}`}
      style={{ display: 'block' }}
    >
      <line x1={left} x2={width - 4} y1={y(0)} y2={y(0)} stroke={roles.line} />
      {plan !== null && (
        <>
          <line x1={x(0)} y1={y(0)} x2={x(last)} y2={y(plan)} stroke={roles.accent} strokeDasharray="4 3" />
          <line
            x1={x(last) - 7}
            x2={x(last)}
            y1={y(plan)}
            y2={y(plan)}
            stroke={roles.accent}
            strokeWidth={2}
          />
        </>
      )}
      <path
        d={
          fan([
            [at, done, done],
            [last, low, high],
          ]) ?? ''
        }
        fill={roles.bar}
        opacity={0.5}
      />
      <path
        d={
          path([
            [at, done],
            [last, middle],
          ]) ?? ''
        }
        stroke={roles.ink}
        strokeDasharray="2 2"
        fill="none"
      />
      <path d={path(known) ?? ''} stroke={roles.ink} strokeWidth={1.6} fill="none" />
      <text x={left} y={height - 3} fontSize={10} fill={roles.soft}>
        1
      </text>
      <text x={width - 4} y={height - 3} fontSize={10} fill={roles.soft} textAnchor="end">
        {last}
      </text>
      <text x={x(at)} y={height - 3} fontSize={10} fill={roles.soft} textAnchor="middle">
        {at > 2 && at < last - 2 ? at : ''}
      </text>
    </svg>
  );
}
