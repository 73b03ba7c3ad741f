import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import type { Objects } from '../account/store.ts';
import { micros } from '../metrics/money.ts';
import { revenue } from '../evidence/verdict.ts';
import { beliefOf, bidGround, goalsIn } from '../round/targets.ts';
import { account, target } from '../round/small-account.fixture.ts';
import { structureCampaigns } from './ground.ts';

/** Campaigns as they are laid out for whoever judges them whole. */

const campaign = (id: string, fields: Objects['campaigns'][number]['fields'] = {}) => ({
  id: `c${id}`,
  name: id,
  kind: 'manual',
  status: 'enabled',
  fields,
  strategy: null,
  budgetGroup: null,
  endDate: null,
});
const objects: Objects = {
  budgetGroups: [],
  products: [],
  campaigns: [
    campaign('1', { daily_budget: String(micros(12)), schedule: '' }),
    campaign('2', { daily_budget: null }),
    campaign('3'),
    campaign('4'),
  ],
  adGroups: ['1', '2', '3', '4'].map((id, at) => ({
    id,
    campaign: at,
    name: id,
    status: 'enabled',
    sku: 'LID',
    fields: { default_bid: String(micros(0.7)) },
  })),
  targets: [],
  placements: [
    { campaign: 0, placement: 'top_of_search', modifier: 40 },
    { campaign: 0, placement: 'product_pages', modifier: null },
  ],
  negatives: [],
};
const skus = new Map([['1', ['LID']]]);

describe('campaigns laid out', () => {
  test('by hand: budget, modifiers, default bids; what is paused is left out', () => {
    const input = account();
    const paused = { ...input.adGroups.get('4')!, enabled: false };
    const campaigns = structureCampaigns(
      objects,
      { ...input, adGroups: new Map([...input.adGroups, ['4', paused]]) },
      skus,
    );
    expect(campaigns.map(({ campaignId, dailyBudget }) => [campaignId, dailyBudget])).toEqual([
      ['c1', micros(12)],
      ['c2', null],
      ['c3', null],
    ]);
    const [first] = campaigns;
    expect(first).toMatchObject({
      kind: 'automatic',
      modifiers: { top_of_search: 40 },
      shown: 1,
      schedule: null,
    });
    expect(first!.adGroups[0]).toMatchObject({ skus: ['LID'], defaultBid: micros(0.7) });
    expect(campaigns[1]!.adGroups[0]!.skus).toEqual([]);
  });

  test('by hand: a week of a target, and what it pays where it was never clicked', () => {
    const targets = [
      // 200 clicks in 30 days for 80.00 at a bid of 0.50: 0.40 a click, and 0.80 paid per bid in its campaign.
      target('a', '2', 'broad', 'airlock lids', 200, 20),
      target('new', '2', 'broad', 'lids', 0, 0, {
        bid: micros(1),
        present: { days: 30, clicks: 0, spend: 0, priced: 0 },
      }),
      target('bare', '2', 'broad', 'jar lids', 0, 0, {
        bid: null,
        present: { days: 30, clicks: 0, spend: 0, priced: 0 },
      }),
    ];
    const [one] = structureCampaigns(objects, account({ targets, terms: [] }), skus).filter(
      ({ campaignId }) => campaignId === 'c2',
    );
    const [a, fresh, bare] = one!.adGroups[0]!.targets;
    expect(a!.cpc).toBeCloseTo(micros(0.4), 0);
    expect(a!.spend).toBeCloseTo(a!.clicks * a!.cpc, 6);
    expect(fresh).toMatchObject({ clicks: 0, spend: 0 });
    const { usuals } = bidGround(account({ targets, terms: [] }));
    expect(fresh!.cpc).toBeCloseTo(usuals.rho('c2') * micros(1), 6);
    // Without a bid of its own the ad group's default bid stands for it.
    expect(bare!.cpc).toBeCloseTo(usuals.rho('c2') * micros(0.7), 6);
  });

  test('laws: every figure is that of its own belief, however targets are spread over ad groups', () => {
    const rows = fc.array(
      fc.record({
        adGroupId: fc.constantFrom('1', '2', '3', '4'),
        clicks: fc.nat({ max: 400 }),
        rate: fc.double({ min: 0, max: 0.4, noNaN: true }),
        bid: fc.option(fc.integer({ min: 4, max: 400 }), { nil: null }),
        enabled: fc.boolean(),
      }),
      { minLength: 1, maxLength: 30 },
    );
    fc.assert(
      fc.property(rows, (drawn) => {
        const targets = drawn.map(({ adGroupId, clicks, rate, bid, enabled }, at) =>
          target(String(at), adGroupId, 'broad', `lids ${at}`, clicks, Math.floor(clicks * rate), {
            bid: bid === null ? null : micros(bid / 100),
            enabled,
          }),
        );
        const input = account({ targets, terms: [] });
        const { pool, usuals } = bidGround(input);
        const goals = goalsIn(input);
        const seen = new Set<string>();
        for (const { campaignId, adGroups } of structureCampaigns(objects, input, skus))
          for (const { adGroupId, targets: own } of adGroups) {
            const adGroup = input.adGroups.get(adGroupId)!;
            const rho = usuals.rho(campaignId);
            for (const one of own) {
              seen.add(one.row.targetId);
              const belief = beliefOf(one.row, pool.of(adGroup), adGroup.modifier, rho);
              expect(one.row.adGroupId).toBe(adGroupId);
              expect(one.belief).toEqual(belief);
              expect([one.value, one.earns]).toEqual([belief.value, revenue(belief)]);
              expect(one.clicks).toBe(one.row.present.clicks > 0 ? usuals.week(one.row).clicks : 0);
              const { targetAcos, theta } = goals.of(adGroup);
              expect([one.targetAcos, one.theta]).toEqual([targetAcos, theta]);
              expect(Number.isFinite(one.cpc) && one.cpc > 0).toBe(true);
            }
          }
        expect(seen).toEqual(
          new Set(targets.filter(({ enabled }) => enabled).map(({ targetId }) => targetId)),
        );
      }),
      { numRuns: 100 },
    );
  });
});
