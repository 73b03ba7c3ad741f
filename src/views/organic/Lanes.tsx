import Box from '@mui/material/Box';
import { useTheme } from '@mui/material/styles';
import { line, scaleBand, scaleLinear, scaleLog } from 'd3';
import { useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import type { Day } from '../../core/metrics/days.ts';
import { shifted } from '../../core/organic/visibility.ts';
import { shortDay } from '../../ui/days.ts';
import { sizes } from '../../ui/theme.ts';
import { lagText, mostLag, type Lane, type LaneId, type Lags } from './lanes.ts';

interface LanesProps {
  days: readonly Day[];
  lanes: readonly Lane[];
  lags: Lags;
  onLag: (id: LaneId, lag: number) => void;
  width: number;
}

const height = 46;
const left = 4;

/**
 * Series one below the other on one time axis. Each is moved along it, by dragging or by arrow keys, until what follows
 * lies under what it follows; the mouse reads all of them on one day.
 */
export function Lanes({ days, lanes, lags, onLag, width }: LanesProps) {
  const { roles } = useTheme().palette;
  const [read, setRead] = useState<number | null>(null);
  const x = scaleBand<number>(
    days.map((_, at) => at),
    [left, width - left],
  ).paddingInner(0.2);
  const dayAt = (event: PointerEvent<Element>): number => {
    const box = event.currentTarget.getBoundingClientRect();
    const at = Math.floor((event.clientX - box.left - left) / x.step());
    return Math.max(0, Math.min(days.length - 1, at));
  };
  const firsts = days.flatMap((day, at) => (day.endsWith('-01') ? [at] : []));
  return (
    <Box onPointerLeave={() => setRead(null)} data-testid="lanes">
      {lanes.map((lane) => (
        <LaneRow
          key={lane.id}
          lane={lane}
          days={days}
          lag={lags[lane.id] ?? 0}
          onLag={(lag) => onLag(lane.id, Math.max(-mostLag, Math.min(mostLag, lag)))}
          read={read}
          onRead={(event) => setRead(dayAt(event))}
          x={x}
          width={width}
        />
      ))}
      <svg width={width} height={16} aria-hidden="true" style={{ display: 'block' }}>
        {firsts.map((at) => (
          <text key={at} x={x(at)} y={12} fontSize={sizes.tiny} fill={roles.soft}>
            {shortDay(days[at]!)}
          </text>
        ))}
        {read !== null && (
          <text
            x={Math.min(width - 44, x(read)!)}
            y={12}
            fontSize={sizes.tiny}
            fontWeight={700}
            fill={roles.ink}
            stroke={roles.panel}
            strokeWidth={4}
            paintOrder="stroke"
          >
            {shortDay(days[read]!)}
          </text>
        )}
      </svg>
    </Box>
  );
}

interface LaneRowProps {
  lane: Lane;
  days: readonly Day[];
  lag: number;
  onLag: (lag: number) => void;
  read: number | null;
  onRead: (event: PointerEvent<Element>) => void;
  x: ReturnType<typeof scaleBand<number>>;
  width: number;
}

function LaneRow({ lane, days, lag, onLag, read, onRead, x, width }: LaneRowProps) {
  const { roles } = useTheme().palette;
  const start = useRef<{ x: number; lag: number } | null>(null);
  const series = shifted(lane.series, lag);
  const known = lane.series.filter((value) => value !== null);
  const most = Math.max(...known, lane.kind === 'rank' ? 2 : 1e-9);
  const y =
    lane.kind === 'rank'
      ? scaleLog([1, most], [5, height - 4])
      : scaleLinear([0, most * 1.05], [height - 1, 4]);
  const value = read === null ? null : (series[read] ?? null);
  const latest = [...series].reverse().find((one) => one !== null) ?? null;
  const points = series.flatMap((one, at) =>
    one === null ? [] : [[x(at)! + x.bandwidth() / 2, y(one), at] as const],
  );
  const path = line<readonly [number, number, number]>(
    ([px]) => px,
    ([, py]) => py,
  );
  // A day that is not told parts the line.
  const runs = points.reduce<(readonly [number, number, number])[][]>((all, point) => {
    const last = all.at(-1);
    if (last && last.at(-1)![2] === point[2] - 1) last.push(point);
    else all.push([point]);
    return all;
  }, []);
  const onKey = (event: KeyboardEvent) => {
    const step = { ArrowLeft: 1, ArrowRight: -1 }[event.key];
    const to = step ? lag + step : event.key === 'Home' ? 0 : null;
    if (to === null) return;
    event.preventDefault();
    onLag(to);
  };
  return (
    <Box
      sx={{ display: 'grid', gridTemplateColumns: `${width}px 1fr`, borderTop: 1, borderColor: 'divider' }}
    >
      <svg
        width={width}
        height={height}
        role="slider"
        tabIndex={0}
        aria-label={lane.name}
        aria-orientation="horizontal"
        aria-valuemin={-mostLag}
        aria-valuemax={mostLag}
        aria-valuenow={lag}
        aria-valuetext={lag === 0 ? 'on its own days' : `its days ${lagText(lag)}`}
        style={{ display: 'block', cursor: 'ew-resize', touchAction: 'none', outlineOffset: -2 }}
        onKeyDown={onKey}
        onPointerDown={(event) => {
          event.currentTarget.setPointerCapture(event.pointerId);
          start.current = { x: event.clientX, lag };
        }}
        onPointerMove={(event) => {
          onRead(event);
          if (event.buttons !== 1 || !start.current) return;
          onLag(start.current.lag - Math.round((event.clientX - start.current.x) / x.step()));
        }}
        onPointerUp={() => (start.current = null)}
      >
        {lane.kind === 'bars'
          ? points.map(([px, py, at]) => {
              const filled = lane.filled ? (lane.filled[at + lag] ?? 0) : null;
              const top = filled === null ? py : y(filled);
              return (
                <g key={at}>
                  {filled !== null && (
                    <rect
                      x={px - x.bandwidth() / 2}
                      width={x.bandwidth()}
                      y={py}
                      height={Math.max(0, y(0) - py)}
                      fill={roles.bar}
                    />
                  )}
                  <rect
                    x={px - x.bandwidth() / 2}
                    width={x.bandwidth()}
                    y={top}
                    height={Math.max(0, y(0) - top)}
                    fill={filled === null ? roles.bar : roles.accent}
                  />
                </g>
              );
            })
          : runs.map((run) =>
              run.length === 1 ? (
                <circle key={run[0]![2]} cx={run[0]![0]} cy={run[0]![1]} r={1.4} fill={roles.ink} />
              ) : (
                <path
                  key={run[0]![2]}
                  d={path(run) ?? ''}
                  fill="none"
                  stroke={roles.ink}
                  strokeWidth={1.4}
                  strokeDasharray={lane.id === 'sponsored' ? '3 2' : undefined}
                />
              ),
            )}
        {read !== null && (
          <line
            x1={x(read)! + x.bandwidth() / 2}
            x2={x(read)! + x.bandwidth() / 2}
            y1={0}
            y2={height}
            stroke={roles.soft}
            strokeWidth={0.75}
          />
        )}
      </svg>
      <Box sx={{ pl: 1.25, py: 0.25, fontSize: sizes.small, lineHeight: 1.3, minWidth: 0 }}>
        <Box sx={{ fontWeight: 600, overflow: 'hidden', textOverflow: 'ellipsis', whiteSpace: 'nowrap' }}>
          {lane.name}
        </Box>
        <Box sx={{ color: 'text.secondary' }} data-lane={lane.id}>
          {value !== null
            ? lane.text(value)
            : read !== null
              ? 'not told'
              : latest === null
                ? ''
                : `last ${lane.text(latest)}`}
          {lag !== 0 && (
            <>
              <br />
              <b>{lagText(lag)}</b>
              {read !== null && days[read + lag] && `: ${shortDay(days[read + lag]!)}`}
            </>
          )}
        </Box>
      </Box>
    </Box>
  );
}
