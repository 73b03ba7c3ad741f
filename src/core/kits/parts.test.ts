import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { defaultGuards } from '../bids/guards.ts';
import { firstBidOf } from './bids.ts';
import { bought, leastWhole, splitBudget } from './budget.ts';
import { KeywordChecker, pastedKeywords } from './keywords.ts';
import { evidence, limits } from './kit.fixture.ts';
import { codeHabits, freeName, nameOf } from './names.ts';

describe('budgets', () => {
  test('whatever the shares, the parts add up, and what is set by hand stays', () => {
    const parts = fc.array(
      fc.record({
        share: fc.double({ min: 0.01, max: 5, noNaN: true }),
        own: fc.option(fc.integer({ min: 0, max: 500 }).map((cents) => cents * 10_000)),
      }),
      { minLength: 1, maxLength: 8 },
    );
    fc.assert(
      fc.property(fc.integer({ min: 5000, max: 900_000 }), parts, (cents, list) => {
        const whole = cents * 10_000;
        const made = splitBudget(whole, list);
        list.forEach(({ own }, i) => expect(own === null ? made[i]! % 10_000 : made[i]! - own).toBe(0));
        if (list.some(({ own }) => own === null)) expect(made.reduce((a, b) => a + b)).toBe(whole);
      }),
    );
  });

  test('the least whole gives every part the least; two cents of the smallest part less do not', () => {
    const shares = fc.array(fc.record({ share: fc.integer({ min: 1, max: 60 }) }), {
      minLength: 1,
      maxLength: 7,
    });
    fc.assert(
      fc.property(shares, (list) => {
        const least = 2_000_000;
        const whole = leastWhole(list, least);
        expect(Math.min(...splitBudget(whole + 10_000 * list.length, list))).toBeGreaterThanOrEqual(least);
        const smallest =
          Math.min(...list.map(({ share }) => share)) / list.reduce((sum, { share }) => sum + share, 0);
        const less = whole - 2 * Math.ceil(1 / smallest) * 10_000;
        expect(Math.min(...splitBudget(less, list))).toBeLessThan(least);
      }),
    );
  });

  test('10.00 a day at 0.50 are 140 clicks a week; of 1 order in 10 clicks 14, by chance and doubt 7 to 22', () => {
    // r = 10, p = 100 / 240: mean 14, variance 14 + 14 ^ 2 / 10 = 33.6; 14 +- 1.28 x 5.8
    expect(bought(10_000_000, 500_000, { shape: 10, rate: 100 })).toEqual({
      clicksADay: 20,
      orders: 14,
      ordersLow: 7,
      ordersHigh: 22,
    });
    expect(bought(0, 500_000, { shape: 10, rate: 100 })).toEqual({
      clicksADay: 0,
      orders: 0,
      ordersLow: 0,
      ordersHigh: 0,
    });
  });

  test('eight of ten drawn weeks fall into the interval', () => {
    // Drawn from the belief itself: lambda from its quantiles, orders as Poisson sums of uniform steps.
    const rate = { shape: 4, rate: 60 };
    const { ordersLow, ordersHigh } = bought(20_000_000, 500_000, rate);
    let seed = 7;
    const random = () => (seed = (seed * 48_271) % 2_147_483_647) / 2_147_483_647;
    let inside = 0;
    for (let i = 0; i < 4000; i++) {
      // Gamma(4) is the sum of four exponentials.
      const lambda = -Math.log(random() * random() * random() * random()) / rate.rate;
      let orders = -1;
      for (let sum = 0; sum < lambda * 280; orders++) sum -= Math.log(random());
      if (orders >= ordersLow && orders <= ordersHigh) inside++;
    }
    expect(inside / 4000).toBeGreaterThan(0.79);
    expect(inside / 4000).toBeLessThan(0.88);
  });
});

describe('first bids', () => {
  const bid = (
    way: Parameters<typeof firstBidOf>[0],
    range: Parameters<typeof firstBidOf>[3] = null,
    least = 50_000,
    careful = false,
  ) => firstBidOf(way, evidence, { theta: 0.5, modifier: 1, careful }, range, defaultGuards, least);
  const range = { low: 1_200_000, middle: 1_500_000, high: 2_000_000 };

  test('theta x orders per click x value, and its sentence', () => {
    expect(bid({ way: 'evidence' })).toEqual({
      bid: 1_000_000,
      why: 'Theta 0.50 x 10.0 orders per 100 clicks x 20.00 an order, from 400 clicks of its own of this kind.',
    });
  });

  test('is brought into the suggested range, above the least CPC, and under the ceiling', () => {
    expect(bid({ way: 'evidence' }, range)).toMatchObject({ bid: 1_200_000 });
    expect(bid({ way: 'evidence' }, { low: 100_000, middle: 300_000, high: 600_000 })).toMatchObject({
      bid: 600_000,
    });
    expect(bid({ way: 'evidence' }, null, 1_400_000).why).toContain('raised to the least CPC');
    expect(bid({ way: 'fixed', bid: 90_000_000 })).toMatchObject({ bid: 60_000_000 });
  });

  test('a place in the range; without one the evidence', () => {
    expect(bid({ way: 'range', at: 0.25 }, range)).toMatchObject({ bid: 1_400_000 });
    expect(bid({ way: 'range', at: 0.25 })).toMatchObject({ bid: 1_000_000 });
  });

  test('set by hand it stays, below the least CPC too: whoever sets it means it', () => {
    expect(bid({ way: 'fixed', bid: 40_000 })).toMatchObject({ bid: 40_000 });
  });
});

describe('names', () => {
  const tokens = { code: 'Lids', part: 'exact', purpose: 'performance', sku: 'LID', number: 3 };
  test.each([
    ['{code} {part}', 'Lids exact'],
    ['{number} {code} · {purpose}', '03 Lids · performance'],
    ['{sku}{other}', 'LID{other}'],
  ])('%s is %s', (pattern, name) => {
    expect(nameOf(pattern, tokens)).toBe(name);
  });

  test('a taken name gets a number that sorts', () => {
    const taken = new Set(['lids exact', 'lids exact 02']);
    expect([freeName('Lids exact', taken), freeName('Lids exact', taken), freeName('New', taken)]).toEqual([
      'Lids exact 03',
      'Lids exact 04',
      'New',
    ]);
  });

  test('codes are read where an account has a habit', () => {
    const one = (name: string, ...skus: string[]) => ({ name, skus });
    const habits = codeHabits([
      one('Small crock exact', 'C2'),
      one('Small crock broad research', 'C2'),
      one('Lids exact', 'LID'),
      one('Lids automatic', 'LID'),
      one('Lids for all', 'KIT', 'LID'),
      one('Jar one', 'JAR'),
      one('Strips exact', 'STR'),
      one('Other name', 'STR'),
      one('Jars exact', 'JRS'),
      one('Jars broad', 'JRS'),
      one('Season of brewing', 'JRS'),
      one('Set exact', 'A'),
      one('Set broad', 'A'),
      one('Set phrase', 'B'),
    ]);
    expect([...habits]).toEqual([
      ['C2', 'Small crock'],
      ['LID', 'Lids'],
      ['JRS', 'Jars'],
    ]);
  });
});

describe('keywords', () => {
  test('are parted wherever a list parts them', () => {
    expect(pastedKeywords('airlock lids, jar lids;\n- "wide lids"\t• [lid set]\r\n\n , x')).toEqual([
      'airlock lids',
      'jar lids',
      'wide lids',
      'lid set',
      'x',
    ]);
  });

  const checker = new KeywordChecker({
    limits,
    title: 'Airlock lids for wide jars',
    proven: [{ text: 'glass lids', orders: 3 }],
    blocking: [],
    served: [{ text: 'airlock lid', matchType: 'exact', adGroup: 'Lids exact' }],
  });
  const check = (texts: string[], excluded: string[] = []) => checker.check(texts, excluded);

  test('say what is wrong, what repeats, what is served, what is blocked', () => {
    const [fine, long, bad, twice, served, blocked] = check(
      ['Wide lids', 'a'.repeat(91), 'lids; jars', 'wide  LIDS', 'Airlock lid', 'lids for canning jars'],
      ['canning'],
    );
    expect(fine).toEqual({
      wrong: null,
      repeats: false,
      served: [],
      blockedBy: null,
      blockedIn: [],
      likeness: 1,
    });
    expect(long!.wrong).toBe('It has 91 characters, 90 are the most.');
    expect(bad!.wrong).toBe('It holds characters that a keyword may not have.');
    expect(twice!.repeats).toBe(true);
    expect(served!.served).toEqual([{ matchType: 'exact', adGroup: 'Lids exact' }]);
    expect(blocked!.blockedBy).toBe('canning');
  });

  test('are told where a negative of an ad group would block them', () => {
    const negatives = [{ matchType: 'negative_phrase' as const, expression: 'plastic' }];
    const checker = new KeywordChecker({
      limits,
      title: 'Lids',
      proven: [],
      served: [],
      blocking: [{ adGroup: 'Lids exact', negatives }],
    });
    const [free, blocked] = checker.check(['jar lids', 'plastic lids'], []);
    expect(free!.blockedIn).toEqual([]);
    expect(blocked!.blockedIn).toEqual([{ adGroup: 'Lids exact', by: 'plastic' }]);
  });

  test('are likened to the title and to terms that sold', () => {
    expect(check(['glass lids', 'steel lids', 'garden hose']).map(({ likeness }) => likeness)).toEqual([
      1, 0.5, 0,
    ]);
  });
});
