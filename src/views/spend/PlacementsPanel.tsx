import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import { useState } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import type { Window } from '../../core/metrics/days.ts';
import { acos, cvr } from '../../core/metrics/figures.ts';
import { count, counted, money, percent } from '../../core/metrics/format.ts';
import { normalised, unusual, unusualFactor } from '../../core/placements/effective.ts';
import { sentenceOfPlacements, workingOfPlacements } from '../../core/placements/explain.ts';
import { type PlacedRow } from '../../core/placements/findings.ts';
import type { StreamName } from '../../core/placements/streams.ts';
import { placementName, strategyName } from '../../core/placements/names.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { NumberField } from '../../ui/parts/NumberField.tsx';
import { Panel, Part } from '../../ui/parts/Panel.tsx';
import { Working } from '../../ui/parts/Working.tsx';
import { smallTable } from '../../ui/parts/smallTable.ts';
import { sizes } from '../../ui/theme.ts';
import { FactorMark } from './OverallTable.tsx';

interface PlacementsPanelProps {
  row: PlacedRow;
  /** What of it is on the sheet already, in words. */
  state: string | null;
  window: Window;
  maximumModifier: number;
}

/** Factors on bids by stream; 1 where none is told. */
type Betas = Partial<Record<StreamName, number>>;

/** Why a campaign's modifiers and bids should move, what it has in each placement, and how it is set by hand. */
export function PlacementsPanel({ row, state, window, maximumModifier }: PlacementsPanelProps) {
  const { putLines } = useAct();
  const live = Object.fromEntries(row.placements.map(({ placement, modifier }) => [placement, modifier]));
  const [modifiers, setModifiers] = useState(live);
  const [betas, setBetas] = useState<Betas>({});
  const [isMeant, setIsMeant] = useState(false);
  const { placements, proposal, isFinding, strategy, scheduled, streams } = row;
  const changes = placements.map(({ placement, modifier, stream }) => ({
    placement,
    stream,
    from: modifier,
    to: modifiers[placement]!,
  }));
  const asked = changes.flatMap((one) => unusual([one], strategy, betas[one.stream], scheduled));
  const tooHigh = changes.filter(({ to }) => to > maximumModifier);
  const bids = streams.flatMap(({ name }) =>
    betas[name] === undefined ? [] : [{ stream: name, beta: betas[name] }],
  );
  const isChanged = bids.some(({ beta }) => beta !== 1) || changes.some(({ from, to }) => from !== to);
  const set = (next: { betas: Betas; modifiers: Record<string, number> }) => {
    setModifiers(next.modifiers);
    setBetas(next.betas);
    setIsMeant(false);
  };
  const parts = streams.map(({ name }) => ({
    name,
    ...normalised(
      Object.fromEntries(
        placements.flatMap((one) => (one.stream === name ? [[one.placement, one.modifier]] : [])),
      ),
    ),
  }));
  const least = {
    betas: Object.fromEntries(parts.map(({ name, beta }) => [name, beta])),
    modifiers: Object.assign({}, ...parts.map((one) => one.modifiers)) as Record<string, number>,
  };
  const put = () =>
    void putLines(
      '/api/spend/placements',
      {
        ...window,
        campaignId: row.campaignId,
        bids,
        modifiers: changes.map(({ placement, to }) => ({ placement, to })),
        confirmed: isMeant,
      },
      `placements of ${row.name} set`,
    );
  useHotkeys('e', () => document.querySelector<HTMLInputElement>('[data-placements] input')?.focus(), {
    preventDefault: true,
  });
  return (
    <Panel label="Why" width={356}>
      <Typography variant="h2" sx={{ overflowWrap: 'anywhere' }}>
        {row.name}
      </Typography>
      <Typography data-testid="why-sentence" sx={{ mt: 1, fontSize: sizes.sentence, lineHeight: 1.45 }}>
        {proposal === null
          ? 'Its placements tell too little yet, or bids stand right in them.'
          : isFinding
            ? sentenceOfPlacements(row)
            : proposal.held.includes('cooldown')
              ? 'Its modifiers were changed in the last days: clicks at the new ones come first.'
              : `Other modifiers would gain with ${percent(proposal.chance)} only: that is chance.`}
        {state !== null && ` It is ${state === 'on the sheet' ? state : `held back: ${state}`}.`}
      </Typography>
      <Part title="A click sells, beside the campaign’s mean" explains="placement_factor">
        <Box component="table" sx={smallTable}>
          <thead>
            <tr>
              <th scope="col" />
              <th scope="col">clicks</th>
              <th scope="col">CVR</th>
              <th scope="col">ACOS</th>
              <th scope="col" />
            </tr>
          </thead>
          <tbody>
            {placements.map((one) => (
              <tr key={one.placement}>
                <th scope="row">{placementName(one.placement)}</th>
                <td>{count(one.sums.clicks)}</td>
                <td>{percent(cvr(one.sums))}</td>
                <td>{percent(acos(one.sums))}</td>
                <td>
                  <FactorMark one={one} />
                </td>
              </tr>
            ))}
          </tbody>
        </Box>
      </Part>
      <Part title="What one click may cost at most" explains="most_of_click">
        <Box component="table" data-placements="" sx={smallTable}>
          <thead>
            <tr>
              <th scope="col">{strategyName(strategy)}</th>
              <th scope="col">now</th>
              <th scope="col">modifier</th>
              <th scope="col">then</th>
            </tr>
          </thead>
          <tbody>
            {placements.map(({ placement, modifier, most, stream }) => {
              const to = modifiers[placement]!;
              const then = (most * (betas[stream] ?? 1) * (100 + to)) / (100 + modifier);
              return (
                <tr key={placement}>
                  <th scope="row">{placementName(placement)}</th>
                  <td>{money(most)}</td>
                  <td>
                    <NumberField
                      label={`Modifier of ${placementName(placement)}, per cent`}
                      value={to}
                      digits={0}
                      least={0}
                      suffix="%"
                      width={40}
                      onCommit={(value) =>
                        set({ betas, modifiers: { ...modifiers, [placement]: Math.round(value ?? 0) } })
                      }
                    />
                  </td>
                  <td>
                    <b>{money(then)}</b>
                  </td>
                </tr>
              );
            })}
            {streams.map(({ name }) => (
              <tr key={name}>
                <th scope="row">{streams.length > 1 ? `bids on ${name}` : 'all bids'} times</th>
                <td />
                <td>
                  <NumberField
                    label={streams.length > 1 ? `Factor on bids on ${name}` : 'Factor on all bids'}
                    value={betas[name] ?? 1}
                    digits={2}
                    least={0.05}
                    width={48}
                    onCommit={(value) =>
                      set({ betas: { ...betas, [name]: Math.min(10, value ?? 1) }, modifiers })
                    }
                  />
                </td>
                <td />
              </tr>
            ))}
          </tbody>
        </Box>
        {tooHigh.length > 0 && (
          <Typography color="error" variant="body2">
            {tooHigh.map(({ placement }) => placementName(placement)).join(' and ')}: a modifier lies between
            0 % and {maximumModifier} %.
          </Typography>
        )}
        {asked.length > 0 && (
          <label style={{ display: 'block' }}>
            <input type="checkbox" checked={isMeant} onChange={({ target }) => setIsMeant(target.checked)} />{' '}
            On {asked.map(placementName).join(' and ')} one click may then cost more than {unusualFactor}{' '}
            times its bid. It is meant.
          </label>
        )}
        <Box sx={{ display: 'flex', flexWrap: 'wrap', gap: 0.75, mt: 0.75 }}>
          <Button
            size="small"
            variant="contained"
            disabled={!isChanged || tooHigh.length > 0 || (asked.length > 0 && !isMeant) || state !== null}
            onClick={put}
          >
            Put on the sheet
          </Button>
          {proposal && (
            <Button
              size="small"
              variant="outlined"
              onClick={() =>
                set({
                  betas: Object.fromEntries(
                    proposal.bids.map(({ stream, beta }) => [stream, Number(beta.toFixed(3))]),
                  ),
                  modifiers: Object.fromEntries(
                    proposal.modifiers.map(({ placement, to }) => [placement, to]),
                  ),
                })
              }
            >
              As proposed
            </Button>
          )}
          {parts.some(({ beta }) => beta !== 1) && (
            <Button size="small" variant="outlined" onClick={() => set(least)}>
              Least modifiers
            </Button>
          )}
          {isChanged && (
            <Button size="small" onClick={() => set({ betas: {}, modifiers: live })}>
              As it is
            </Button>
          )}
        </Box>
      </Part>
      {isFinding && (
        <Part title="Worth a week" explains="worth">
          {money(proposal!.worth)}, with 80 % between {money(proposal!.worthLow)} and{' '}
          {money(proposal!.worthHigh)}: {counted(row.lines, 'line')}.
        </Part>
      )}
      <Part title="How it comes about">
        <Working steps={workingOfPlacements(row)} />
      </Part>
    </Panel>
  );
}
