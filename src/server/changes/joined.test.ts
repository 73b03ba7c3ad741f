import { expect, test } from 'vitest';
import { budgetKey } from '../../core/budgets/lines.ts';
import { hoursKey } from '../../core/hours/lines.ts';
import { placementKey } from '../../core/placements/lines.ts';
import type { NewLine } from './lines.queries.ts';
import { joined } from './joined.ts';

const effect = { clicks: -40, spend: -20_000_000 } as unknown as NewLine['effect'];
const line = (target: string, to: number, harvest: string | null, said: NewLine['effect'] = null): NewLine =>
  ({
    conflict_key: `target:${target}:bid`,
    field: 'bid',
    old_value: '1000000',
    new_value: String(to),
    finding_key: harvest ?? `target:${target}:bid`,
    harvest,
    effect: said,
  }) as NewLine;

const budget = budgetKey('7');
const placements = placementKey('7');

test('a bid that is set by its own finding and by its budget is the lower of both', () => {
  const rows = joined(
    [line('1', 900_000, null), line('1', 800_000, budget), line('2', 800_000, budget)],
    10_000,
  );
  expect(rows.map(({ conflict_key, new_value }) => [conflict_key, new_value])).toEqual([
    ['target:1:bid', '800000'],
    ['target:2:bid', '800000'],
  ]);
});

test('placements move the bid of its own finding by their factor', () => {
  const [only] = joined([line('1', 1_200_000, null), line('1', 500_000, placements)], 10_000);
  expect(only!.new_value).toBe('600000');
  expect(only!.harvest).toBeNull();
});

test('a schedule and placements move one bid by both of their factors, in one line; each alone by its own', () => {
  const hours = hoursKey('7');
  const both = joined(
    [line('1', 500_000, placements), line('1', 1_200_000, hours), line('2', 1_200_000, hours)],
    10_000,
  );
  expect(both.map(({ conflict_key, new_value }) => [conflict_key, new_value])).toEqual([
    ['target:1:bid', '600000'],
    ['target:2:bid', '1200000'],
  ]);
  const all = joined(
    [
      line('1', 900_000, null),
      line('1', 800_000, budget),
      line('1', 500_000, placements),
      line('1', 1_200_000, hours),
    ],
    10_000,
  );
  // The lower of 0.90 and 0.80, times 0.5 and 1.2.
  expect(all.map(({ new_value }) => new_value)).toEqual(['480000']);
});

test('what the line that is left out carried is carried by the next of its finding, and once', () => {
  const rows = joined(
    [
      line('1', 900_000, null),
      line('1', 800_000, budget, effect),
      line('2', 800_000, budget),
      line('3', 800_000, budget),
    ],
    10_000,
  );
  expect(rows.map((row) => [row.conflict_key, row.effect])).toEqual([
    ['target:1:bid', null],
    ['target:2:bid', effect],
    ['target:3:bid', null],
  ]);
});
