import { useTheme } from '@mui/material/styles';
import { scaleLog } from 'd3';
import type { PlacementRow } from '../../core/placements/findings.ts';
import { factorRange } from '../../core/placements/explain.ts';

interface PlacementMarkProps {
  row: Pick<PlacementRow, 'cpc' | 'mayCost' | 'factor' | 'spread'>;
  /** Of the page: what is cheap and dear stands at the same place everywhere. Micros. */
  domain: readonly [low: number, high: number];
  width?: number;
  height?: number;
}

/**
 * What a click costs in a placement beside what it may cost there, on a log scale: a band for what it may cost (80 %), a
 * hairline in its middle, and a mark for what it costs: a disc where that is less, a square where it is more.
 */
export function PlacementMark({ row, domain, width = 88, height = 14 }: PlacementMarkProps) {
  const { roles } = useTheme().palette;
  const { cpc, mayCost } = row;
  if (mayCost === null) return <svg width={width} height={height} aria-hidden="true" />;
  const x = scaleLog([...domain], [4, width - 4]).clamp(true);
  const [low, high] = factorRange(row).map((factor) => x((mayCost * factor) / row.factor)) as [
    number,
    number,
  ];
  const isOver = cpc !== null && cpc > mayCost;
  const color = isOver ? roles.over : roles.under;
  const middle = height / 2;
  return (
    <svg width={width} height={height} aria-hidden="true" style={{ display: 'block' }}>
      <line x1={2} x2={width - 2} y1={middle} y2={middle} stroke={roles.line} />
      <rect
        x={low}
        width={Math.max(1, high - low)}
        y={middle - 3}
        height={6}
        fill={roles.ink}
        opacity={0.14}
      />
      <line x1={x(mayCost)} x2={x(mayCost)} y1={1} y2={height - 1} stroke={roles.ink} />
      {cpc !== null &&
        (isOver ? (
          <rect
            x={x(cpc) - 3}
            y={middle - 3}
            width={6}
            height={6}
            fill={roles.surface}
            stroke={color}
            strokeWidth={2}
          />
        ) : (
          <circle cx={x(cpc)} cy={middle} r={3.2} fill={roles.surface} stroke={color} strokeWidth={2} />
        ))}
    </svg>
  );
}
