import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import type { RoutinesAnswer } from '../../answers/routines.ts';
import { methods, type Method } from '../../core/bids/methods.ts';
import { routineKinds, type Routine, type RoutineKind } from '../../core/routines/routine.ts';
import { usualStages } from '../../core/routines/stages.ts';
import { Choice, Field } from '../../ui/parts/fields.tsx';
import { MoneyField } from '../../ui/parts/MoneyField.tsx';
import { NumberField } from '../../ui/parts/NumberField.tsx';
import { Part } from '../../ui/parts/Panel.tsx';
import { sizes } from '../../ui/theme.ts';
import { Factor, Whole } from './numbers.tsx';
import { ScopeField } from './ScopeField.tsx';
import { StagesFields } from './StagesFields.tsx';
import { ThresholdLine } from './ThresholdLine.tsx';
import { weekdayNames } from './words.ts';

interface RoutineFormProps {
  draft: Routine;
  choices: RoutinesAnswer['choices'];
  timeZone: string;
  onChange: (draft: Routine) => void;
}

const methodNames: Readonly<Record<Method, string>> = {
  evidence: 'by the evidence',
  strict: 'each target at its goal',
  bands: 'by bands of ACOS',
  rpc: 'by revenue per click',
};

/** What a routine is, as sentences whose words are fields. */
export function RoutineForm({ draft, choices, timeZone, onChange }: RoutineFormProps) {
  const set = (part: Partial<Routine>) => onChange({ ...draft, ...part });
  const setLimits = (part: Partial<Routine['limits']>) => set({ limits: { ...draft.limits, ...part } });
  const { kinds, time, reach, limits, thresholds } = draft;
  const toggle = (kind: RoutineKind) =>
    set({
      kinds: kinds.includes(kind) ? kinds.filter((one) => one !== kind) : [...kinds, kind],
      ...(kind === 'stages' && draft.stages === null ? { stages: usualStages } : {}),
    });
  return (
    <Box sx={{ fontSize: sizes.table, lineHeight: 2 }}>
      <Field
        aria-label="Name of the routine"
        placeholder="Its name"
        value={draft.name}
        maxLength={100}
        onChange={({ target }) => set({ name: target.value })}
        style={{ width: '100%', fontWeight: 700 }}
      />
      <Part title="What">
        <Box sx={{ display: 'grid', gridTemplateColumns: '1fr 1fr', columnGap: 1, lineHeight: 1.7 }}>
          {(Object.keys(routineKinds) as RoutineKind[]).map((kind) => (
            <label key={kind}>
              <input type="checkbox" checked={kinds.includes(kind)} onChange={() => toggle(kind)} />{' '}
              {routineKinds[kind]}
            </label>
          ))}
        </Box>
        {(kinds.includes('bids') || kinds.includes('budgets')) && (
          <>
            It{' '}
            <Choice
              aria-label="Which way it moves"
              value={draft.moves}
              onChange={({ target }) => set({ moves: target.value as Routine['moves'] })}
            >
              <option value="both">raises and cuts</option>
              <option value="cuts">only cuts</option>
              <option value="raises">only raises</option>
            </Choice>
            .{' '}
          </>
        )}
        {kinds.includes('bids') && (
          <>
            Bids are found{' '}
            <Choice
              aria-label="Method of bids"
              value={draft.method ?? ''}
              onChange={({ target }) => set({ method: (target.value || null) as Method | null })}
            >
              <option value="">as goals say</option>
              {methods.map((method) => (
                <option key={method} value={method}>
                  {methodNames[method]}
                </option>
              ))}
            </Choice>
            , at most ×{' '}
            <Factor label="Largest raise, a factor" value={draft.up} onChange={(up) => set({ up })} /> up and
            × <Factor label="Largest cut, a factor" value={draft.down} onChange={(down) => set({ down })} />{' '}
            down, from{' '}
            <MoneyField
              label="Least bid"
              value={draft.leastBid}
              placeholder="goal"
              width={52}
              onChange={(leastBid) => set({ leastBid })}
            />{' '}
            to{' '}
            <MoneyField
              label="Highest bid"
              value={draft.highestBid}
              placeholder="goal"
              width={52}
              onChange={(highestBid) => set({ highestBid })}
            />
            .{' '}
          </>
        )}
        <ScopeField draft={draft} choices={choices} onChange={(scope) => set({ scope })} />
        {kinds.includes('stages') && draft.stages && <StagesFields draft={draft} onChange={set} />}
      </Part>
      <Part title="Thresholds: they only narrow what a round would do">
        {thresholds.map((threshold, at) => (
          <ThresholdLine
            key={at}
            threshold={threshold}
            onChange={(next) => set({ thresholds: thresholds.map((one, i) => (i === at ? next : one)) })}
            onRemove={() => set({ thresholds: thresholds.filter((_, i) => i !== at) })}
          />
        ))}
        <Button
          size="small"
          onClick={() =>
            set({
              thresholds: [...thresholds, { figure: 'clicks', is: 'at_least', value: 10, measure: 'plain' }],
            })
          }
        >
          Add a threshold
        </Button>
        <Box>
          It looks at <Whole label="Days looked at" value={draft.days} onChange={(days) => set({ days })} />{' '}
          days without the youngest{' '}
          <Whole
            label="Youngest days left out"
            value={draft.youngest}
            onChange={(youngest) => set({ youngest })}
          />
          ; waits{' '}
          <Whole label="Days to wait after a change" value={draft.wait} onChange={(wait) => set({ wait })} />{' '}
          days after a change, leaves new campaigns alone for{' '}
          <Whole label="Days of grace" value={draft.grace} onChange={(grace) => set({ grace })} /> days and
          bids set by hand for{' '}
          <Whole label="Days after a hand" value={draft.byHand} onChange={(byHand) => set({ byHand })} />{' '}
          days; asks for{' '}
          <Whole
            label="Clicks at least"
            value={draft.leastClicks}
            onChange={(leastClicks) => set({ leastClicks })}
          />{' '}
          clicks and{' '}
          <Whole
            label="Impressions at least"
            value={draft.leastImpressions}
            onChange={(leastImpressions) => set({ leastImpressions })}
          />{' '}
          impressions.
        </Box>
      </Part>
      <Part title="When">
        It runs{' '}
        <Choice
          aria-label="When it runs"
          value={time.on}
          onChange={({ target }) =>
            set({
              time:
                target.value === 'figures'
                  ? { on: 'figures' }
                  : { on: 'time', weekdays: [0, 1, 2, 3, 4, 5, 6], at: '03:30' },
            })
          }
        >
          <option value="figures">after figures come in</option>
          <option value="time">by the clock</option>
        </Choice>
        {time.on === 'time' && (
          <>
            {' '}
            at{' '}
            <Field
              type="time"
              aria-label="Time of day"
              value={time.at}
              onChange={({ target }) => set({ time: { ...time, at: target.value } })}
              style={{ width: 84 }}
            />{' '}
            ({timeZone}) on{' '}
            {weekdayNames.map((name, day) => (
              <label key={name} style={{ whiteSpace: 'nowrap', marginRight: 6 }}>
                <input
                  type="checkbox"
                  checked={time.weekdays.includes(day)}
                  onChange={() =>
                    set({
                      time: {
                        ...time,
                        weekdays: time.weekdays.includes(day)
                          ? time.weekdays.filter((one) => one !== day)
                          : [...time.weekdays, day].sort(),
                      },
                    })
                  }
                />
                {name}
              </label>
            ))}
          </>
        )}
        .
      </Part>
      <Part title="How far">
        It{' '}
        <Choice
          aria-label="How far it goes"
          value={reach.how}
          onChange={({ target }) =>
            set({
              reach:
                target.value === 'hold'
                  ? { how: 'hold', hours: 12 }
                  : { how: target.value as 'propose' | 'send' },
            })
          }
        >
          <option value="propose">only proposes</option>
          <option value="hold">holds a sheet of its own</option>
          <option value="send">sends at once</option>
        </Choice>
        {reach.how === 'hold' && (
          <>
            {' '}
            for{' '}
            <Whole
              label="Hours it holds"
              value={reach.hours}
              onChange={(hours) => set({ reach: { how: 'hold', hours } })}
            />{' '}
            hours, and sends it unless somebody stops it
          </>
        )}
        . A run holds at most{' '}
        <Whole label="Lines a run" value={limits.lines} onChange={(lines) => setLimits({ lines })} /> lines
        and moves{' '}
        <MoneyField
          label="Spend moved a run"
          value={limits.spend}
          width={74}
          onChange={(spend) => setLimits({ spend: spend ?? 0 })}
        />{' '}
        of spend a week; seven days at most{' '}
        <Whole
          label="Lines a week"
          value={limits.weekLines}
          onChange={(weekLines) => setLimits({ weekLines })}
        />{' '}
        lines and{' '}
        <MoneyField
          label="Spend moved a week"
          value={limits.weekSpend}
          width={74}
          onChange={(weekSpend) => setLimits({ weekSpend: weekSpend ?? 0 })}
        />
        ; never more than{' '}
        <NumberField
          label="Share of the account, per cent"
          value={Math.round(limits.share * 1000) / 10}
          digits={0}
          width={36}
          least={0}
          suffix="%"
          onCommit={(share) => share !== null && setLimits({ share: share / 100 })}
        />{' '}
        of the account’s spend. What goes beyond waits for you.
      </Part>
    </Box>
  );
}
