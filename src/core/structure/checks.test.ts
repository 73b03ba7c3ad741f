import { describe, expect, test } from 'vitest';
import { findStructure } from './checks.ts';
import type { StructureGround, StructureTarget } from './ground.ts';
import { adGroup, campaign, ground, target } from './structure.fixture.ts';
import { structureKinds, type StructureKind } from './types.ts';

const found = (kind: StructureKind, about: StructureGround) => {
  const all = findStructure(about);
  return all.filter((one) => one.kind === kind);
};
const drafts = (one: { drafts: readonly { action: string; entity: string; newValue: string | null }[] }) =>
  one.drafts.map(({ action, entity, newValue }) => [action, entity, newValue]);

describe('match types in one campaign', () => {
  const phrase = target({ type: 'phrase', text: 'airlock lids' }, { clicks: 30, earns: 2 });
  const exact = target({ text: 'jar lids' }, { clicks: 10, earns: 8 });
  const mixed = campaign('Lids', [
    adGroup('Lids', [phrase, exact], {
      negatives: [{ matchType: 'negative_phrase', expression: 'canning' }],
    }),
  ]);

  test('are parted: the lesser one moves with its share of the budget, and is blocked where phrase stays', () => {
    const [one] = found('mixed_match_types', ground([mixed]));
    // Phrase: 30.00 spent for sales of 60.00, 15.00 of it within 25 %.
    expect(one!.worth).toBe(15_000_000);
    expect(one!.sentence).toContain(
      '1 phrase keyword, 30.00 a week, 15.00 of it beyond the goal; 1 exact keyword, 10.00 a week',
    );
    expect(one!.campaigns).toEqual([
      {
        reference: 'new:1',
        name: 'Lids exact',
        kind: 'manual',
        strategy: 'down_only',
        modifiers: { top_of_search: 20 },
      },
    ]);
    expect(drafts(one!)).toEqual([
      ['create', 'campaign', '5000000'],
      ['create', 'ad_group', '1200000'],
      ['create', 'product_ad', null],
      ['create', 'target', '1200000'],
      ['update', 'target', 'paused'],
      ['create', 'negative', null],
      ['update', 'campaign', '15000000'],
    ]);
    expect(one!.drafts[5]).toMatchObject({
      adGroupId: 'g-Lids',
      matchType: 'negative_exact',
      expression: 'jar lids',
    });
    expect(one!.loses).toContain('its history and the rank of the ad stay with Lids');
  });

  test('what moves by words takes its negatives along', () => {
    const many = target({ text: 'jar lids' }, { clicks: 50, earns: 8 });
    const [own] = mixed.adGroups;
    const [one] = found(
      'mixed_match_types',
      ground([{ ...mixed, adGroups: [{ ...own!, targets: [phrase, many] }] }]),
    );
    expect(one!.campaigns[0]!.name).toBe('Lids phrase');
    const placed = one!.drafts.filter(({ entity }) => entity === 'negative');
    expect(placed).toMatchObject([{ campaignId: 'new:1', expression: 'canning' }]);
  });

  test('one type, or a campaign without a budget of its own, is left alone', () => {
    expect(found('mixed_match_types', ground([campaign('Lids', [adGroup('Lids', [exact])])]))).toEqual([]);
    expect(found('mixed_match_types', ground([{ ...mixed, dailyBudget: null }]))).toEqual([]);
  });
});

describe('budgets that run out', () => {
  test('an ad group that sells more for its money gets a campaign of its own', () => {
    const good = adGroup('Good', [target({}, { clicks: 10, earns: 9, orders: 90 })]);
    const bad = adGroup('Bad', [target({}, { clicks: 40, earns: 2, orders: 80 })]);
    const about = (shown: number) => ground([campaign('Lids', [bad, good], { shown })]);
    const [one] = found('starved_ad_group', about(0.5));
    // Half of the time: 10 clicks more, each worth 0.25 x 9.00 - 1.00.
    expect(one!.worth).toBeCloseTo(12_500_000, -2);
    expect(one!.campaigns[0]!.name).toBe('Lids Good');
    // 20.00 of 50.00 that would be spent, of a budget of 20.00.
    expect(drafts(one!)[0]).toEqual(['create', 'campaign', '8000000']);
    expect(drafts(one!).at(-1)).toEqual(['update', 'campaign', '12000000']);
    expect(found('starved_ad_group', about(1))).toEqual([]);
    // A handful of orders cannot tell them apart.
    const few = [
      adGroup('Good', [target({}, { clicks: 10, earns: 3, orders: 1 })]),
      adGroup('Bad', [target({}, { clicks: 40, earns: 2, orders: 2 })]),
    ];
    expect(found('starved_ad_group', ground([campaign('Lids', few, { shown: 0.5 })]))).toEqual([]);
  });

  test('the best keyword among many moves alone, with what it needs', () => {
    const best = target({ text: 'airlock lids' }, { clicks: 21, earns: 9, orders: 60 });
    const others = Array.from({ length: 6 }, () => target({}, { clicks: 7, earns: 4, orders: 10 }));
    const about = (shown: number) =>
      ground([campaign('Lids', [adGroup('Lids', [best, ...others])], { shown })]);
    const [one] = found('starved_best', about(0.6));
    expect(one!.sentence).toContain('“airlock lids” brings 60 of 120 orders among 7 keywords');
    // 21 / 0.6 = 35 clicks a week: 5.00 a day.
    expect(drafts(one!)[0]).toEqual(['create', 'campaign', '5000000']);
    expect(one!.worth).toBeCloseTo(14 * 1_250_000, -1);
    expect(found('starved_best', about(1))).toEqual([]);
  });

  test('a budget below ten clicks a day is raised to them', () => {
    const about = (dailyBudget: number, shown = 0.5) =>
      ground([
        campaign('Lids', [adGroup('Lids', [target({}, { cpc: 0.8, earns: 4 })])], { dailyBudget, shown }),
      ]);
    const [one] = found('small_budget', about(5_000_000));
    expect(drafts(one!)).toEqual([['update', 'campaign', '8000000']]);
    expect(one!.sentence).toContain('5.00 a day buys 6.3 clicks at 0.80 and is spent in 50 % of the day');
    expect(one!.loses).toBe('Up to 3.00 more a day.');
    expect(found('small_budget', about(9_000_000))).toEqual([]);
    expect(found('small_budget', about(5_000_000, 1))).toEqual([]);
  });
});

describe('keywords that are never shown', () => {
  const seen = Array.from({ length: 10 }, () => target({}));
  const unseen = Array.from({ length: 7 }, (_, at) =>
    target({ text: `unseen ${at}` }, { impressions: 0, clicks: 0, cpc: 0.5 }),
  );

  test('are named, and move where the budget runs out', () => {
    const about = (shown: number, days = 30) =>
      ground([campaign('Lids', [adGroup('Lids', [...seen, ...unseen])], { shown })], { days });
    const [tight] = found('unseen_keywords', about(0.6));
    expect(tight!.sentence).toContain(
      '7 of 17 keywords in Lids had no impression in 30 days: “unseen 0”, “unseen 1”, “unseen 2”, “unseen 3”, “unseen 4” and 2 more.',
    );
    expect(drafts(tight!)[0]).toEqual(['create', 'campaign', '5000000']);
    const [idle] = found('unseen_keywords', about(1));
    expect(idle!.campaigns).toEqual([]);
    expect(drafts(idle!)).toEqual(unseen.map(() => ['update', 'target', 'paused']));
    expect(found('unseen_keywords', about(0.6, 7))).toEqual([]);
    expect(found('unseen_keywords', { ...about(0.6), soldOut: new Set(['LID']) })).toEqual([]);
    expect(found('unseen_keywords', ground([campaign('Lids', [adGroup('Lids', unseen)])]))).toEqual([]);
  });

  test('that were changed lately may still be seen', () => {
    const fresh = unseen.map((one) => ({ ...one, row: { ...one.row, changedOn: '2026-11-20' } }));
    expect(
      found('unseen_keywords', ground([campaign('Lids', [adGroup('Lids', [...seen, ...fresh])])])),
    ).toEqual([]);
  });
});

test('automatic modes that differ beyond doubt are parted', () => {
  const over = target({ kind: 'automatic', text: 'wide terms' }, { clicks: 30, earns: 2 });
  const under = target({ kind: 'automatic', text: 'close terms' }, { clicks: 10, earns: 9 });
  const near = target({ kind: 'automatic', text: 'similar items' }, { clicks: 10, earns: 4 });
  const about = (targets: StructureTarget[]) =>
    ground([campaign('Lids auto', [adGroup('Lids', targets)], { kind: 'automatic' })]);
  const [one] = found('modes_together', about([over, under, near]));
  expect(one!.sentence).toBe(
    '“wide terms” is surely over the goal and takes 30.00 a week, “close terms” is surely under it and gets 10.00, out of one budget.',
  );
  expect(one!.campaigns).toMatchObject([{ name: 'Lids auto wide terms', kind: 'automatic' }]);
  expect(one!.worth).toBe(15_000_000);
  expect(found('modes_together', about([over, near]))).toEqual([]);
});

test('a season that is over ends the campaigns of its product alone', () => {
  const seasons = new Map([['LID', { high: 40, low: 4, from: '2026-08-01', isOver: true }]]);
  const runs = campaign('Lids', [adGroup('Lids', [target({})])]);
  const [one] = found('no_end_date', ground([runs], { seasons }));
  expect(drafts(one!)).toEqual([['update', 'campaign', '2026-12-10']]);
  expect(found('no_end_date', ground([{ ...runs, endDate: '2026-12-24' }], { seasons }))).toEqual([]);
  const many = campaign('Many', [adGroup('Many', [target({})], { skus: ['LID', 'JAR'] })]);
  expect(found('no_end_date', ground([many], { seasons }))).toEqual([]);
});

test('a name off the pattern is told and called anew, never as another', () => {
  const codes = new Map([['LID', 'Lids']]);
  const about = ground(
    [campaign('Airlock push', [adGroup('x', [])]), campaign('Lids exact', [adGroup('y', [])])],
    { codes },
  );
  const taken = new Set([...about.taken, 'lids airlock push']);
  expect(found('off_pattern', { ...about, taken }).map(drafts)).toEqual([
    [['update', 'campaign', 'Lids Airlock push 02']],
  ]);
});

test('keys are stable and told apart; those that are worth most stand first', () => {
  const campaigns = [1, 2].map((at) =>
    campaign(`Lids ${at}`, [
      adGroup(`Lids ${at}`, [
        target({ type: 'phrase' }, { clicks: 20 * at, earns: 2 }),
        target({}, { earns: 8 }),
      ]),
    ]),
  );
  const all = findStructure(ground(campaigns));
  expect(all.map(({ key }) => key)).toEqual([
    'structure:mixed_match_types:c-Lids 2',
    'structure:mixed_match_types:c-Lids 1',
  ]);
  expect(new Set(all.map(({ kind }) => kind).filter((kind) => !(kind in structureKinds))).size).toBe(0);
});
