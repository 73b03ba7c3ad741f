import { describe, expect, test } from 'vitest';
import { flat, hourOfWeek, readSchedule } from '../account/schedule.ts';
import { shapeOf, timesOf, weekdaysProblem, type TriedLine } from './weekdays.ts';

const schedule = (text: string) => readSchedule(text)!;
const hours = (of: readonly boolean[]) => of.filter(Boolean).length;

describe('hours that are compared', () => {
  test('a Sunday beside the six other days', () => {
    const { touched, control } = timesOf(flat(), schedule('sunday 0-23 60'));
    expect([hours(touched), hours(control)]).toEqual([24, 6 * 24]);
    expect(touched[hourOfWeek(6, 12)]).toBe(true);
    expect(control[hourOfWeek(6, 12)]).toBe(false);
  });

  test('mornings of two days beside the same mornings of five, and no other hour', () => {
    const { touched, control } = timesOf(flat(), schedule('monday 0-5 50;tuesday 0-5 50'));
    expect([hours(touched), hours(control)]).toEqual([12, 5 * 6]);
    expect(control[hourOfWeek(2, 5)]).toBe(true);
    expect(control[hourOfWeek(2, 6)]).toBe(false);
  });

  test('what stood there before is no change', () => {
    const sunday = schedule('sunday 0-23 60');
    expect(hours(timesOf(sunday, sunday).touched)).toBe(0);
    expect(hours(timesOf(sunday, flat()).touched)).toBe(24);
  });
});

describe('what can be compared so', () => {
  const line = (more: Partial<TriedLine> = {}): TriedLine => ({
    entity: 'campaign',
    field: 'schedule',
    campaignId: '1',
    campaign: 'Crocks exact',
    from: flat(),
    to: schedule('sunday 0-23 60'),
    ...more,
  });
  const bid = { entity: 'target', field: 'bid', from: null, to: null };

  test('schedules, and bids that go with them', () => {
    expect(weekdaysProblem([line(), line({ campaignId: '2' }), line(bid)])).toBeNull();
  });

  test('nothing else, each with what to do', () => {
    expect(weekdaysProblem([line(bid)])).toContain('None of these lines is a schedule');
    expect(weekdaysProblem([line(), line({ ...bid, campaignId: '2', campaign: 'Lids' })])).toContain(
      'A line of Lids is neither',
    );
    expect(weekdaysProblem([line(), line({ field: 'budget', from: null, to: null })])).toContain('neither');
    const daily = ['monday', 'tuesday', 'wednesday', 'thursday', 'friday', 'saturday', 'sunday'];
    const nights = schedule(daily.map((day) => `${day} 0-5 50`).join(';'));
    expect(weekdaysProblem([line({ to: nights })])).toContain('on all weekdays');
  });
});

test('a week that is all Sunday; a week of alike days; a week of which nothing is known', () => {
  expect(shapeOf([0, 0, 0, 0, 0, 0, 50])).toEqual([0, 0, 0, 0, 0, 0, 7]);
  expect(shapeOf([3, 3, 3, 3, 3, 3, 3])).toEqual([1, 1, 1, 1, 1, 1, 1]);
  expect(shapeOf([0, 0, 0, 0, 0, 0, 0])).toEqual([1, 1, 1, 1, 1, 1, 1]);
});
