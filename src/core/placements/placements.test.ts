import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { usualResponse } from '../effect/response.ts';
import { placementFactors, type CampaignCounts, type PlacementCounts } from './beliefs.ts';
import { effectiveBid, normalised, unusual } from './effective.ts';
import { byPlacement, placementName, placementShort, strategyName } from './names.ts';
import { placementGuards, proposePlacements, type PlacedCampaign, type PlacementNow } from './propose.ts';

const counts = (placement: string, clicks: number, orders: number): PlacementCounts => ({
  placement,
  n: clicks,
  y: orders,
  seenClicks: clicks,
  seenOrders: orders,
});

const guards = { ...placementGuards, maximumModifier: 600 };
const today = '2026-11-16';

const here = (placement: string, more: Partial<PlacementNow>): PlacementNow => ({
  placement,
  factor: 1,
  spread: 0.05,
  own: 1,
  ownSpread: 0.05,
  stream: 'all',
  share: 0.5,
  pooled: 1,
  modifier: 0,
  clicks: 100,
  cpc: 600_000,
  seenClicks: 1300,
  seenOrders: 130,
  ...more,
});

const stream = (name: 'all' | 'terms' | 'items') => ({
  name,
  bid: 1_000_000,
  earns: 2_500_000,
  perClick: 0.1,
});
const campaign = (placements: PlacementNow[], more: Partial<PlacedCampaign> = {}): PlacedCampaign => ({
  streams: [stream('all')],
  theta: 0.4,
  response: usualResponse,
  placements,
  changedOn: null,
  ...more,
});

describe('what placements sell', () => {
  test('with much evidence it is what was counted: top sells 15 in 100 clicks, rest 5', () => {
    const [top, rest] = placementFactors([
      {
        campaignId: '1',
        sku: 'A',
        placements: [counts('top_of_search', 20_000, 3000), counts('rest_of_search', 20_000, 1000)],
      },
    ]).get('1')!;
    expect(top!.factor).toBeCloseTo(1.5, 1);
    expect(rest!.factor).toBeCloseTo(0.5, 1);
    expect(top!.share).toBe(0.5);
  });

  test('a campaign with most clicks where they sell best is not taken for a better one', () => {
    // Both sell 12 in 100 at the top and 6 in the rest; one has its clicks at the top, the other has not.
    const found = placementFactors([
      {
        campaignId: 'top',
        sku: 'A',
        placements: [counts('top_of_search', 9000, 1080), counts('rest_of_search', 1000, 60)],
      },
      {
        campaignId: 'rest',
        sku: 'A',
        placements: [counts('top_of_search', 1000, 120), counts('rest_of_search', 9000, 540)],
      },
    ]);
    for (const id of ['top', 'rest']) {
      const [top, rest] = found.get(id)!;
      expect(top!.factor / rest!.factor).toBeGreaterThan(1.85);
      expect(top!.factor / rest!.factor).toBeLessThan(2.1);
    }
  });

  test('a campaign without an order is like the product’s others', () => {
    const found = placementFactors([
      {
        campaignId: 'old',
        sku: 'A',
        placements: [counts('top_of_search', 9000, 1350), counts('rest_of_search', 9000, 450)],
      },
      {
        campaignId: 'new',
        sku: 'A',
        placements: [counts('top_of_search', 20, 0), counts('rest_of_search', 20, 0)],
      },
    ]);
    const [top, rest] = found.get('new')!;
    expect(top!.factor / rest!.factor).toBeGreaterThan(2);
    // Nothing of its own makes it surer.
    expect(top!.spread).toBeGreaterThan(found.get('old')![0]!.spread);
  });

  test('against hidden truth: nearer than the counts themselves, and intervals of 80 % hold it', () => {
    const random = generator(7);
    const campaigns: CampaignCounts[] = [];
    const truth: number[][] = [];
    for (let product = 0; product < 12; product++) {
      const ofProduct = [1.4, 1, 0.6].map((one) => one * Math.exp(0.25 * gauss(random)));
      for (let c = 0; c < 8; c++) {
        const rate = 0.02 + 0.1 * random();
        const own = ofProduct.map((one) => one * Math.exp(0.15 * gauss(random)));
        truth.push(own);
        campaigns.push({
          campaignId: String(campaigns.length),
          sku: `P${product}`,
          placements: own.map((factor, p) => {
            const clicks = Math.round(20 * Math.exp(3 * random()));
            return counts(['top', 'rest', 'pages'][p]!, clicks, poisson(clicks * rate * factor, random));
          }),
        });
      }
    }
    const found = placementFactors(campaigns);
    let [inside, all, ours, raw] = [0, 0, 0, 0];
    campaigns.forEach(({ campaignId, placements }, c) => {
      const own = found.get(campaignId)!;
      const mean = own.reduce((sum, { share }, p) => sum + share * truth[c]![p]!, 0);
      const orders = placements.reduce((sum, { y }) => sum + y, 0);
      const clicks = placements.reduce((sum, { n }) => sum + n, 0);
      own.forEach(({ factor, spread }, p) => {
        const real = Math.log(truth[c]![p]! / mean);
        all++;
        if (Math.abs(Math.log(factor) - real) <= 1.2816 * spread) inside++;
        ours += (Math.log(factor) - real) ** 2;
        const { n, y } = placements[p]!;
        raw += (Math.log((y + 0.5) / n / ((orders + 0.5) / clicks)) - real) ** 2;
      });
    });
    expect(ours).toBeLessThan(raw / 3);
    expect(inside / all).toBeGreaterThan(0.74);
    expect(inside / all).toBeLessThan(0.95);
  });

  test('whatever the counts: factors are 1 on the mean of the campaign’s clicks, and numbers', () => {
    const some = fc.record({ clicks: fc.nat(3000), rate: fc.double({ min: 0, max: 0.3, noNaN: true }) });
    fc.assert(
      fc.property(fc.array(fc.tuple(some, some, some), { minLength: 1, maxLength: 8 }), (drawn) => {
        const campaigns = drawn.map((placements, c) => ({
          campaignId: String(c),
          sku: c % 2 === 0 ? 'A' : 'B',
          placements: placements.map(({ clicks, rate }, p) =>
            counts(`place ${p}`, clicks, Math.floor(clicks * rate)),
          ),
        }));
        for (const own of placementFactors(campaigns).values()) {
          const mean = own.reduce((sum, { share, factor }) => sum + share * factor, 0);
          expect(mean).toBeCloseTo(1, 6);
          for (const { factor, spread } of own) {
            expect(factor).toBeGreaterThan(0);
            expect(Number.isFinite(spread)).toBe(true);
          }
        }
      }),
      { numRuns: 60 },
    );
  });
});

describe('modifiers and bids together', () => {
  test('by hand: top sells three times the rest; half the clicks each; 100 points are the largest step', () => {
    const found = proposePlacements(
      campaign([
        here('top_of_search', { own: 1.5, seenOrders: 195 }),
        here('rest_of_search', { own: 0.5, seenOrders: 65 }),
      ]),
      guards,
      today,
    )!;
    expect(found.bids.map(({ base }) => base)).toEqual(['rest_of_search']);
    expect(found.modifiers.map(({ to, wanted }) => [to, wanted])).toEqual([
      [100, 200],
      [0, 0],
    ]);
    // M = 1, M' = (2 + 1) / 2.
    expect(found.bids[0]!.beta).toBeCloseTo(1 / 1.5, 10);
    expect(found.held).toEqual(['largest step']);
    expect(found.worth).toBeGreaterThan(0);
    expect(found.chance).toBe(1);
  });

  test('what stands right already is left alone, and what tells too little', () => {
    const right = [
      here('top_of_search', { own: 1.2, modifier: 50, share: 0.5 }),
      here('rest_of_search', { own: 0.8, modifier: 0, share: 0.5 }),
    ];
    expect(proposePlacements(campaign(right), guards, today)).toBeNull();
    const few = [here('top_of_search', { own: 1.5 }), here('rest_of_search', { seenClicks: 19 })];
    expect(proposePlacements(campaign(few), guards, today)).toBeNull();
  });

  test('a change within the cooldown is told as held; on the seventh day it is free', () => {
    const placements = [here('top_of_search', { own: 1.3 }), here('rest_of_search', { own: 0.7 })];
    const on = (changedOn: string) =>
      proposePlacements(campaign(placements, { changedOn }), guards, today)!.held;
    expect(on('2026-11-10')).toContain('cooldown');
    expect(on('2026-11-09')).not.toContain('cooldown');
  });

  test('what is little known gains with less certainty, in a wider interval', () => {
    const at = (ownSpread: number) =>
      proposePlacements(
        campaign([
          here('top_of_search', { own: 1.2, ownSpread }),
          here('rest_of_search', { own: 0.8, ownSpread }),
        ]),
        guards,
        today,
      )!;
    expect(at(0.4).chance).toBeLessThan(at(0.05).chance);
    expect(at(0.4).worthHigh - at(0.4).worthLow).toBeGreaterThan(at(0.05).worthHigh - at(0.05).worthLow);
  });

  test('laws: what is bid on the mean stays; steps and limits hold; worth lies in its interval', () => {
    const place = fc.record({
      own: fc.double({ min: 0.1, max: 4, noNaN: true }),
      share: fc.double({ min: 0.01, max: 1, noNaN: true }),
      modifier: fc.integer({ min: 0, max: 600 }),
      clicks: fc.integer({ min: 0, max: 500 }),
      ownSpread: fc.double({ min: 0.01, max: 0.6, noNaN: true }),
      seenClicks: fc.integer({ min: 0, max: 5000 }),
    });
    fc.assert(
      fc.property(fc.array(place, { minLength: 1, maxLength: 4 }), (drawn) => {
        const whole = drawn.reduce((sum, { share }) => sum + share, 0);
        const sold = drawn.reduce((sum, { share, own }) => sum + (share / whole) * own, 0);
        const placements = drawn.map((one, p) =>
          here(`place ${p}`, { ...one, share: one.share / whole, own: one.own / sold }),
        );
        const found = proposePlacements(campaign(placements), guards, today);
        if (!found) return;
        const bid = (name: 'from' | 'to') =>
          placements.reduce((sum, { share }, p) => sum + share * (1 + found.modifiers[p]![name] / 100), 0);
        expect(found.bids[0]!.beta * bid('to')).toBeCloseTo(bid('from'), 9);
        for (const { from, to } of found.modifiers) {
          expect(Math.abs(to - from)).toBeLessThanOrEqual(100);
          expect(to).toBeGreaterThanOrEqual(0);
          expect(to).toBeLessThanOrEqual(600);
          expect(Number.isInteger(to)).toBe(true);
        }
        expect(found.worthLow).toBeLessThanOrEqual(found.worthHigh);
        expect(Number.isFinite(found.worth + found.effect.sales + found.effect.spend)).toBe(true);
      }),
      { numRuns: 200 },
    );
  });
});

describe('what one click may cost', () => {
  test('bid, modifier and strategy multiply', () => {
    expect(effectiveBid(800_000, 25, 'fixed')).toBe(1_000_000);
    expect(effectiveBid(800_000, 25, 'down_only')).toBe(1_000_000);
    expect(effectiveBid(800_000, 25, 'up_and_down')).toBe(2_000_000);
  });

  test('more than twice the bid is asked, unless it stood so before', () => {
    const top = { placement: 'top_of_search', from: 0, to: 120 };
    expect(unusual([top], 'fixed')).toEqual(['top_of_search']);
    expect(unusual([{ ...top, to: 100 }], 'fixed')).toEqual([]);
    expect(unusual([{ ...top, to: 10 }], 'up_and_down')).toEqual(['top_of_search']);
    expect(unusual([{ ...top, from: 150 }], 'fixed')).toEqual([]);
    expect(unusual([top], 'fixed', 0.8)).toEqual([]);
  });

  test('the equivalent pair with the least modifiers bids the same in every placement', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 600 }), { minLength: 1, maxLength: 4 }), (drawn) => {
        const before = Object.fromEntries(drawn.map((modifier, p) => [`place ${p}`, modifier]));
        const { beta, modifiers } = normalised(before);
        expect(Math.min(...Object.values(modifiers))).toBe(0);
        for (const [name, modifier] of Object.entries(before))
          expect(Math.abs(beta * (100 + modifiers[name]!) - (100 + modifier))).toBeLessThanOrEqual(
            0.5 * beta + 1e-9,
          );
      }),
    );
  });

  test('placements have names and an order; unknown ones come last', () => {
    expect(placementName('category_browse')).toBe('category lists');
    expect(placementName('side_shelf')).toBe('side shelf');
    expect(['top_of_search', 'product_pages', 'shelf'].map(placementShort)).toEqual([
      'top',
      'pages',
      'shelf',
    ]);
    expect(['up_and_down', 'by_the_hour'].map(strategyName)).toEqual(['up and down', 'by the hour']);
    expect(['side_shelf', 'product_pages', 'top_of_search'].sort(byPlacement)).toEqual([
      'top_of_search',
      'product_pages',
      'side_shelf',
    ]);
  });
});

/** Numbers between 0 and 1, the same each time. */
function generator(seed: number): () => number {
  let state = seed;
  return () => {
    state = (Math.imul(state, 1_664_525) + 1_013_904_223) >>> 0;
    return (state + 0.5) / 2 ** 32;
  };
}

const gauss = (random: () => number): number =>
  Math.sqrt(-2 * Math.log(random())) * Math.cos(2 * Math.PI * random());

function poisson(mean: number, random: () => number): number {
  let [count, left] = [0, -Math.log(random())];
  while (left < mean) {
    count++;
    left -= Math.log(random());
  }
  return count;
}
