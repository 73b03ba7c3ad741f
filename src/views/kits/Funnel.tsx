import Box from '@mui/material/Box';
import { useTheme } from '@mui/material/styles';
import { link, curveBumpX, scalePoint } from 'd3';
import { count } from '../../core/metrics/format.ts';
import { funnelOf } from '../../core/kits/funnel.ts';
import type { Plan } from '../../core/kits/types.ts';
import { sizes } from '../../ui/theme.ts';

const size = { width: 300, row: 24, left: 96, right: 204 };

/** Who shuts whom out of how much: parts twice, the more precise at the left, lines as thick as what they keep out. */
export function Funnel({ plan }: { plan: Plan }) {
  const { palette } = useTheme();
  const pairs = funnelOf(plan);
  const names = plan.parts.map(({ part }) => part.name);
  if (pairs.length === 0) return null;
  const height = size.row * names.length + 8;
  const y = scalePoint(names, [size.row / 2, height - size.row / 2]);
  const most = Math.max(...pairs.map(({ terms }) => terms));
  const path = link<unknown, { from: string; to: string }, [number, number]>(curveBumpX)
    .source(({ from }) => [size.left + 6, y(from)!])
    .target(({ to }) => [size.right - 6, y(to)!]);
  const said = pairs.map(({ from, to, terms }) => `${from} keeps ${count(terms)} out of ${to}`).join('; ');
  return (
    <Box component="figure" sx={{ m: 0 }}>
      <svg width={size.width} height={height} role="img" aria-label={`The funnel: ${said}.`}>
        {pairs.map((pair) => (
          <path
            key={`${pair.from} ${pair.to}`}
            d={path(pair) ?? ''}
            fill="none"
            stroke={palette.roles.accent}
            strokeOpacity={0.55}
            strokeWidth={1 + 4 * Math.sqrt(pair.terms / most)}
          >
            <title>{`${pair.from} keeps ${count(pair.terms)} out of ${pair.to}`}</title>
          </path>
        ))}
        {names.map((name) => (
          <g key={name} fontSize={sizes.small} fill={palette.roles.ink}>
            <text x={size.left} y={y(name)} dy="0.32em" textAnchor="end">
              {name}
            </text>
            <text x={size.right} y={y(name)} dy="0.32em">
              {name}
            </text>
          </g>
        ))}
      </svg>
      <Box component="figcaption" sx={{ fontSize: sizes.small, color: 'text.secondary' }}>
        What the parts at the left serve is kept out of those at the right, so that every term has one place.
      </Box>
    </Box>
  );
}
