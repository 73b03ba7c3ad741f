import fc from 'fast-check';
import { expect, test } from 'vitest';
import {
  flat,
  hoursOfWeek,
  isFlat,
  meanSchedule,
  readSchedule,
  scheduleFactor,
  scheduleSaid,
  writeSchedule,
} from './schedule.ts';

test('what is written is read again as it was', () => {
  fc.assert(
    fc.property(
      fc.array(fc.integer({ min: 0, max: 30 }), { minLength: hoursOfWeek, maxLength: hoursOfWeek }),
      (tens) => {
        const schedule = tens.map((ten) => ten * 10);
        expect(readSchedule(writeSchedule(schedule))).toEqual(schedule);
      },
    ),
  );
  expect(writeSchedule(flat())).toBe('');
  expect(isFlat(readSchedule('')!)).toBe(true);
});

test('what is no schedule is none: a weekday that is not, hours that run backwards or past midnight', () => {
  for (const text of ['someday 0-23 70', 'sunday 9-8 70', 'sunday 0-24 70', 'sunday 0-23', 'sunday 0-23 -5'])
    expect(readSchedule(text), text).toBeNull();
});

test('the last part that names an hour counts', () => {
  const schedule = readSchedule('Monday 0-23 80; monday 9-11 0')!;
  expect(schedule.slice(8, 13)).toEqual([80, 0, 0, 0, 80]);
  expect(schedule[24]).toBe(100);
});

test('in words: weekdays that are alike as one', () => {
  expect(scheduleSaid(flat())).toBe('100 % at all hours');
  expect(scheduleSaid(readSchedule('sunday 0-23 60')!)).toBe('Sunday 60 %');
  expect(scheduleSaid(readSchedule('monday 0-6 0; tuesday 0-6 0; saturday 0-23 120; sunday 0-23 120')!)).toBe(
    'Monday and Tuesday 0–7 h off; Saturday and Sunday 120 %',
  );
});

test('what it makes of a bid: at most, and on the mean of clicks', () => {
  expect(scheduleFactor('sunday 0-23 60')).toBe(1);
  expect(scheduleFactor('monday 9-12 150')).toBe(1.5);
  expect(scheduleFactor(null)).toBe(1);
  const clicks = Array<number>(hoursOfWeek).fill(1);
  expect(meanSchedule(readSchedule('sunday 0-23 30')!, clicks)).toBeCloseTo((6 + 0.3) / 7);
  // What is off is clicked by nobody.
  expect(meanSchedule(readSchedule('sunday 0-23 0; monday 0-23 40')!, clicks)).toBeCloseTo((5 + 0.4) / 6);
  expect(meanSchedule(flat(), Array<number>(hoursOfWeek).fill(0))).toBe(1);
});
