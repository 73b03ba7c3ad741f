import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { quantileOf } from '../evidence/gamma.ts';
import { micros } from '../metrics/money.ts';
import { elasticityOver, usualResponse } from '../effect/response.ts';
import { worthOfBid } from '../effect/worth.ts';
import { WorthCurve } from './curve.ts';
import { gainOfKnowing } from './gain.ts';
import { learnedOf } from './learned.ts';
import { remembered, withinShare, worthOfTest, type KeptTest } from './plan.ts';

describe('what knowing is worth', () => {
  test('by hand: one click, stay or leave', () => {
    // Gamma(1, 10): P(no order) = 10/11, P(k) = 10/11 x (1/11)^k; the mean after is (1 + k) / 11. Whoever earns 30 an order
    // and pays 3 a click is at the edge now: 0.1 x 30 - 3 = 0. With no order (1/11) he leaves, with k he gains 30 (1 + k) / 11 - 3.
    // Sum over k >= 1: E[30 (1 + k) / 11 - 3] = 0 over all k, so what is gained is what no order would have lost:
    // 10/11 x (3 - 30/11) = 0.24793.
    const best = (rate: number) => Math.max(0, 30 * rate - 3);
    expect(gainOfKnowing({ shape: 1, rate: 10 }, 1, best)).toBeCloseTo((10 / 11) * (3 - 30 / 11), 5);
  });

  test('nothing without a click, where nothing hangs on it, and where all is known', () => {
    const best = (rate: number) => Math.max(0, 30 * rate - 3);
    expect(gainOfKnowing({ shape: 1, rate: 10 }, 0, best)).toBe(0);
    expect(gainOfKnowing({ shape: 1, rate: 10 }, 5, (rate) => 30 * rate - 3)).toBeCloseTo(0, 6);
    expect(gainOfKnowing({ shape: 10_000, rate: 100_000 }, 5, best)).toBeLessThan(0.01);
  });

  test('against hidden truth: rates drawn from the belief, clicks and orders played, the best then done', () => {
    const belief = { shape: 1.5, rate: 30 };
    const clicks = 12;
    // A bid in proportion to what a click earns sells in proportion to its square: kinked at nothing, bent elsewhere.
    const best = (rate: number) => Math.max(0, rate - 0.03) ** 1.7 * 1000;
    const worthOf = (rate: number, guess: number) => {
      // Doing what is best for a guess, paid by the truth: the tangent at the guess.
      const slope = guess <= 0.03 ? 0 : 1700 * (guess - 0.03) ** 0.7;
      return best(guess) + slope * (rate - guess);
    };
    let state = 1;
    const unit = () => {
      state = (state * 1103515245 + 12345) % 2147483648;
      return (state + 0.5) / 2147483648;
    };
    const orders = (mean: number) => {
      let [n, chance] = [0, Math.exp(-mean)];
      for (let u = unit(); u > chance && n < 500; n++) {
        u -= chance;
        chance *= mean / (n + 1);
      }
      return n;
    };
    const rounds = 60_000;
    let [known, unknown] = [0, 0];
    for (let i = 0; i < rounds; i++) {
      const rate = quantileOf(belief, unit());
      const y = orders(rate * clicks);
      known += worthOf(rate, (belief.shape + y) / (belief.rate + clicks));
      unknown += worthOf(rate, belief.shape / belief.rate);
    }
    const played = (known - unknown) / rounds;
    const said = gainOfKnowing(belief, clicks, best);
    expect(Math.abs(played / said - 1)).toBeLessThan(0.05);
  });

  test('thousands of orders are counted to their end', () => {
    // Gamma(20, 1), 100 clicks: 2,000 orders are expected. For x^2 the gain is the variance of the mean after:
    // shape / rate^2 x m / (rate + m) = 20 x 100 / 101 = 19.80.
    expect(gainOfKnowing({ shape: 20, rate: 1 }, 100, (x) => x ** 2)).toBeCloseTo(2000 / 101, 3);
  });

  test('more clicks never teach less, and it is never below nothing', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.05, max: 20, noNaN: true }),
        fc.double({ min: 1, max: 400, noNaN: true }),
        fc.double({ min: 0, max: 100, noNaN: true }),
        fc.double({ min: 0, max: 100, noNaN: true }),
        (shape, rate, a, b) => {
          const best = (x: number) => x ** 2.2;
          const [less, more] = [Math.min(a, b), Math.max(a, b)];
          const gains = [less, more].map((clicks) => gainOfKnowing({ shape, rate }, clicks, best));
          expect(gains[0]).toBeGreaterThanOrEqual(0);
          expect(gains[1]! + 1e-6 * best(shape / rate)).toBeGreaterThanOrEqual(gains[0]!);
        },
      ),
      { numRuns: 200 },
    );
  });
});

describe('a week at a bid', () => {
  test('is what section 12 says where one elasticity holds', () => {
    // 10 clicks at 0.50, e = 1.2, a click worth 0.80: from 0.25 to 0.60 both ways of reckoning differ by nothing.
    const clicksAt = (bid: number) => 10 * (bid / micros(0.5)) ** 1.2;
    const curve = new WorthCurve(clicksAt, micros(0.04), micros(3));
    const [from, to] = [micros(0.25), micros(0.6)];
    const exact = worthOfBid(clicksAt(from), from, to, micros(1.6), 0.5, 1.2);
    expect((curve.at(to, micros(0.8)) - curve.at(from, micros(0.8))) / exact).toBeCloseTo(1, 6);
  });

  test('is highest where the last click costs what it is worth, however clicks follow bids', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.2, max: 5, noNaN: true }),
        fc.double({ min: 0, max: 2, noNaN: true }),
        fc.double({ min: 0.05, max: 1.8, noNaN: true }),
        fc.double({ min: 0.05, max: 1.8, noNaN: true }),
        (e, fade, worth, other) => {
          const response = { ...usualResponse, clicks: e, fade };
          const clicksAt = (bid: number) =>
            5 * (bid / micros(0.5)) ** elasticityOver(response, bid / micros(0.5));
          const curve = new WorthCurve(clicksAt, micros(0.04), micros(2));
          const best = curve.best(micros(worth));
          expect(best * 1.001 + 1).toBeGreaterThanOrEqual(curve.at(micros(other), micros(worth)));
          expect(best).toBeGreaterThanOrEqual(0);
        },
      ),
      // Between two of its points, a step of 8 % apart, where clicks follow most steeply.
      { numRuns: 2_000, examples: [[5, 0.34, 0.33207, 0.33795]] },
    );
  });
});

describe('the tests of a week', () => {
  const one = (targetId: string, spend: number, gain: number) => ({ targetId, spend, gain });

  test('most gain for the spend first; what does not fit makes room; none that gains nothing', () => {
    const possible = [one('a', 5, 10), one('b', 4, 12), one('c', 3, 3), one('d', 1, 0), one('e', 2, 1)];
    // b 3 a unit, a 2, c 1, e 0.5: b and a take 9 of 11; c does not fit, e does.
    expect(withinShare(possible, 11).map(({ targetId }) => targetId)).toEqual(['b', 'a', 'e']);
    expect(withinShare(possible, 0)).toEqual([]);
  });

  test('they never spend more than is set aside', () => {
    const tests = fc.array(
      fc.record({
        targetId: fc.string(),
        spend: fc.nat({ max: 100 }),
        gain: fc.integer({ min: -10, max: 90 }),
      }),
    );
    fc.assert(
      fc.property(tests, fc.nat({ max: 500 }), (possible, spend) => {
        const chosen = withinShare(possible, spend);
        expect(chosen.reduce((sum, test) => sum + test.spend, 0)).toBeLessThanOrEqual(spend);
        expect(chosen.every(({ gain }) => gain > 0)).toBe(true);
      }),
    );
  });

  test('its worth is a week of the time in which it counts', () => {
    // 45 days / ln 2 = 64.9 days, 9.27 weeks.
    expect(remembered).toBeCloseTo(9.2746, 3);
    expect(worthOfTest({ gain: micros(9.2746) }) / 1e6).toBeCloseTo(1, 3);
  });
});

describe('what was learned', () => {
  const kept: KeptTest = {
    isRested: true,
    ordinary: micros(0.1),
    gamma: { shape: 1, rate: 20 },
    value: micros(20),
    theta: 0.5,
    modifier: 1.25,
    clicks: 10,
    spend: micros(4),
    orders: 0.5,
  };

  test('by hand: two orders of ten clicks', () => {
    // 1 / 20 x 20.00 = 1.00 before; (1 + 2) / (20 + 10) x 20.00 = 2.00 after; x 0.5 / 1.25 are bids of 0.40 and 0.80.
    expect(learnedOf(kept, { clicks: 10, orders: 2 })).toEqual({
      earnedBefore: micros(1),
      earned: micros(2),
      bidBefore: micros(0.4),
      bid: micros(0.8),
      says: 'more',
    });
  });

  test('no order says less, and what was expected says as believed', () => {
    expect(learnedOf(kept, { clicks: 10, orders: 0 }).says).toBe('less');
    expect(learnedOf({ ...kept, gamma: { shape: 4, rate: 80 } }, { clicks: 20, orders: 1 }).says).toBe(
      'as believed',
    );
    expect(learnedOf(kept, { clicks: 0, orders: 0 }).says).toBe('nothing');
  });
});
