import { micros } from '../metrics/money.ts';
import type { Routine } from './routine.ts';

/** Routines that are there from the start, off until somebody turns them on (domain, section 16). */

const everyDay = [0, 1, 2, 3, 4, 5, 6];

const usual: Routine = {
  name: '',
  scope: { of: 'account' },
  kinds: [],
  moves: 'both',
  method: null,
  thresholds: [],
  days: 30,
  youngest: 0,
  wait: 7,
  grace: 7,
  byHand: 14,
  leastClicks: 0,
  leastImpressions: 0,
  up: null,
  down: null,
  leastBid: null,
  highestBid: null,
  time: { on: 'figures' },
  reach: { how: 'hold', hours: 12 },
  limits: { lines: 100, weekLines: 300, spend: micros(200), weekSpend: micros(400), share: 0.15 },
  stages: null,
};

const weekly = { on: 'time', weekdays: [0], at: '06:00' } as const;

/** The usual settings of a new one. */
export const newRoutine = (name: string): Routine => ({ ...usual, name });

/** In the order of their ranks: what adds and ends terms first, then bids, then what moves all of a campaign. */
export const shippedRoutines: readonly Routine[] = [
  {
    ...usual,
    name: 'Daily harvest and isolate',
    kinds: ['harvest'],
    thresholds: [{ figure: 'orders', is: 'at_least', value: 1, measure: 'plain' }],
    wait: 0,
  },
  {
    ...usual,
    name: 'Stop spend without orders',
    kinds: ['negate', 'bids'],
    moves: 'cuts',
    thresholds: [
      { figure: 'orders', is: 'at_most', value: 0, measure: 'plain' },
      { figure: 'clicks', is: 'at_least', value: 1.5, measure: 'clicks_per_order' },
    ],
  },
  {
    ...usual,
    name: 'Nightly toward target, careful',
    kinds: ['bids'],
    up: 1.1,
    down: 0.9,
    leastClicks: 5,
    time: { on: 'time', weekdays: everyDay, at: '03:30' },
  },
  {
    ...usual,
    name: 'Weekly bids, evidence',
    kinds: ['bids'],
    method: 'evidence',
    time: { ...weekly, weekdays: [...weekly.weekdays] },
  },
  {
    ...usual,
    name: 'Bands, weekly',
    kinds: ['bids'],
    method: 'bands',
    time: { ...weekly, weekdays: [...weekly.weekdays] },
  },
  {
    ...usual,
    name: 'Revenue per click, weekly',
    kinds: ['bids'],
    method: 'rpc',
    time: { ...weekly, weekdays: [...weekly.weekdays] },
  },
  {
    ...usual,
    name: 'Weekly placements',
    kinds: ['placements'],
    wait: 14,
    grace: 28,
    time: { ...weekly, weekdays: [...weekly.weekdays] },
  },
  {
    ...usual,
    name: 'Nightly budgets',
    kinds: ['budgets'],
    time: { on: 'time', weekdays: everyDay, at: '04:00' },
  },
];
