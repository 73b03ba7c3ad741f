import { describe, expect, test } from 'vitest';
import type { Row } from './types.ts';
import { beyondSaid, matchName, placeOf, proposalWords } from './words.ts';

const names = {
  '7': { name: 'Lids exact', campaignId: 'c1', campaign: 'Lids' },
} as unknown as Parameters<typeof placeOf>[1];
const row = (more: object): Row =>
  ({
    queue: 'terms',
    adGroupId: '7',
    targetKind: 'keyword',
    matchType: 'phrase',
    target: 'airlock lids',
    ...more,
  }) as Row;
const words = (proposal: object, more: object = {}) => proposalWords({ proposal, ...more } as Row, names);

describe('where a finding stands', () => {
  test.each([
    ['a term by a keyword', row({}), 'phrase · airlock lids in Lids exact'],
    [
      'a term by an automatic mode',
      row({ targetKind: 'automatic', target: 'close terms' }),
      'close terms in Lids exact',
    ],
    [
      'a term by an item',
      row({ targetKind: 'item', matchType: null, target: 'QY000001' }),
      'item · QY000001 in Lids exact',
    ],
    ['a target', row({ queue: 'targets' }), 'phrase in Lids exact'],
    ['words of a product', row({ queue: 'words', terms: 12, sku: 'LID' }), 'in 12 terms of LID'],
    ['words of no product', row({ queue: 'words', terms: 1, sku: null }), 'in 1 term'],
    [
      'a conflict',
      row({
        queue: 'conflicts',
        proposal: { kind: 'repair', sentence: 'Two bid on it.', repair: null, lines: 0 },
      }),
      'Two bid on it.',
    ],
  ])('%s', (_, one, place) => expect(placeOf(one, names)).toBe(place));
});

describe('what is proposed', () => {
  test.each([
    [{ kind: 'bid', from: 500_000, to: 700_000, held: [] }, 'Raise bid', '0.50 → 0.70', ''],
    [{ kind: 'bid', from: 40_000, to: 700_000, held: [], isTest: true }, 'Test', '0.04 → 0.70', ''],
    [
      { kind: 'bid', from: 500_000, to: 1_000_000, wanted: 1_500_000, held: ['largest step up'] },
      'Raise bid',
      '0.50 → 1.00',
      '1.50 but for the largest step',
    ],
    [{ kind: 'bid', from: 500_000, to: 300_000, held: [] }, 'Cut bid', '0.50 → 0.30', ''],
    [
      {
        kind: 'harvest',
        targetKind: 'keyword',
        matchType: 'exact',
        bid: 400_000,
        adGroupId: '7',
        warnings: [],
        held: [],
      },
      'Harvest',
      'exact 0.40',
      'to Lids exact',
    ],
    [
      { kind: 'negative', matchType: 'negative_phrase', adGroupId: '' },
      'Negate',
      'phrase',
      'where it was caught',
    ],
    [{ kind: 'negative', matchType: 'negative_exact', adGroupId: '7' }, 'Negate', 'exact', 'in Lids exact'],
    [
      { kind: 'repair', repair: 'Archive the negative', lines: 2 },
      'Repair',
      '2 lines',
      'Archive the negative',
    ],
    [{ kind: 'repair', repair: null, lines: 0 }, '', 'yours to decide', ''],
    [
      { kind: 'wait', held: { from: 500_000, wanted: 900_000, by: 'cooldown' } },
      'Held',
      'at 0.50, wants 0.90',
      'by cooldown',
    ],
    [{ kind: 'wait', obstacle: 'No lane leads on.' }, '', 'Blocked', 'No lane leads on.'],
    [{ kind: 'wait', obstacle: null, moreClicks: 30 }, '', '≈ 30 clicks to know', ''],
    [{ kind: 'wait', obstacle: null, moreClicks: null }, '', 'on its goal', ''],
  ])('%j', (proposal, verb, value, detail) => expect(words(proposal)).toEqual({ verb, value, detail }));

  test('what the sheet settles says by what', () => {
    expect(
      words({ kind: 'negative', matchType: 'negative_exact', adGroupId: '7' }, { covered: '“canning”' }),
    ).toEqual({
      verb: '',
      value: 'Settled',
      detail: 'covered by “canning” on the sheet',
    });
  });

  test('types of negatives have names, others their own', () => {
    expect([matchName('negative_item'), matchName('broad'), matchName(null)]).toEqual([
      'negative item',
      'broad',
      '',
    ]);
  });
});

describe('what a queue leaves out', () => {
  const counts = { terms: 10_001, targets: 23_456 };
  test.each([
    [
      'all',
      counts,
      ' Here are the 10,000 terms worth most of 10,001 and the 10,000 targets worth most of 23,456.',
    ],
    ['targets', counts, ' Here are the 10,000 targets worth most of 23,456.'],
    ['words', counts, ''],
    ['all', { terms: 10_000, targets: 3 }, ''],
  ] as const)('of %s', (shown, found, said) => {
    expect(beyondSaid(shown, found)).toBe(said);
  });
});
