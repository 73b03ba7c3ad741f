import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { objectsAt, type Played } from '../account/as-of.ts';
import type { Objects, TargetObject } from '../account/store.ts';
import type { CampaignDay } from '../budgets/hours.ts';
import { lostOf } from '../budgets/lost.ts';
import { respond, usualResponse, type Response } from '../effect/response.ts';
import { noCounts } from '../hours/beliefs.ts';
import { micros } from '../metrics/money.ts';
import { daysAsPlayed, hoursAsPlayed, movesOf, placementsAsPlayed, type CampaignMoves } from './as-played.ts';

/** Clicks go with the square of the bid, CPC with its root: whole numbers by hand. */
const square: Response = { ...usualResponse, clicks: 2, cpc: 0.5, fade: 0 };
const still: CampaignMoves = { raise: 1, bids: 1, placements: {}, budget: null, schedule: null };

const target = (id: string, adGroup: number, bid: number | null): TargetObject => ({
  id,
  adGroup,
  kind: 'keyword',
  matchType: 'exact',
  expression: id,
  bid,
  status: 'enabled',
  changedOn: null,
  bidBefore: null,
  firstSeen: null,
  lastSeen: null,
});
const campaign = (id: string) => ({
  id,
  name: id,
  kind: 'manual',
  status: 'enabled',
  fields: { daily_budget: '5000000', schedule: '' },
  strategy: null,
  budgetGroup: null,
  endDate: null,
});
const objects: Objects = {
  budgetGroups: [],
  products: [],
  campaigns: [campaign('a'), campaign('b')],
  adGroups: [
    { id: 'g', campaign: 0, name: 'G', status: 'enabled', sku: null, fields: { default_bid: '1000000' } },
    { id: 'h', campaign: 1, name: 'H', status: 'enabled', sku: null, fields: {} },
  ],
  targets: [target('1', 0, 500_000), target('2', 0, null), target('3', 1, 500_000)],
  placements: [
    { campaign: 0, placement: 'top', modifier: 0 },
    { campaign: 0, placement: 'rest', modifier: 0 },
  ],
  negatives: [],
};
const movesBy = (...played: Omit<Played, 'on'>[]) => {
  const nights = played.map((one) => ({ ...one, on: '2026-11-01' }));
  const then = objectsAt(objects, [], nights, '2026-11-08');
  return movesOf(nights, then.stood, then.objects, { targets: [30, 10, 50], placements: [10, 30] });
};
const set = (entity: string, objectId: string, field: string, value: string) => ({
  entity,
  objectId,
  field,
  value,
});

describe('what was played of a campaign', () => {
  test('bids move by their clicks, those of an ad group with it; other campaigns are left out', () => {
    const moves = movesBy(set('target', '1', 'bid', '1000000'));
    expect([...moves.keys()]).toEqual(['a']);
    // 30 clicks of 0.50 and 10 of 1.00 are 25; 40 of 1.00 are 40.
    expect(moves.get('a')!.bids).toBeCloseTo(1.6, 3);
    const bare = movesBy(set('ad_group', 'g', 'default_bid', '500000'));
    // 15 and 10 become 15 and 5.
    expect(bare.get('a')!.bids).toBeCloseTo(0.8, 3);
  });

  test('modifiers that go with bids leave what is bid on the mean', () => {
    // A quarter of the clicks at + 100 %: the mean is raised by 1.25, bids by 0.8.
    const moves = movesBy(
      set('placement_modifier', 'a', 'top', '100'),
      set('target', '1', 'bid', '400000'),
      set('ad_group', 'g', 'default_bid', '800000'),
    ).get('a')!;
    expect(moves.raise).toBeCloseTo(1, 3);
    expect(moves.placements.top).toBeCloseTo(1.6, 6);
    expect(moves.placements.rest).toBeCloseTo(0.8, 6);
  });

  test('a budget or a schedule is told where it is another than it was', () => {
    const moves = movesBy(
      set('campaign', 'a', 'daily_budget', '8000000'),
      set('campaign', 'b', 'schedule', 'sunday 0-23 50'),
    );
    expect(moves.get('a')).toMatchObject({ budget: 8_000_000, schedule: null, raise: 1 });
    expect(moves.get('b')).toMatchObject({
      budget: null,
      schedule: { stood: '', now: 'sunday 0-23 50' },
    });
  });
});

test('placements have clicks and spend as their bids would have brought, evidence as it is', () => {
  const figures = {
    placement: 'top',
    n: 5,
    y: 1,
    seenClicks: 40,
    seenOrders: 2,
    sums: { impressions: 0, clicks: 40, spend: 0, orders: 2, units: 2, sales: 0 },
    present: { clicks: 10, spend: micros(10), days: 7 },
  };
  const [made] = placementsAsPlayed([figures], { ...still, placements: { top: 4 } }, square);
  // Four times the bid: 16 times the clicks at twice the CPC.
  expect(made).toEqual({ ...figures, present: { clicks: 160, spend: micros(320), days: 7 } });
});

const day = (more: Partial<CampaignDay> = {}): CampaignDay => ({
  day: '2026-11-03',
  clicks: 10,
  spend: micros(5),
  orders: 1,
  sales: micros(20),
  minutes: 720,
  shown: 0.5,
  missed: 0.5,
  ...more,
});

describe('days under a budget that was played', () => {
  test('a budget that lasts leaves nothing missed; half of it is half a day', () => {
    const days = Array.from({ length: 14 }, () => day());
    const full = lostOf(days).full[0]!;
    expect(full).toBeCloseTo(micros(10), -3);
    const [whole] = daysAsPlayed(days, { ...still, budget: micros(20) }, micros(5), square);
    expect(whole).toMatchObject({ minutes: 1440, shown: 1, missed: 0 });
    expect(whole!.clicks).toBeCloseTo(20, 3);
    expect(whole!.orders).toBeCloseTo(2, 3);
    const [half] = daysAsPlayed(days, { ...still, budget: full / 2 }, micros(5), square);
    expect(half!.shown).toBeCloseTo(0.5, 9);
    expect(half!.spend).toBeCloseTo(micros(5), -3);
  });

  test('lower bids spend less, so that the budget lasts longer', () => {
    const days = Array.from({ length: 14 }, () => day());
    // A quarter of the bid: a sixteenth of the clicks, at half of the CPC.
    const [lower] = daysAsPlayed(days, { ...still, raise: 0.25 }, micros(5), square);
    expect(lower!.shown).toBe(1);
    expect(lower!.clicks).toBeCloseTo(20 / 16, 3);
    expect(lower!.spend).toBeCloseTo(micros(10) / 32, -3);
  });

  test('laws: never over the budget; parts of a day sum to what they were; a dearer budget shows no less', () => {
    const drawn = fc.record({
      clicks: fc.integer({ min: 0, max: 60 }),
      cpc: fc.integer({ min: 100_000, max: 900_000 }),
      shown: fc.double({ min: 0.05, max: 1, noNaN: true }),
    });
    fc.assert(
      fc.property(
        fc.array(drawn, { minLength: 1, maxLength: 20 }),
        fc.integer({ min: 1, max: 200 }),
        fc.double({ min: 0.3, max: 3, noNaN: true }),
        (list, amount, raise) => {
          const days = list.map(({ clicks, cpc, shown }) =>
            day({ clicks, spend: clicks * cpc, shown, missed: 1 - shown }),
          );
          const under = (budget: number) =>
            daysAsPlayed(days, { ...still, raise, budget }, null, usualResponse);
          const [less, more] = [under(micros(amount)), under(micros(2 * amount))];
          less.forEach((one, at) => {
            expect(one.shown + one.missed).toBeCloseTo(1, 9);
            if (days[at]!.clicks === 0) return;
            expect(one.spend).toBeLessThanOrEqual(micros(amount) * (1 + 1e-9));
            expect(more[at]!.shown).toBeGreaterThanOrEqual(one.shown - 1e-9);
            expect(more[at]!.clicks).toBeGreaterThanOrEqual(one.clicks - 1e-9);
          });
        },
      ),
    );
  });
});

test('hours have what a schedule that was played would have brought; off keeps what it had', () => {
  const counts = noCounts();
  counts.clicks[0] = 8;
  counts.spend[0] = micros(8);
  counts.grown[0] = 4;
  counts.clicks[24] = 8;
  const moves = { ...still, schedule: { stood: '', now: 'monday 0-0 50; tuesday 0-23 0' } };
  const made = hoursAsPlayed(counts, moves, square);
  expect([made.clicks[0], made.grown[0], made.clicks[24]]).toEqual([2, 1, 8]);
  expect(made.spend[0]).toBeCloseTo(respond({ clicks: 8, spend: micros(8) }, 0.5, square).spend, 3);
  // From half back to the whole it is what it was.
  const back = hoursAsPlayed(
    made,
    { ...still, schedule: { stood: 'monday 0-0 50; tuesday 0-23 0', now: '' } },
    square,
  );
  expect(back.clicks[0]).toBeCloseTo(8, 9);
});
