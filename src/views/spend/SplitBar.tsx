import { useTheme } from '@mui/material/styles';
import { scaleLinear, scaleSqrt } from 'd3';
import { memo, useMemo, useRef, type PointerEvent } from 'react';
import type { SplitMember } from '../../core/budgets/split.ts';
import { money, significant } from '../../core/metrics/format.ts';
import type { Micros } from '../../core/metrics/money.ts';

interface SplitBarProps {
  member: SplitMember;
  now: Micros;
  budget: Micros;
  /** Somebody holds it where it is. */
  isSet: boolean;
  name: string;
  /** Of the page: the same budget stands at the same place, and as much sold is as high, everywhere. */
  mostBudget: Micros;
  mostSold: number;
  width: number;
  onDrag: (budget: Micros) => void;
}

const height = 34;
const edge = 6;

/** Where money stands in the picture: small budgets are told apart, large ones still fit. */
const scaleOf = (most: Micros, width: number) => scaleSqrt([0, most], [edge, width - edge]);

/**
 * What each further unit of a campaign's budget sells, as steps that fall: filled up to its budget. A tick stands at the
 * present budget, the handle at the one that is split, to be dragged or moved by arrows.
 */
export const SplitBar = memo(function SplitBar(props: SplitBarProps) {
  const { member, now, budget, isSet, name, mostBudget, mostSold, width, onDrag } = props;
  const { roles } = useTheme().palette;
  const svg = useRef<SVGSVGElement>(null);
  const x = scaleOf(mostBudget, width);
  const y = scaleLinear([0, mostSold], [height - 5, 4]).clamp(true);
  const steps = useMemo(() => {
    const days = [...member.full].sort((a, b) => a - b);
    return days.map((day, at) => ({
      from: at === 0 ? 0 : days[at - 1]!,
      to: day,
      sells: (member.roas * (days.length - at)) / days.length,
    }));
  }, [member]);
  const outline = (end: Micros): string => {
    let path = `M${x(0)},${y(0)}`;
    for (const { from, to, sells } of steps) {
      if (from >= end) break;
      path += `L${x(from)},${y(sells)}L${x(Math.min(to, end))},${y(sells)}`;
    }
    return `${path}L${x(Math.min(end, steps.at(-1)?.to ?? 0))},${y(0)}Z`;
  };
  const place = (event: PointerEvent): Micros => {
    const box = svg.current!.getBoundingClientRect();
    return Math.max(0, Math.round(x.invert(event.clientX - box.left) / 10_000) * 10_000);
  };
  const at = Math.min(width - edge, x(budget));
  return (
    <svg
      ref={svg}
      width={width}
      height={height}
      role="slider"
      aria-label={`Budget of ${name}`}
      aria-valuemin={0}
      aria-valuemax={Math.round(mostBudget / 10_000) / 100}
      aria-valuenow={budget / 1e6}
      aria-valuetext={`${money(budget)} a day, was ${money(now)}`}
      style={{ display: 'block', cursor: 'ew-resize', touchAction: 'none' }}
      onPointerDown={(event) => {
        event.preventDefault();
        event.currentTarget.setPointerCapture(event.pointerId);
        onDrag(place(event));
      }}
      onPointerMove={(event) => {
        if (event.buttons === 1) onDrag(place(event));
      }}
    >
      <title>{`${significant(member.roas)} sold a unit on a day that spends it`}</title>
      <line x1={edge} x2={width - edge} y1={y(0)} y2={y(0)} stroke={roles.line} />
      <path d={outline(Infinity)} fill={roles.bar} opacity={0.45} />
      <path d={outline(budget)} fill={roles.accent} opacity={0.55} />
      <line x1={x(now)} x2={x(now)} y1={3} y2={height - 2} stroke={roles.ink} strokeDasharray="2 2" />
      <line x1={at} x2={at} y1={1} y2={height - 2} stroke={roles.ink} strokeWidth={1.5} />
      <rect
        x={at - 4}
        y={height / 2 - 7}
        width={8}
        height={14}
        rx={2}
        fill={isSet ? roles.ink : roles.surface}
        stroke={roles.ink}
      />
    </svg>
  );
});
