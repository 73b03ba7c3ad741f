import Box from '@mui/material/Box';
import Typography from '@mui/material/Typography';
import { useTheme } from '@mui/material/styles';
import { area, curveMonotoneX, interpolateRgb, scaleLinear } from 'd3';
import { memo, useId, useRef, type KeyboardEvent, type PointerEvent } from 'react';
import {
  daysOfWeek,
  hourOfWeek,
  hoursOfDay,
  ofWeekday,
  scheduleStep,
  weekdayNames,
  type Schedule,
} from '../../core/account/schedule.ts';
import type { HoursPicture, TimeFigures } from '../../core/hours/picture.ts';
import { money, percent } from '../../core/metrics/format.ts';
import type { Roles } from '../../ui/theme.ts';
import { sizes } from '../../ui/theme.ts';

/** Hours of one weekday, from the first to the last of them. */
export interface Span {
  weekday: number;
  first: number;
  last: number;
}

interface WeekPictureProps {
  picture: HoursPicture;
  targetAcos: number;
  width: number;
  /** The schedule as it is drawn and as it stands; null where none can be drawn. */
  drawn: Schedule | null;
  live: Schedule;
  span: Span;
  onSpan: (span: Span) => void;
  onDraw: (schedule: Schedule) => void;
  /** The stroke has ended. */
  onDone: (schedule: Schedule) => void;
}

const height = 38;
const left = 34;
const right = 46;
/** Multipliers that a line can show, per cent; what is above stands at the top with its number. */
const mostShown = 200;
export const mostPercent = 900;
/** So many pixels up or down are one step. */
const pixelsOfStep = 4;

/**
 * Seven lines, one a weekday, each a day wide: as high as what was spent, tinted by how far a click's expected ACOS stands
 * from the goal, hatched where that is undecided. Over each the schedule as a step line that is dragged up and down: along
 * it takes more hours.
 */
export function WeekPicture(props: WeekPictureProps) {
  const { picture, width } = props;
  const { roles } = useTheme().palette;
  const most = Math.max(1, ...picture.week.map(({ spend }) => spend));
  const x = scaleLinear([0, hoursOfDay], [left, width - right]);
  return (
    <Box data-testid="week-picture">
      {weekdayNames.map((name, weekday) => (
        <DayLine key={name} {...props} weekday={weekday} most={most} roles={roles} />
      ))}
      <svg width={width} height={14} aria-hidden="true" style={{ display: 'block' }}>
        {[0, 6, 12, 18, 24].map((hour) => (
          <text
            key={hour}
            x={x(hour)}
            y={11}
            fontSize={sizes.tiny}
            textAnchor={hour === 0 ? 'start' : hour === 24 ? 'end' : 'middle'}
            fill={roles.soft}
          >
            {hour} h
          </text>
        ))}
      </svg>
      <Typography sx={{ fontSize: sizes.tiny, color: 'text.secondary' }}>
        Height: spend. Tint: expected ACOS under (blue) or over (clay) the goal of {percent(props.targetAcos)}
        , hatched: undecided.{props.drawn && ' Line: the schedule.'}
      </Typography>
    </Box>
  );
}

interface DayLineProps extends WeekPictureProps {
  weekday: number;
  most: number;
  roles: Roles;
}

function DayLine(props: DayLineProps) {
  const { picture, drawn, live, span, width, weekday, roles, onSpan, onDraw, onDone } = props;
  const name = weekdayNames[weekday]!;
  const x = scaleLinear([0, hoursOfDay], [left, width - right]);
  const grab = useRef<{ y: number; hour: number; from: Schedule; last: Schedule; moved: boolean } | null>(
    null,
  );
  const isChosen = span.weekday === weekday;
  const hourAt = (event: PointerEvent<Element>): number => {
    const box = event.currentTarget.getBoundingClientRect();
    return Math.max(0, Math.min(hoursOfDay - 1, Math.floor(x.invert(event.clientX - box.left))));
  };
  const set = (from: Schedule, { first, last }: Pick<Span, 'first' | 'last'>, percent: number): Schedule => {
    const value = Math.max(0, Math.min(mostPercent, percent));
    return [...from].fill(value, hourOfWeek(weekday, first), hourOfWeek(weekday, last) + 1);
  };
  const down = (event: PointerEvent<SVGSVGElement>) => {
    const hour = hourAt(event);
    onSpan({ weekday, first: hour, last: hour });
    event.currentTarget.focus();
    if (!drawn) return;
    event.currentTarget.setPointerCapture(event.pointerId);
    grab.current = { y: event.clientY, hour, from: drawn, last: drawn, moved: false };
  };
  const move = (event: PointerEvent<SVGSVGElement>) => {
    const held = grab.current;
    if (!held) return;
    const hour = hourAt(event);
    const [first, last] = [Math.min(held.hour, hour), Math.max(held.hour, hour)];
    const steps = Math.round((held.y - event.clientY) / pixelsOfStep);
    if (!held.moved && steps === 0 && hour === held.hour) return;
    held.moved = true;
    const start = held.from[hourOfWeek(weekday, held.hour)]!;
    held.last = set(held.from, { first, last }, start + steps * scheduleStep);
    onSpan({ weekday, first, last });
    onDraw(held.last);
  };
  const up = () => {
    if (grab.current?.moved) onDone(grab.current.last);
    grab.current = null;
  };
  const key = (event: KeyboardEvent) => {
    const { first, last } = isChosen ? span : { first: 0, last: hoursOfDay - 1 };
    const within = (hour: number) => Math.max(0, Math.min(hoursOfDay - 1, hour));
    const spans: Record<string, Pick<Span, 'first' | 'last'>> = {
      ArrowLeft: event.shiftKey
        ? { first, last: Math.max(first, last - 1) }
        : { first: within(first - 1), last: within(first - 1) },
      ArrowRight: event.shiftKey
        ? { first, last: within(last + 1) }
        : { first: within(last + 1), last: within(last + 1) },
      Home: { first: 0, last: hoursOfDay - 1 },
      End: { first: 0, last: hoursOfDay - 1 },
    };
    const chosen = spans[event.key];
    const lift = { ArrowUp: scheduleStep, ArrowDown: -scheduleStep }[event.key];
    if (chosen) onSpan({ weekday, ...chosen });
    else if (drawn && (lift !== undefined || event.key === 'Delete')) {
      const to =
        lift === undefined
          ? set(drawn, { first, last }, 0)
          : drawn.map((percent, at) =>
              at >= hourOfWeek(weekday, first) && at <= hourOfWeek(weekday, last)
                ? Math.max(0, Math.min(mostPercent, percent + lift))
                : percent,
            );
      onSpan({ weekday, first, last });
      onDraw(to);
      onDone(to);
    } else return;
    event.preventDefault();
    event.stopPropagation();
  };
  const own = ofWeekday(drawn ?? live, weekday);
  const { first, last } = isChosen ? span : { first: 0, last: hoursOfDay - 1 };
  const chosen = own.slice(first, last + 1);
  const same = chosen.every((one) => one === chosen[0]);
  return (
    <svg
      width={width}
      height={height}
      role={drawn ? 'slider' : 'img'}
      tabIndex={drawn ? 0 : undefined}
      aria-label={`${name}, expected ACOS ${percent(picture.weekdays[weekday]!.acos)}`}
      {...(drawn
        ? {
            'aria-valuemin': 0,
            'aria-valuemax': mostPercent,
            'aria-valuenow': chosen[0]!,
            'aria-valuetext': `${first} to ${last + 1} o’clock: ${same ? `${chosen[0]!} %` : 'several'}`,
            'aria-orientation': 'vertical' as const,
          }
        : {})}
      data-weekday={weekday}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onPointerCancel={up}
      onKeyDown={key}
      onFocus={() => !isChosen && onSpan({ weekday, first: 0, last: hoursOfDay - 1 })}
      style={{
        display: 'block',
        cursor: drawn ? 'ns-resize' : 'default',
        touchAction: 'none',
        userSelect: 'none',
      }}
    >
      <Spent
        day={picture.week.slice(hourOfWeek(weekday, 0), hourOfWeek(weekday + 1, 0))}
        targetAcos={props.targetAcos}
        most={props.most}
        width={width}
        roles={roles}
      />
      <text x={2} y={height - 10} fontSize={sizes.small} fontWeight={isChosen ? 700 : 400} fill={roles.ink}>
        {name.slice(0, 3)}
      </text>
      <Verdict figures={picture.weekdays[weekday]!} roles={roles} x={width - right + 6} />
      {drawn && (
        <Steps
          own={own}
          live={ofWeekday(live, weekday)}
          span={isChosen ? span : null}
          width={width}
          roles={roles}
        />
      )}
    </svg>
  );
}

function Verdict({ figures, roles, x }: { figures: TimeFigures; roles: Roles; x: number }) {
  const { verdict, acos } = figures;
  const fill = verdict === 'over' ? roles.over : verdict === 'under' ? roles.under : roles.soft;
  return (
    <text
      x={x}
      y={height - 10}
      fontSize={sizes.small}
      fontWeight={verdict === 'undecided' ? 400 : 700}
      fill={fill}
    >
      {percent(acos)}
    </text>
  );
}

interface SpentProps {
  day: readonly TimeFigures[];
  targetAcos: number;
  most: number;
  width: number;
  roles: Roles;
}

/** What was spent through a day, tinted: it does not change while a schedule is drawn over it. */
const Spent = memo(function Spent({ day, targetAcos, most, width, roles }: SpentProps) {
  const id = useId();
  const x = scaleLinear([0, hoursOfDay], [left, width - right]);
  const y = scaleLinear([0, most], [height - 1, 4]);
  const points: [hour: number, spend: number][] = [
    [0, day[0]!.spend],
    ...day.map(({ spend }, hour): [number, number] => [hour + 0.5, spend]),
    [hoursOfDay, day[hoursOfDay - 1]!.spend],
  ];
  const path = area<[number, number]>(
    ([hour]) => x(hour),
    y(0),
    ([, spend]) => y(spend),
  ).curve(curveMonotoneX)(points);
  const tint = ({ acos, verdict }: TimeFigures): string => {
    if (acos === null || targetAcos <= 0) return roles.bar;
    const far = Math.log(acos / targetAcos);
    const strength = Math.min(1, Math.abs(far) / Math.LN2) * (verdict === 'undecided' ? 0.45 : 1);
    return interpolateRgb(roles.bar, far > 0 ? roles.over : roles.under)(0.1 + 0.9 * strength);
  };
  return (
    <g>
      <defs>
        <linearGradient id={`${id}tint`} gradientUnits="userSpaceOnUse" x1={x(0)} x2={x(hoursOfDay)}>
          {day.map((one, hour) => (
            <stop key={hour} offset={(hour + 0.5) / hoursOfDay} stopColor={tint(one)} />
          ))}
        </linearGradient>
        <clipPath id={`${id}in`}>
          <path d={path ?? ''} />
        </clipPath>
        <pattern
          id={`${id}hatch`}
          width={5}
          height={5}
          patternUnits="userSpaceOnUse"
          patternTransform="rotate(45)"
        >
          <line x1={0} x2={0} y1={0} y2={5} stroke={roles.surface} strokeWidth={1.6} />
        </pattern>
      </defs>
      <path d={path ?? ''} fill={`url(#${id}tint)`} />
      <g clipPath={`url(#${id}in)`}>
        {day.map(({ verdict, spend }, hour) =>
          verdict === 'undecided' && spend > 0 ? (
            <rect
              key={hour}
              x={x(hour)}
              width={x(1) - x(0)}
              y={0}
              height={height}
              fill={`url(#${id}hatch)`}
            />
          ) : null,
        )}
      </g>
      <line x1={x(0)} x2={x(hoursOfDay)} y1={height - 0.5} y2={height - 0.5} stroke={roles.line} />
      {day.map(({ spend, acos }, hour) => (
        <rect key={hour} x={x(hour)} width={x(1) - x(0)} y={0} height={height} fill="transparent">
          <title>{`${hour} to ${hour + 1}: ${money(spend)} spent, expected ACOS ${percent(acos)}`}</title>
        </rect>
      ))}
    </g>
  );
});

interface StepsProps {
  own: readonly number[];
  live: readonly number[];
  span: Span | null;
  width: number;
  roles: Roles;
}

/** The schedule over a day: as it is drawn, and dotted as it stands where that is another. */
function Steps({ own, live, span, width, roles }: StepsProps) {
  const x = scaleLinear([0, hoursOfDay], [left, width - right]);
  const y = scaleLinear([0, mostShown], [height - 2, 3]).clamp(true);
  const line = (list: readonly number[]) =>
    list.map((value, hour) => `${hour === 0 ? 'M' : 'L'}${x(hour)},${y(value)}H${x(hour + 1)}`).join('');
  const isMoved = own.some((value, hour) => value !== live[hour]);
  const runs = own.flatMap((value, hour) => (hour === 0 || own[hour - 1] !== value ? [{ hour, value }] : []));
  return (
    <g pointerEvents="none">
      <line
        x1={x(0)}
        x2={x(hoursOfDay)}
        y1={y(100)}
        y2={y(100)}
        stroke={roles.graphite}
        strokeWidth={0.5}
        strokeDasharray="2 4"
      />
      {isMoved && <path d={line(live)} fill="none" stroke={roles.ink} strokeDasharray="1 3" />}
      <path d={line(own)} fill="none" stroke={roles.accent} strokeWidth={2} strokeLinejoin="round" />
      {span && (
        <rect
          x={x(span.first)}
          width={x(span.last + 1) - x(span.first)}
          y={1}
          height={height - 2}
          fill={roles.accent}
          fillOpacity={0.1}
          stroke={roles.accent}
          strokeWidth={0.75}
        />
      )}
      {runs
        .filter(({ value }, at) => value !== 100 || (runs.length > 1 && at > 0))
        .map(({ hour, value }) => (
          <text
            key={hour}
            x={x(hour) + 4}
            y={y(value) > 16 ? y(value) - 4 : y(value) + 12}
            fontSize={sizes.tiny}
            fontWeight={700}
            fill={roles.ink}
            stroke={roles.panel}
            strokeWidth={3}
            paintOrder="stroke"
          >
            {value === 0 ? 'off' : `${value} %`}
          </text>
        ))}
    </g>
  );
}

/** The days to which a day is copied. */
export function copied(schedule: Schedule, weekday: number, to: 'all' | 'weekdays' | 'weekend'): Schedule {
  const hours = ofWeekday(schedule, weekday);
  const isIn = (day: number) => to === 'all' || (to === 'weekend') === day > 4;
  return Array.from({ length: daysOfWeek }, (_, day) =>
    isIn(day) ? hours : ofWeekday(schedule, day),
  ).flat();
}
