import type { LaneMapAnswer, MapLane } from '../../answers/lanes.ts';
import { sizes } from '../../ui/theme.ts';
import { styled, useTheme, type Theme } from '@mui/material/styles';
import { linkHorizontal, max, pointer, scaleSqrt } from 'd3';
import { useRef, useState, type PointerEvent } from 'react';
import { count, counted, money, percent } from '../../core/metrics/format.ts';
import { acos } from '../../core/metrics/figures.ts';
import { layOutMap, nameOf, nodeHeight, type MapLayout, type Node } from './layout.ts';
import { laneKey } from './useLanes.ts';

interface LaneMapProps {
  answer: LaneMapAnswer;
  /** Only the ad groups of this product; '' for all. */
  sku: string;
  width: number;
  chosen: string | null;
  onChoose: (key: string) => void;
  /** A lane was drawn from one ad group to another. */
  onDraw: (source: string, destination: string) => void;
}

interface Drag {
  source: Node;
  x: number;
  y: number;
}

type State = 'isolated' | 'leaking' | 'broken';

export const stateOf = ({ problem, flow }: MapLane): State =>
  problem ? 'broken' : flow.leaks > 0 ? 'leaking' : 'isolated';

const laneColor = (state: State, { palette: { roles } }: Theme): string =>
  state === 'leaking' ? roles.over : state === 'broken' ? roles.graphite : roles.accent;

/** Where each lane leaves and arrives: lanes at one ad group lie beside each other. */
function endsOf(lanes: readonly MapLane[], layout: MapLayout, thick: (lane: MapLane) => number) {
  const used = new Map<string, number>();
  const total = new Map<string, number>();
  const add = (map: Map<string, number>, key: string, by: number) => {
    const before = map.get(key) ?? 0;
    map.set(key, before + by);
    return before;
  };
  for (const lane of lanes) {
    add(total, `out ${lane.source}`, thick(lane) + 3);
    add(total, `in ${lane.destination}`, thick(lane) + 3);
  }
  const place = (key: string, node: Node, lane: MapLane) => {
    const before = add(used, key, thick(lane) + 3);
    const room = Math.min(nodeHeight - 6, total.get(key)!);
    return node.y + nodeHeight / 2 + ((before + (thick(lane) + 3) / 2) / total.get(key)! - 0.5) * room;
  };
  return lanes.map((lane) => {
    const from = layout.nodes.get(lane.source)!;
    const to = layout.nodes.get(lane.destination)!;
    return {
      lane,
      source: [from.x + layout.nodeWidth, place(`out ${lane.source}`, from, lane)] as [number, number],
      target: [to.x, place(`in ${lane.destination}`, to, lane)] as [number, number],
    };
  });
}

const Drawing = styled('svg')(({ theme: { palette } }) => ({
  display: 'block',
  userSelect: 'none',
  // A box around a curve says little: the lane in focus is edged along its way.
  '& .lane:focus-visible > path:nth-of-type(2)': {
    filter: `drop-shadow(0 0 1px ${palette.roles.ink}) drop-shadow(0 0 1px ${palette.roles.ink})`,
    opacity: 1,
  },
}));

const curve = linkHorizontal<
  unknown,
  { source: [number, number]; target: [number, number] },
  [number, number]
>()
  .x(([x]) => x)
  .y(([, y]) => y);

/** Research left, what it leads to right: a lane is as wide as the orders that went down it. */
export function LaneMap({ answer, sku, width, chosen, onChoose, onDraw }: LaneMapProps) {
  const theme = useTheme();
  const { roles } = theme.palette;
  const [drawing, setDrawing] = useState<Drag | null>(null);
  const svg = useRef<SVGSVGElement>(null);
  const adGroups = answer.adGroups.filter((one) => sku === '' || one.sku === sku);
  const layout = layOutMap(adGroups, answer.lanes, answer.products, width);
  const lanes = answer.lanes.filter(
    (lane) => layout.nodes.has(lane.source) && layout.nodes.has(lane.destination),
  );
  const thickness = scaleSqrt([0, Math.max(4, max(lanes, ({ flow }) => flow.orders) ?? 0)], [2, 14]);
  const served = new Set(answer.lanes.map(({ source }) => source));
  const nodeAt = ([x, y]: [number, number]): Node | undefined =>
    [...layout.nodes.values()].find(
      (node) => x >= node.x && x <= node.x + layout.nodeWidth && y >= node.y && y <= node.y + nodeHeight,
    );
  const onMove = (event: PointerEvent) => {
    if (!drawing) return;
    const [x, y] = pointer(event, svg.current);
    setDrawing({ ...drawing, x, y });
  };
  const onUp = (event: PointerEvent) => {
    if (!drawing) return;
    const end = nodeAt(pointer(event, svg.current));
    setDrawing(null);
    if (end && end !== drawing.source) onDraw(drawing.source.adGroup.id, end.adGroup.id);
  };
  return (
    <Drawing
      ref={svg}
      width={width}
      height={Math.max(60, layout.height)}
      role="group"
      aria-label="Map of the lanes"
      onPointerMove={onMove}
      onPointerUp={onUp}
      onPointerLeave={() => setDrawing(null)}
      style={{ touchAction: drawing ? 'none' : 'auto' }}
    >
      {layout.blocks.map(({ sku: one, y }) => (
        <g key={one ?? ''}>
          <text x={1} y={y + 17} fill={roles.ink} fontSize={sizes.table} fontWeight={700}>
            {nameOf(one, answer.products)}
          </text>
          <line x1={0} x2={width} y1={y + 23} y2={y + 23} stroke={roles.line} />
        </g>
      ))}
      {endsOf(lanes, layout, ({ flow }) => thickness(flow.orders)).map(({ lane, source, target }) => {
        const key = laneKey(lane);
        const state = stateOf(lane);
        const color = laneColor(state, theme);
        const [from, to] = [layout.nodes.get(lane.source)!, layout.nodes.get(lane.destination)!];
        const path = curve({ source, target }) ?? '';
        return (
          <g
            key={key}
            role="button"
            tabIndex={0}
            aria-pressed={key === chosen}
            aria-label={`Lane for ${lane.kind}s from ${from.adGroup.name} to ${to.adGroup.name}: ${orders(lane.flow.orders)}, ${state}`}
            data-lane={key}
            onClick={() => onChoose(key)}
            onKeyDown={(event) => (event.key === 'Enter' || event.key === ' ') && onChoose(key)}
            className="lane"
            style={{ cursor: 'pointer', outline: 'none' }}
          >
            <path
              d={path}
              fill="none"
              stroke="transparent"
              strokeWidth={Math.max(14, thickness(lane.flow.orders))}
            />
            <path
              d={path}
              fill="none"
              stroke={color}
              strokeWidth={thickness(lane.flow.orders)}
              strokeDasharray={state === 'broken' ? '2 4' : undefined}
              opacity={chosen === null || key === chosen ? 0.8 : 0.3}
            />
            {state === 'leaking' && (
              <path
                d={path}
                fill="none"
                stroke={roles.ground}
                strokeWidth={Math.max(1, thickness(lane.flow.orders) / 4)}
                strokeDasharray="7 6"
              />
            )}
            {lane.flow.orders > 0 && (
              <text
                x={source[0] + 8}
                y={source[1] + 3.5}
                fontSize={sizes.tiny}
                fontWeight={600}
                fill={roles.ink}
                stroke={roles.ground}
                strokeWidth={3}
                paintOrder="stroke"
              >
                {count(lane.flow.orders)}
              </text>
            )}
          </g>
        );
      })}
      {[...layout.nodes.values()].map((node) => {
        const { adGroup } = node;
        const lonely = adGroup.research && adGroup.enabled && !served.has(adGroup.id);
        const about = lonely
          ? `no lane · ${orders(adGroup.sums.orders)}`
          : `${money(adGroup.sums.spend)} · ${orders(adGroup.sums.orders)} · ${percent(acos(adGroup.sums))}`;
        return (
          <g
            key={adGroup.id}
            data-ad-group={adGroup.id}
            transform={`translate(${node.x},${node.y})`}
            onPointerDown={(event) => {
              event.preventDefault();
              const [x, y] = pointer(event, svg.current);
              setDrawing({ source: node, x, y });
            }}
            style={{ cursor: 'crosshair' }}
          >
            <title>{`${adGroup.campaign}, ${adGroup.name}: drag to where its winners should go`}</title>
            <rect
              width={layout.nodeWidth}
              height={nodeHeight}
              rx={4}
              fill={roles.surface}
              stroke={lonely ? roles.over : roles.line}
              strokeWidth={lonely ? 2 : 1}
              strokeDasharray={lonely ? '5 3' : undefined}
            />
            <text
              x={9}
              y={16}
              fontSize={sizes.small}
              fontWeight={600}
              fill={adGroup.enabled ? roles.ink : roles.soft}
            >
              {clipped(adGroup.name, layout.nodeWidth - 18, 6.7)}
            </text>
            <text x={9} y={31} fontSize={sizes.tiny} fill={lonely ? roles.over : roles.soft}>
              {clipped(
                adGroup.archived ? 'archived' : adGroup.enabled ? about : `paused · ${about}`,
                layout.nodeWidth - 18,
                5.7,
              )}
            </text>
          </g>
        );
      })}
      {drawing && (
        <path
          d={
            curve({
              source: [drawing.source.x + layout.nodeWidth, drawing.source.y + nodeHeight / 2],
              target: [drawing.x, drawing.y],
            }) ?? ''
          }
          fill="none"
          stroke={roles.accent}
          strokeWidth={3}
          strokeDasharray="4 3"
          pointerEvents="none"
        />
      )}
    </Drawing>
  );
}

const orders = (n: number): string => counted(n, 'order');

/** A text cut to a width in pixels; `em` is what a letter takes on average. */
const clipped = (text: string, width: number, em: number): string =>
  text.length * em <= width ? text : `${text.slice(0, Math.max(1, Math.floor(width / em) - 1))}…`;
