import { describe, expect, test } from 'vitest';
import { exampleAccount, type GroupTold, type TermTold } from '../../../tests/support/account.ts';
import { newLane, type LaneAdGroup } from '../lanes/lanes.ts';
import { findConflicts, type ConflictKind } from './conflicts.ts';
import { coverageOf } from './coverage.ts';
import { laneAdGroups } from '../lanes/ad-groups.ts';
import { laneFlows, mapAdGroups } from '../lanes/flow.ts';
import { negativeImpacts, wouldFlow } from './negative-impact.ts';
import { appearances } from './new-terms.ts';
import { sumTerms } from './sums.ts';

const groups: GroupTold[] = [
  { name: 'Lids auto', sku: 'LID', targets: ['automatic close terms'] },
  { name: 'Lids broad', sku: 'LID', targets: ['broad airlock lids'], negatives: ['phrase canning'] },
  { name: 'Lids exact', sku: 'LID', targets: ['exact airlock lids', 'exact wide lids'], modifier: 40 },
  { name: 'Lids items', sku: 'LID', targets: ['item QY000001'] },
];
const terms: TermTold[] = [
  { by: 'Lids auto: close terms', term: 'airlock lids', clicks: 20, orders: 2 },
  { by: 'Lids broad: airlock lids', term: 'airlock lid', clicks: 10, orders: 1 },
  { by: 'Lids exact: airlock lids', term: 'airlock lids', clicks: 100, orders: 15 },
  { by: 'Lids auto: close terms', term: 'canning airlock lids', clicks: 30, orders: 0 },
  { by: 'Lids auto: close terms', term: 'qy000001', clicks: 8, orders: 2 },
  { by: 'Lids items: QY000001', term: 'qy000001', clicks: 12, orders: 3 },
];
const account = () => exampleAccount(groups, terms);
const all = { days: 28, itemCode: /^QY\d{6}$/i };

describe('lanes', () => {
  const lane = (source: string, destination: string, kind: 'keyword' | 'item') =>
    newLane({ adGroupId: source, automatic: source === '1' } as LaneAdGroup, destination, kind);
  const lanes = [lane('1', '3', 'keyword'), lane('2', '3', 'keyword'), lane('1', '4', 'item')];

  test('orders that went down, by hand; a term that two sources caught counts once in all', () => {
    const { flows, orders } = laneFlows(account(), lanes);
    // "airlock lids" sold 15 in the exact ad group; the automatic one has caught it, the broad one only its singular.
    expect(flows.map((flow) => flow.orders)).toEqual([15, 0, 3]);
    expect(orders).toBe(18);
  });

  test('leaks: what the destination serves and the source still paid for', () => {
    const { flows } = laneFlows(account(), lanes);
    expect(flows.map(({ leaks, leakSpend }) => [leaks, leakSpend])).toEqual([
      [1, 8_000_000],
      [1, 4_000_000],
      [1, 3_200_000],
    ]);
  });

  test('the map tells research from performance, with sums', () => {
    const { objects, targets, runs } = account();
    const map = mapAdGroups({ objects, targets }, laneAdGroups(objects, runs), lanes);
    expect(map.map(({ name, research, sums }) => [name, research, sums.clicks])).toEqual([
      ['Lids auto', true, 58],
      ['Lids broad', true, 10],
      ['Lids exact', false, 100],
      ['Lids items', false, 12],
    ]);
  });
});

describe('coverage', () => {
  test('in the order of their highest bids, each with its reason', () => {
    const { catchers } = coverageOf(account(), 'airlock lids');
    expect(catchers.map(({ adGroup, rank }) => [adGroup, rank])).toEqual([
      ['Lids exact', 1],
      ['Lids broad', 2],
      ['Lids auto', 3],
    ]);
    expect(catchers[0]!.reason).toBe(
      'Shown first for its product: bids 0.50 × 1.40 in its best placement = 0.70.',
    );
    expect(catchers[1]!.reason).toBe('Bids 0.50, less than 0.70 of Lids exact: one product is shown once.');
    expect(catchers[0]!.sums).toMatchObject({ clicks: 100, orders: 15 });
  });

  test('what is blocked says by what and stands last; history tells what words cannot', () => {
    const { catchers, negatives } = coverageOf(account(), 'canning airlock lids');
    expect(catchers.map(({ adGroup, rank, blockedBy }) => [adGroup, rank, blockedBy.length])).toEqual([
      ['Lids auto', 1, 0],
      ['Lids broad', null, 1],
    ]);
    expect(catchers[1]!.reason).toBe('Blocked by negative phrase “canning” in Lids broad.');
    expect(negatives.map(({ name }) => name)).toEqual(['negative phrase “canning” in Lids broad']);
  });

  test('an item code in any case finds its item; a stopped campaign is said', () => {
    expect(coverageOf(account(), 'QY000001').catchers.map(({ adGroup }) => adGroup)).toEqual([
      'Lids items',
      'Lids auto',
    ]);
    const paused = exampleAccount(
      groups.map((group) => (group.name === 'Lids exact' ? { ...group, status: 'paused' } : group)),
      terms,
    );
    const stopped = coverageOf(paused, 'wide lids').catchers[0]!;
    expect([stopped.rank, stopped.reason]).toEqual([null, 'Not shown: its campaign is paused.']);
  });

  test('nothing catches what nobody bids on', () => {
    expect(coverageOf(account(), 'garden hose')).toMatchObject({ catchers: [], negatives: [] });
    expect(coverageOf(account(), '🫙').catchers).toEqual([]);
  });
});

describe('conflicts', () => {
  const of = (kind: ConflictKind, more = groups, told = terms) =>
    findConflicts({ ...exampleAccount(more, told), ...all }).filter((one) => one.kind === kind);

  test('a harvested term that research still pays for: one repair with a negative for each text and place', () => {
    const [leak, item] = of('not_isolated');
    // 30 clicks at 0.40 in 28 days: 3.00 a week.
    expect(leak).toMatchObject({ subject: 'airlock lids', cost: 3_000_000 });
    expect(
      leak!.drafts.map(({ adGroupId, matchType, expression }) => [adGroupId, matchType, expression]),
    ).toEqual([
      ['1', 'negative_exact', 'airlock lids'],
      ['2', 'negative_exact', 'airlock lid'],
    ]);
    expect(item!.drafts).toMatchObject([
      { adGroupId: '1', matchType: 'negative_item', expression: 'QY000001' },
    ]);
  });

  test('what is blocked by now leaks no more', () => {
    const isolated = groups.map((group) =>
      group.name === 'Lids exact' ? group : { ...group, negatives: ['exact airlock lids', 'item QY000001'] },
    );
    expect(of('not_isolated', isolated)).toEqual([]);
  });

  test('a negative that blocks an exact keyword costs what the term earns elsewhere', () => {
    const shut = groups.map((group) =>
      group.name === 'Lids exact' ? { ...group, negatives: ['phrase airlock'] } : group,
    );
    const [conflict] = of('blocked_keyword', shut);
    // All of its text for the product: 130 clicks cost 52.00, 18 orders bring 360.00; 108.00 - 52.00 over 4 weeks.
    expect(conflict).toMatchObject({
      subject: 'airlock lids',
      cost: 14_000_000,
      // By the measure of all findings: 0.5 x 360.00 - 52.00 over 4 weeks.
      worth: 32_000_000,
      repair: 'Archive the negative',
    });
    expect(conflict!.drafts).toMatchObject([{ action: 'archive', entity: 'negative', objectId: 'n2' }]);
  });

  test('a negative exact in a broad ad group is isolation, not a conflict; a campaign’s negative counts', () => {
    const isolated = groups.map((group) =>
      group.name === 'Lids broad' ? { ...group, negatives: ['exact airlock lids'] } : group,
    );
    expect(of('blocked_keyword', isolated)).toEqual([]);
    const campaign = groups.map((group) =>
      group.name === 'Lids exact' ? { ...group, campaignNegatives: ['exact wide lids'] } : group,
    );
    expect(of('blocked_keyword', campaign).map(({ subject }) => subject)).toEqual(['wide lids']);
  });

  test('one term in several places: the best a click keeps it, the others are paused', () => {
    const twice = [...groups, { name: 'Lids exact 2', sku: 'LID', targets: ['exact airlock lid'] }];
    const told = [...terms, { by: 'Lids exact 2: airlock lid', term: 'airlock lid', clicks: 50, orders: 1 }];
    const [conflict] = of('several_places', twice, told);
    expect(conflict).toMatchObject({ repair: 'Pause it in Lids exact 2', cost: 5_000_000 });
    expect(conflict!.drafts).toMatchObject([{ objectId: '6', field: 'status', newValue: 'paused' }]);
    // All clicks of the place that is paused, worth what they would earn more in the other.
    expect(conflict!.claims).toEqual([{ targetId: '6', clicks: 12.5, part: 1 }]);
    expect(conflict!.worth).toBeGreaterThan(0);
    const other = [...groups, { name: 'Jars exact', sku: 'JAR', targets: ['exact airlock lids'] }];
    expect(of('several_places', other)).toEqual([]);
  });

  test('an ad group without a product, a product without performance', () => {
    const more = [
      ...groups,
      { name: 'Empty', sku: null, targets: ['exact jar'] },
      { name: 'Jars broad', sku: 'JAR', targets: ['broad jar'] },
    ];
    const told = [...terms, { by: 'Jars broad: jar', term: 'jar', clicks: 14, orders: 0 }];
    expect(of('no_product', more, told)).toMatchObject([{ subject: 'Empty', repair: 'Pause its 1 target' }]);
    expect(of('no_performance', more, told)).toMatchObject([
      { sku: 'JAR', cost: 1_400_000, repair: null, drafts: [] },
    ]);
  });
});

describe('negatives', () => {
  test('keep away what would come where they stand, told by what it does elsewhere', () => {
    const ground = account();
    expect(negativeImpacts(ground)).toEqual([
      { terms: 1, clicks: 30, spend: 12_000_000, orders: 0, sales: 0 },
    ]);
    expect(wouldFlow(ground, 0)).toEqual([
      {
        term: 'canning airlock lids',
        clicks: 30,
        spend: 12_000_000,
        orders: 0,
        sales: 0,
        places: ['Lids auto'],
        by: 'broad “airlock lids”',
      },
    ]);
  });

  test('keep nothing away where nothing would catch it, or the product never met it', () => {
    const idle = groups.map((group) => ({ ...group, negatives: [] as string[] }));
    idle[2] = { ...idle[2]!, negatives: ['phrase canning'] };
    idle[3] = { ...idle[3]!, negatives: ['phrase hose'] };
    expect(negativeImpacts(exampleAccount(idle, terms)).map(({ terms: n }) => n)).toEqual([0, 0]);
  });

  test('in an automatic campaign anything may come', () => {
    const automatic = groups.map((group) =>
      group.name === 'Lids auto'
        ? { ...group, negatives: ['exact airlock lids'] }
        : { ...group, negatives: [] },
    );
    expect(wouldFlow(exampleAccount(automatic, terms), 0)).toMatchObject(
      [
        { term: 'airlock lid', by: 'Lids auto' },
        { term: 'airlock lids', by: 'Lids auto' },
      ].reverse(),
    );
  });
});

describe('new and stopped terms', () => {
  const told = [
    { by: 'Lids auto: close terms', term: 'kimchi lids', clicks: 6, orders: 1, firstSeen: '2026-11-02' },
    { by: 'Lids broad: airlock lids', term: 'kimchi lids', clicks: 2, firstSeen: '2026-11-05' },
    { by: 'Lids auto: close terms', term: 'old lids', clicks: 0, before: 9, lastSeen: '2026-10-10' },
    { by: 'Lids auto: close terms', term: 'lids', clicks: 12, orders: 1, before: 12 },
    // New to this target, known from another.
    { by: 'Lids broad: airlock lids', term: 'lids', clicks: 5, firstSeen: '2026-11-03' },
  ];
  const window = { from: '2026-10-20', to: '2026-11-16' };
  const found = (sku: string | null = null) => {
    const ground = exampleAccount(groups, told);
    return appearances(
      ground,
      window,
      (adGroup) => sku === null || ground.objects.adGroups[adGroup]!.sku === sku,
    );
  };

  test('new is what was never seen before the window, in any place; its sums are those of all places', () => {
    expect(found().fresh).toMatchObject([
      {
        term: 'kimchi lids',
        day: '2026-11-02',
        clicks: 8,
        orders: 1,
        spend: 3_200_000,
        adGroup: 'Lids auto',
      },
    ]);
  });

  test('stopped is what the comparison had and the window has not; shares are of all', () => {
    const { stopped, window: now, before } = found();
    expect(stopped).toMatchObject([{ term: 'old lids', day: '2026-10-10', clicks: 9 }]);
    expect(now).toEqual({ terms: 2, spend: 10_000_000, orders: 2 });
    expect(before).toEqual({ terms: 2, spend: 8_400_000, orders: 0 });
    expect(found('JAR')).toMatchObject({ fresh: [], stopped: [], window: { terms: 0 } });
  });
});

describe('sums of terms', () => {
  test('over all places that count, item codes left out', () => {
    const ground = account();
    const whole = sumTerms(ground, () => true, all.itemCode);
    expect(whole.texts).toEqual(['airlock lids', 'airlock lid', 'canning airlock lids']);
    expect([...whole.figures.clicks]).toEqual([120, 10, 30]);
    expect(whole.figures.goals[0]).toBeCloseTo(120 * 0.3, 9);
    const exact = sumTerms(ground, (adGroup) => adGroup === 2, all.itemCode);
    expect([exact.texts, [...exact.figures.orders]]).toEqual([['airlock lids'], [15]]);
  });
});
