import { sizes } from '../theme.ts';
import Box from '@mui/material/Box';
import ButtonBase from '@mui/material/ButtonBase';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { max, scaleBand, scaleLinear } from 'd3';
import { useCallback, useMemo, useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import {
  addDays,
  daysBetween,
  windowBefore,
  windowDays,
  windowEnding,
  type Window,
} from '../../core/metrics/days.ts';
import { money } from '../../core/metrics/format.ts';
import { longDay, shortDay } from '../days.ts';
import { setUrl } from '../hooks/useUrlState.ts';
import { useSeason, useWindow } from './data.ts';

const height = 58;
const floor = 40;
export const presets = [7, 14, 30, 60];

const setWindow = (window: Window) => setUrl({ from: window.from, to: window.to });

/** Chooses a window of this many days that ends where the present one does. */
export function choosePreset(days: number, window: Window | null): void {
  if (window) setWindow(windowEnding(window.to, days));
}

type Handle = 'from' | 'to' | 'both';

/** 90 days of daily spend, the one date control: drag the ends, settling days hatched, sent sheets flagged. */
export function SeasonStrip() {
  const season = useSeason();
  const window = useWindow();
  const { roles } = useTheme().palette;
  const [width, setWidth] = useState(760);
  const [dragged, setDragged] = useState<Window | null>(null);
  const start = useRef<{ handle: Handle; x: number; window: Window } | null>(null);

  const observer = useRef<ResizeObserver | null>(null);
  // The strip stands in another box while it loads: whichever box there is is measured.
  const box = useCallback((node: HTMLDivElement | null) => {
    observer.current?.disconnect();
    observer.current =
      node && new ResizeObserver(([entry]) => setWidth(Math.max(300, entry!.contentRect.width)));
    if (node) observer.current!.observe(node);
  }, []);

  const data = season.data;
  const today = data?.account.today ?? null;
  const days = useMemo(() => {
    if (!today) return [];
    const first = addDays(today, -89);
    const byDay = new Map(data!.days.map((d) => [d.day, d]));
    return Array.from({ length: 90 }, (_, i) => {
      const day = addDays(first, i);
      return { day, spend: byDay.get(day)?.spend ?? 0, orders: byDay.get(day)?.orders ?? 0 };
    });
  }, [data, today]);

  if (!data || !today || !window) {
    return (
      <Box ref={box} sx={{ flex: 1, alignSelf: 'center', px: 2 }}>
        <Typography variant="body2" color="text.secondary">
          {season.isError ? season.error.message : data ? 'No figures yet.' : 'Loading the season.'}
        </Typography>
      </Box>
    );
  }

  const shown = dragged ?? window;
  const first = days[0]!.day;
  const x = scaleBand(
    days.map((d) => d.day),
    [0, width],
  ).paddingInner(0.28);
  const y = scaleLinear([0, max(days, (d) => d.spend) || 1], [floor, 10]);
  const clampDay = (day: string) => (day < first ? first : day > today ? today : day);
  const at = (day: string) => x(clampDay(day)) ?? 0;
  const before = windowBefore(shown);
  const step = width / 90;

  const moved = (handle: Handle, by: number, from: Window): Window => {
    if (handle === 'both') {
      const shift = Math.max(daysBetween(from.from, first), Math.min(by, daysBetween(from.to, today)));
      return { from: addDays(from.from, shift), to: addDays(from.to, shift) };
    }
    if (handle === 'from') {
      const day = clampDay(addDays(from.from, by));
      return { from: day > from.to ? from.to : day, to: from.to };
    }
    const day = clampDay(addDays(from.to, by));
    return { from: from.from, to: day < from.from ? from.from : day };
  };
  const onDown = (handle: Handle) => (event: PointerEvent<SVGElement>) => {
    event.currentTarget.setPointerCapture(event.pointerId);
    start.current = { handle, x: event.clientX, window };
  };
  const onMove = (event: PointerEvent<SVGElement>) => {
    const from = start.current;
    if (from) setDragged(moved(from.handle, Math.round((event.clientX - from.x) / step), from.window));
  };
  const onUp = () => {
    if (dragged) setWindow(dragged);
    start.current = null;
    setDragged(null);
  };
  const onKey = (handle: Handle) => (event: KeyboardEvent) => {
    const by = event.key === 'ArrowLeft' ? -1 : event.key === 'ArrowRight' ? 1 : 0;
    if (by === 0) return;
    event.preventDefault();
    setWindow(moved(handle, event.shiftKey ? by * 7 : by, window));
  };
  const left = at(shown.from);
  const right = at(shown.to) + x.bandwidth();
  const end = (handle: 'from' | 'to') => {
    const day = shown[handle];
    const place = handle === 'from' ? left : right;
    return (
      <g
        role="slider"
        tabIndex={0}
        aria-label={handle === 'from' ? 'First day of the window' : 'Last day of the window'}
        aria-valuemin={0}
        aria-valuemax={89}
        aria-valuenow={daysBetween(first, day)}
        aria-valuetext={longDay(day)}
        onKeyDown={onKey(handle)}
        onPointerDown={onDown(handle)}
        onPointerMove={onMove}
        onPointerUp={onUp}
        style={{ cursor: 'ew-resize', touchAction: 'none' }}
      >
        <rect x={place - 7} y={0} width={14} height={floor + 4} fill="transparent" />
        <line x1={place} x2={place} y1={4} y2={floor} stroke={roles.accent} strokeWidth={1.5} />
        <rect x={place - 3} y={floor / 2 - 5} width={6} height={14} rx={2} fill={roles.accent} />
      </g>
    );
  };

  return (
    <>
      <Box ref={box} sx={{ flex: 1, minWidth: 0, alignSelf: 'center', overflowX: 'clip' }}>
        <svg width={width} height={height} role="group" aria-label="Season: daily spend over 90 days">
          <defs>
            <pattern
              id="settling"
              width="4"
              height="4"
              patternUnits="userSpaceOnUse"
              patternTransform="rotate(45)"
            >
              <line x1="0" y1="0" x2="0" y2="4" stroke={roles.bar} strokeWidth="2" />
            </pattern>
          </defs>
          <rect
            x={left}
            y={2}
            width={Math.max(0, right - left)}
            height={floor - 2}
            fill={roles.wash}
            onPointerDown={onDown('both')}
            onPointerMove={onMove}
            onPointerUp={onUp}
            style={{ cursor: 'grab', touchAction: 'none' }}
          />
          {days.map((d) => {
            const settling = data.settledTo !== null && d.day > data.settledTo;
            const inside = d.day >= shown.from && d.day <= shown.to;
            return (
              <rect
                key={d.day}
                x={x(d.day)}
                y={y(d.spend)}
                width={x.bandwidth()}
                height={floor - y(d.spend)}
                fill={settling ? 'url(#settling)' : inside ? roles.accent : roles.bar}
                pointerEvents="none"
              >
                <title>{`${longDay(d.day)}: spend ${money(d.spend)}, ${d.orders} orders${settling ? ', settling' : ''}`}</title>
              </rect>
            );
          })}
          {before.to >= first && (
            <path
              d={`M${at(before.from)},${floor + 1} V${floor + 4} H${at(before.to) + x.bandwidth()} V${floor + 1}`}
              fill="none"
              stroke={roles.soft}
              strokeDasharray="2 2"
              opacity={0.7}
            />
          )}
          {data.notes.map(({ day, toDay, body }, index) => {
            const from = day < first ? first : day;
            const middle = at(from) + x.bandwidth() / 2;
            return (
              // A note is a slip on its day, with a line over the days that it lasted.
              <g key={`${day} ${index}`} data-note="">
                {toDay > from && (
                  <line
                    x1={middle}
                    x2={at(toDay) + x.bandwidth() / 2}
                    y1={4}
                    y2={4}
                    stroke={roles.accent}
                    strokeWidth={2}
                  />
                )}
                <path
                  d={`M${middle - 4},1h8v7l-4,4l-4,-4z`}
                  fill={roles.surface}
                  stroke={roles.accent}
                  strokeWidth={1.4}
                />
                <title>{`${longDay(day)}${toDay > day ? ` to ${longDay(toDay)}` : ''}: ${body}`}</title>
              </g>
            );
          })}
          {data.trials
            .filter(({ to }) => to >= first)
            .map(({ name, from, to }, index) => {
              const last = days.at(-1)!.day;
              const begins = at(from < first ? first : from > last ? last : from);
              const ends = at(to > last ? last : to) + x.bandwidth();
              return (
                // A trial is a bar over its days, one below the other.
                <g key={`${name} ${from}`} data-trial="">
                  <line
                    x1={begins}
                    x2={Math.max(begins + 2, ends)}
                    y1={15 + (index % 3) * 4}
                    y2={15 + (index % 3) * 4}
                    stroke={roles.over}
                    strokeWidth={2.5}
                  />
                  <title>{`Trial “${name}”: ${longDay(from)} to ${longDay(to)}`}</title>
                </g>
              );
            })}
          {data.sent
            .filter(({ day }) => day >= first)
            .map(({ day, lines }) => (
              <g key={day}>
                <path
                  d={`M${at(day) + x.bandwidth() / 2},14 V1 l8,3.5 l-8,3.5`}
                  fill={roles.ink}
                  stroke={roles.ink}
                />
                <title>{`${longDay(day)}: ${lines} lines sent`}</title>
              </g>
            ))}
          {days
            .filter((_, i) => i % 18 === 4)
            .map((d) => (
              <text key={d.day} x={at(d.day)} y={height - 3} fontSize={sizes.tiny} fill={roles.soft}>
                {shortDay(d.day)}
              </text>
            ))}
          {end('from')}
          {end('to')}
        </svg>
      </Box>
      <Box sx={{ width: 208, flexShrink: 0, pl: 2, alignSelf: 'center' }}>
        <Typography variant="body2" noWrap>
          <b data-testid="window">{`${shortDay(shown.from)} – ${shortDay(shown.to)}`}</b>
          {`, ${windowDays(shown)} days`}
        </Typography>
        <Box role="group" aria-label="Window presets" sx={{ display: 'flex', gap: 1.5 }}>
          {presets.map((preset, i) => {
            const chosen = windowDays(shown) === preset;
            return (
              <ButtonBase
                key={preset}
                aria-pressed={chosen}
                aria-label={`${preset} days (key ${i + 1})`}
                onClick={() => choosePreset(preset, window)}
                sx={{
                  typography: 'body2',
                  px: 0.5,
                  minHeight: 24,
                  fontWeight: chosen ? 700 : 400,
                  borderBottom: 2,
                  borderColor: chosen ? 'primary.main' : 'transparent',
                }}
              >
                {preset}
              </ButtonBase>
            );
          })}
          {data.settledTo !== null && shown.to > data.settledTo && (
            <Typography variant="caption" color="text.secondary" sx={{ alignSelf: 'center' }}>
              settling days left out
            </Typography>
          )}
        </Box>
      </Box>
    </>
  );
}
