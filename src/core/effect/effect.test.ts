import { randomLcg, randomPoisson } from 'd3';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { micros } from '../metrics/money.ts';
import { effectSpreads, noSpreads, scoreForecast, widen, wideningOf, type Score } from './forecast.ts';
import {
  clicksElasticity,
  cpcElasticity,
  learnAccountResponse,
  responseOf,
  usualShare,
  type BidChange,
} from './learn-response.ts';
import {
  elasticityOver,
  respond,
  responseAt,
  trendOf,
  usualClicks,
  usualCpc,
  usualResponse,
  type Response,
} from './response.ts';
import { worthAlong, worthOfBid, worthOfEffect } from './worth.ts';

/** The same everywhere: neither what is paid per bid nor the bid itself moves the elasticity. */
const flat: Response = { clicks: 1, cpc: 0.5, slope: 0, fade: 0, paid: 0.7 };

const change = (ratio: number, before: number, after: number, more: Partial<BidChange> = {}): BidChange => ({
  ratio,
  paid: 0.7,
  before: { days: 7, clicks: before, spend: micros(before * 0.5) },
  after: { days: 7, clicks: after, spend: micros(after * 0.5) },
  untouched: { before: 0, after: 0, apart: 0 },
  others: 0,
  overlap: 0,
  ...more,
});

describe('response', () => {
  test('by hand: a bid twice as high, e 1 and f 0.5: 20 clicks for 10, each 1.414 times as dear', () => {
    const after = respond({ clicks: 10, spend: micros(4) }, 2, flat);
    expect(after.clicks).toBeCloseTo(20);
    expect(after.spend / 1e6).toBeCloseTo(4 * 2 * Math.SQRT2);
  });

  test('e of a target by hand: slope 6, 0.1 less paid per bid than usual: 1.5 x exp(-0.6) = 0.823', () => {
    const response = { ...usualResponse, slope: 6, paid: 0.7, clicks: 1.5 };
    expect(responseAt(response, 0.6).clicks).toBeCloseTo(0.823, 3);
    expect(responseAt(response, null)).toEqual(response);
    // Bounded: paying all of its bid it would be e^1.8 = 6 times as elastic, 9.1.
    expect(responseAt(response, 1).clicks).toBe(6);
  });

  test('e over a whole change by hand: fade 1, doubled (1 - 1/2) / ln 2 = 0.721, halved (2 - 1) / ln 2 = 1.443', () => {
    const fading = { ...flat, fade: 1 };
    expect(elasticityOver(fading, 2)).toBeCloseTo(0.7213, 4);
    expect(elasticityOver(fading, 0.5)).toBeCloseTo(1.4427, 4);
    expect(elasticityOver(fading, 1)).toBe(1);
    expect(elasticityOver(flat, 2)).toBe(1);
  });

  test('e from one change by hand: twice the bid, twice the clicks is 1; with the siblings up twofold it is 0', () => {
    const open = { mean: 0, spread: 1000 };
    const known = { share: usualShare.mean, shape: flat };
    expect(clicksElasticity([change(2, 100, 200)], open, known).mean).toBeCloseTo(1, 3);
    expect(
      clicksElasticity(
        [change(2, 100, 200, { untouched: { before: 1e9, after: 2e9, apart: 0 } })],
        open,
        known,
      ).mean,
    ).toBeCloseTo(0, 3);
    const longer = change(2, 100, 400, { after: { days: 14, clicks: 400, spend: 0 } });
    expect(clicksElasticity([longer], open, known).mean).toBeCloseTo(1, 3);
  });

  test('f from one change by hand: twice the bid, a click from 0.50 to 0.7071 is 0.5', () => {
    const dearer = change(2, 1e6, 1e6, {
      after: { days: 7, clicks: 1e6, spend: micros(1e6 * 0.5 * Math.SQRT2) },
    });
    expect(cpcElasticity([dearer], { mean: 0, spread: 1000 }).mean).toBeCloseTo(0.5, 4);
  });

  test('without changes the prior stands; what cannot tell is left out', () => {
    const useless = [change(1, 50, 90), change(2, 0, 0), change(0, 5, 5)];
    for (const changes of [[], useless]) {
      const { clicks, cpc } = learnAccountResponse(changes, 0);
      expect([clicks.mean, cpc.mean]).toEqual([usualClicks.mean, usualCpc.mean]);
    }
  });

  test('a trend is heard by how well it tells: 1000 to 1200 clicks is 1.154, 10 to 12 nothing', () => {
    // Noise 1.5 (1/1000 + 1/1200) = 0.00275 beside 0.1^2: weight 0.784; 0.784 x ln 1.2 = 0.143.
    expect(trendOf(1000, 1200)).toBeCloseTo(1.154, 3);
    expect(trendOf(10, 12)).toBeCloseTo(1, 1);
    expect(trendOf(0, 12)).toBe(1);
  });

  /** Changes of targets that answer as `truth` says. */
  function changesOf(truth: Response, count: number): BidChange[] {
    const random = randomLcg(0.3);
    return Array.from({ length: count }, () => {
      const paid = 0.3 + 0.6 * random();
      const ratio = Math.exp(random() * 1.8 - 1.1);
      const clicks = 20 + 200 * random();
      const after = clicks * ratio ** elasticityOver(responseAt(truth, paid), ratio);
      return change(ratio, randomPoisson.source(random)(clicks)(), randomPoisson.source(random)(after)(), {
        paid,
      });
    });
  }

  test('finds how elasticities differ along what is paid and along the bid', () => {
    const learned = responseOf(
      learnAccountResponse(changesOf({ ...flat, slope: 5, fade: 1.5, paid: 0.6 }, 2000), 0),
    );
    expect(learned.slope).toBeGreaterThanOrEqual(4);
    expect(learned.slope).toBeLessThan(6.5);
    expect(learned.fade).toBeGreaterThan(1);
    expect(learned.fade).toBeLessThan(2);
    const alike = responseOf(learnAccountResponse(changesOf({ ...flat, paid: 0.6 }, 2000), 0));
    expect(alike.slope).toBeLessThan(1.5);
    expect(alike.fade).toBeLessThan(0.5);
    expect(alike.clicks).toBeCloseTo(1, 0);
  });

  test('laws: clicks never fall with the bid, the present bid changes nothing, all is finite', () => {
    const any = fc.record({
      clicks: fc.double({ min: 0.05, max: 4, noNaN: true }),
      cpc: fc.double({ min: 0.05, max: 1.5, noNaN: true }),
      slope: fc.double({ min: 0, max: 16, noNaN: true }),
      fade: fc.double({ min: 0, max: 4, noNaN: true }),
      paid: fc.double({ min: 0.1, max: 1, noNaN: true }),
    });
    const ratio = fc.double({ min: 0.1, max: 10, noNaN: true });
    fc.assert(
      fc.property(any, ratio, ratio, fc.double({ min: 0, max: 3, noNaN: true }), (response, a, b, paid) => {
        const own = responseAt(response, paid);
        const at = (r: number) => respond({ clicks: 10, spend: micros(5) }, r, own);
        expect(at(1)).toEqual({ clicks: 10, spend: micros(5) });
        const [low, high] = [at(Math.min(a, b)), at(Math.max(a, b))];
        expect(Number.isFinite(high.spend)).toBe(true);
        expect(low.clicks).toBeLessThanOrEqual(high.clicks * (1 + 1e-9));
        expect(low.spend).toBeLessThanOrEqual(high.spend * (1 + 1e-9));
      }),
    );
  });
});

describe('worth', () => {
  test('a raise by hand: 10 clicks, 0.50 to 1.00 where 1.00 is right, e 1: 10 (1.00 - 0.75) = 2.50', () => {
    expect(worthOfBid(10, micros(0.5), micros(1), micros(2), 0.5, 1) / 1e6).toBeCloseTo(2.5);
  });

  test('a cut by hand: 0.50 to 0.25 where 0.25 is right: 10 (0.1875 - 0.125) = 0.625', () => {
    expect(worthOfBid(10, micros(0.5), micros(0.25), micros(0.5), 0.5, 1) / 1e6).toBeCloseTo(0.625);
  });

  test('anything else by hand: 0.4 of 100 more sold less 25 more spent is 15; a negative that loses 20 sold for 30', () => {
    expect(worthOfEffect({ sales: micros(100), spend: micros(25) }, 0.4) / 1e6).toBeCloseTo(15);
    expect(worthOfEffect({ sales: micros(-20), spend: micros(-30) }, 0.4) / 1e6).toBeCloseTo(22);
  });

  test('along a bid whose elasticity stays it is the closed form; where it falls it is most at theta x RPC all the same', () => {
    const steady = { clicks: 1.2, cpc: 0.6, slope: 8, fade: 0, paid: 0.7 };
    for (const to of [0.1, 0.25, 0.7, 1.4])
      expect(worthAlong(100, micros(0.5), micros(to), micros(1.6), 0.5, steady) / 1e6).toBeCloseTo(
        worthOfBid(100, micros(0.5), micros(to), micros(1.6), 0.5, 1.2) / 1e6,
        2,
      );
    const fading = { ...steady, fade: 1.5 };
    const worth = (to: number) => worthAlong(100, micros(0.5), micros(to), micros(0.6), 0.5, fading);
    expect(worth(0.5)).toBe(0);
    for (const to of [0.02, 0.15, 0.25, 0.35, 0.45]) expect(worth(to)).toBeLessThan(worth(0.3) + 1);
    // All given up: what all its clicks cost at the margin, less what they sell.
    expect(worth(0)).toBeLessThan(worth(0.3));
  });

  test('raises and cuts by as much count about alike, near spend x e / 2 x ln(r)^2', () => {
    const [raise, cut] = [1.1, 1 / 1.1].map((r) =>
      worthOfBid(100, micros(0.5), micros(0.5 * r), micros(r), 0.5, 1.2),
    );
    const near = micros(50) * 0.6 * Math.log(1.1) ** 2;
    expect(raise! / near).toBeCloseTo(1, 0);
    expect(raise! / cut!).toBeCloseTo(1.1, 0);
  });

  test('laws: nothing where it stands, never negative toward theta x RPC, most there', () => {
    const money = fc.integer({ min: 30_000, max: 60_000_000 });
    const share = fc.double({ min: 0, max: 1, noNaN: true });
    fc.assert(
      fc.property(
        fc.double({ min: 0, max: 1e4, noNaN: true }),
        money,
        money,
        fc.double({ min: 0.01, max: 2, noNaN: true }),
        fc.double({ min: 0.05, max: 4, noNaN: true }),
        share,
        (clicks, from, right, theta, e, part) => {
          const worth = (to: number) => worthOfBid(clicks, from, to, right / theta, theta, e);
          // Two large terms that nearly cancel: their last digits are what may be wrong.
          const most = Math.max(1, right / from) ** e * Math.max(right, from);
          const slack = 1e-9 * (1 + Math.abs(worth(right))) + 1e-12 * clicks * most;
          expect(Math.abs(worth(from))).toBeLessThanOrEqual(slack);
          const between = from + part * (right - from);
          expect(worth(between)).toBeGreaterThanOrEqual(-slack - 1e-6);
          expect(worth(right)).toBeGreaterThanOrEqual(worth(between) - slack - 1e-6);
          expect(worthOfBid(clicks, 0, right, right, theta, e)).toBe(0);
        },
      ),
    );
  });
});

describe('forecasts', () => {
  const blocked = {
    clicks: -10,
    spend: micros(-5),
    orders: -1,
    sales: micros(-20),
    salesLow: 0,
    salesHigh: 0,
    profit: null,
    before: { clicks: 10, spend: micros(5), orders: 1, sales: micros(20) },
  };
  // Orders per click 0.1 +- 0.05; clicks known to a tenth.
  const ground = { gamma: { shape: 4, rate: 40 }, value: micros(20), clicksSeen: 99, margin: 0.5 };

  test('what is not known of a negative by hand: 1 click, 0.50, 0.51 orders, 10.39 sold', () => {
    const { change: spreads, after } = effectSpreads(blocked, { ...ground, ratio: null });
    expect(spreads.clicks).toBeCloseTo(1);
    expect(spreads.spend / 1e6).toBeCloseTo(0.5);
    expect(spreads.orders).toBeCloseTo(Math.hypot(0.1, 0.5));
    expect(spreads.sales / 1e6).toBeCloseTo(Math.hypot(10.198, 2), 2);
    expect(spreads.profit! / 1e6).toBeCloseTo(Math.hypot(5.196, 0.5), 2);
    // Of the week after nothing is left to be wrong about.
    expect(after.clicks).toBe(0);
    expect(effectSpreads(blocked, { ...ground, ratio: null, margin: null }).change.profit).toBeNull();
  });

  test('a raise adds what is not known of its elasticity: 0.45 x ln 2 of the 20 clicks after it', () => {
    const raise = { ...blocked, clicks: 10, spend: micros(5), orders: 1, sales: micros(20) };
    const { change: spreads } = effectSpreads(raise, { ...ground, ratio: 2 });
    expect(spreads.clicks).toBeCloseTo(Math.hypot(1, 20 * 0.45 * Math.LN2));
    expect(widen(spreads, 2).clicks).toBeCloseTo(2 * spreads.clicks);
    expect(widen(noSpreads, 2)).toEqual(noSpreads);
  });

  test('scored by hand: against the week expected, moved as siblings moved, less what other lines took', () => {
    const raise = { ...blocked, clicks: 10, spend: micros(5), orders: 1, sales: micros(20) };
    const week = (clicks: number, spend: number, orders: number, sales: number) => ({
      clicks,
      spend: micros(spend),
      orders,
      sales: micros(sales),
    });
    // Expected 10 clicks for 20.00 sold, siblings up a tenth: 22.00. Two weeks sold 80.00: 18.00 more a week.
    const score = scoreForecast(raise, week(0, 0, 0, 0), week(36, 20, 4, 80), 2, {
      trend: 1.1,
      kept: 1,
      widening: 1,
    });
    expect(score.seen.clicks).toBeCloseTo(18 - 11);
    expect(score.seen.sales / 1e6).toBeCloseTo(18);
    expect(score.said.sales / 1e6).toBeCloseTo(20);
    expect(score.inside).toBe(true);
    const half = scoreForecast(raise, week(0, 0, 0, 0), week(36, 20, 4, 80), 2, {
      trend: 1,
      kept: 0.5,
      widening: 1,
    });
    expect(half.said.sales / 1e6).toBeCloseTo(10);
    expect(half.seen.sales / 1e6).toBeCloseTo(40 - 10);
    // 800.00 a week is beyond any chance of 4 orders.
    const far = scoreForecast(raise, week(0, 0, 0, 0), week(36, 20, 80, 1600), 2, {
      trend: 1,
      kept: 1,
      widening: 1,
    });
    expect(far.inside).toBe(false);
  });

  /** `wide` of 100 forecasts missed by 2 x 1.2816 standard deviations, the others not at all. */
  const scores = (wide: number, count = 100): Score[] =>
    Array.from({ length: count }, (_, i) => {
      const missed = i < wide ? 2 * 1.2816 : 0;
      const sums = (sales: number) => ({ clicks: 0, spend: 0, orders: 0, sales });
      return { said: sums(0), seen: sums(missed), spread: sums(1), inside: missed < 1.2816 };
    });

  test('intervals are widened to where 80 % would have held: twice, with 40 of 100 out by twice', () => {
    expect(wideningOf(scores(40))).toBeCloseTo(2);
  });

  test('not when 74 % held, not by fewer than 50, never narrowed', () => {
    expect(wideningOf(scores(26))).toBe(1);
    expect(wideningOf(scores(49, 49))).toBe(1);
    expect(wideningOf(scores(0))).toBe(1);
  });
});
