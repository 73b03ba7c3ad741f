import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { arrange, entriesOf, linesIn, type LineView, type PlacedLine } from './sheet.ts';

const line = (line_id: number, more: Partial<PlacedLine> = {}): PlacedLine => ({
  line_id,
  campaign_id: '1',
  campaign: 'Lids exact',
  ad_group: 'Lids',
  entity: 'target',
  action: 'update',
  harvest: null,
  expression: `lid ${line_id}`,
  state: 'open',
  conflict: false,
  overtaken: false,
  spend: null,
  ...more,
});
const all: LineView = { show: 'all', find: '', order: 'place' };
const ids = (lines: PlacedLine[], view: Partial<LineView> = {}) => {
  const sheet = arrange(lines);
  return linesIn(sheet, { ...all, ...view }).map((i) => sheet.lines[i]!.line_id);
};

describe('the order of a sheet', () => {
  test('campaigns and ad groups by name, numbers in names as numbers; what is of a whole campaign first', () => {
    const lines = [
      line(1, { campaign_id: '10', campaign: 'Campaign 10' }),
      line(2, { campaign_id: '9', campaign: 'Campaign 9', ad_group: 'B' }),
      line(3, { campaign_id: '9', campaign: 'Campaign 9', ad_group: 'A' }),
      line(4, { campaign_id: '9', campaign: 'Campaign 9', ad_group: null, entity: 'campaign' }),
    ];
    expect(ids(lines)).toEqual([4, 3, 2, 1]);
    expect(arrange(lines).groups.map(({ title, lines: count }) => [title, count])).toEqual([
      ['Campaign 9', 3],
      ['Campaign 10', 1],
    ]);
  });

  test('a harvest stands together where its first line does, whatever campaigns it touches', () => {
    const harvest = { harvest: 'h', action: 'create', expression: 'Wide Lid' };
    const sheet = arrange([
      line(1, { campaign: 'A', campaign_id: '1' }),
      line(2, { ...harvest, campaign: 'C', campaign_id: '3', ad_group: 'C exact' }),
      line(3, { ...harvest, campaign: 'B', campaign_id: '2', entity: 'negative', expression: 'wide lid' }),
      line(4, { action: 'update', campaign: 'C', campaign_id: '3' }),
    ]);
    expect(sheet.groups).toEqual([
      { key: 'c:1', title: 'A', harvest: false, lines: 1 },
      { key: 'h:h', title: 'Harvest of “Wide Lid” to C exact', harvest: true, lines: 2 },
      { key: 'c:3', title: 'C', harvest: false, lines: 1 },
    ]);
    // What it makes stands before what it blocks.
    expect(sheet.lines.map(({ line_id }) => line_id)).toEqual([1, 2, 3, 4]);
    expect(entriesOf(sheet, all)).toEqual([
      { head: sheet.groups[0] },
      { line: 0 },
      { head: sheet.groups[1] },
      { line: 1 },
      { line: 2 },
      { head: sheet.groups[2] },
      { line: 3 },
    ]);
  });

  test('what moves all of a campaign is called by it: its placements, its bids for a budget, its schedule', () => {
    const title = (harvest: string) =>
      arrange([line(1, { harvest, campaign: 'A' }), line(2, { harvest, campaign: 'A' })]).groups[0]!.title;
    expect(title('g:placements:7')).toBe('Placements of A');
    expect(title('g:budget:7')).toBe('Bids of A, so that its budget lasts');
    expect(title('g:hours:7')).toBe('Schedule of A');
  });

  test('a created target alone is no harvest', () => {
    expect(arrange([line(1, { action: 'create', harvest: 'h' })]).groups[0]!.harvest).toBe(false);
  });
});

describe('views of a sheet', () => {
  const lines = [
    line(1, { spend: 5 }),
    line(2, { spend: -7, conflict: true }),
    line(3, { overtaken: true, campaign: 'Jars', campaign_id: '2', ad_group: null }),
    line(4, { spend: 6, state: 'refused' }),
  ];

  test('what is in need of a look', () => {
    expect(ids(lines, { show: 'conflicts' })).toEqual([2]);
    expect(ids(lines, { show: 'overtaken' })).toEqual([3]);
    expect(ids(lines, { show: 'refused' })).toEqual([4]);
  });

  test('found by text, campaign or ad group, in any case', () => {
    expect(ids(lines, { find: ' LID 2 ' })).toEqual([2]);
    expect(ids(lines, { find: 'jars' })).toEqual([3]);
    expect(ids(lines, { find: 'exact' })).toEqual([1, 2, 4]);
    expect(ids(lines, { find: 'nothing' })).toEqual([]);
  });

  test('by spend, either way; what is not known stands last', () => {
    expect(ids(lines, { order: '-spend' })).toEqual([4, 1, 2, 3]);
    expect(ids(lines, { order: 'spend' })).toEqual([2, 1, 4, 3]);
  });

  test('heads of groups stand only where all lines do, in their places', () => {
    const sheet = arrange(lines);
    const heads = (view: Partial<LineView>) =>
      entriesOf(sheet, { ...all, ...view }).filter((entry) => 'head' in entry).length;
    expect([
      heads({}),
      heads({ find: 'lid' }),
      heads({ order: 'spend' }),
      heads({ show: 'conflicts' }),
    ]).toEqual([2, 0, 0, 0]);
  });

  test('of any lines: each once, each in the group that is headed above it', () => {
    const some = fc.record({
      campaign: fc.constantFrom('A', 'B', 'b', 'a 2', 'a 10'),
      ad_group: fc.constantFrom(null, 'x', 'y'),
      entity: fc.constantFrom('target', 'negative'),
      action: fc.constantFrom('create', 'update'),
      harvest: fc.constantFrom(null, '1', '2', '3'),
      expression: fc.constantFrom(null, 'Lid', 'lid', 'jar'),
    });
    fc.assert(
      fc.property(fc.array(some, { maxLength: 40 }), (parts) => {
        const given = parts.map((part, i) => line(i, { ...part, campaign_id: part.campaign }));
        const sheet = arrange(given);
        expect(new Set(sheet.lines)).toEqual(new Set(given));
        expect(sheet.lines).toHaveLength(given.length);
        let head = '';
        const counts = new Map<string, number>();
        for (const entry of entriesOf(sheet, all)) {
          if ('head' in entry) {
            head = entry.head.key;
            expect(counts.has(head)).toBe(false);
            counts.set(head, 0);
          } else {
            counts.set(head, counts.get(head)! + 1);
            expect(sheet.groups[sheet.groupOf[entry.line]!]!.key).toBe(head);
          }
        }
        expect(sheet.groups.map(({ lines: count }) => count)).toEqual([...counts.values()]);
      }),
    );
  });
});
