import { explainOf } from '../metrics/explains.ts';
import { fieldAt, type FieldLimits } from '../changes/fields.ts';
import { levels } from '../account/levels.ts';
import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { defaultGuards } from '../bids/guards.ts';
import type { Sums } from '../metrics/figures.ts';
import { columnsOf, readColumn, windowOfFrame, withComparison } from './columns.ts';
import {
  columnsRead,
  compile,
  ConditionError,
  type Condition,
  type Plain,
  type Value,
} from './conditions.ts';
import { crossTab, distanceFromGoal, namePart } from './crosstab.ts';
import { editAmount, editBid, editChoice, editNegative, type BidRow } from '../edits/edits.ts';
import { shippedSlices, usualColumns } from './slices.ts';
import { readCondition, readNumber, typedText } from './typed.ts';

const fieldLimits: FieldLimits = {
  bid: defaultGuards,
  minimumBudget: 2_000_000,
  minimumLifetimeBudget: 20_000_000,
  maximumModifier: 600,
  today: '2026-11-26',
};

/** A small table: a list of rows by column. */
const reader = (rows: Record<string, Value>[]) => (ref: string) => (row: number) => rows[row]![ref] ?? null;
const matching = (condition: Condition, rows: Record<string, Value>[]) =>
  rows.flatMap((_, i) => (compile(condition, 'targets', reader(rows))(i) ? [i] : []));

describe('columns', () => {
  test('a column over a window: the comparison, the last 14 days, differences', () => {
    expect(readColumn('acos@before', 'targets')?.frame).toBe('before');
    expect(readColumn('acos@d14', 'targets')?.frame).toBe('d14');
    expect(readColumn('acos@later', 'targets')).toBeNull();
    // What an object is now has no windows; a negative has no figures.
    expect(readColumn('bid@d14', 'targets')).toBeNull();
    expect(readColumn('acos', 'negatives')).toBeNull();
  });

  test('windows end where the chosen one ends; the comparison is what came just before', () => {
    const windows = withComparison({ from: '2026-10-18', to: '2026-11-16' });
    expect(windowOfFrame('before', windows)).toEqual({ from: '2026-09-18', to: '2026-10-17' });
    expect(windowOfFrame('d14', windows)).toEqual({ from: '2026-11-03', to: '2026-11-16' });
    expect(windowOfFrame('diff', windows)).toEqual(windows.window);
  });

  test('every shipped slice and every usual column can be read at its level', () => {
    for (const level of levels)
      for (const ref of usualColumns[level]) expect(readColumn(ref, level)).not.toBeNull();
    for (const { body } of shippedSlices) {
      for (const ref of [...body.columns, body.sort!]) expect(readColumn(ref, body.level)).not.toBeNull();
      expect(() => compile(body.where!, body.level, () => () => null)).not.toThrow();
    }
  });
});

describe('conditions', () => {
  const rows = [
    { acos: 0.3, target_acos: 0.26, clicks: 40, name: 'airlock lids wide' },
    { acos: 0.4, target_acos: 0.26, clicks: 5, name: 'Wide Jar Lids' },
    { acos: Infinity, target_acos: 0.26, clicks: 30, name: 'lidstone' },
    { acos: null, target_acos: 0.26, clicks: 0, name: 'crock' },
  ];

  test('spend without sales and nothing at all are neither above nor below a number', () => {
    expect(matching({ column: 'acos', is: 'above', value: 0.1 }, rows)).toEqual([0, 1]);
    expect(matching({ column: 'acos', is: 'below', value: 9 }, rows)).toEqual([0, 1]);
    expect(matching({ column: 'acos', is: 'empty' }, rows)).toEqual([3]);
  });

  test('a multiple of another column: ACOS above 1.3 x its goal', () => {
    // 1.3 x 0.26 = 0.338
    expect(matching({ column: 'acos', is: 'above', value: 1.3, times: 'target_acos' }, rows)).toEqual([1]);
  });

  test('all, any and not stack', () => {
    const many: Condition = { column: 'clicks', is: 'at_least', value: 30 };
    const lids: Condition = { column: 'name', is: 'words', value: 'lids' };
    expect(matching({ all: [many, lids] }, rows)).toEqual([0]);
    expect(matching({ any: [many, lids] }, rows)).toEqual([0, 1, 2]);
    expect(matching({ all: [{ ...lids, not: true }, { any: [many] }] }, rows)).toEqual([2]);
  });

  test('text: words whole, whatever their case; contains, starts, regular expressions', () => {
    const name = (is: 'words' | 'contains' | 'starts' | 'matches', value: string) =>
      matching({ column: 'name', is, value }, rows);
    expect(name('words', 'LIDS wide')).toEqual([0, 1]);
    expect(name('contains', 'lid')).toEqual([0, 1, 2]);
    expect(name('starts', 'wide')).toEqual([1]);
    expect(name('matches', '^(crock|lidstone)$')).toEqual([2, 3]);
  });

  test('what cannot be tested says where', () => {
    const bad: Condition = { any: [{ all: [{ column: 'clicks', is: 'above', value: 'many' }] }] };
    expect(() => compile(bad, 'targets', reader(rows))).toThrow(ConditionError);
    try {
      compile(bad, 'targets', reader(rows));
    } catch (error) {
      expect((error as ConditionError).path).toBe('any.0.all.0.value');
    }
  });

  test('a condition and its opposite share all rows between them', () => {
    const cell = fc.oneof(fc.constant(null), fc.double({ noNaN: true }));
    fc.assert(
      fc.property(
        fc.array(cell, { maxLength: 20 }),
        fc.double({ noNaN: true, noDefaultInfinity: true }),
        (cells, value) => {
          const table = cells.map((clicks) => ({ clicks }));
          const plain = { column: 'clicks', is: 'above', value } as const;
          const yes = matching(plain, table);
          const no = matching({ ...plain, not: true }, table);
          expect([...yes, ...no].sort((a, b) => a - b)).toEqual(table.map((_, i) => i));
        },
      ),
    );
  });

  test('columns that are compared with are read too', () => {
    expect(columnsRead({ all: [{ column: 'spend@d14', is: 'above', value: 10, times: 'cpc' }] })).toEqual([
      'spend@d14',
      'cpc',
    ]);
  });
});

describe('typed conditions', () => {
  test.each([
    ['acos > 75', { column: 'acos', is: 'above', value: 0.75 }],
    ['ACOS >= 12,5 %', { column: 'acos', is: 'at_least', value: 0.125 }],
    ['spend 45d > 12', { column: 'spend@d45', is: 'above', value: 12_000_000 }],
    ['acos > 1.3 x goal', { column: 'acos', is: 'above', value: 1.3, times: 'target_acos' }],
    ['name contains lids', { column: 'name', is: 'contains', value: 'lids' }],
    ['campaign status = enabled', { column: 'campaign_status', is: 'equals', value: 'enabled' }],
    [
      'acos 50..75',
      {
        all: [
          { column: 'acos', is: 'at_least', value: 0.5 },
          { column: 'acos', is: 'below', value: 0.75 },
        ],
      },
    ],
    [
      'orders = 0 and spend > 1,200.50 or bid < 0,1',
      {
        any: [
          {
            all: [
              { column: 'orders', is: 'equals', value: 0 },
              { column: 'spend', is: 'above', value: 1_200_500_000 },
            ],
          },
          { column: 'bid', is: 'below', value: 100_000 },
        ],
      },
    ],
    [
      'name contains "salt and pepper" and (orders = 0 or not acos < 30)',
      {
        all: [
          { column: 'name', is: 'contains', value: 'salt and pepper' },
          {
            any: [
              { column: 'orders', is: 'equals', value: 0 },
              { column: 'acos', is: 'below', value: 0.3, not: true },
            ],
          },
        ],
      },
    ],
    ['match type one of exact, phrase', { column: 'match_type', is: 'one_of', value: ['exact', 'phrase'] }],
    [
      'not (bid > 1; clicks < 3)',
      {
        any: [
          { column: 'bid', is: 'above', value: 1_000_000, not: true },
          { column: 'clicks', is: 'below', value: 3, not: true },
        ],
      },
    ],
    ['last change is empty', { column: 'changed_on', is: 'empty' }],
    ['last change >= 2026-11-01', { column: 'changed_on', is: 'at_least', value: '2026-11-01' }],
    ['name matches "^wide( |$)"', { column: 'name', is: 'matches', value: '^wide( |$)' }],
  ] as [string, Condition][])('%s', (text, condition) => {
    expect(readCondition(text, 'targets')).toEqual({ condition });
    expect(readCondition(typedText(condition, 'targets')!, 'targets')).toEqual({ condition });
  });

  /** What is said of a text, and the part of it that is meant. */
  const problemIn = (text: string) => {
    const read = readCondition(text, 'targets');
    if ('condition' in read) throw new Error(`“${text}” was read.`);
    const { message, from, to } = read.problem;
    return [text.slice(from, to), message];
  };

  test.each([
    ['', '', /missing/],
    ['acos', 'acos', /a sign and a value are missing/],
    ['stars > 3', 'stars', /no column “stars”/],
    ['acos > many', 'many', /no number/],
    ['clicks contains 3', 'clicks', /holds numbers/],
    ['name > 3', 'name', /holds words/],
    ['acos > 1.3 x stars', '1.3 x stars', /“stars”/],
    ['acos > 3 and', '', /missing/],
    ['acos > 3 or and bid > 1', 'and', /a condition is missing/],
    ['(acos > 3', '', /not closed/],
    ['acos > 3)', ')', /closes nothing/],
    ['name contains "salt', '"', /stands alone/],
    ['last change > yesterday', 'yesterday', /no day/],
    ['name is empty 3', '3', /Nothing can stand/],
  ] as [string, string, RegExp][])('“%s” says what is wrong and where', (text, part, message) => {
    const [where, said] = problemIn(text);
    expect(said).toMatch(message);
    expect(where).toBe(part);
  });

  test('whatever can be chosen can be typed: any condition reads back from its text as it was', () => {
    const words = fc.constantFrom(
      'lids',
      'salt and pepper',
      'a "b"',
      'or',
      'wide-mouth (2)',
      'back\\slash',
      '5,50 €',
    );
    const plain: fc.Arbitrary<Plain> = fc
      .oneof(
        fc.record({
          column: fc.constantFrom('clicks', 'orders@d14', 'impressions@before'),
          is: fc.constantFrom('above', 'below', 'at_least', 'at_most', 'equals'),
          value: fc.nat({ max: 99_999 }),
        }),
        fc.record({
          column: fc.constantFrom('spend', 'bid', 'gain@diff'),
          is: fc.constantFrom('above', 'below'),
          value: fc.nat({ max: 1_000_000 }).map((cents) => cents * 10_000),
        }),
        fc.record({
          column: fc.constant('acos'),
          is: fc.constant('above'),
          value: fc.constantFrom(1.3, 2, 0.75),
          times: fc.constantFrom('target_acos', 'acos@before'),
        }),
        fc.record({
          column: fc.constantFrom('name', 'campaign', 'match_type'),
          is: fc.constantFrom('contains', 'words', 'starts', 'matches', 'equals'),
          value: words,
        }),
        fc.record({
          column: fc.constant('name'),
          is: fc.constant('one_of'),
          value: fc.array(words, { minLength: 1, maxLength: 3 }),
        }),
        fc.record({ column: fc.constantFrom('changed_on', 'bid', 'campaign'), is: fc.constant('empty') }),
      )
      .chain((one) => fc.boolean().map((not) => (not ? { ...one, not } : one) as Plain));
    const { condition } = fc.letrec<{ condition: Condition }>((tie) => {
      const list = fc.array(tie('condition'), { minLength: 2, maxLength: 3 });
      return {
        condition: fc.oneof(
          { maxDepth: 3 },
          plain,
          list.map((all) => ({ all })),
          list.map((any) => ({ any })),
        ),
      };
    });
    fc.assert(
      fc.property(condition, (one) => {
        const text = typedText(one, 'targets')!;
        expect(readCondition(text, 'targets'), text).toEqual({ condition: one });
      }),
    );
  });

  test('numbers as they are written here and there', () => {
    expect(readNumber('money', '€ 1.234,50')).toBe(1_234_500_000);
    expect(readNumber('money', '1,234.50')).toBe(1_234_500_000);
    expect(readNumber('share', '−12 %')).toBe(-0.12);
    expect(readNumber('money', 'dear')).toBeNull();
  });
});

describe('edits', () => {
  const row: BidRow = {
    bid: 500_000,
    changedOn: null,
    cpc: 400_000,
    highestCpc: 480_000,
    rpc: 2_000_000,
    targetAcos: 0.3,
    paidPerBid: 0.8,
  };
  const bid = (edit: Parameters<typeof editBid>[0], more: Partial<BidRow> = {}, keepGuards = true) =>
    editBid(edit, { ...row, ...more }, defaultGuards, '2026-11-16', keepGuards);

  test('by per cent, by an amount, to a value, to RPC x goal, to a share of CPC, to the floor', () => {
    expect(bid({ field: 'bid', how: 'percent', value: -0.12 }).next).toBe('440000');
    expect(bid({ field: 'bid', how: 'amount', value: 50_000 }).next).toBe('550000');
    expect(bid({ field: 'bid', how: 'set', value: 620_000 }).next).toBe('620000');
    // 2.00 x 30 % = 0.60
    expect(bid({ field: 'bid', how: 'rpc' }).next).toBe('600000');
    expect(bid({ field: 'bid', how: 'cpc', value: 0.9 }).next).toBe('360000');
    expect(bid({ field: 'bid', how: 'rest' }).next).toBe('40000');
  });

  test('guards hold a step, and say which; without them only the marketplace does', () => {
    expect(bid({ field: 'bid', how: 'set', value: 2_000_000 })).toMatchObject({
      next: '1000000',
      held: ['largest step up'],
    });
    expect(bid({ field: 'bid', how: 'set', value: 2_000_000 }, {}, false)).toMatchObject({
      next: '2000000',
      held: [],
    });
    expect(bid({ field: 'bid', how: 'set', value: 10_000 }, {}, false)).toMatchObject({
      next: '30000',
      held: ['minimum bid'],
    });
  });

  test('what is not changed says why', () => {
    expect(bid({ field: 'bid', how: 'percent', value: -0.2 }, { changedOn: '2026-11-12' }).problem).toMatch(
      'cools down',
    );
    expect(bid({ field: 'bid', how: 'percent', value: 0.02 }).problem).toMatch('under 5 %');
    expect(bid({ field: 'bid', how: 'cpc', value: 1 }, { cpc: null }).problem).toMatch('no click');
    expect(bid({ field: 'bid', how: 'percent', value: 0.1 }, { bid: null }).problem).toMatch(
      'no bid of its own',
    );
    expect(bid({ field: 'bid', how: 'set', value: 500_000 }, {}, false).problem).toBe('It is that already.');
  });

  test('an edit to where a row stands already changes nothing: doing it twice is doing it once', () => {
    fc.assert(
      fc.property(fc.integer({ min: 3, max: 6000 }), fc.integer({ min: 3, max: 6000 }), (from, to) => {
        const edit = { field: 'bid', how: 'set', value: to * 10_000 } as const;
        const once = bid(edit, { bid: from * 10_000 }, false);
        const reached = once.next === null ? from * 10_000 : Number(once.next);
        expect(bid(edit, { bid: reached }, false).next).toBeNull();
      }),
    );
  });

  test('budgets, modifiers, status and negatives', () => {
    const budgets = { least: 2_000_000, most: 1e12, step: 10_000 };
    const budget = (value: number) => ({ field: 'daily_budget', how: 'percent', value }) as const;
    expect(editAmount(budget(0.5), 14_000_000, budgets).next).toBe('21000000');
    expect(editAmount(budget(-0.9), 14_000_000, budgets)).toMatchObject({ next: '2000000', held: ['floor'] });
    const modifiers = { least: 0, most: 600, step: 1 };
    expect(editAmount({ field: 'modifier', how: 'amount', value: 900 }, 20, modifiers).next).toBe('600');
    const status = fieldAt('campaigns', 'status')!;
    expect(editChoice(status, 'enabled', 'paused', fieldLimits).next).toBe('paused');
    expect(editChoice(status, 'archived', 'enabled', fieldLimits).problem).toMatch('archived');
    const end = fieldAt('campaigns', 'end_date')!;
    expect(editChoice(end, null, '2026-12-24', fieldLimits)).toMatchObject({ old: null, next: '2026-12-24' });
    expect(editChoice(end, '2026-12-24', null, fieldLimits).next).toBe('');
    expect(editChoice(end, null, '2026-11-01', fieldLimits).problem).toMatch('has passed');
    expect(
      editNegative('cheap lids', 'negative_exact', 'negative phrase “cheap” in Lids', null).problem,
    ).toBe('Blocked already by negative phrase “cheap” in Lids.');
  });
});

describe('cross-tab', () => {
  const sums = (spend: number, sales: number): Sums => ({
    impressions: 100,
    clicks: 10,
    spend,
    orders: 1,
    units: 1,
    sales,
  });
  const fact = (row: string, column: string, spend: number, sales: number) => ({
    row,
    column,
    sums: sums(spend, sales),
    targetAcos: 0.25,
  });

  test('a cell is the ratio of its sums, never a mean of ratios', () => {
    // 10 / 100 and 90 / 100: together 100 / 200 = 50 %. A large one beside a small one: 10 / 10 and 10 / 990.
    const { cells, rowTotals, total } = crossTab([
      fact('a', 'x', 10, 100),
      fact('a', 'x', 90, 100),
      fact('b', 'x', 10, 10),
      fact('b', 'y', 10, 990),
    ]);
    expect(cells[0]![0]!.spend / cells[0]![0]!.sales).toBe(0.5);
    expect(rowTotals[1]!.spend / rowTotals[1]!.sales).toBe(0.02);
    expect(total.spend / total.sales).toBe(120 / 1200);
    expect(cells[0]![1]).toBeNull();
  });

  test('rows, columns and the whole tell the same sums, whatever falls where', () => {
    const name = fc.constantFrom('a', 'b', 'c');
    const money = fc.integer({ min: 0, max: 1e9 });
    fc.assert(
      fc.property(fc.array(fc.tuple(name, name, money, money)), (facts) => {
        const tab = crossTab(facts.map((one) => fact(...one)));
        const add = (list: { spend: number }[]) => list.reduce((total, { spend }) => total + spend, 0);
        const spend = facts.reduce((total, one) => total + one[2], 0);
        expect(add(tab.rowTotals)).toBe(spend);
        expect(add(tab.columnTotals)).toBe(spend);
        expect(tab.total.spend).toBe(spend);
        expect(add(tab.cells.flat().filter((cell) => cell !== null))).toBe(spend);
      }),
    );
  });

  test('shading: at the goal none, over and under to both sides, no sales as far over as can be', () => {
    const at = (spend: number, sales: number) =>
      distanceFromGoal(crossTab([fact('a', 'x', spend, sales)]).total);
    expect(at(25, 100)).toBe(0);
    expect(at(50, 100)).toBeCloseTo(2 / 3);
    expect(at(12.5, 100)).toBeLessThan(-0.5);
    expect(at(5, 0)).toBe(1);
  });

  test('parts of names', () => {
    expect(namePart('Lids | exact | top', '|', 1)).toBe('exact');
    expect(namePart('Lids exact', '', 0)).toBe('Lids');
    expect(namePart('Lids exact', '|', 3)).toBe('(none)');
  });
});

test('every column of every level explains itself', () => {
  for (const level of levels)
    for (const { name } of columnsOf(level)) expect(explainOf(name)?.what, name).toBeTruthy();
});
