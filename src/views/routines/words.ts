import type { RoutineRow, RoutineRun } from '../../answers/routines.ts';
import { count, counted, money } from '../../core/metrics/format.ts';
import { routineKinds, type Routine } from '../../core/routines/routine.ts';
import { thresholdSaid } from '../../core/routines/thresholds.ts';
import { instantSaid, longDay } from '../../ui/days.ts';

/** Routines and their runs in words. */

export const weekdayNames = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];

const daysSaid = (weekdays: readonly number[]): string => {
  if (weekdays.length === 7) return 'every day';
  const names = [...weekdays].sort().map((day) => weekdayNames[day]!);
  return names.length === 1 ? `every ${names[0]}` : names.join(', ');
};

/** "every day at 03:30", "after figures". */
export const timeSaid = ({ time }: Pick<Routine, 'time'>): string =>
  time.on === 'figures' ? 'after figures come in' : `${daysSaid(time.weekdays)} at ${time.at}`;

/** How far it goes, and what becomes of it then. */
export const reachSaid = ({ reach }: Pick<Routine, 'reach'>): [how: string, then: string] =>
  reach.how === 'hold'
    ? [`holds for ${reach.hours} h`, 'then sends by itself']
    : reach.how === 'send'
      ? ['sends at once', '']
      : ['proposes', 'waits for you'];

const lower = (text: string) => text.charAt(0).toLowerCase() + text.slice(1);

export const kindsSaid = ({ kinds }: Pick<Routine, 'kinds'>): string =>
  kinds.map((kind) => lower(routineKinds[kind])).join(', ');

const methodWords = {
  evidence: 'by the evidence',
  strict: 'each target at its goal',
  bands: 'by bands of ACOS',
  rpc: 'by revenue per click',
} as const;

/** What it acts on: "bids by bands of ACOS, where clicks at least 5". */
export function whatSaid(routine: Routine): string {
  const { method, kinds, moves, thresholds, scope } = routine;
  const way = moves === 'both' ? '' : moves === 'cuts' ? ', only down' : ', only up';
  const bids = `${method !== null && kinds.includes('bids') ? ` ${methodWords[method]}` : ''}${way}`;
  const where = thresholds.length === 0 ? '' : `, where ${thresholds.map(thresholdSaid).join(' and ')}`;
  const scopes = {
    account: '',
    products: 'products',
    campaigns: 'campaigns',
    budget_groups: 'budget groups',
    slice: 'a slice',
  } as const;
  const within =
    scope.of === 'account'
      ? ''
      : ` in ${'keys' in scope ? `${count(scope.keys.length)} ${scopes[scope.of]}` : scopes.slice}`;
  return `${kindsSaid(routine)}${bids}${within}${where}`;
}

/** Where a routine stands. */
export const standsSaid = ({ isOn, stoppedWhy }: RoutineRow): string =>
  stoppedWhy !== null ? 'stopped itself' : isOn ? 'on' : 'off';

/** What a run did, in half a line. */
export function runSaid(run: RoutineRun, timeZone: string): string {
  const { state, summary } = run;
  const { lines = 0, taken = 0 } = summary;
  switch (state) {
    case 'running':
      return 'runs now';
    case 'proposed':
      return `proposes ${counted(taken, 'finding')}`;
    case 'held':
      return `holds ${counted(lines, 'line')}${run.sendAfter ? ` until ${instantSaid(run.sendAfter, timeZone)}` : ''}`;
    case 'sending':
      return `sends ${counted(lines, 'line')}`;
    case 'sent':
      return `sent ${counted(lines, 'line')}`;
    case 'stopped':
      return 'was stopped: nothing was sent';
    case 'nothing':
      return 'found nothing to do';
    case 'refused':
      return 'did nothing';
  }
}

/** What made a run due. */
export const dueSaid = ({ due }: RoutineRun): string =>
  due.startsWith('figures') ? 'after figures' : due.startsWith('hand') ? 'by hand' : 'by the clock';

/** The numbers of a run in a sentence. */
export function summarySaid({ summary, why }: RoutineRun): string {
  const { window, found, taken = 0, beyond = 0, left = 0, decided = 0, lines = 0, spend = 0 } = summary;
  if (found === undefined) return why ?? '';
  const parts = [
    `It looked at ${window ? `${longDay(window.from)} to ${longDay(window.to)}` : 'no day'} and found ${counted(found, 'finding')}`,
    `took ${count(taken)} in ${counted(lines, 'line')} that move ${money(spend)} of spend a week`,
    ...(beyond > 0 ? [`left ${count(beyond)} beyond its limits to you`] : []),
    ...(left > 0 ? [`held back ${count(left)}`] : []),
  ];
  const person =
    decided > 0
      ? ` ${counted(decided, 'finding')} somebody has decided upon ${decided === 1 ? 'was' : 'were'} left alone.`
      : '';
  return `${parts.join(', ')}.${person}${why ? ` ${why}` : ''}`;
}

export const didNames = {
  taken: 'taken',
  proposed: 'proposed',
  beyond: 'beyond its limits',
  left: 'held back',
  lost: 'given up',
} as const;
