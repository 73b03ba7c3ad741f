import { describe, expect, test } from 'vitest';
import { exampleAccount } from '../../../tests/support/account.ts';
import { emptySums } from '../account/store.ts';
import {
  levelOfCut,
  piecesOf,
  tabulate,
  whyNoCut,
  type Cut,
  type Dimension,
  type Piece,
} from './tabulate.ts';

/** A click costs 0.40, an order brings 20.00; the goal is 30 %. */
const account = exampleAccount(
  [
    { name: 'Lids | auto', sku: 'LID', targets: ['automatic close terms', 'automatic loose terms'] },
    { name: 'Lids | exact', sku: 'LID', targets: ['exact airlock lids'] },
    { name: 'Jars | broad', sku: 'JAR', targets: ['broad jars'], status: 'paused' },
  ],
  [
    { by: 'Lids | auto: close terms', term: 'lids', clicks: 100, orders: 5 },
    { by: 'Lids | auto: loose terms', term: 'lid', clicks: 50 },
    { by: 'Lids | exact: airlock lids', term: 'airlock lids', clicks: 40, orders: 4 },
    { by: 'Jars | broad: jars', term: 'jars', clicks: 10, orders: 1 },
  ],
);
const cutBy = (rows: Dimension, columns: Dimension, more: Partial<Cut> = {}): Cut => ({
  rows,
  columns,
  separator: '',
  part: 0,
  ...more,
});
const tab = (cut: Cut) => {
  const rows = Int32Array.from({ length: account.targets.clicks.length }, (_, row) => row);
  return tabulate(account.table, 'targets', piecesOf(rows, account.targets), cut);
};

describe('a cross-tab of an account', () => {
  test('rows and columns by spend, the sums of each cell, nothing where nothing fell', () => {
    const { rows, columns, cells, rowTotals, total } = tab(cutBy('product', 'target_kind'));
    expect(rows).toEqual(['LID', 'JAR']);
    expect(columns).toEqual(['automatic', 'keyword']);
    expect(cells[0]!.map((cell) => cell?.clicks)).toEqual([150, 40]);
    expect(cells[1]!.map((cell) => cell?.clicks)).toEqual([undefined, 10]);
    expect(rowTotals[0]).toMatchObject({ clicks: 190, spend: 76_000_000, orders: 9, sales: 180_000_000 });
    // Goal 30 %: 0.3 x 200 - 80 = -20.
    expect(total).toMatchObject({ clicks: 200, orders: 10, gain: -20_000_000 });
  });

  test('automatic modes stand apart, and what is none is told as such', () => {
    const { columns, columnTotals } = tab(cutBy('campaign', 'automatic_mode'));
    expect(Object.fromEntries(columns.map((name, at) => [name, columnTotals[at]!.clicks]))).toEqual({
      'close terms': 100,
      'loose terms': 50,
      '(not automatic)': 50,
    });
  });

  test('parts of names, split as the account writes them; what has no such part is none', () => {
    expect(tab(cutBy('name_part', 'status', { separator: '|', part: 1 })).rows).toEqual([
      'auto',
      'exact',
      'broad',
    ]);
    expect(tab(cutBy('name_part', 'status', { separator: '|', part: 2 })).rows).toEqual(['(none)']);
    expect(tab(cutBy('ad_group_part', 'product', { part: 0 })).rows).toEqual(['Lids', 'Jars']);
  });

  test('weekdays stand in the order of the week, months of the year', () => {
    const piece = (weekday: string, month: string, clicks: number): Piece => ({
      row: 0,
      times: { weekday, month },
      figures: [clicks * 20, clicks, clicks * 400_000, 0, 0, 0],
    });
    const pieces = [piece('7', '2026-11', 9), piece('1', '2026-10', 1), piece('3', '2026-11', 2)];
    const { rows, columns, total } = tabulate(account.table, 'targets', pieces, cutBy('weekday', 'month'));
    expect(rows).toEqual(['Monday', 'Wednesday', 'Sunday']);
    expect(columns).toEqual(['2026-10', '2026-11']);
    expect(total.clicks).toBe(12);
  });

  test('what was neither shown nor paid for is no row', () => {
    const nothing: Piece = { row: 0, times: {}, figures: [0, 0, 0, 0, 0, 0] };
    expect(tabulate(account.table, 'targets', [nothing], cutBy('product', 'status')).rows).toEqual([]);
  });

  test.each([
    ['placement', 'hour', /hours by campaign: they cannot be cut by placement/],
    ['placement', 'match_type', /tells placements by campaign: they cannot be cut by match type/],
    ['ad_group', 'hour', /tells hours by campaign: they cannot be cut by ad group/],
    ['campaign', 'placement', null],
    ['hour', 'weekday', null],
  ] as const)('%s by %s', (rows, columns, problem) => {
    const why = whyNoCut(cutBy(rows, columns));
    if (problem === null) expect(why).toBeNull();
    else expect(why).toMatch(problem);
  });

  test('the level that a cut is made of', () => {
    expect(levelOfCut(cutBy('campaign', 'placement'))).toBe('placements');
    expect(levelOfCut(cutBy('hour', 'weekday'))).toBe('campaigns');
    expect(levelOfCut(cutBy('product', 'weekday'))).toBe('targets');
  });

  test('pieces of rows carry all six figures of each', () => {
    const [piece] = piecesOf(Int32Array.of(2), account.targets);
    expect(piece!.figures).toEqual([800, 40, 16_000_000, 4, 4, 80_000_000]);
    expect(account.targets.read(2, emptySums()).clicks).toBe(40);
  });
});
