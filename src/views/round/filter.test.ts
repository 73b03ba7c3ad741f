import fc from 'fast-check';
import type { GuardName } from '../../core/bids/guards.ts';
import { describe, expect, test } from 'vitest';
import {
  filterRows,
  heldCounts,
  isConfirmable,
  isWaiting,
  netWorth,
  proposalKind,
  proposalKinds,
  sortRows,
  type Filter,
} from './filter.ts';
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

  test('what a guard holds: whole only when it is asked for, in part always; counted by guard, with what that is worth', () => {
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
      heldWorth: 3e6,
    } as const;
    const list = [
      row('free', {
        queue: 'targets',
        proposal: { kind: 'bid', from: 5e5, to: 4e5, wanted: 4e5, held: [], beyond: null },
      }),
      row('part', { queue: 'targets', proposal: { ...part, held: ['largest step up'] } }),
      row('capped', { queue: 'targets', proposal: held('highest CPC'), worth: 7e6 }),
      row('cooling', { queue: 'targets', proposal: held('cooldown'), worth: 1e6 }),
      row('cooling too', { queue: 'targets', proposal: held('cooldown'), worth: 2e6 }),
    ];
    const shown = (by: string) => keys(filterRows(list, 'targets', { ...none, held: by }, names));
    expect(shown('')).toEqual(['free', 'part']);
    expect(shown('any')).toEqual(['part', 'capped', 'cooling', 'cooling too']);
    expect(shown('cooldown')).toEqual(['cooling', 'cooling too']);
    expect(shown('the largest step')).toEqual(['part']);
    expect(heldCounts(list)).toEqual([
      { by: 'cooldown', count: 2, whole: 2, worth: 3e6 },
      { by: 'the highest CPC', count: 1, whole: 1, worth: 7e6 },
      { by: 'the largest step', count: 1, whole: 0, worth: 3e6 },
    ]);
  });

  test('placements and budgets that a cooldown holds are held whole, and can be confirmed like bids', () => {
    const placements = {
      kind: 'placements',
      bids: 'bids × 0.8',
      modifiers: [{ placement: 'top', from: 0, to: 60 }],
      lines: 4,
      sentence: '',
      short: '',
    } as const;
    const budget = {
      kind: 'budget',
      way: 'raise',
      short: '5.00 → 9.60 a day',
      lines: 1,
      sentence: '',
    } as const;
    const list = [
      row('moves', { queue: 'placements', proposal: { ...placements, held: ['largest step'] } }),
      row('cooling', { queue: 'placements', proposal: { ...placements, held: ['cooldown'] }, worth: 4e6 }),
      row('raised', {
        queue: 'budgets',
        proposal: { ...budget, held: ['cooldown', 'largest step'] },
        worth: 2e6,
      }),
    ];
    expect(keys(filterRows(list, 'all', none, names))).toEqual(['moves']);
    expect(keys(filterRows(list, 'all', { ...none, held: 'cooldown' }, names))).toEqual([
      'cooling',
      'raised',
    ]);
    expect(heldCounts(list)).toEqual([
      { by: 'cooldown', count: 2, whole: 2, worth: 6e6 },
      { by: 'the largest step', count: 1, whole: 0, worth: 0 },
    ]);
    expect(keys(list.filter(isConfirmable))).toEqual(['cooling', 'raised']);
    expect(proposalWords(list[1]!, names)).toEqual({
      verb: 'Held',
      value: 'bids × 0.8',
      detail: expect.stringContaining('held by cooldown') as string,
    });
    expect(proposalWords(list[2]!, names)).toMatchObject({ verb: 'Held', detail: 'by cooldown' });
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

describe('what findings are worth together', () => {
  const claim = (part: number) => [{ targetId: '1', clicks: part * 10, part }];
  const negative = (expression: string, worth: number, more: Partial<Row> = {}) =>
    row(expression, {
      worth,
      proposal: { kind: 'negative', adGroupId: 'g', matchType: 'negative_exact', milder: null, expression },
      ...more,
    });
  const phrase = negative('canning', 40, { queue: 'words', claims: claim(0.5) });
  const term = negative('canning jars', 10, { claims: claim(0.2) });
  const cut = row('cut', {
    queue: 'targets',
    worth: 30,
    claims: [{ targetId: '1', clicks: 1, part: 1 }],
    takes: 0.4,
    proposal: { kind: 'bid', from: 5, to: 3, wanted: 3, held: [], beyond: null },
  });

  test('a term that a phrase holds, and the part of a bid that it takes, count once', () => {
    // The phrase whole, of the cut what the phrase leaves, of the term nothing.
    expect(netWorth([term, cut, phrase])).toEqual({ worth: 55, stop: 55, earn: 0, mend: 0 });
    expect(netWorth([term]).worth).toBe(10);
  });

  test('what is settled or only waits counts nothing; what earns is told apart', () => {
    const raise = row('raise', {
      queue: 'targets',
      worth: 7,
      proposal: { kind: 'bid', from: 3, to: 5, wanted: 5, held: [], beyond: null },
      takes: 0,
    });
    expect(netWorth([{ ...term, covered: 'canning' }, raise, row('waits')])).toEqual({
      worth: 7,
      stop: 0,
      earn: 7,
      mend: 0,
    });
  });

  test('never more than the sum of all, never less than the largest', () => {
    const part = fc.double({ min: 0.05, max: 1, noNaN: true });
    const one = fc
      .tuple(fc.constantFrom('a', 'b', 'a b', 'b c'), part, fc.nat({ max: 1000 }), fc.boolean())
      .map(([text, size, worth, isPhrase]) =>
        negative(text, worth, { claims: claim(size), ...(isPhrase ? { queue: 'words' as const } : {}) }),
      );
    fc.assert(
      fc.property(fc.array(one, { minLength: 1, maxLength: 12 }), (list) => {
        const { worth } = netWorth(list);
        expect(worth).toBeLessThanOrEqual(list.reduce((sum, { worth: own }) => sum + own, 0) + 1e-6);
        expect(worth).toBeGreaterThanOrEqual(Math.max(...list.map((own) => own.worth)) - 1e-6);
      }),
    );
  });

  test('all kinds are one list; each kind has the proposals that it can have', () => {
    expect(keys(filterRows([phrase, term, cut], 'all', none, names))).toHaveLength(3);
    expect(keys(filterRows([phrase, term, cut], 'words', none, names))).toEqual(['canning']);
    expect(Object.keys(proposalKinds('all'))).toEqual([
      'harvest',
      'negative',
      'wait',
      'raise',
      'cut',
      'test',
      'placements',
      'raise_budget',
      'lower_bids',
      'hours',
      'repair',
    ]);
    expect(Object.keys(proposalKinds('conflicts'))).toEqual(['repair']);
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
      detail: '0.30 but for the largest step',
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
