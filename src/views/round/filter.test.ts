import type { GuardName } from '../../core/bids/guards.ts';
import { describe, expect, test } from 'vitest';
import { filterRows, heldCounts, isWaiting, proposalKind, sortRows, type Filter } from './filter.ts';
import type { Row } from './types.ts';
import { placeOf, proposalWords } from './words.ts';

const row = (key: string, more: Partial<Row> = {}): Row => ({
  key,
  queue: 'terms',
  subject: key,
  targetId: '',
  targetKind: 'keyword',
  matchType: 'broad',
  target: 'airlock lids',
  adGroupId: 'g',
  campaignId: 'c',
  sku: 'LID',
  sums: { clicks: 5, spend: 2e6, orders: 1, sales: 20e6 },
  verdict: 'under',
  proposal: { kind: 'wait', moreClicks: 4, obstacle: null },
  worth: 0,
  targetAcos: 0.3,
  interval: null,
  claims: [],
  takes: 1,
  ...more,
});

const names = { g: { name: 'Lids broad', campaignId: 'c', campaign: 'Lids broad', sku: 'LID' } };
const none: Filter = { text: '', sku: '', campaignId: '', verdict: '', proposal: '', held: '' };
const keys = (rows: Row[]) => rows.map(({ key }) => key);

describe('filtering', () => {
  const rows = [
    row('Wide-mouth lids'),
    row('canning jars', {
      verdict: 'over',
      proposal: {
        kind: 'negative',
        adGroupId: 'g',
        matchType: 'negative_exact',
        milder: null,
        expression: 'canning jars',
      },
    }),
    row('crock', { sku: 'CRK', campaignId: 'd' }),
    row('a target', {
      queue: 'targets',
      proposal: { kind: 'bid', from: 5e5, to: 4e5, wanted: 4e5, held: [], beyond: null },
    }),
  ];

  test('what a guard holds: whole only when it is asked for, in part always; counted by guard', () => {
    const held = (by: GuardName): Row['proposal'] => ({
      kind: 'wait',
      moreClicks: null,
      obstacle: null,
      held: { from: 5e5, wanted: 9e5, by },
    });
    const part = {
      kind: 'bid',
      from: 5e5,
      to: 1e6,
      wanted: 2e6,
      held: ['largest step up'],
      beyond: 2e6,
    } as const;
    const list = [
      row('free', {
        queue: 'targets',
        proposal: { kind: 'bid', from: 5e5, to: 4e5, wanted: 4e5, held: [], beyond: null },
      }),
      row('part', { queue: 'targets', proposal: { ...part, held: ['largest step up'] } }),
      row('capped', { queue: 'targets', proposal: held('highest CPC') }),
      row('cooling', { queue: 'targets', proposal: held('cooldown') }),
      row('cooling too', { queue: 'targets', proposal: held('cooldown') }),
    ];
    const shown = (by: string) => keys(filterRows(list, 'targets', { ...none, held: by }, names));
    expect(shown('')).toEqual(['free', 'part']);
    expect(shown('any')).toEqual(['part', 'capped', 'cooling', 'cooling too']);
    expect(shown('cooldown')).toEqual(['cooling', 'cooling too']);
    expect(shown('the largest step')).toEqual(['part']);
    expect(heldCounts(list)).toEqual([
      { by: 'cooldown', count: 2, whole: 2 },
      { by: 'the highest CPC', count: 1, whole: 1 },
      { by: 'the largest step', count: 1, whole: 0 },
    ]);
  });

  test('by queue, text without regard to case and punctuation, and what caught it', () => {
    expect(keys(filterRows(rows, 'terms', { ...none, text: 'WIDE mouth' }, names))).toEqual([
      'Wide-mouth lids',
    ]);
    expect(keys(filterRows(rows, 'terms', { ...none, text: 'lids broad' }, names))).toHaveLength(3);
    expect(keys(filterRows(rows, 'targets', none, names))).toEqual(['a target']);
  });

  test('by product, campaign, verdict and proposal', () => {
    expect(keys(filterRows(rows, 'terms', { ...none, sku: 'CRK' }, names))).toEqual(['crock']);
    expect(keys(filterRows(rows, 'terms', { ...none, campaignId: 'd' }, names))).toEqual(['crock']);
    expect(keys(filterRows(rows, 'terms', { ...none, verdict: 'over' }, names))).toEqual(['canning jars']);
    expect(keys(filterRows(rows, 'terms', { ...none, proposal: 'negative' }, names))).toEqual([
      'canning jars',
    ]);
    expect(rows.map(proposalKind)).toEqual(['wait', 'negative', 'wait', 'cut']);
  });
});

describe('sorting', () => {
  const sums = (spend: number, sales: number) => ({
    impressions: 1,
    clicks: 1,
    spend,
    orders: 0,
    units: 0,
    sales,
  });
  const rows = [
    row('half', { sums: sums(10, 20) }),
    row('no sales, dear', { sums: sums(30, 0) }),
    row('no sales, cheap', { sums: sums(5, 0) }),
    row('tenth', { sums: sums(2, 20) }),
    row('nothing', { sums: sums(0, 0) }),
  ];

  test('spend without sales is the worst ACOS, the dearer first; rows without spend stand last', () => {
    expect(keys(sortRows(rows, 'acos', true))).toEqual([
      'no sales, dear',
      'no sales, cheap',
      'half',
      'tenth',
      'nothing',
    ]);
    expect(keys(sortRows(rows, 'acos', false))).toEqual([
      'nothing',
      'tenth',
      'half',
      'no sales, cheap',
      'no sales, dear',
    ]);
  });

  test('what only waits for clicks stands last in every order; an obstacle or a guard is no waiting for clicks', () => {
    const bid: Row['proposal'] = { kind: 'bid', from: 5e5, to: 4e5, wanted: 4e5, held: [], beyond: null };
    const list = [
      row('a waits', { sums: sums(99, 0) }),
      row('b cut', { proposal: bid, sums: sums(1, 0), worth: 3 }),
      row('c blocked', {
        proposal: { kind: 'wait', moreClicks: null, obstacle: 'No lane.' },
        sums: sums(2, 0),
      }),
    ];
    expect(list.map(isWaiting)).toEqual([true, false, false]);
    for (const [sort, descending] of [
      ['worth', true],
      ['spend', true],
      ['subject', false],
    ] as const)
      expect(keys(sortRows(list, sort, descending))[2]).toBe('a waits');
  });

  test('by worth as it came, and the list itself is left alone', () => {
    expect(sortRows(rows, 'worth', true)).toEqual(rows);
    sortRows(rows, 'subject', false);
    expect(rows[0]!.key).toBe('half');
  });
});

describe('words', () => {
  test('places and proposals as they are read', () => {
    expect(placeOf(row('x'), names)).toBe('broad · airlock lids in Lids broad');
    expect(placeOf(row('x', { targetKind: 'automatic', target: 'close terms' }), names)).toBe(
      'close terms in Lids broad',
    );
    expect(
      proposalWords(
        {
          proposal: {
            kind: 'bid',
            from: 650_000,
            to: 380_000,
            wanted: 3e5,
            held: ['largest step down'],
            beyond: 3e5,
          },
        },
        names,
      ),
    ).toEqual({
      verb: 'Cut bid',
      value: '0.65 → 0.38',
      detail: 'wants 0.30, held by the largest step',
    });
    expect(
      proposalWords(
        {
          proposal: {
            kind: 'wait',
            moreClicks: null,
            obstacle: null,
            held: { from: 5e5, wanted: 9.2e5, by: 'highest CPC' },
          },
        },
        names,
      ),
    ).toEqual({ verb: 'Held', value: 'at 0.50, wants 0.92', detail: 'by the highest CPC' });
    expect(proposalWords({ proposal: { kind: 'wait', moreClicks: 14, obstacle: null } }, names).value).toBe(
      '≈ 14 clicks to know',
    );
    expect(
      proposalWords(
        {
          proposal: {
            kind: 'negative',
            adGroupId: 'g',
            matchType: 'negative_phrase',
            milder: null,
            expression: 'x',
          },
        },
        names,
      ),
    ).toMatchObject({
      verb: 'Negate',
      value: 'phrase',
      detail: 'in Lids broad',
    });
  });
});
