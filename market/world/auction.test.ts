import { describe, expect, test } from 'vitest';
import type { Campaign, Candidate, Target } from './account.ts';
import { limits } from './account.ts';
import { effectiveBid, runAuction, searchAuction } from './auction.ts';
import { hourOfWeek, readSchedule } from './schedule.ts';
import { hash, pick, stream, sums } from './random.ts';

const campaign = (more: Partial<Campaign> = {}): Campaign => ({
  id: 'c',
  name: 'Lids',
  kind: 'manual',
  budgetGroup: null,
  dailyBudget: 10,
  strategy: 'fixed',
  startDate: '2026-01-01',
  endDate: null,
  status: 'enabled',
  modifiers: [50, 0, 0, 0],
  schedule: '',
  ...more,
});
const target = (id: string, bid: number): Target => ({
  id,
  adGroupId: 'g',
  kind: 'keyword',
  matchType: 'exact',
  expression: 'airlock lids',
  bid,
  status: 'enabled',
});
const candidate = (id: string, bid: number, product = 0, more: Partial<Campaign> = {}): Candidate => ({
  target: target(id, bid),
  campaign: campaign(more),
  adGroup: { id: 'g', campaignId: 'c', name: 'g', defaultBid: 1, status: 'enabled', skus: [] },
  product,
  schedule: readSchedule(more.schedule ?? ''),
});
const click = new Float64Array([0.03, 0.03]);
const even = () => 1;

describe('effective bids', () => {
  test('bid x (1 + modifier), and by strategy', () => {
    expect(effectiveBid(candidate('a', 1), 0, 0, 2)).toBeCloseTo(1.5);
    expect(effectiveBid(candidate('a', 1, 0, { strategy: 'down_only' }), 0, 0, 2)).toBeCloseTo(1.5);
    expect(effectiveBid(candidate('a', 1, 0, { strategy: 'down_only' }), 0, 0, 0.5)).toBeCloseTo(0.75);
    expect(effectiveBid(candidate('a', 1, 0, { strategy: 'up_and_down' }), 0, 0, 3)).toBeCloseTo(2.7);
    expect(effectiveBid(candidate('a', 1, 0, { strategy: 'up_and_down' }), 1, 0, 3)).toBeCloseTo(1.4);
  });
});

describe('schedules', () => {
  const schedule = 'Sunday 0-23 50; friday 18-22 0';

  test('raise, lower or stop the bid in the hours they name, and in no other', () => {
    const scheduled = candidate('a', 1, 0, { schedule });
    expect(effectiveBid(scheduled, 1, hourOfWeek(0, 9), 1)).toBeCloseTo(0.5);
    expect(effectiveBid(scheduled, 0, hourOfWeek(0, 9), 1)).toBeCloseTo(0.75);
    expect(effectiveBid(scheduled, 1, hourOfWeek(5, 22), 1)).toBe(0);
    expect(effectiveBid(scheduled, 1, hourOfWeek(5, 23), 1)).toBe(1);
    expect(effectiveBid(scheduled, 1, hourOfWeek(1, 9), 1)).toBe(1);
  });

  test('an hour that is off shows nothing', () => {
    const off = [candidate('a', 5, 0, { schedule })];
    const market = { rivals: 0, level: 0.5, hourOfWeek: hourOfWeek(5, 20) };
    const random = stream(2, 'off');
    expect(runAuction(off, 1, 4, click, even, market, random)).toEqual([]);
    expect(runAuction(off, 1, 4, click, even, { ...market, hourOfWeek: 0 }, random)).toHaveLength(1);
  });

  test('what cannot be read is named', () => {
    for (const bad of ['someday 0-3 50', 'sunday 5-3 50', 'sunday 0-24 50', 'sunday 50']) {
      expect(() => readSchedule(`monday 0-1 10; ${bad}`)).toThrow(`"${bad}"`);
    }
  });
});

describe('auctions', () => {
  const random = stream(1, 'auctions');
  const market = { rivals: 8, level: 0.5, hourOfWeek: 0 };

  test('nobody pays more than the bid, nor less than the placement’s minimum', () => {
    for (let i = 0; i < 500; i++) {
      for (const { candidate: won, cpc, placement } of runAuction(
        [candidate('a', 0.7)],
        0,
        4,
        click,
        even,
        market,
        random,
      )) {
        expect(cpc).toBeLessThanOrEqual(effectiveBid(won, placement, 0, 1) + 0.005);
        expect(cpc).toBeGreaterThanOrEqual(limits.minimum_cpc.top_of_search);
      }
    }
  });

  test('a bid below the minimum CPC is never shown, without an error', () => {
    for (let i = 0; i < 50; i++) {
      expect(runAuction([candidate('a', 0.05)], 0, 4, click, even, market, random)).toEqual([]);
    }
  });

  test('one ad per product and search, the better one; two products may both be shown', () => {
    const list = [candidate('low', 0.3), candidate('high', 3), candidate('other', 3, 1)];
    for (let i = 0; i < 50; i++) {
      const shown = searchAuction(list, click, even, 0.4, 0, random).map((slot) => slot.candidate);
      expect(new Set(shown.map(({ product }) => product)).size).toBe(shown.length);
      expect(shown.some(({ target: { id } }) => id === 'low')).toBe(false);
    }
  });

  test('a higher bid is shown more often', () => {
    const shown = (bid: number) =>
      Array.from(
        { length: 400 },
        () => runAuction([candidate('a', bid)], 1, 6, click, even, market, random).length,
      ).reduce((a, b) => a + b);
    expect(shown(0.9)).toBeGreaterThan(shown(0.3));
  });
});

describe('chance', () => {
  test('a name gives the same stream every time, another name another', () => {
    const take = (name: string) => Array.from({ length: 3 }, stream(7, name));
    expect(take('day 1')).toEqual(take('day 1'));
    expect(take('day 1')).not.toEqual(take('day 2'));
    expect(hash('a')).not.toBe(hash('b'));
  });

  test('picking follows the weights', () => {
    const random = stream(3, 'pick');
    const counts = [0, 0, 0];
    for (let i = 0; i < 6000; i++) counts[pick(sums([1, 2, 3]), random)]!++;
    counts.forEach((count, i) => expect(count / 1000).toBeCloseTo(i + 1, 0));
  });
});
