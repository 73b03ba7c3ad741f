import Box from '@mui/material/Box';
import Button from '@mui/material/Button';
import Typography from '@mui/material/Typography';
import useMediaQuery from '@mui/material/useMediaQuery';
import { useMemo, useRef, useState } from 'react';
import { useHotkeys } from 'react-hotkeys-hook';
import {
  flat,
  hourOfWeek,
  hoursOfDay,
  isFlat,
  readSchedule,
  scheduleFactor,
  scheduleSaid,
  weekdayNames,
  writeSchedule,
  type Schedule,
} from '../../core/account/schedule.ts';
import { scheduleShort, sentenceOfHours, untold, workingOfHours } from '../../core/hours/explain.ts';
import { hoursKey } from '../../core/hours/lines.ts';
import { outcomeOf } from '../../core/hours/outcome.ts';
import type { HoursRow } from '../../core/hours/rows.ts';
import type { Window } from '../../core/metrics/days.ts';
import { count, counted, money, percent, signedMoney, significant } from '../../core/metrics/format.ts';
import { strategyName } from '../../core/placements/names.ts';
import { useAct } from '../../ui/hooks/useAct.ts';
import { setUrl, useUrlState } from '../../ui/hooks/useUrlState.ts';
import { Choice } from '../../ui/parts/fields.tsx';
import { NumberField } from '../../ui/parts/NumberField.tsx';
import { Panel, Part } from '../../ui/parts/Panel.tsx';
import { Working } from '../../ui/parts/Working.tsx';
import { sizes } from '../../ui/theme.ts';
import { AfterPart } from './AfterPart.tsx';
import { useAfter, useScope } from './useHours.ts';
import { copied, mostPercent, WeekPicture, type Span } from './WeekPicture.tsx';
import { TimesTable, type TimesOf } from './TimesTable.tsx';

interface WhenPanelProps {
  row: HoursRow;
  /** Whole weeks that are told of, and those that are asked for. */
  told: number;
  weeks: number;
  window: Window;
  /** The schedule as the open sheet sets it; undefined where it does not. */
  onSheet: string | undefined;
  /** Campaigns that are marked: a drawn schedule can be put on all of them. */
  marked: readonly HoursRow[];
}

const wholeDay = (weekday: number): Span => ({ weekday, first: 0, last: hoursOfDay - 1 });
const read = (text: string): Schedule => readSchedule(text) ?? flat();

/** A campaign by the time of the week, its schedule drawn over it, and what that would do. */
export function WhenPanel({ row, told, weeks, window, onSheet, marked }: WhenPanelProps) {
  const { putLines } = useAct();
  const isWide = useMediaQuery('(min-width:1200px)');
  const [scopeName] = useUrlState('scope', true);
  const of = scopeOf(row, scopeName);
  const scope = useScope(of, weeks);
  const after = useAfter(row.campaignId, row.changedOn !== null);
  const live = useMemo(() => read(row.schedule), [row.schedule]);
  const [address] = useUrlState('draw');
  const [drawnOf, drawnText] = address?.split('~') ?? [];
  const start = (drawnOf === row.campaignId ? drawnText : undefined) ?? onSheet ?? row.schedule;
  const [stroke, setStroke] = useState<Schedule | null>(null);
  const drawn = useMemo(() => stroke ?? read(start), [stroke, start]);
  const [span, setSpan] = useState<Span>(() => wholeDay(6));
  const [timesName, setTimes] = useUrlState('times');
  const times: TimesOf = timesName === 'hours' ? 'hours' : 'weekdays';
  const box = useRef<HTMLDivElement>(null);
  const { data } = scope;
  const ground = data?.ground ?? null;
  const isMine = of === `campaign:${row.campaignId}`;
  const done = (schedule: Schedule) => {
    const text = writeSchedule(schedule);
    setUrl({ draw: text === (onSheet ?? row.schedule) ? null : `${row.campaignId}~${text}` });
    setStroke(null);
  };
  const { proposal } = row;
  const text = writeSchedule(drawn);
  // What was accepted moves bids along; what is drawn does not.
  const beta = text === onSheet && text === proposal?.schedule ? proposal.beta : 1;
  const outcome = useMemo(
    () => (ground && isMine ? outcomeOf(ground, live, drawn, beta) : null),
    [ground, isMine, live, drawn, beta],
  );
  const isDrawn = text !== row.schedule;
  const others = marked.filter(({ campaignId }) => campaignId !== row.campaignId);
  const put = (rows: readonly HoursRow[]) =>
    void putLines(
      '/api/spend/hours',
      {
        ...window,
        schedules: rows.map(({ campaignId }) => ({ campaignId, schedule: text })),
        source: 'hand',
      },
      rows.length === 1
        ? `schedule of ${row.name} set`
        : `schedule set for ${counted(rows.length, 'campaign')}`,
    ).then((isDone) => isDone && setUrl({ draw: null }));
  const take = () =>
    void putLines(
      '/api/round/accept',
      {
        ...window,
        keys: [hoursKey(row.campaignId)],
        adjustments: row.isHeld ? { [hoursKey(row.campaignId)]: { beyond: true } } : {},
      },
      `schedule of ${row.name} accepted`,
    ).then((isDone) => isDone && setUrl({ draw: null }));
  useHotkeys('e', () => box.current?.querySelector<SVGElement>('[data-weekday]')?.focus(), {
    preventDefault: true,
  });
  const { first, last, weekday } = span;
  const chosen = drawn.slice(hourOfWeek(weekday, first), hourOfWeek(weekday, last) + 1);
  const same = chosen.every((one) => one === chosen[0]) ? chosen[0]! : null;
  const set = (value: number) =>
    done([...drawn].fill(value, hourOfWeek(weekday, first), hourOfWeek(weekday, last) + 1));
  return (
    <Panel label="Why" width={isWide ? 736 : 596}>
      <Box sx={{ display: 'flex', gap: 1, alignItems: 'baseline' }}>
        <Typography variant="h2" sx={{ flex: 1, overflowWrap: 'anywhere' }}>
          {row.name}
        </Typography>
        <Choice
          aria-label="Whose hours"
          value={scopeName ?? 'campaign'}
          onChange={({ target }) =>
            setUrl({ scope: target.value === 'campaign' ? null : target.value }, true)
          }
        >
          <option value="campaign">The campaign</option>
          {row.adGroups.length > 1 &&
            row.adGroups.map(({ id, name }) => (
              <option key={id} value={`ad_group:${id}`}>
                {name}
              </option>
            ))}
          {row.sku !== null && <option value="product">All of {row.sku}</option>}
          <option value="account">The account</option>
        </Choice>
      </Box>
      <Typography data-testid="why-sentence" sx={{ mt: 0.5, fontSize: sizes.sentence, lineHeight: 1.4 }}>
        {proposal ? sentenceOfHours(proposal, told) : untold(row, told)}
        {row.isHeld && ' Held by cooldown: its schedule was changed in the last four weeks.'}
      </Typography>
      {scope.isError && <Typography color="error">{scope.error.message}</Typography>}
      {!data && !scope.isError && <Typography color="text.secondary">Looking at its hours.</Typography>}
      {data && (
        <>
          <Box ref={box} sx={{ mt: 1, opacity: scope.isPlaceholderData ? 0.5 : 1 }}>
            <WeekPicture
              picture={data.picture}
              targetAcos={data.mean.targetAcos}
              width={isWide ? 694 : 554}
              drawn={isMine ? drawn : null}
              live={live}
              span={span}
              onSpan={setSpan}
              onDraw={setStroke}
              onDone={done}
            />
          </Box>
          {!isMine && of.startsWith('ad_group:') && (
            <Typography variant="body2" color="text.secondary">
              Hours are told of campaigns: an ad group’s weekdays are its own, its hours those of the
              campaign.
            </Typography>
          )}
          {isMine && (
            <Box
              sx={{ mt: 0.5, display: 'flex', gap: 1, alignItems: 'center', flexWrap: 'wrap', rowGap: 0.25 }}
            >
              <span>
                {weekdayNames[weekday]} {first} to {last + 1}:{' '}
                <NumberField
                  label="Multiplier of the hours that are chosen, per cent"
                  value={same}
                  digits={0}
                  least={0}
                  placeholder="several"
                  suffix="%"
                  onCommit={(value) => set(Math.min(mostPercent, Math.round(value ?? 100)))}
                />
              </span>
              <Choice
                aria-label={`Copy ${weekdayNames[weekday]!} to other days`}
                value=""
                onChange={({ target }) => done(copied(drawn, weekday, target.value as 'all'))}
              >
                <option value="" disabled>
                  Copy {weekdayNames[weekday]} to
                </option>
                <option value="all">all days</option>
                <option value="weekdays">Monday to Friday</option>
                <option value="weekend">Saturday and Sunday</option>
              </Choice>
              <Button size="small" disabled={!isDrawn} onClick={() => done(live)}>
                As it stands
              </Button>
              <Button size="small" disabled={isFlat(drawn)} onClick={() => done(flat())}>
                100 % at all hours
              </Button>
            </Box>
          )}
          {isMine && outcome && (
            <Box sx={{ mt: 1, display: 'flex', gap: 1.5, alignItems: 'center' }}>
              <Typography variant="body2" data-testid="drawn-sentence" sx={{ flex: 1 }}>
                {isDrawn ? (
                  <>
                    {scheduleSaid(drawn)}
                    {beta === 1 ? '' : `, bids × ${significant(beta)}`}:{' '}
                    <b>{signedMoney(outcome.worth)} a week</b> ({signedMoney(outcome.worthLow)} to{' '}
                    {signedMoney(outcome.worthHigh)}), spend {signedMoney(outcome.effect.spend)}, sales{' '}
                    {signedMoney(outcome.effect.sales)}.{' '}
                  </>
                ) : (
                  <>It stands at {scheduleSaid(live)}. Drag its line up or down, along for more hours. </>
                )}
                One click may cost at most {money(row.most * scheduleFactor(text))}
                {scheduleFactor(text) === scheduleFactor(row.schedule)
                  ? ''
                  : `, ${money(row.most * scheduleFactor(row.schedule))} now`}{' '}
                ({strategyName(row.strategy)}).
              </Typography>
              {proposal && onSheet === undefined && (
                <Button size="small" onClick={take}>
                  Take {scheduleShort(proposal)}
                </Button>
              )}
              <Button
                size="small"
                variant="contained"
                disabled={!isDrawn || text === onSheet}
                onClick={() => put([row])}
              >
                Put on the sheet
              </Button>
            </Box>
          )}
          {isMine && others.length > 0 && (
            <Box sx={{ mt: 0.5, textAlign: 'right' }}>
              <Button size="small" variant="outlined" onClick={() => put(marked)}>
                Put this schedule on {counted(marked.length, 'marked campaign')}
              </Button>
            </Box>
          )}
          {onSheet !== undefined && (
            <Typography variant="body2">On the sheet: {scheduleSaid(read(onSheet))}.</Typography>
          )}
          {after.data && isMine && <AfterPart answer={after.data} />}
          <Box sx={{ mt: 1.5, display: 'flex', gap: 1, alignItems: 'baseline' }}>
            <Choice
              aria-label="Times side by side"
              value={times}
              onChange={({ target }) => setTimes(target.value === 'weekdays' ? null : target.value)}
            >
              <option value="weekdays">Weekdays</option>
              <option value="hours">Hours of the day</option>
            </Choice>
            {times === 'weekdays' && data.sku !== null && (
              <Typography variant="caption" color="text.secondary">
                in all: {data.sku}
              </Typography>
            )}
          </Box>
          <TimesTable scope={data} of={times} />
        </>
      )}
      {isMine && proposal && (
        <Part title="How it comes about">
          <Working steps={workingOfHours(row, told)} />
        </Part>
      )}
      {data && (
        <Typography variant="body2" color="text.secondary" sx={{ mt: 1 }}>
          {count(row.sums.clicks)} clicks and {significant(row.sums.orders)} orders of this campaign in{' '}
          {counted(told, 'whole week')}; goal {percent(data.mean.targetAcos)}.
        </Typography>
      )}
    </Panel>
  );
}

/** Whose hours are asked for, as the address of the answer has it. */
function scopeOf(row: HoursRow, name: string | null): string {
  if (name === 'account') return 'account';
  if (name === 'product' && row.sku !== null) return `product:${row.sku}`;
  const isOwn = row.adGroups.some(({ id }) => name === `ad_group:${id}`);
  return isOwn ? name! : `campaign:${row.campaignId}`;
}
