import { flat, readSchedule, scheduleSaid } from '../account/schedule.ts';
import { eighty } from '../effect/forecast.ts';
import { count, counted, money, percent, significant } from '../metrics/format.ts';
import type { Step } from '../round/explain.ts';
import type { TimeFactor } from './beliefs.ts';
import type { PartChange, ScheduleProposal } from './propose.ts';
import type { HoursRow } from './rows.ts';

/** Why a schedule should change, in words and step by step. */

/** The 80 % interval of a factor. */
export const timeRange = ({ factor, spread }: TimeFactor): [low: number, high: number] => [
  factor * Math.exp(-eighty * spread),
  factor * Math.exp(eighty * spread),
];

/** "0.62 times the mean (0.53 to 0.72)". */
export function timeSaid(one: TimeFactor): string {
  const [low, high] = timeRange(one);
  return `${significant(one.factor)} times the mean (${significant(low)} to ${significant(high)})`;
}

const timeName = (stage: ScheduleProposal['stage'], { name }: Pick<PartChange, 'name'>): string =>
  stage === 'weekdays' ? `on ${name}s` : `from ${name} o’clock`;

const nameShort = (stage: ScheduleProposal['stage'], name: string): string =>
  stage === 'weekdays' ? name.slice(0, 3) : name.replace(' to ', '–');

/** What is told most surely first. */
const byDistance = (parts: readonly PartChange[]): PartChange[] =>
  [...parts].sort(
    (a, b) => Math.abs(Math.log(b.factor)) / b.spread - Math.abs(Math.log(a.factor)) / a.spread,
  );

/** What is proposed where there is little room: "Sun 60 %, bids × 1.06". */
export function scheduleShort({ stage, parts, beta }: ScheduleProposal): string {
  const told = byDistance(parts)
    .filter(({ from, to }) => from !== to)
    .map(({ name, to }) => `${nameShort(stage, name)} ${to === 0 ? 'off' : `${to} %`}`);
  return [...told, ...(beta === 1 ? [] : [`bids × ${significant(beta)}`])].join(', ');
}

/** Why, in words with the numbers. */
export function sentenceOfHours(proposal: ScheduleProposal, weeks: number): string {
  const { stage, parts, schedule, chance, beta, isDry } = proposal;
  const told = byDistance(parts)
    .slice(0, 2)
    .map((part) => `A click ${timeName(stage, part)} sells ${timeSaid(part)}.`)
    .join(' ');
  const off = parts.some(({ to, from }) => to === 0 && from > 0)
    ? ' Where it is off even the least bid would lose.'
    : '';
  return (
    `${told} Told by ${counted(weeks, 'week')}. With ${scheduleSaid(readSchedule(schedule) ?? flat())}` +
    (beta === 1 && isDry
      ? ' less is spent where it sells less, and its budget, which runs dry, lasts longer.'
      : `${beta === 1 ? '' : ` and bids × ${significant(beta)}`} as much is bid on the mean, and goes where it sells.`) +
    `${off} ` +
    `It gains with ${percent(Math.min(chance, 0.99))}.`
  );
}

/** The working, to be redone by hand. */
export function workingOfHours({ proposal, sums }: HoursRow, weeks: number): Step[] {
  if (!proposal) return [];
  const { stage, parts, usual, beta, isDry } = proposal;
  return [
    {
      name: 'Told by',
      formula: `${counted(sums.orders, 'order')} of ${count(sums.clicks)} clicks in ${counted(weeks, 'whole week')} of settled days, beside the product’s other campaigns`,
      result: money(sums.spend),
    },
    ...parts.map(({ name, factor, spread, from, to, wanted }) => ({
      name: `${stage === 'weekdays' ? name : `Hours ${name}`}, beside the mean`,
      formula:
        `${timeSaid({ factor, spread })}, beside ${usual} % at the others, in steps of 10 %: ${from} → ${wanted} %` +
        (to === wanted ? '' : ', 50 points at a time'),
      result: to === 0 ? 'off' : `${to} %`,
    })),
    {
      name: 'Factor on bids',
      formula:
        beta === 1 && isDry
          ? 'its budget runs dry: higher bids would empty it sooner, so that they stay'
          : beta === 1
            ? 'what is bid on the mean of clicks moves by less than 3 %: bids stay'
            : 'mean of the schedule by clicks, before ÷ after',
      result: significant(beta),
    },
  ];
}

/** What weeks can tell, where nothing is proposed. */
export function untold({ proposal, sums }: Pick<HoursRow, 'proposal' | 'sums'>, weeks: number): string {
  if (proposal) return '';
  if (weeks < 4) return `${counted(weeks, 'whole week')}: too few to tell weekdays apart, four are needed.`;
  if (sums.clicks < 100)
    return `${counted(sums.clicks, 'click')} in ${counted(weeks, 'week')}: too few to tell its times apart.`;
  return `${counted(weeks, 'week')}: no weekday and no hours are told apart from the mean, or they stand as they should.`;
}
