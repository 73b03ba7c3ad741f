import { useTheme } from '@mui/material/styles';
import { scaleBand, scaleLinear } from 'd3';
import type { MovedAnswer } from '../../answers/today.ts';
import type { Parts } from '../../core/movers/split.ts';
import { money, percent, signedMoney } from '../../core/metrics/format.ts';

export const partNames: Record<keyof Parts, string> = {
  clicks: 'clicks',
  cpc: 'CPC',
  cvr: 'CVR',
  aov: 'AOV',
  mix: 'mix',
  came: 'came',
  went: 'went',
};

/** A part as it is written: money, or points of ACOS. */
export const partText = (figure: MovedAnswer['figure'], value: number): string =>
  figure === 'acos'
    ? `${value < 0 ? '−' : '+'}${Math.abs(value * 100).toFixed(2)} points`
    : signedMoney(Math.round(value));

/** Parts in their order, those that are nothing left out. */
export const partsOf = (parts: Parts): [keyof Parts, number][] =>
  (Object.keys(partNames) as (keyof Parts)[]).flatMap((name) =>
    parts[name] === undefined || Math.abs(parts[name]) < 1e-12
      ? []
      : [[name, parts[name]] as [keyof Parts, number]],
  );

interface WaterfallProps {
  moved: MovedAnswer;
  width?: number;
  height?: number;
}

/** A figure before and after as pillars, and between them a step for each part, from where the last one ended. */
export function Waterfall({ moved, width = 560, height = 168 }: WaterfallProps) {
  const { roles } = useTheme().palette;
  const { figure, before, after, parts } = moved;
  if (before === null || after === null) return null;
  const steps = partsOf(parts);
  let at = before;
  const bars = [
    { name: 'before', from: 0, to: before, isWhole: true },
    ...steps.map(([name, value]) => {
      const from = at;
      at += value;
      return { name: partNames[name], from, to: at, isWhole: false };
    }),
    { name: 'after', from: 0, to: after, isWhole: true },
  ];
  const x = scaleBand(
    bars.map(({ name }) => name),
    [0, width],
  ).padding(0.28);
  const values = bars.flatMap(({ from, to, isWhole }) => (isWhole ? [to] : [from, to]));
  const [low, high] = [Math.min(...values), Math.max(...values)];
  // What moved is what is looked at: the pillars are cut where nothing happens, and say so.
  const floor = low > 0 && (high - low) / high < 0.5 ? low - (high - low) * 0.35 : Math.min(0, low);
  const y = scaleLinear([floor, high], [height - 20, 18]);
  const isCut = floor > 0;
  const say = (value: number) => (figure === 'acos' ? percent(value) : money(value));
  // More spend and a higher ACOS are no gain.
  const isGain = (change: number) => (figure === 'sales' ? change > 0 : change < 0);
  return (
    <svg
      width={width}
      height={height}
      role="img"
      aria-label={`From ${say(before)} to ${say(after)}: ${steps
        .map(([name, value]) => `${partNames[name]} ${partText(figure, value)}`)
        .join(', ')}`}
      style={{ display: 'block', maxWidth: '100%' }}
    >
      {bars.map(({ name, from, to, isWhole }, index) => {
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
              fill={isWhole ? roles.bar : isGain(change) ? roles.under : roles.surface}
              stroke={isWhole ? 'none' : isGain(change) ? roles.under : roles.over}
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
