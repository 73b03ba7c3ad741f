import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import { useTheme } from '@mui/material/styles';
import { scaleLinear } from 'd3';
import { useRef, useState, type KeyboardEvent, type PointerEvent } from 'react';
import { ladderProblems, usualLadder, type Band, type Ladder } from '../../core/bids/ladder.ts';
import { percent, significant } from '../../core/metrics/format.ts';
import { micros, units } from '../../core/metrics/money.ts';
import { Choice } from '../../ui/parts/fields.tsx';
import { sizes } from '../../ui/theme.ts';
import { NumberField } from '../../ui/parts/NumberField.tsx';

interface LadderEditorProps {
  ladder: Ladder;
  targetAcos: number;
  isOwn: boolean;
  /** Null: the wider scope's again. */
  onSave: (ladder: Ladder | null) => void;
}

const size = { width: 324, height: 132, left: 40, right: 8, top: 8, bottom: 22 };
const round = (value: number, step: number) => Math.round(value / step) * step;

/** A ladder as a picture: steps over ACOS as multiples of the goal, dragged, moved by arrow keys, or typed below. */
export function LadderEditor({ ladder, targetAcos, isOwn, onSave }: LadderEditorProps) {
  const { palette } = useTheme();
  const svg = useRef<SVGSVGElement>(null);
  const [draft, setDraft] = useState<Ladder | null>(null);
  const shown = draft ?? ladder;
  const { bands, noSales } = shown;
  const [problem] = draft ? ladderProblems(draft) : [];
  const far = Math.max(4, bands.at(-1)!.above * 1.3);
  const [low, high] = [Math.min(-0.25, ...bands.map(({ step }) => step)), Math.max(0.15, bands[0]!.step)];
  const x = scaleLinear([0, far], [size.left, size.width - size.right]);
  const y = scaleLinear([low, high], [size.height - size.bottom, size.top]).nice();
  const change = (at: number, band: Partial<Band>): Ladder => ({
    ...shown,
    bands: bands.map((one, i) => (i === at ? { ...one, ...band } : one)),
  });
  /** Keeps what can be kept; what cannot is said, and stays to be mended. */
  const keep = (next: Ladder) => {
    if (ladderProblems(next).length > 0) return setDraft(next);
    setDraft(null);
    onSave(next);
  };
  const drag = (at: number) => (event: PointerEvent<SVGElement>) => {
    const handle = event.currentTarget;
    handle.setPointerCapture(event.pointerId);
    const box = svg.current!.getBoundingClientRect();
    let last = shown;
    const move = (moved: globalThis.PointerEvent) => {
      const above = at === 0 ? 0 : Math.max(0.05, round(x.invert(moved.clientX - box.left), 0.05));
      const step = round(y.invert(moved.clientY - box.top), 0.01);
      last = {
        ...shown,
        bands: bands.map((one, i) => (i === at ? { ...one, above, step } : one)),
      };
      setDraft(last);
    };
    const up = () => {
      handle.removeEventListener('pointermove', move);
      if (last !== shown) keep(last);
    };
    handle.addEventListener('pointermove', move);
    handle.addEventListener('pointerup', up, { once: true });
  };
  const press = (at: number) => (event: KeyboardEvent) => {
    const { above, step } = bands[at]!;
    const moves: Record<string, Partial<Band>> = {
      ArrowUp: { step: round(step + 0.01, 0.01) },
      ArrowDown: { step: round(step - 0.01, 0.01) },
      ...(at > 0 && {
        ArrowLeft: { above: round(above - 0.05, 0.05) },
        ArrowRight: { above: round(above + 0.05, 0.05) },
      }),
    };
    const move = moves[event.key];
    if (!move) return;
    event.preventDefault();
    keep(change(at, move));
  };
  const stepSaid = ({ above, step }: Band) =>
    `from ${significant(above)} × the goal ${step === 0 ? 'nothing' : `${step > 0 ? '+' : '−'}${percent(Math.abs(step))}`}`;
  return (
    <Box sx={{ mt: 0.5 }}>
      <svg
        ref={svg}
        width={size.width}
        height={size.height}
        role="group"
        aria-label={`The ladder: ${bands.map(stepSaid).join(', ')}`}
        style={{ touchAction: 'none', display: 'block' }}
      >
        <line x1={size.left} x2={size.width - size.right} y1={y(0)} y2={y(0)} stroke={palette.divider} />
        {y.ticks(4).map((tick) => (
          <text
            key={tick}
            x={size.left - 6}
            y={y(tick)}
            dy="0.32em"
            textAnchor="end"
            fontSize={sizes.tiny}
            fill={palette.roles.soft}
          >
            {percent(tick)}
          </text>
        ))}
        {x.ticks(4).map((tick) => (
          <text
            key={tick}
            x={x(tick)}
            y={size.height - 6}
            textAnchor="middle"
            fontSize={sizes.tiny}
            fill={palette.roles.soft}
          >
            {tick} ×
          </text>
        ))}
        <line
          x1={x(1)}
          x2={x(1)}
          y1={size.top}
          y2={size.height - size.bottom}
          stroke={palette.roles.ink}
          strokeDasharray="2 2"
        >
          <title>{`The goal: ${percent(targetAcos)}`}</title>
        </line>
        {bands.map((band, at) => {
          const to = bands[at + 1]?.above ?? far;
          const role =
            band.step > 0 ? palette.roles.under : band.step < 0 ? palette.roles.over : palette.roles.graphite;
          return (
            <g key={at}>
              {at > 0 && (
                <line
                  x1={x(band.above)}
                  x2={x(band.above)}
                  y1={y(bands[at - 1]!.step)}
                  y2={y(band.step)}
                  stroke={palette.roles.graphite}
                />
              )}
              <line
                x1={x(band.above)}
                x2={x(to)}
                y1={y(band.step)}
                y2={y(band.step)}
                stroke={role}
                strokeWidth={3}
              />
              <circle
                cx={at === 0 ? x(to / 2) : x(band.above)}
                cy={y(band.step)}
                r={6}
                fill={palette.background.paper}
                stroke={role}
                strokeWidth={2}
                tabIndex={0}
                role="slider"
                aria-label={`Step ${at + 1}: ${stepSaid(band)}`}
                aria-valuenow={Math.round(band.step * 100)}
                aria-valuemin={-99}
                aria-valuemax={200}
                aria-valuetext={stepSaid(band)}
                onPointerDown={drag(at)}
                onKeyDown={press(at)}
                style={{ cursor: at === 0 ? 'ns-resize' : 'move' }}
              />
            </g>
          );
        })}
      </svg>
      <Box
        sx={{
          display: 'grid',
          gridTemplateColumns: '104px 78px 1fr 24px',
          rowGap: 0.25,
          alignItems: 'center',
        }}
      >
        {bands.map((band, at) => (
          <Box key={at} sx={{ display: 'contents' }}>
            {at === 0 ? (
              <span>from 0 ×</span>
            ) : (
              <span>
                from{' '}
                <NumberField
                  label={`Step ${at + 1} from how many times the goal`}
                  value={band.above}
                  digits={2}
                  width={46}
                  suffix="×"
                  onCommit={(above) => above !== null && keep(change(at, { above }))}
                />
              </span>
            )}
            <NumberField
              label={`Step ${at + 1}, per cent`}
              value={band.step * 100}
              digits={0}
              width={44}
              suffix="%"
              least={-99}
              onCommit={(step) => step !== null && keep(change(at, { step: step / 100 }))}
            />
            <span>
              from{' '}
              <NumberField
                label={`Orders that step ${at + 1} needs`}
                value={band.orders}
                digits={0}
                width={24}
                least={0}
                suffix="orders"
                onCommit={(orders) => orders !== null && keep(change(at, { orders }))}
              />
            </span>
            {at > 0 ? (
              <Button
                size="small"
                aria-label={`Remove step ${at + 1}`}
                sx={{ minWidth: 0, p: 0 }}
                onClick={() => keep({ ...shown, bands: bands.filter((_, i) => i !== at) })}
              >
                ×
              </Button>
            ) : (
              <span />
            )}
          </Box>
        ))}
      </Box>
      <Box sx={{ mt: 0.5 }}>
        Without an order, from{' '}
        <NumberField
          label="Clicks without an order"
          value={noSales.clicks}
          placeholder="2.3 ÷ µ"
          digits={0}
          width={60}
          suffix="clicks"
          least={1}
          onCommit={(clicks) => keep({ ...shown, noSales: { ...noSales, clicks } })}
        />{' '}
        or{' '}
        <NumberField
          label="Spend without an order"
          value={noSales.spend === null ? null : units(noSales.spend)}
          placeholder="any"
          digits={2}
          width={44}
          suffix="spent"
          onCommit={(spend) =>
            keep({ ...shown, noSales: { ...noSales, spend: spend === null ? null : micros(spend) } })
          }
        />
        :{' '}
        <Choice
          aria-label="What is done without an order"
          value={noSales.step === 'rest' ? 'rest' : String(Math.round(noSales.step * 100))}
          onChange={({ target }) =>
            keep({
              ...shown,
              noSales: { ...noSales, step: target.value === 'rest' ? 'rest' : Number(target.value) / 100 },
            })
          }
        >
          {noSales.step !== 'rest' && ![-20, -30, -40, -50].includes(Math.round(noSales.step * 100)) && (
            <option value={String(Math.round(noSales.step * 100))}>{percent(noSales.step)}</option>
          )}
          {[-20, -30, -40, -50].map((step) => (
            <option key={step} value={String(step)}>
              −{-step} %
            </option>
          ))}
          <option value="rest">rest at the floor</option>
        </Choice>
      </Box>
      {problem !== undefined && (
        <Box role="alert" sx={{ color: 'error.main' }}>
          {problem} It is not kept.
        </Box>
      )}
      <Box sx={{ display: 'flex', gap: 1 }}>
        <Button
          size="small"
          onClick={() => {
            const last = bands.at(-1)!;
            keep({
              ...shown,
              bands: [
                ...bands,
                { above: last.above + 1, step: Math.max(-0.99, last.step - 0.05), orders: 0 },
              ],
            });
          }}
        >
          Add a step
        </Button>
        {draft !== null && (
          <Button size="small" onClick={() => setDraft(null)}>
            As it was
          </Button>
        )}
        {isOwn ? (
          <Button size="small" onClick={() => onSave(null)}>
            Not its own
          </Button>
        ) : (
          <Button size="small" onClick={() => onSave(usualLadder)}>
            The usual one
          </Button>
        )}
      </Box>
    </Box>
  );
}
