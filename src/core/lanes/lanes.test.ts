import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { laneProblems, LaneMap, newLane, whyNoLane, type Lane, type LaneAdGroup } from './lanes.ts';
import { nameWords, proposeLanes } from './propose.ts';

const adGroup = (
  adGroupId: string,
  name: string,
  holds: string,
  more: Partial<LaneAdGroup> = {},
): LaneAdGroup => ({
  adGroupId,
  campaignId: `c${adGroupId}`,
  name,
  campaign: name,
  automatic: holds === 'automatic',
  sku: 'LID',
  enabled: true,
  archived: false,
  targetKinds: new Set(
    holds === '' ? [] : [['item', 'category', 'automatic'].includes(holds) ? holds : 'keyword'],
  ),
  matchTypes: new Set(['broad', 'phrase', 'exact'].includes(holds) ? [holds] : []),
  ...more,
});

const account = [
  adGroup('1', 'Lids automatic', 'automatic'),
  adGroup('2', 'Lids broad', 'broad'),
  adGroup('3', 'Lids exact', 'exact'),
  adGroup('4', 'Lids items', 'item'),
  adGroup('5', 'Jars exact', 'exact', { sku: 'JAR' }),
  adGroup('6', 'Lids old', 'exact', { archived: true, enabled: false }),
];
const byId = new Map(account.map((one) => [one.adGroupId, one]));
const lane = (source: string, destination: string, more: Partial<Lane> = {}): Lane => ({
  ...newLane(byId.get(source)!, destination, more.kind ?? 'keyword'),
  ...more,
});

describe('a lane that cannot be says why', () => {
  test.each<[string, Lane, Lane[], string]>([
    ['to itself', lane('2', '2'), [], "Lids broad can't send terms to itself."],
    ['to an archived ad group', lane('1', '6'), [], 'Lids old is archived: nothing can be added to it.'],
    [
      'to an automatic one',
      lane('2', '1'),
      [],
      'Lids automatic is automatic: it holds no keywords and no items of its own.',
    ],
    ['to another product', lane('1', '5'), [], 'Lids automatic and Jars exact advertise different products.'],
    ['to nowhere', lane('1', '99'), [], 'There is no ad group “99”.'],
    [
      'beside one of its kind',
      lane('1', '3'),
      [lane('1', '2')],
      'Lids automatic has a lane for keywords already.',
    ],
    [
      'with a bid it does not use',
      lane('1', '3', { fixedBid: 400_000 }),
      [],
      'A fixed first bid needs its amount, and no other method has one.',
    ],
    [
      'for items with a match type',
      lane('1', '4', { kind: 'item', matchType: 'exact' }),
      [],
      'A lane for keywords has a match type, a lane for items has none.',
    ],
  ])('%s', (_, one, others, message) => {
    expect(whyNoLane(one, others, byId)?.message).toBe(message);
  });

  test('a loop is named from end to end', () => {
    const chain = [lane('2', '3'), lane('3', '4', { kind: 'keyword' })];
    expect(whyNoLane(lane('4', '2'), chain, byId)?.message).toBe(
      'It would send terms in a loop: Lids items → Lids broad → Lids exact → Lids items.',
    );
    expect([...laneProblems([...chain, lane('4', '2')], byId).keys()]).toEqual([2]);
  });

  test('good ones have nothing to say, and a source may have one lane of each kind', () => {
    expect(laneProblems([lane('1', '2'), lane('1', '4', { kind: 'item' }), lane('2', '3')], byId).size).toBe(
      0,
    );
  });
});

describe('isolation', () => {
  const broad = lane('1', '2', { matchType: 'broad' });
  test('in all research of the product, but neither where a term goes nor where it may go on to', () => {
    const map = new LaneMap([broad, lane('2', '3')], byId);
    expect(map.isolateIn(map.of('2', 'keyword')!)).toEqual(['1', '2']);
    // The chain automatic to broad to exact: a negative in broad would block the keyword just made there.
    expect(map.isolateIn(map.of('1', 'keyword')!)).toEqual(['1']);
  });

  test('in the source only, or nowhere, as the lane says', () => {
    const map = new LaneMap(
      [lane('1', '3', { isolate: 'source' }), lane('2', '3', { isolate: 'none' })],
      byId,
    );
    expect(map.isolateIn(map.of('1', 'keyword')!)).toEqual(['1']);
    expect(map.isolateIn(map.of('2', 'keyword')!)).toEqual([]);
  });

  test('an item code is blocked where pages are met, a keyword where searches are', () => {
    const items = [...account, adGroup('7', 'Lids category', 'category')];
    const map = new LaneMap(
      [lane('1', '4', { kind: 'item' }), lane('1', '3')],
      new Map(items.map((one) => [one.adGroupId, one])),
    );
    expect(map.isolateIn(map.of('1', 'item')!)).toEqual(['1', '7']);
    expect(map.isolateIn(map.of('1', 'keyword')!)).toEqual(['1', '2']);
  });

  test('no set of good lanes blocks a term on its way down', () => {
    const any = fc.constantFrom('1', '2', '3', '4');
    fc.assert(
      fc.property(fc.array(fc.tuple(any, any), { maxLength: 8 }), (ends) => {
        const wanted = ends.map(([source, destination]) => lane(source, destination));
        const problems = laneProblems(wanted, byId);
        const lanes = wanted.filter((_, at) => !problems.has(at));
        const map = new LaneMap(lanes, byId);
        for (const first of lanes) {
          const blocked = new Set(map.isolateIn(first));
          for (let at: Lane | null = first; at; at = map.of(at.destination, 'keyword')) {
            expect(blocked.has(at.destination)).toBe(false);
          }
        }
      }),
    );
  });
});

describe('proposals', () => {
  const ends = (adGroups: LaneAdGroup[]) =>
    proposeLanes(adGroups).map(({ source, destination, kind }) => `${source} ${kind} ${destination}`);

  test('every running research ad group gets its lanes; what is archived gets none', () => {
    expect(ends(account)).toEqual(['1 keyword 3', '1 item 4', '2 keyword 3']);
  });

  test.each([
    ['bars', 'LID | AUTO', 'LID | BROAD', 'LID | EXACT', 'LID | PT'],
    ['underscores', 'lid_auto_01', 'lid_brd_01', 'lid_ex_01', 'lid_pages_01'],
    ['joined capitals', 'LidAutoUK', 'LidBroadUK', 'LidExactUK', 'LidItemsUK'],
    ['another tongue', 'Deckel Auto', 'Deckel weit', 'Deckel exakt', 'Deckel pages'],
  ])('named with %s, without a product and while destinations are empty', (_, auto, broad, exact, items) => {
    const named = [
      adGroup('1', auto, 'automatic', { sku: null }),
      adGroup('2', broad, 'broad', { sku: null }),
      adGroup('3', exact, '', { sku: null }),
      adGroup('4', items, '', { sku: null }),
      adGroup('5', exact.replace(/lid|deckel/i, 'Jar'), '', { sku: null }),
    ];
    const proposed = ends(named);
    expect(proposed).toContain('1 keyword 3');
    expect(proposed).toContain('1 item 4');
    expect(proposed.some((one) => one.endsWith(' 5'))).toBe(false);
  });

  test('of several exact ad groups the one named alike wins, by the words that few of them share', () => {
    const two = [
      adGroup('1', 'Lids wide broad', 'broad'),
      adGroup('2', 'Lids narrow broad', 'broad'),
      adGroup('3', 'Lids narrow exact', 'exact'),
      adGroup('4', 'Lids wide exact', 'exact'),
    ];
    expect(ends(two)).toEqual(['1 keyword 4', '2 keyword 3']);
  });

  test('words of a name, whatever joins them', () => {
    expect(nameWords('LidBroad_UK|2026')).toEqual(['lid', 'broad', 'uk', '2026']);
  });

  test('whatever is proposed can stand', () => {
    const kinds = fc.constantFrom('automatic', 'broad', 'phrase', 'exact', 'item', 'category', '');
    const groups = fc.array(fc.tuple(kinds, fc.constantFrom('LID', 'JAR', null)), { maxLength: 12 });
    fc.assert(
      fc.property(groups, (list) => {
        const made = list.map(([holds, sku], i) =>
          adGroup(String(i), `${sku} ${holds} ${i}`, holds, { sku }),
        );
        expect(laneProblems(proposeLanes(made), new Map(made.map((one) => [one.adGroupId, one]))).size).toBe(
          0,
        );
      }),
    );
  });
});
