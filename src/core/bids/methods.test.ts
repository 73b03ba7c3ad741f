import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { micros } from '../metrics/money.ts';
import { bandStep, ladderProblems, usualLadder, type Ladder } from './ladder.ts';
import { methods, wantedBid as wantedAt, type Method, type MethodGoal, type MethodInput } from './methods.ts';

const row = (clicks: number, orders: number, spend: number, sales: number) => ({
  clicks,
  orders,
  spend: micros(spend),
  sales: micros(sales),
});
const goal: MethodGoal = {
  targetAcos: 0.3,
  theta: 0.5,
  stance: 'even',
  ladder: usualLadder,
};
const floor = micros(0.04);
const wantedBid = (method: Method, of: MethodInput, under: MethodGoal) => wantedAt(method, of, under, floor);
/** 10 orders in 100 clicks of 25.00: 2.50 a click. */
const input = (more: Partial<MethodInput> = {}): MethodInput => ({
  row: row(55, 15, 60, 412.5),
  bid: micros(1),
  quiet: false,
  gamma: { shape: 10, rate: 100 },
  value: micros(25),
  modifier: 1,
  rho: 0.6,
  mu: 0.1,
  ...more,
});

describe('the ladder of bands', () => {
  const stepOf = (spend: number, sales: number, orders = 5) =>
    bandStep(usualLadder, row(50, orders, spend, sales), 0.3, 0.1);

  test('each row gets the step of the one band it is in', () => {
    // 30 % of 100.00 is the goal: 20.00 is two thirds of it, 100.00 more than three times.
    expect(stepOf(20, 100)).toMatchObject({ band: 0, step: 0.09 });
    expect(stepOf(28, 100)).toMatchObject({ band: 1, step: 0 });
    expect(stepOf(45, 100)).toMatchObject({ band: 2, step: -0.06 });
    expect(stepOf(60, 100)).toMatchObject({ band: 3, step: -0.12 });
    expect(stepOf(100, 100)).toMatchObject({ band: 4, step: -0.18 });
    expect(stepOf(60, 100)!.why()).toBe('60 % is 2 × the goal of 30 %: the band 2 to 3 ×');
  });

  test('a band that asks for orders moves nothing before it has them', () => {
    expect(stepOf(20, 100, 2)).toMatchObject({ band: 0, step: 0 });
    expect(stepOf(20, 100, 3)).toMatchObject({ step: 0.09 });
  });

  test('without an order: after 2.3 / mu clicks, or enough spend, never before', () => {
    const without = (clicks: number, spend: number, noSales: Partial<Ladder['noSales']> = {}) =>
      bandStep(
        { ...usualLadder, noSales: { ...usualLadder.noSales, ...noSales } },
        row(clicks, 0, spend, 0),
        0.3,
        0.1,
      );
    expect(without(23, 9)).toBeNull();
    expect(without(24, 9)).toMatchObject({ band: null, step: -0.3 });
    expect(without(9, 9, { clicks: 10 })).toBeNull();
    expect(without(10, 9, { clicks: 10, step: 'rest' })).toMatchObject({ step: 'rest' });
    expect(without(5, 12, { spend: micros(10) })!.why()).toBe(
      '12.00 spent without an order, 10.00 is the most',
    );
  });

  test('exactly one band holds every ratio', () => {
    fc.assert(
      fc.property(fc.double({ min: 0.001, max: 20, noNaN: true }), (ratio) => {
        const found = bandStep(usualLadder, row(50, 9, ratio * 30, 100), 0.3, 0.1)!;
        const { bands } = usualLadder;
        expect(found.ratio).toBeCloseTo(ratio, 4);
        expect(bands[found.band!]!.above).toBeLessThanOrEqual(found.ratio!);
        expect(bands[found.band! + 1]?.above ?? Infinity).toBeGreaterThan(found.ratio!);
      }),
    );
  });

  test('what is wrong with a ladder is said', () => {
    expect(ladderProblems(usualLadder)).toEqual([]);
    const bands = [...usualLadder.bands];
    expect(ladderProblems({ ...usualLadder, bands: [] })).toEqual(['A ladder needs a step.']);
    expect(ladderProblems({ ...usualLadder, bands: bands.slice(1) })).toEqual([
      'The first step begins at 0 times the goal.',
    ]);
    expect(ladderProblems({ ...usualLadder, bands: [bands[0]!, { ...bands[4]!, step: 0.2 }] })).toEqual([
      'Step 2 moves a bid further up than the one before, though its ACOS is worse.',
    ]);
    expect(ladderProblems({ ...usualLadder, bands: [bands[0]!, { ...bands[2]!, above: 0 }] })[0]).toContain(
      'Step 2 begins at 0',
    );
    expect(ladderProblems({ bands, noSales: { clicks: 0, spend: -1, step: 0.1 } })).toHaveLength(3);
  });
});

describe('methods', () => {
  test('revenue per click: 412.50 from 55 clicks at 30 % is 2.25; placements take their share', () => {
    const found = wantedBid('rpc', input(), goal)!;
    expect(found.bid).toBeCloseTo(micros(2.25), 3);
    expect(found.formula!()).toBe('412.50 ÷ 55 clicks × 30 %');
    expect(wantedBid('rpc', input({ modifier: 1.25 }), goal)!.bid).toBeCloseTo(micros(1.8), 3);
  });

  test('revenue per click says nothing of rows with few clicks or a single order', () => {
    expect(wantedBid('rpc', input({ row: row(9, 3, 5, 75) }), goal)).toBeNull();
    expect(wantedBid('rpc', input({ row: row(40, 1, 5, 25) }), goal)).toBeNull();
    // No order at all goes by the ladder.
    expect(wantedBid('rpc', input({ row: row(30, 0, 15, 0) }), goal)!.bid).toBeCloseTo(micros(0.7), 3);
  });

  test('every target at the target: 30 % of 2.50 over what a bid is paid', () => {
    expect(wantedBid('strict', input(), goal)!.bid).toBeCloseTo(micros(1.25), 3);
    // Paid per bid is held within 0.5 and 1.
    expect(wantedBid('strict', input({ rho: 0.2 }), goal)!.bid).toBeCloseTo(micros(1.5), 3);
  });

  test('the evidence: theta × 2.50; a careful raise rests on less', () => {
    expect(wantedBid('evidence', input(), goal)).toEqual({ bid: micros(1.25), rest: false, formula: null });
    const careful = wantedBid('evidence', input(), { ...goal, stance: 'careful' })!;
    expect(careful.bid).toBeLessThan(micros(1.25));
    expect(careful.bid).toBeGreaterThan(micros(1));
  });

  test('bands move the present bid by one step; rest goes to the floor', () => {
    // 60.00 for 412.50 is 14.5 %, less than half the goal.
    expect(wantedBid('bands', input(), goal)!.bid).toBeCloseTo(micros(1.09), 3);
    expect(wantedBid('bands', input({ row: row(50, 9, 31, 100) }), goal)).toBeNull();
    const rest: Ladder = { ...usualLadder, noSales: { clicks: 20, spend: null, step: 'rest' } };
    expect(wantedBid('bands', input({ row: row(30, 0, 15, 0) }), { ...goal, ladder: rest })).toMatchObject({
      bid: micros(0.04),
      rest: true,
    });
  });

  test('what is too quiet to know goes toward what its siblings promise, by bands and revenue too', () => {
    const quiet = input({ row: row(2, 0, 1, 0), quiet: true });
    for (const method of ['bands', 'rpc'] as const) {
      expect(wantedBid(method, quiet, goal)!.bid).toBeCloseTo(micros(1.25), 3);
      // Never above it.
      expect(wantedBid(method, { ...quiet, bid: micros(1.3) }, goal)).toBeNull();
    }
  });

  test('no method ever wants a bid that is none', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...methods),
        fc.nat(400),
        fc.nat(30),
        fc.double({ min: 0, max: 500, noNaN: true }),
        fc.double({ min: 0.001, max: 3, noNaN: true }),
        (method, clicks, orders, spend, targetAcos) => {
          const some = input({ row: row(clicks + orders, orders, spend, orders * 25) });
          const found = wantedBid(method, some, { ...goal, targetAcos });
          if (found) expect(Number.isFinite(found.bid) && found.bid >= 0).toBe(true);
        },
      ),
    );
  });
});
