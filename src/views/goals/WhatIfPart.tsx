import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Slider from '@mui/material/Slider';
import { useQuery } from '@tanstack/react-query';
import { bisectLeft, range } from 'd3';
import { useDeferredValue, useState } from 'react';
import type { WhatIfAnswer } from '../../answers/goals.ts';
import { acos } from '../../core/metrics/figures.ts';
import { count, percent } from '../../core/metrics/format.ts';
import { units, type Micros } from '../../core/metrics/money.ts';
import type { Outlook, WeekFigures } from '../../core/round/what-if.ts';
import { ask } from '../../ui/api.ts';
import { Part } from '../../ui/parts/Panel.tsx';
import { useWindow } from '../../ui/shell/data.ts';
import type { SaveGoal } from './GoalsList.tsx';
import type { ScopeRow } from './rows.ts';

const found: [string, (outlook: Outlook) => number][] = [
  ['Raises', ({ raises }) => raises],
  ['Cuts', ({ cuts }) => cuts],
  ['Held back', ({ held }) => held],
  ['Harvests', ({ harvests }) => harvests],
  ['Negatives', ({ negatives }) => negatives],
];
/** A week of a whole account needs no cents. */
const whole = (value: Micros): string => count(Math.round(units(value)));
const weekly: [string, (week: WeekFigures) => string][] = [
  ['Spend', ({ spend }) => whole(spend)],
  ['Sales', ({ sales }) => whole(sales)],
  ['ACOS', (week) => percent(acos(week))],
  ['Profit', ({ profit }) => whole(profit)],
];

const wide = { width: '100%', borderCollapse: 'collapse' } as const;
/** Shares in per cent that the slider stops at: finer where they are small. */
const stops = [...range(0.5, 20, 0.5), ...range(20, 60, 1), ...range(60, 122, 2)];
const placeOf = (percentOf: number): number =>
  Math.min(stops.length - 1, bisectLeft(stops, percentOf - 0.001));

/**
 * What if the goal were another: the account's findings, and what a week would be with all of them taken, while the goal
 * is dragged. Nothing is kept before it is said.
 */
export function WhatIfPart({ row, save }: { row: ScopeRow; save: SaveGoal }) {
  const { rules, scope, key, title, goal } = row;
  const isMargin = goal?.objective === 'margin';
  const present = (isMargin ? rules.targetMargin! : rules.targetAcos) * 100;
  const [typed, setTyped] = useState<number | null>(null);
  const value = typed ?? present;
  const asked = useDeferredValue(value);
  const window = useWindow();
  const values = isMargin ? { targetMargin: asked / 100 } : { targetAcos: asked / 100 };
  const answer = useQuery({
    queryKey: ['what-if', window, scope, key, values],
    queryFn: () =>
      ask<WhatIfAnswer>(`/api/goals/what-if?from=${window!.from}&to=${window!.to}`, {
        scope,
        key,
        ...values,
      }),
    enabled: window !== null,
    placeholderData: (previous) => previous,
  });
  const moved = Math.abs(value - present) > 0.001;
  const name = isMargin ? 'margin' : 'ACOS';
  const { kept, moved: then } = answer.data ?? {};
  return (
    <Part title="What if it were" explains="what_if">
      <Box sx={{ display: 'flex', alignItems: 'center', gap: 1.5, mt: 0.5 }}>
        <Slider
          aria-label={`What if the ${name} of ${title} were, per cent`}
          size="small"
          min={0}
          max={stops.length - 1}
          value={placeOf(value)}
          getAriaValueText={() => `${value} %`}
          onChange={(_, place) => setTyped(stops[place]!)}
        />
        <b style={{ width: 48, textAlign: 'right', whiteSpace: 'nowrap' }}>{percent(value / 100)}</b>
      </Box>
      <Box sx={{ display: 'flex', gap: 1, minHeight: 28 }}>
        {moved ? (
          <>
            <Button
              size="small"
              variant="outlined"
              onClick={() =>
                void save(row, isMargin ? { targetMargin: value / 100 } : { targetAcos: value / 100 }).then(
                  (done) => done && setTyped(null),
                )
              }
            >
              Keep {percent(value / 100)}
            </Button>
            <Button size="small" onClick={() => setTyped(null)}>
              Back to {percent(present / 100)}
            </Button>
          </>
        ) : (
          <Box component="span" sx={{ color: 'text.secondary' }}>
            Drag it: the whole account answers, nothing is kept.
          </Box>
        )}
      </Box>
      {kept && then && (
        <Box
          component="table"
          data-testid="what-if"
          aria-live="polite"
          aria-busy={answer.isFetching}
          sx={{
            ...wide,
            opacity: asked === value && !answer.isPlaceholderData ? 1 : 0.6,
            '& td, & th': { textAlign: 'right', fontWeight: 400, p: 0.2 },
            '& th:first-of-type': { textAlign: 'left', color: 'text.secondary' },
          }}
        >
          <thead>
            <tr>
              <th scope="col">the account, all taken</th>
              <th scope="col">as it runs</th>
              <th scope="col">kept goal</th>
              <th scope="col">at {percent(asked / 100)}</th>
            </tr>
          </thead>
          <tbody>
            {found.map(([label, of]) => (
              <tr key={label}>
                <th scope="row">{label}</th>
                <td />
                <td>{count(of(kept))}</td>
                <td>{count(of(then))}</td>
              </tr>
            ))}
            {weekly.map(([label, of]) => (
              <tr key={label}>
                <th scope="row">{label} a week</th>
                <td>{of(kept.now)}</td>
                <td>{of(kept.then)}</td>
                <td>
                  <b>{of(then.then)}</b>
                </td>
              </tr>
            ))}
          </tbody>
        </Box>
      )}
      {answer.isError && <div role="alert">{answer.error.message}</div>}
    </Part>
  );
}
