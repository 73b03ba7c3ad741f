import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import {
  daysOfWeek,
  flat,
  hoursOfDay,
  hoursOfWeek,
  meanSchedule,
  readSchedule,
  writeSchedule,
} from '../account/schedule.ts';
import { eighty } from '../effect/forecast.ts';
import { dayScatter, hourFactors, noCounts } from './beliefs.ts';
import { scheduleShort, sentenceOfHours } from './explain.ts';
import { factorsOf, groundOf, poisson, seeded, unitOf } from './hours.fixture.ts';
import { outcomeOf } from './outcome.ts';
import { factorsOfPart, hoursPicture } from './picture.ts';
import { hourBlocks, hourGuards, proposeSchedule } from './propose.ts';

const guards = { ...hourGuards, minimumBid: 30_000 };
const enough = { weeks: 8, clicks: 10_000 };
const sunday = 6;
const today = '2026-11-26';
/** Sundays sell 0.64 of the mean, the other days a little more. */
const weakSundays = [1.06, 1.06, 1.06, 1.06, 1.06, 1.06, 0.64];

describe('what times sell', () => {
  test('is found from counts, with intervals of 80 % that hold it; where times are alike little is claimed', () => {
    const truth = (at: number) =>
      weakSundays[Math.floor(at / hoursOfDay)]! * (at % hoursOfDay >= 18 ? 1.15 : 0.95);
    let [held, all, wrong] = [0, 0, 0];
    for (let run = 0; run < 12; run++) {
      const random = seeded(run + 1);
      const units = Array.from({ length: 12 }, (_, at) =>
        unitOf(
          `c${at}`,
          `P${at % 4}`,
          { weeks: 8, clicks: 0.6 + (at % 3), perClick: 0.05 + 0.02 * (at % 4) },
          truth,
          random,
        ),
      );
      const found = hourFactors(units, 1);
      for (const { weekdays } of found.values()) {
        weekdays.forEach(({ factor, spread }, weekday) => {
          all++;
          if (Math.abs(Math.log(factor / weakSundays[weekday]!)) <= eighty * spread) held++;
        });
        expect(weekdays[sunday]!.factor).toBeLessThan(0.85);
      }
      const alike = hourFactors(
        units.map((unit) =>
          unitOf(unit.id, unit.sku, { weeks: 8, clicks: 1, perClick: 0.08 }, () => 1, random),
        ),
        1,
      );
      for (const { weekdays } of alike.values())
        for (const { factor, spread } of weekdays) if (Math.abs(Math.log(factor)) > 1.645 * spread) wrong++;
    }
    expect(held / all).toBeGreaterThan(0.72);
    expect(wrong / all).toBeLessThan(0.1);
  });

  test('an hour of a weekday is the product of both where nothing else is told, and 1 on the mean of clicks', () => {
    const random = seeded(5);
    const [one] = [
      ...hourFactors(
        [unitOf('c', 'P', { weeks: 12, clicks: 6, perClick: 0.1 }, () => 1, random)],
        1,
      ).values(),
    ];
    const mean = (list: readonly { factor: number }[]) =>
      list.reduce((sum, { factor }) => sum + factor, 0) / list.length;
    expect(mean(one!.weekdays)).toBeCloseTo(1, 1);
    expect(mean(one!.hours)).toBeCloseTo(1, 1);
    expect(mean(one!.week)).toBeCloseTo(1, 1);
  });

  test('a campaign without a click has its product’s times, an account without one none', () => {
    const random = seeded(9);
    const busy = Array.from({ length: 6 }, (_, at) =>
      unitOf(
        `c${at}`,
        'P',
        { weeks: 12, clicks: 4, perClick: 0.1 },
        (hour) => weakSundays[Math.floor(hour / 24)]!,
        random,
      ),
    );
    const found = hourFactors([...busy, { id: 'new', sku: 'P', counts: noCounts() }], 1);
    expect(found.get('new')!.weekdays[sunday]!.factor).toBeLessThan(0.8);
    const [none] = [...hourFactors([{ id: 'a', sku: '', counts: noCounts() }], 1).values()];
    for (const { factor } of none!.week) expect(factor).toBeCloseTo(1, 9);
  });

  test('days that scatter more than chance tell less', () => {
    const days = (scatter: number) => {
      const random = seeded(3);
      return Array.from({ length: 84 }, (_, at) => {
        const shared = Math.exp(scatter * (random() - 0.5) * 3.46);
        return { weekday: at % 7, clicks: 400, orders: poisson(40 * shared, random) };
      });
    };
    expect(dayScatter(days(0))).toBeLessThan(1.35);
    // Days differ by 30 % of 40 orders: 1 + 40 x 0.09.
    expect(dayScatter(days(0.3))).toBeGreaterThan(3);
    expect(dayScatter([])).toBe(1);
    const unit = unitOf('c', 'P', { weeks: 8, clicks: 5, perClick: 0.1 }, () => 1, seeded(4));
    const [sure] = [...hourFactors([unit], 1).values()];
    const [unsure] = [...hourFactors([unit], 4).values()];
    expect(unsure!.weekdays[0]!.spread).toBeGreaterThan(1.3 * sure!.weekdays[0]!.spread);
  });
});

describe('a schedule', () => {
  const propose = (
    factors = factorsOf(weakSundays, 0.05),
    live = flat(),
    evidence = enough,
    changedOn: string | null = null,
    more = {},
  ) => proposeSchedule(groundOf(factors, more), live, evidence, guards, changedOn, today);

  test('by hand: Sundays at what they sell beside the others, in tens; bids make up for it on the mean', () => {
    const one = propose(factorsOf([1.06, 1.06, 1.06, 1.06, 1.06, 1.06, 0.64], 0.06))!;
    expect(one.stage).toBe('weekdays');
    // 0.64 of 1.06 is 60 %; the mean by clicks goes from 1 to 6.6 / 7, so bids by 7 / 6.6.
    expect(one.schedule).toBe('sunday 0-23 60');
    expect(one.beta).toBeCloseTo(7 / 6.6);
    expect(scheduleShort(one)).toBe('Sun 60 %, bids × 1.06');
    expect(one.worth).toBeGreaterThan(0);
    expect(one.worthLow).toBeLessThan(one.worth);
    expect(one.worthHigh).toBeGreaterThan(one.worth);
    expect(one.chance).toBeGreaterThan(0.9);
    expect(sentenceOfHours(one, 8)).toMatch(
      /^A click on Sundays sells 0.64 times the mean \(0.593 to 0.691\)\. Told by 8 weeks\. With Sunday 60 % and bids × 1\.06/,
    );
  });

  test('where the budget runs dry bids are not raised with it, and the reason says so; lowered they are', () => {
    const factors = factorsOf([1.06, 1.06, 1.06, 1.06, 1.06, 1.06, 0.64], 0.06);
    const one = propose(factors, flat(), enough, null, { isDry: true })!;
    expect(one.schedule).toBe('sunday 0-23 60');
    expect(one.beta).toBe(1);
    expect(one.effect.spend).toBeLessThan(0);
    expect(scheduleShort(one)).toBe('Sun 60 %');
    expect(sentenceOfHours(one, 8)).toContain(
      'With Sunday 60 % less is spent where it sells less, and its budget, which runs dry, lasts longer.',
    );
    const strong = factorsOf([0.94, 0.94, 0.94, 0.94, 0.94, 0.94, 1.36], 0.06);
    expect(propose(strong, flat(), enough, null, { isDry: true })!.beta).toBeLessThan(1);
  });

  test('times that are not told apart stay; none told, nothing is proposed; all told, the mean is the measure', () => {
    expect(propose(factorsOf([1.04, 1, 1, 1, 1, 1, 0.96], 0.1))).toBeNull();
    const all = propose(factorsOf([1.3, 1.3, 1.3, 0.7, 0.7, 0.7, 1], 0.02))!;
    expect(readSchedule(all.schedule)!.filter((_, at) => at % 24 === 0)).toEqual([
      130, 130, 130, 70, 70, 70, 100,
    ]);
    expect(all.beta).toBe(1);
  });

  test('never from fewer than four weeks, or too few clicks', () => {
    expect(propose(undefined, undefined, { weeks: 3, clicks: 10_000 })).toBeNull();
    expect(propose(undefined, undefined, { weeks: 4, clicks: 99 })).toBeNull();
    expect(propose(undefined, undefined, { weeks: 4, clicks: 100 })).not.toBeNull();
  });

  test('what stands as it should is left; a change that was made lately holds the next', () => {
    const first = propose()!;
    const live = readSchedule(first.schedule)!;
    expect(propose(undefined, live)).toBeNull();
    const other = readSchedule('sunday 0-23 90')!;
    expect(propose(undefined, other, enough, '2026-11-05')!.held).toContain('cooldown');
    expect(propose(undefined, other, enough, '2026-10-05')!.held).not.toContain('cooldown');
  });

  test('steps of 50 points at most; what is wanted is said', () => {
    const one = propose(factorsOf([1.13, 1.13, 1.13, 1.13, 1.13, 1.13, 0.22], 0.05))!;
    const [part] = one.parts.filter(({ name }) => name === 'Sunday');
    expect(part).toMatchObject({ from: 100, to: 50, wanted: 20 });
    expect(one.held).toContain('largest step');
  });

  test('off only where even the least bid would lose beyond doubt', () => {
    // At 0.02 of 2.00 a click sells 0.04 at theta 0.35: 0.014, below the least bid of 0.03.
    const dead = factorsOf([1.16, 1.16, 1.16, 1.16, 1.16, 1.16, 0.02], 0.1);
    expect(propose(dead, flat())!.parts.at(-1)).toMatchObject({ wanted: 0, to: 50 });
    const half = readSchedule('sunday 0-23 50')!;
    expect(readSchedule(propose(dead, half)!.schedule)![sunday * hoursOfDay]).toBe(0);
    // Known badly, it is bid low but not off.
    const unsure = factorsOf([1.16, 1.16, 1.16, 1.16, 1.16, 1.16, 0.02], 0.8);
    expect(propose(unsure, half)!.parts.at(-1)!.wanted).toBe(10);
  });

  test('hours come once weekdays stand, in blocks; hours that somebody set are left', () => {
    const hours = Array.from({ length: hoursOfDay }, (_, hour) => (hour < 6 ? 0.6 : 1.13));
    const factors = factorsOf(Array<number>(daysOfWeek).fill(1), 0.08, hours);
    expect(hourBlocks(factors.hours).map(({ first, last }) => [first, last])).toEqual([
      [0, 5],
      [6, 23],
    ]);
    const one = propose(factors)!;
    expect(one.stage).toBe('hours');
    const schedule = readSchedule(one.schedule)!;
    expect(schedule.slice(0, 7)).toEqual([60, 60, 60, 60, 60, 60, 110]);
    expect(schedule.slice(144, 151)).toEqual([60, 60, 60, 60, 60, 60, 110]);
    expect(scheduleShort(one)).toBe('0–6 60 %, 6–24 110 %');
    expect(propose(factors, readSchedule('monday 3-4 80')!)).toBeNull();
  });

  test('laws: with the factor on bids what is bid on the mean of clicks stays, steps hold, what is off stays off', () => {
    fc.assert(
      fc.property(
        fc.array(fc.double({ min: 0.3, max: 1.8, noNaN: true }), { minLength: 7, maxLength: 7 }),
        fc.array(fc.integer({ min: 0, max: 15 }), { minLength: 7, maxLength: 7 }),
        fc.double({ min: 0.02, max: 0.3, noNaN: true }),
        (raw, tens, spread) => {
          const mean = raw.reduce((sum, one) => sum + one, 0) / 7;
          const live = flat().map((_, at) => tens[Math.floor(at / hoursOfDay)]! * 10);
          const factors = factorsOf(
            raw.map((factor) => factor / mean),
            spread,
          );
          const one = propose(factors, live);
          if (!one) return;
          const to = readSchedule(one.schedule)!;
          const clicks = Array<number>(hoursOfWeek).fill(10);
          const kept = (one.beta * meanSchedule(to, clicks)) / meanSchedule(live, clicks);
          expect(Math.abs(kept - 1)).toBeLessThan(one.beta === 1 ? 0.031 : 1e-9);
          to.forEach((percent, at) => {
            expect(percent % 10).toBe(0);
            if (live[at] === 0) expect(percent).toBe(0);
            expect(Math.abs(percent - live[at]!)).toBeLessThanOrEqual(60);
          });
          expect(writeSchedule(to)).toBe(one.schedule);
        },
      ),
    );
  });
});

describe('what a schedule brings', () => {
  test('nothing where nothing moves; off saves what it costs and loses what it sells', () => {
    const ground = groundOf(factorsOf(weakSundays, 0.05));
    const still = outcomeOf(ground, flat(), flat());
    expect(still).toMatchObject({ worth: 0, chance: 0 });
    expect(still.effect).toMatchObject({ clicks: 0, spend: 0, sales: 0 });
    const off = flat().fill(0, sunday * hoursOfDay);
    const { effect } = outcomeOf(ground, flat(), off);
    expect(effect.clicks).toBeCloseTo(-240);
    expect(effect.spend).toBeCloseTo(-120_000_000);
    expect(effect.sales).toBeCloseTo(-240 * 2_000_000 * 0.64);
    // And back on again it is the same the other way round.
    const back = outcomeOf(ground, off, flat());
    expect(back.effect.clicks).toBeCloseTo(240);
    expect(back.effect.sales).toBeCloseTo(240 * 2_000_000 * 0.64);
  });

  test('the best multipliers are near what times sell: more or less of it is worth less', () => {
    const ground = groundOf(factorsOf(weakSundays, 0.02));
    const worthAt = (percent: number) =>
      outcomeOf(ground, flat(), flat().fill(percent, sunday * hoursOfDay)).worth;
    expect(worthAt(60)).toBeGreaterThan(worthAt(90));
    expect(worthAt(60)).toBeGreaterThan(worthAt(30));
    expect(worthAt(60)).toBeGreaterThan(0);
    expect(worthAt(130)).toBeLessThan(0);
  });

  test('laws: numbers, and worth within its interval, whatever schedules stand', () => {
    const schedules = fc
      .array(fc.integer({ min: 0, max: 20 }), { minLength: hoursOfWeek, maxLength: hoursOfWeek })
      .map((tens) => tens.map((ten) => ten * 10));
    const ground = groundOf(factorsOf(weakSundays, 0.15));
    fc.assert(
      fc.property(schedules, schedules, (from, to) => {
        const { worth, worthLow, worthHigh, effect } = outcomeOf(ground, from, to);
        for (const value of [worth, worthLow, worthHigh, ...Object.values(effect)])
          expect(Number.isFinite(value)).toBe(true);
        expect(worthLow).toBeLessThanOrEqual(worthHigh);
      }),
      { numRuns: 40 },
    );
  });
});

describe('the picture', () => {
  const mean = { earns: 2_000_000, doubt: 0.05, targetAcos: 0.25 };
  const unit = unitOf('c', 'P', { weeks: 8, clicks: 2, perClick: 0.1 }, () => 1, seeded(6));

  test('an ACOS for each time: what a click costs there over what it sells there', () => {
    const { weekdays, week } = hoursPicture(unit.counts, factorsOf(weakSundays, 0.05), mean);
    // 0.50 / (2.00 x 0.64) = 0.39, over 0.25; 0.50 / (2.00 x 1.06) = 0.24, undecided.
    expect(weekdays[sunday]!.acos).toBeCloseTo(0.39, 2);
    expect(weekdays[sunday]!.verdict).toBe('over');
    expect(weekdays[0]!.verdict).toBe('undecided');
    expect(weekdays.reduce((sum, { clicks }) => sum + clicks, 0)).toBe(
      unit.counts.clicks.reduce((sum, one) => sum + one, 0),
    );
    expect(week).toHaveLength(hoursOfWeek);
    const empty = hoursPicture(noCounts(), factorsOf(weakSundays, 0.05), mean);
    expect(empty.weekdays[0]).toMatchObject({ acos: null, verdict: 'undecided' });
  });

  test('a part of a campaign: its own weekdays drawn to the campaign’s', () => {
    const whole = factorsOf(weakSundays, 0.05);
    const quiet = factorsOfPart(
      whole,
      Array.from({ length: 7 }, () => ({ clicks: 0, orders: 0 })),
    );
    expect(quiet.weekdays[sunday]!.factor).toBeCloseTo(0.64);
    const loud = factorsOfPart(
      whole,
      Array.from({ length: 7 }, (_, at) => ({ clicks: 5000, orders: at === sunday ? 1000 : 500 })),
    );
    expect(loud.weekdays[sunday]!.factor).toBeGreaterThan(1.4);
    expect(loud.hours).toBe(whole.hours);
  });
});
