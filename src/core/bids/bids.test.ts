import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { addDays } from '../metrics/days.ts';
import { micros } from '../metrics/money.ts';
import { evidenceBid, paidPerBid, respond, startTheta, steerTheta } from './evidence.ts';
import { defaultGuards, guardBid, type GuardInput } from './guards.ts';

const today = '2026-11-21';
const input = (values: Partial<GuardInput>): GuardInput => ({
  wanted: micros(0.5),
  current: micros(0.5),
  highestCpc: null,
  changedOn: null,
  today,
  overSinceChange: null,
  ...values,
});

describe('the evidence bid', () => {
  test('theta x RPC / M by hand', () => {
    expect(evidenceBid(0.4, micros(2.5), 1.25)).toBe(micros(0.8));
  });

  test('theta starts at target / rho, rho held within 0.4 and 1', () => {
    expect(paidPerBid(micros(60), micros(100))).toBeCloseTo(0.6);
    expect(paidPerBid(micros(10), micros(100))).toBe(0.4);
    expect(paidPerBid(micros(300), micros(100))).toBe(1);
    expect(startTheta(0.3, 0.6)).toBeCloseTo(0.5);
  });

  test('steering: 22 % expected against 26 % raises theta by (26/22)^0.8', () => {
    const since = { days: 7, clicks: 400, spend: micros(220), expectedSales: micros(1000) };
    const { theta, expectedAcos } = steerTheta(0.36, 0.26, since);
    expect(expectedAcos).toBeCloseTo(0.22);
    expect(theta).toBeCloseTo(0.36 * (26 / 22) ** 0.8, 6);
  });

  test('steering holds its steps within 0.8 and 1.3, and stays with few days or clicks', () => {
    const since = { days: 9, clicks: 400, spend: micros(900), expectedSales: micros(1000) };
    expect(steerTheta(0.4, 0.26, since).theta).toBeCloseTo(0.32);
    expect(steerTheta(0.4, 0.26, { ...since, spend: micros(50) }).theta).toBeCloseTo(0.52);
    expect(steerTheta(0.4, 0.26, { ...since, clicks: 49 })).toEqual({ theta: 0.4, expectedAcos: null });
    expect(steerTheta(0.4, 0.26, { ...since, days: 6 }).theta).toBe(0.4);
  });

  test('response: half the bid, half the clicks, a quarter of the spend', () => {
    expect(respond(100, micros(80), 0.5)).toEqual({ clicks: 50, spend: micros(20) });
  });
});

describe('guards', () => {
  test.each([
    ['largest step up', { wanted: micros(2) }, 0.7],
    ['largest step down', { wanted: micros(0.1) }, 0.25],
    ['highest CPC', { wanted: micros(0.69), highestCpc: micros(0.4) }, 0.6],
    ['floor', { wanted: micros(0.01), current: micros(0.06) }, 0.04],
  ])('%s', (name, values, expected) => {
    const guarded = guardBid(input(values), defaultGuards);
    expect(guarded.bid).toBe(micros(expected));
    expect(guarded.held).toContain(name);
  });

  test('a change under 5 % is dropped', () => {
    expect(guardBid(input({ wanted: micros(0.52) }), defaultGuards).bid).toBeNull();
  });

  test('cooldown: no second change within 7 days, unless the days since prove a loss', () => {
    const recent = { wanted: micros(0.3), changedOn: addDays(today, -6) };
    expect(guardBid(input(recent), defaultGuards)).toEqual({ bid: null, held: ['cooldown'] });
    expect(guardBid(input({ ...recent, overSinceChange: 0.96 }), defaultGuards).bid).toBe(micros(0.3));
    expect(guardBid(input({ ...recent, changedOn: addDays(today, -7) }), defaultGuards).bid).toBe(
      micros(0.3),
    );
    const raise = { wanted: micros(0.7), changedOn: addDays(today, -2), overSinceChange: 0.99 };
    expect(guardBid(input(raise), defaultGuards).bid).toBeNull();
  });

  const bid = fc.integer({ min: 4, max: 900 }).map((cents) => cents * 10_000);
  const any = fc.record({
    wanted: fc.double({ min: 1000, max: 2e7, noNaN: true }),
    current: bid,
    highestCpc: fc.option(bid),
    changedOn: fc.option(fc.integer({ min: -20, max: 0 }).map((days) => addDays(today, days))),
    overSinceChange: fc.option(fc.double({ min: 0, max: 1, noNaN: true })),
  });

  test('no guard is ever broken', () => {
    fc.assert(
      fc.property(any, (values) => {
        const { current, wanted, highestCpc } = values;
        const { bid: next } = guardBid(input(values), defaultGuards);
        if (next === null) return;
        expect(next % defaultGuards.step).toBe(0);
        expect(next).toBeGreaterThanOrEqual(defaultGuards.floor);
        expect(next).toBeLessThanOrEqual(current * 1.4 + 1e-6);
        expect(next).toBeGreaterThanOrEqual(Math.min(current * 0.5, current) - 1e-6);
        expect(Math.abs(next - current)).toBeGreaterThanOrEqual(current * 0.05 - 1e-6);
        expect(Math.sign(next - current)).toBe(Math.sign(wanted - current));
        if (highestCpc !== null && next > current)
          expect(next).toBeLessThanOrEqual(Math.max(current, highestCpc * 1.5));
      }),
      { numRuns: 500 },
    );
  });

  test('a proposal of a proposal changes nothing', () => {
    fc.assert(
      fc.property(any, (values) => {
        const first = guardBid(input(values), defaultGuards);
        if (first.bid === null) return;
        const again = input({ ...values, current: first.bid, changedOn: today, overSinceChange: null });
        expect(guardBid(again, defaultGuards).bid).toBeNull();
        // Also without the cooldown, once no step held the first one back.
        const stepped = first.held.some((name) => name.startsWith('largest step'));
        if (!stepped && first.bid >= 200_000) {
          expect(guardBid({ ...again, changedOn: null }, defaultGuards).bid).toBeNull();
        }
      }),
      { numRuns: 500 },
    );
  });
});
