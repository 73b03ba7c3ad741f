import Box from '@mui/material/Box';
import { useTheme } from '@mui/material/styles';
import { max, scaleBand, scaleLinear } from 'd3';
import type { KeyboardEvent } from 'react';
import type { Day } from '../../core/metrics/days.ts';
import type { DryNight } from '../../core/routines/dry.ts';
import { shortDay } from '../../ui/days.ts';
import { sizes } from '../../ui/theme.ts';

const [width, height, foot] = [386, 74, 14];

interface NightsPictureProps {
  nights: readonly DryNight[];
  chosen: Day | null;
  onChoose: (day: Day) => void;
}

/** A stroke a night: how much it would have taken, and on top of it what its limits would have left. */
export function NightsPicture({ nights, chosen, onChoose }: NightsPictureProps) {
  const { roles } = useTheme().palette;
  const x = scaleBand(
    nights.map(({ day }) => day),
    [0, width],
  ).padding(0.25);
  const most = max(nights, ({ taken, beyond }) => taken + beyond) ?? 0;
  const y = scaleLinear([0, Math.max(1, most)], [0, height - foot - 14]);
  const at = nights.findIndex(({ day }) => day === chosen);
  const onKeyDown = (event: KeyboardEvent) => {
    const by = event.key === 'ArrowLeft' ? -1 : event.key === 'ArrowRight' ? 1 : 0;
    const next = by === 0 ? undefined : nights[Math.max(0, Math.min(nights.length - 1, at + by))];
    if (!next) return;
    event.preventDefault();
    onChoose(next.day);
  };
  const night = nights[at];
  const base = height - foot;
  return (
    <Box
      role="slider"
      tabIndex={0}
      aria-label="Night"
      aria-valuemin={1}
      aria-valuemax={nights.length}
      aria-valuenow={at + 1}
      aria-valuetext={
        night ? `${night.day}: ${night.taken} taken, ${night.beyond} beyond its limits` : 'none'
      }
      onKeyDown={onKeyDown}
      sx={{ mt: 0.5 }}
    >
      <svg width={width} height={height} style={{ display: 'block' }}>
        {nights.map(({ day, taken, beyond, isDue }) => (
          <g key={day} onClick={() => onChoose(day)} style={{ cursor: 'pointer' }}>
            <rect
              x={x(day)! - (x.step() - x.bandwidth()) / 2}
              width={x.step()}
              height={height}
              fill={day === chosen ? roles.wash : 'transparent'}
            />
            <rect x={x(day)} y={base - y(taken)} width={x.bandwidth()} height={y(taken)} fill={roles.ink} />
            <rect
              x={x(day)}
              y={base - y(taken + beyond)}
              width={x.bandwidth()}
              height={y(beyond)}
              fill="none"
              stroke={roles.graphite}
              strokeDasharray="2 2"
            />
            {!isDue && <circle cx={x(day)! + x.bandwidth() / 2} cy={base - 2} r={1} fill={roles.graphite} />}
          </g>
        ))}
        <line x1={0} x2={width} y1={base} y2={base} stroke={roles.graphite} />
        {nights.length > 0 && (
          <>
            <text x={0} y={height - 2} fontSize={sizes.small} fill={roles.graphite}>
              {shortDay(nights[0]!.day)}
            </text>
            <text x={width} y={height - 2} fontSize={sizes.small} fill={roles.graphite} textAnchor="end">
              {shortDay(nights.at(-1)!.day)}
            </text>
            <text x={width} y={9} fontSize={sizes.small} fill={roles.graphite} textAnchor="end">
              most of a night {most}
            </text>
          </>
        )}
      </svg>
    </Box>
  );
}
