import { useTheme } from '@mui/material/styles';
import { extent, line, scaleLinear, scaleUtc, curveStepAfter } from 'd3';

const [width, height] = [96, 20];

/** Bids as they changed, told as "2026-10-02 0.45, 2026-11-01 0.40": a step for each, from the first day to today. */
export function StepLine({ steps }: { steps: string }) {
  const { roles } = useTheme().palette;
  const points = steps.split(', ').map((step): [number, number] => {
    const [day = '', bid = ''] = step.split(' ');
    return [Date.parse(day), Number(bid)];
  });
  const [low = 0, high = 0] = extent(points, ([, bid]) => bid);
  const last = points[points.length - 1]!;
  // What holds now goes on a little behind the last step.
  const end = last[0] + Math.max(7 * 864e5, (last[0] - points[0]![0]) * 0.15);
  const x = scaleUtc([points[0]![0], end], [2, width - 2]);
  const y = scaleLinear(low === high ? [low - 1, high + 1] : [low, high], [height - 4, 4]);
  const path = line<[number, number]>()
    .x(([day]) => x(day))
    .y(([, bid]) => y(bid))
    .curve(curveStepAfter);
  return (
    <svg width={width} height={height} role="img" aria-label={`Bids: ${steps}`} style={{ display: 'block' }}>
      <path d={path([...points, [end, last[1]]]) ?? ''} fill="none" stroke={roles.ink} strokeWidth={1.25} />
    </svg>
  );
}
