import fc from 'fast-check';
import { describe, expect, test } from 'vitest';
import { defaultGuards } from '../bids/guards.ts';
import { columnsOf } from '../explore/columns.ts';
import {
  amountFields,
  entities,
  fieldAt,
  fieldOf,
  fields,
  fieldsAt,
  fieldShownAt,
  fromUnits,
  toUnits,
  valueProblem,
  valueText,
  whyNotAt,
  type FieldLimits,
} from './fields.ts';

const limits: FieldLimits = {
  bid: defaultGuards,
  minimumBudget: 2_000_000,
  minimumLifetimeBudget: 20_000_000,
  maximumModifier: 600,
  today: '2026-11-26',
};

describe('the list of fields', () => {
  test('an entity names each of its fields once, and a level too', () => {
    const names = fields.map(({ entity, name }) => `${entity}.${name}`);
    expect(new Set(names).size).toBe(names.length);
    const places = fields.map(({ level, name }) => `${level}.${name}`);
    expect(new Set(places).size).toBe(places.length);
    for (const { entity } of fields) expect(entities).toContain(entity);
  });

  test('every level at which a field is changed or shown has its column', () => {
    for (const { name, level, shownAt } of fields)
      for (const at of [level, ...shownAt])
        expect(columnsOf(at).map((column) => column.name)).toContain(name);
  });

  test('numbers have a range, statuses and choices their words', () => {
    for (const field of fields) {
      expect(field.range !== undefined).toBe(field.kind === 'money' || field.kind === 'percent');
      expect(field.choices !== undefined).toBe(field.kind === 'status' || field.kind === 'choice');
    }
    expect(amountFields).toEqual(['bid', 'default_bid', 'daily_budget', 'lifetime_budget', 'modifier']);
  });

  test('a level shows its own field before that of the object above', () => {
    expect(fieldShownAt('ad_groups', 'status')?.entity).toBe('ad_group');
    expect(fieldShownAt('terms', 'status')?.entity).toBe('target');
    expect(fieldShownAt('targets', 'daily_budget')?.entity).toBe('campaign');
    expect(fieldShownAt('placements', 'bid')).toBeNull();
  });

  test('where a field is not edited is said with where it is', () => {
    expect(whyNotAt('campaigns', 'end_date')).toBeNull();
    expect(whyNotAt('targets', 'end_date')).toBe(
      '“end date” is edited at the level of campaigns, not of targets.',
    );
    expect(whyNotAt('terms', 'status')).toMatch('campaigns or ad groups or targets or negatives');
    expect(fieldsAt('ad_groups').map(({ name }) => name)).toEqual(['default_bid', 'status']);
  });

  test('a line of a placement names the placement', () => {
    expect(fieldOf('placement_modifier', 'top_of_search')?.name).toBe('modifier');
    expect(fieldOf('campaign', 'top_of_search')).toBeNull();
  });
});

describe('values', () => {
  const problem = (entity: string, name: string, value: string | null) =>
    valueProblem(fieldOf(entity, name)!, value, limits);

  test('money within its range and in whole steps', () => {
    expect(problem('ad_group', 'default_bid', '450000')).toBeNull();
    expect(problem('ad_group', 'default_bid', '20000')).toBe(
      'A default bid lies between 0.03 and 60.00, in steps of 0.01.',
    );
    expect(problem('target', 'bid', '455000')).toMatch('in steps of 0.01');
    expect(problem('campaign', 'daily_budget', '1500000')).toBe(
      'A daily budget is at least 2.00, in steps of 0.01.',
    );
    expect(problem('placement_modifier', 'top_of_search', '601')).toBe(
      'A modifier lies between 0 % and 600 %, in steps of 1 %.',
    );
  });

  test('days that are none, or have passed; an end date may be taken away, a bid may not', () => {
    expect(problem('campaign', 'end_date', '2026-11-26')).toBeNull();
    expect(problem('campaign', 'end_date', '2026-02-30')).toMatch('is no day');
    expect(problem('campaign', 'end_date', '2026-11-25')).toBe(
      '2026-11-25 has passed: the account’s day is 2026-11-26.',
    );
    expect(problem('campaign', 'end_date', null)).toBeNull();
    expect(problem('target', 'bid', null)).toBe('A bid cannot be taken away.');
  });

  test('a negative is archived and nothing else', () => {
    expect(problem('negative', 'status', 'archived')).toBeNull();
    expect(problem('campaign', 'strategy', 'down_only')).toBeNull();
    expect(problem('campaign', 'strategy', 'downwards')).toBe(
      '“downwards” is none of fixed, down_only, up_and_down.',
    );
    expect(problem('negative', 'status', 'paused')).toBe('“paused” is none of archived.');
  });

  test('read as people write them', () => {
    expect(valueText(fieldAt('targets', 'bid'), '500000')).toBe('0.50');
    expect(valueText(fieldAt('placements', 'modifier'), '35')).toBe('35 %');
    expect(valueText(fieldAt('campaigns', 'end_date'), null)).toBe('none');
    expect(valueText(fieldAt('campaigns', 'status'), 'paused')).toBe('paused');
    expect(valueText(fieldAt('campaigns', 'strategy'), 'up_and_down')).toBe('up and down');
    expect(valueText(null, null)).toBe('');
  });

  test('what leaves in units comes back as it was', () => {
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 1e12 }), fc.constantFrom(...fields), (micros, field) => {
        const value = String(micros);
        expect(fromUnits(field, toUnits(field, value), Number)).toBe(value);
      }),
    );
    expect(fromUnits(fieldAt('targets', 'bid'), 'much', () => null)).toBeNull();
  });
});
