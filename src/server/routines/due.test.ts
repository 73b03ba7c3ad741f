import { expect, test } from 'vitest';
import { clockChanges, lastDue, nextDue } from './due.ts';

const nightly = { on: 'time', weekdays: [0, 1, 2, 3, 4, 5, 6], at: '02:30' } as const;
const clock = { ...nightly, weekdays: [...nightly.weekdays] };
const zone = 'Europe/Berlin';

test('a run that was missed is the last one due, once, however long nobody was there', () => {
  const after = new Date('2026-06-01T00:00:00Z');
  const now = new Date('2026-06-10T12:00:00Z');
  const due = lastDue(clock, zone, after, now)!;
  expect(due.toISOString()).toBe('2026-06-10T00:30:00.000Z');
  // Once it was made up, nothing is due until the next night.
  expect(lastDue(clock, zone, due, now)).toBeNull();
  expect(nextDue(clock, zone, now)!.toISOString()).toBe('2026-06-11T00:30:00.000Z');
});

test('a time that clocks skip is an hour later; one that comes twice is its first', () => {
  const spring = lastDue(clock, zone, new Date('2027-03-27T12:00Z'), new Date('2027-03-28T12:00Z'))!;
  expect(spring.toISOString()).toBe('2027-03-28T01:30:00.000Z');
  const autumn = lastDue(clock, zone, new Date('2026-10-24T12:00Z'), new Date('2026-10-25T12:00Z'))!;
  expect(autumn.toISOString()).toBe('2026-10-25T00:30:00.000Z');
  expect(lastDue(clock, zone, autumn, new Date('2026-10-25T02:00Z'))).toBeNull();
  expect(clockChanges(clock, zone, new Date('2026-10-01T00:00Z'))).toEqual([
    'On 2026-10-25 02:30 comes twice: it runs once, the first time.',
    'On 2027-03-28 clocks skip 02:30: it runs at 03:30 that day.',
  ]);
  // A day later, another zone, another time: what was asked for before says nothing of it.
  expect(clockChanges(clock, zone, new Date('2026-10-26T12:00Z'))).toHaveLength(1);
  expect(clockChanges(clock, 'UTC', new Date('2026-10-01T00:00Z'))).toEqual([]);
  expect(clockChanges({ ...clock, at: '05:00' }, zone, new Date('2026-10-01T00:00Z'))).toEqual([]);
});

test('a weekly time is due on its weekday only', () => {
  const mondays = { ...clock, weekdays: [0] };
  const now = new Date('2026-12-02T12:00Z');
  expect(nextDue(mondays, 'UTC', now)!.toISOString()).toBe('2026-12-07T02:30:00.000Z');
  expect(lastDue(mondays, 'UTC', new Date('2026-11-01T00:00Z'), now)!.toISOString()).toBe(
    '2026-11-30T02:30:00.000Z',
  );
});
